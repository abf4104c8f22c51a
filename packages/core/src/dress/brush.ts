import { addDelta } from '../body/shapeBody.ts'
import { pointNormals } from '../mesh/normals.ts'
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
  if (stroke.kind === 'pull') for (const path of paths) pull(now, wanted, path, stroke)
  else
    for (let i = 0; i < stroke.path.length; i++) {
      // both sides at once, so that where they meet neither comes first
      const weights = paths.map((path) => weightsAt(wanted, path[i]!, stroke))
      const together = weights[0]!.map((w, p) => Math.max(...weights.map((side) => side[p]!), w))
      dab(surface, wanted, together, stroke)
    }
  return nudgeTo(surface, wanted, on, topology)
}

/** The brush's effect on each point, 0 to 1: full in its middle, none at its rim. */
function weightsAt(positions: Float32Array, at: Place, { radius, softness, strength }: Stroke): Float32Array {
  const weights = new Float32Array(positions.length / 3)
  const full = 1 - Math.min(1, Math.max(0, softness))
  for (let p = 0; p < weights.length; p++) {
    const far =
      Math.hypot(positions[p * 3]! - at[0], positions[p * 3 + 1]! - at[1], positions[p * 3 + 2]! - at[2]) / radius
    if (far >= 1) continue
    const t = far <= full ? 1 : (1 - far) / (1 - full)
    weights[p] = t * t * (3 - 2 * t) * strength
  }
  return weights
}

function pull(now: Float32Array, wanted: Float32Array, path: readonly Place[], stroke: Stroke): void {
  const [from, to] = [path[0]!, path[path.length - 1]!]
  const weights = weightsAt(now, from, stroke)
  weights.forEach((w, p) => {
    for (let k = 0; k < 3; k++) wanted[p * 3 + k]! += w * (to[k]! - from[k]!)
  })
}

function dab(surface: Nudgeable, wanted: Float32Array, weights: Float32Array, { kind, radius }: Stroke): void {
  const before = wanted.slice()
  const { starts, items } = surface.neighbours
  const out = kind === 'restore' || kind === 'smooth' ? null : pointNormals(before, surface.triangles)
  const plane = kind === 'flatten' ? planeOf(before, out!, weights) : null
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
    } else if (plane) {
      let above = 0
      for (let k = 0; k < 3; k++) above += plane.normal[k]! * (before[o + k]! - plane.at[k]!)
      for (let k = 0; k < 3; k++) wanted[o + k]! -= w * DAB * above * plane.normal[k]!
    } else {
      const by = (kind === 'swell' ? 1 : -1) * w * SWELL * radius
      for (let k = 0; k < 3; k++) wanted[o + k]! += by * out![o + k]!
    }
  }
}

/** The plane through the middle of what the brush covers, as it faces there. */
function planeOf(positions: Float32Array, normals: Float32Array, weights: Float32Array) {
  const at = [0, 0, 0]
  const normal = [0, 0, 0]
  let sum = 0
  weights.forEach((w, p) => {
    sum += w
    for (let k = 0; k < 3; k++) {
      at[k]! += w * positions[p * 3 + k]!
      normal[k]! += w * normals[p * 3 + k]!
    }
  })
  const length = Math.hypot(...normal)
  if (sum === 0 || length === 0) return null
  return { at: at.map((v) => v / sum), normal: normal.map((v) => v / length) }
}
