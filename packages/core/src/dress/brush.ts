import { addDelta } from '../body/shapeBody.ts'
import { triangleNormal } from '../mesh/normals.ts'
import { shellsOf } from '../mesh/shells.ts'
import type { Nudge } from '../recipe/schema.ts'
import { nudgeMoves, nudgeTo, type Nudgeable } from './nudge.ts'

type Place = readonly [number, number, number]

/** What a brush does: pull along with the hand, swell, sink, smooth, flatten, or bring back what was. */
export const BRUSHES = ['pull', 'swell', 'sink', 'smooth', 'flatten', 'restore'] as const
export type BrushKind = (typeof BRUSHES)[number]

/** One stroke of a round brush over a figure. */
export interface Stroke {
  kind: BrushKind
  /** Places on the figure, metres: where the brush was, one after another; for `pull` where it took hold and where that goes. */
  path: readonly Place[]
  /** Metres. */
  radius: number
  /** 0: all of the brush acts alike; 1: it fades from its middle on. */
  softness: number
  /** 0 to 1. */
  strength: number
  /** Whether the same is done on the other side. */
  mirrored: boolean
}

/** How much of the way one dab goes at full strength. */
const DAB = 0.5
/** How far one dab swells, as a share of the radius. */
const SWELL = 0.06

/**
 * The nudge of a surface after one more stroke; null if nothing is left of it.
 *
 * @param surface  as it is shaped without any nudge
 * @param before   what it was nudged so far
 * @param on       the instance it belongs to; undefined for the body
 */
export function brush(
  surface: Nudgeable,
  before: Nudge | null,
  stroke: Stroke,
  on: string | undefined,
  topology: string,
): Nudge | null {
  const now = surface.positions.slice()
  if (before) addDelta(nudgeMoves(surface, before), 1, now)
  const paths = stroke.mirrored ? [stroke.path, stroke.path.map(([x, y, z]): Place => [-x, y, z])] : [stroke.path]
  const wanted = now.slice()
  if (stroke.kind === 'pull') pull(now, wanted, paths, stroke)
  else
    for (let i = 0; i < stroke.path.length; i++) {
      // both sides from the same figure, so that neither comes first; where they meet they add up, but no more than one
      const from = wanted.slice()
      const weights = sharedWeights(
        from,
        paths.map((path) => path[i]!),
        stroke,
      )
      const results = paths.map((path, side) => {
        const result = from.slice()
        dab(surface, result, weights[side]!, path[i]!, stroke)
        return result
      })
      for (let n = 0; n < wanted.length; n++)
        wanted[n] = from[n]! + results.reduce((sum, result) => sum + result[n]! - from[n]!, 0)
    }
  takeSmallAlong(surface, now, wanted, stroke.radius)
  return nudgeTo(surface, wanted, on, topology)
}

/** The shells of a surface, and for each a point of another that was nearer to it than what moved; -1 before there was one. */
interface Shells {
  all: Uint32Array[]
  /** One a point. */
  shellOf: Uint32Array
  stills: Int32Array
}

const shellsKnown = new WeakMap<Uint32Array, Shells>()

function shellsIn(triangles: Uint32Array, points: number): Shells {
  let known = shellsKnown.get(triangles)
  if (!known) {
    const all = shellsOf(triangles, points)
    const shellOf = new Uint32Array(points)
    for (const [i, shell] of all.entries()) for (const p of shell) shellOf[p] = i
    shellsKnown.set(triangles, (known = { all, shellOf, stills: new Int32Array(all.length).fill(-1) }))
  }
  return known
}

/** Shells no wider than this share of the brush are small. */
const SMALL = 0.7

/** What is small beside the brush and hangs on nothing, as a button on its coat, goes whole, as the surface next to it does. */
function takeSmallAlong(surface: Nudgeable, now: Float32Array, wanted: Float32Array, radius: number): void {
  const { triangles, positions } = surface
  const { all, shellOf, stills } = shellsIn(triangles, positions.length / 3)
  const isSmall = all.map((shell, i) => i > 0 && isNarrow(positions, shell, SMALL * radius))
  const moved = new Uint8Array(positions.length / 3)
  for (let p = 0, i = 0; p < moved.length; p++, i += 3)
    if (wanted[i] !== now[i] || wanted[i + 1] !== now[i + 1] || wanted[i + 2] !== now[i + 2]) moved[p] = 1
  const hosts = all.filter((_, i) => !isSmall[i])
  const movedHosts: number[] = []
  for (const shell of hosts) for (const p of shell) if (moved[p]) movedHosts.push(p)
  for (const [i, shell] of all.entries()) {
    if (!isSmall[i]) continue
    // of most the brush is far off: what stands still next to them keeps them where they are
    if (movedHosts.length === 0 && !shell.some((p) => moved[p])) continue
    const middle = middleOf(positions, shell)
    let host = -1
    let near = Infinity
    for (const p of movedHosts) {
      const far = farFrom(positions, p, middle)
      if (far < near) [host, near] = [p, far]
    }
    // what kept it the last time mostly does again
    const last = stills[i]!
    if (last < 0 || isSmall[shellOf[last]!] || farFrom(positions, last, middle) >= near)
      stills[i] = nearerStill(positions, hosts, moved, middle, near)
    if (stills[i]! >= 0) host = stills[i]!
    if (host < 0) continue
    for (const p of shell)
      for (let k = 0; k < 3; k++) wanted[p * 3 + k] = now[p * 3 + k]! + wanted[host * 3 + k]! - now[host * 3 + k]!
  }
}

/** A point that was not moved and is nearer to a place than that; -1 if there is none. */
function nearerStill(
  positions: Float32Array,
  shells: readonly Uint32Array[],
  moved: Uint8Array,
  at: readonly number[],
  than: number,
): number {
  for (const shell of shells) for (const p of shell) if (!moved[p] && farFrom(positions, p, at) < than) return p
  return -1
}

/** The distance of a point from a place, metres; without `Math.hypot`, which a hand would wait for. */
function farFrom(positions: Float32Array, p: number, at: readonly number[]): number {
  const [x, y, z] = [positions[p * 3]! - at[0]!, positions[p * 3 + 1]! - at[1]!, positions[p * 3 + 2]! - at[2]!]
  return Math.sqrt(x * x + y * y + z * z)
}

function middleOf(positions: Float32Array, points: Uint32Array): [number, number, number] {
  let [x, y, z] = [0, 0, 0]
  for (const p of points) {
    x += positions[p * 3]!
    y += positions[p * 3 + 1]!
    z += positions[p * 3 + 2]!
  }
  return [x / points.length, y / points.length, z / points.length]
}

function isNarrow(positions: Float32Array, points: Uint32Array, width: number): boolean {
  const middle = middleOf(positions, points)
  return points.every((p) => farFrom(positions, p, middle) < width / 2)
}

/** The brush's effect on each point, 0 to 1: full in its middle, none at its rim. */
function weightsAt(positions: Float32Array, at: Place, { radius, softness, strength }: Stroke): Float32Array {
  const weights = new Float32Array(positions.length / 3)
  const full = 1 - Math.min(1, Math.max(0, softness))
  for (let p = 0; p < weights.length; p++) {
    const far = farFrom(positions, p, at) / radius
    if (far >= 1) continue
    const t = far <= full ? 1 : (1 - far) / (1 - full)
    weights[p] = t * t * (3 - 2 * t) * strength
  }
  return weights
}

/** The same for each side: where both act, together as much as the stronger alone. */
function sharedWeights(positions: Float32Array, places: readonly Place[], stroke: Stroke): Float32Array[] {
  const own = places.map((at) => weightsAt(positions, at, stroke))
  if (own.length === 1) return own
  const shared = own.map((weights) => new Float32Array(weights.length))
  for (let p = 0; p < shared[0]!.length; p++) {
    let most = 0
    let sum = 0
    for (const one of own) {
      most = Math.max(most, one[p]!)
      sum += one[p]!
    }
    if (sum > 0) for (let side = 0; side < own.length; side++) shared[side]![p] = (own[side]![p]! * most) / sum
  }
  return shared
}

function pull(now: Float32Array, wanted: Float32Array, paths: readonly (readonly Place[])[], stroke: Stroke): void {
  const weights = sharedWeights(
    now,
    paths.map((path) => path[0]!),
    stroke,
  )
  paths.forEach((path, side) => {
    const [from, to] = [path[0]!, path[path.length - 1]!]
    weights[side]!.forEach((w, p) => {
      if (w > 0) for (let k = 0; k < 3; k++) wanted[p * 3 + k]! += w * (to[k]! - from[k]!)
    })
  })
}

function dab(surface: Nudgeable, wanted: Float32Array, weights: Float32Array, at: Place, stroke: Stroke): void {
  const { kind, radius } = stroke
  const before = wanted.slice()
  const { starts, items } = surface.neighbours
  const facing = kind === 'restore' || kind === 'smooth' ? null : facesUnder(before, surface.triangles, weights, at)
  const planes = kind === 'flatten' ? [1, -1].map((side) => planeOf(before, facing!, weights, side)) : null
  for (let p = 0; p < weights.length; p++) {
    const w = weights[p]!
    if (w === 0) continue
    const o = p * 3
    if (kind === 'restore')
      for (let k = 0; k < 3; k++) wanted[o + k]! += w * DAB * (surface.positions[o + k]! - before[o + k]!)
    else if (kind === 'smooth') {
      const count = starts[p + 1]! - starts[p]!
      if (count === 0) continue
      for (let k = 0; k < 3; k++) {
        let sum = 0
        for (let n = starts[p]!; n < starts[p + 1]!; n++) sum += before[items[n]! * 3 + k]!
        wanted[o + k]! += w * DAB * (sum / count - before[o + k]!)
      }
    } else if (planes) {
      const middle = planes[facing!.side(p) < 0 ? 1 : 0]
      if (!middle) continue
      let above = 0
      for (let k = 0; k < 3; k++) above += facing!.towards[k]! * (before[o + k]! - middle[k]!)
      for (let k = 0; k < 3; k++) wanted[o + k]! -= w * DAB * above * facing!.towards[k]!
    } else {
      const by = (kind === 'swell' ? 1 : -1) * w * SWELL * radius
      const out = facing!.wayOut(p, radius)
      for (let k = 0; k < 3; k++) wanted[o + k]! += by * out[k]!
    }
  }
}

/** How the surface under a brush faces. */
interface Facing {
  /** On the whole, to the side the brush is on. */
  towards: Place
  /** Whether a point faces that side or the other: the inner wall of cloth goes with the outer one. */
  side: (point: number) => number
  /** The way out about a point: of all around it that faces the brush, so that a button goes along with its coat. */
  wayOut: (point: number, radius: number) => Place
}

function facesUnder(positions: Float32Array, triangles: Uint32Array, weights: Float32Array, at: Place): Facing {
  const normals = new Float32Array(positions.length)
  let nearest = { far: Infinity, normal: [0, 1, 0] as Place }
  for (let t = 0; t < triangles.length; t += 3) {
    const corners = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!] as const
    if (corners.every((p) => weights[p] === 0)) continue
    const [x, y, z, area] = triangleNormal(positions, ...corners)
    for (const p of corners) {
      normals[p * 3]! += x * area
      normals[p * 3 + 1]! += y * area
      normals[p * 3 + 2]! += z * area
    }
    const middle = [0, 1, 2].map((k) => corners.reduce((s, p) => s + positions[p * 3 + k]! / 3, 0) - at[k]!)
    const far = Math.hypot(...middle)
    if (far < nearest.far && area > 0) nearest = { far, normal: [x, y, z] }
  }
  const dot = (p: number, [x, y, z]: Place) => normals[p * 3]! * x + normals[p * 3 + 1]! * y + normals[p * 3 + 2]! * z
  const facing = weights.reduce<number[]>((list, w, p) => {
    if (w > 0 && dot(p, nearest.normal) > 0) list.push(p)
    return list
  }, [])
  const wayOf = (x: number, y: number, z: number): Place => {
    const length = Math.hypot(x, y, z)
    return length > 0 ? [x / length, y / length, z / length] : nearest.normal
  }
  // asked for every point under the brush, of all the others: no arrays in these loops
  const sumOver = (share: (p: number) => number): Place => {
    let [x, y, z] = [0, 0, 0]
    for (const p of facing) {
      const s = share(p)
      if (s === 0) continue
      x += s * normals[p * 3]!
      y += s * normals[p * 3 + 1]!
      z += s * normals[p * 3 + 2]!
    }
    return wayOf(x, y, z)
  }
  const towards = sumOver((p) => weights[p]!)
  return {
    towards,
    side: (p) => dot(p, towards),
    wayOut: (p, radius) => {
      const [px, py, pz] = [positions[p * 3]!, positions[p * 3 + 1]!, positions[p * 3 + 2]!]
      const reach = radius * 0.6
      return sumOver((q) => {
        const [x, y, z] = [positions[q * 3]! - px, positions[q * 3 + 1]! - py, positions[q * 3 + 2]! - pz]
        const square = x * x + y * y + z * z
        return square < reach * reach ? (1 - Math.sqrt(square) / reach) ** 2 : 0
      })
    },
  }
}

/** The middle of what the brush covers of one side; null where it covers none of it. */
function planeOf(positions: Float32Array, { side }: Facing, weights: Float32Array, sign: number) {
  const at = [0, 0, 0]
  let sum = 0
  weights.forEach((w, p) => {
    if (w === 0 || side(p) * sign < 0) return
    sum += w
    for (let k = 0; k < 3; k++) at[k]! += w * positions[p * 3 + k]!
  })
  return sum === 0 ? null : at.map((v) => v / sum)
}
