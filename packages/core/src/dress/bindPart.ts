import { pointNeighbours } from '../mesh/adjacency.ts'
import { pointTriangles, type Morph } from '../mesh/Mesh.ts'
import { pointNormals, triangleNormal } from '../mesh/normals.ts'
import type { NearestPlace } from '../mesh/Surface.ts'
import type { PartModel } from '../kit/readKit.ts'
import { packFollowing, followMorph, sparseMorph } from '../body/followers.ts'
import { mlsWeights } from '../body/mlsWeights.ts'
import { regionLoop, type PreparedBody } from '../body/PreparedBody.ts'

/** A part made to follow one body: worked out once a pair, used by every figure. */
export interface BoundPart {
  part: PartModel
  /** Where the part lies on the body's rest shape: xyz a point, metres. */
  rest: Float32Array
  /** Three points a triangle. */
  triangles: Uint32Array
  /** One for each morph of the body, same order. */
  morphs: Morph[]
  /** Skin carried over from the body's surface: four bones and weights a point. */
  joints: Uint8Array
  weights: Float32Array
  /** Distance to the body in the rest shape, metres; how freely the point hangs. */
  distances: Float32Array
}

/** A point this far from the body follows its neighbours more than the surface below it. */
const HANGING = 0.035
const SMOOTHING_ROUNDS = 12
const NEIGHBOURS = 14

const bound = new WeakMap<PreparedBody, WeakMap<PartModel, BoundPart>>()

export function bindPart(body: PreparedBody, part: PartModel): BoundPart {
  let parts = bound.get(body)
  if (!parts) bound.set(body, (parts = new WeakMap()))
  let ready = parts.get(part)
  if (!ready) {
    ready = part.def.how === 'attached' ? bindAttached(body, part) : bindToSurface(body, part)
    parts.set(part, ready)
  }
  return ready
}

/**
 * Ties every point of a worn part to the body's surface: to the nearest place that faces the same
 * way, in the regions the part says it follows, and from there to the points around it by moving
 * least squares. Because the tie is linear, the body's sliders become sliders of the part.
 * Points that hang free (a coat's skirt) share their ties with their neighbours.
 */
function bindToSurface(body: PreparedBody, part: PartModel): BoundPart {
  const { mesh } = part
  const { mesh: skin, def } = body.model
  const triangles = pointTriangles(mesh)
  const count = mesh.positions.length / 3
  const normals = pointNormals(mesh.positions, triangles)
  const binds = part.def.how === 'worn' && part.def.binds?.length ? new Set(part.def.binds) : null
  const allowed = (t: number) => !binds || binds.has(def.regions[body.regionOf[t]!]?.id ?? '')
  const triangleNormals = Array.from({ length: body.triangles.length / 3 }, (_, t) =>
    triangleNormal(skin.positions, body.triangles[t * 3]!, body.triangles[t * 3 + 1]!, body.triangles[t * 3 + 2]!),
  )
  const seam = part.def.how === 'replaces' ? seamPoints(body, part) : null

  const rows: { sources: number[]; weights: number[] }[] = []
  const distances = new Float32Array(count)
  const rowJoints: Map<number, number>[] = []
  for (let p = 0; p < count; p++) {
    const at: [number, number, number] = [
      mesh.positions[p * 3]!,
      mesh.positions[p * 3 + 1]!,
      mesh.positions[p * 3 + 2]!,
    ]
    const onSeam = seam?.find((s) => distanceTo(skin.positions, s, at) < 1e-4)
    if (onSeam !== undefined) {
      rows.push({ sources: [onSeam], weights: [1] })
      rowJoints.push(skinOf(skin, [onSeam], [1]))
      continue
    }
    const facing = (t: number) => {
      const n = triangleNormals[t]!
      return n[0] * normals[p * 3]! + n[1] * normals[p * 3 + 1]! + n[2] * normals[p * 3 + 2]!
    }
    const place = nearestFacing(body, at, allowed, facing)
    distances[p] = place.distance
    const corners = [0, 1, 2].map((k) => body.triangles[place.triangle * 3 + k]!)
    const around = ring(body, corners)
      .map((s) => ({ s, d: distanceTo(skin.positions, s, place.point) }))
      .sort((a, b) => a.d - b.d || a.s - b.s)
      .slice(0, NEIGHBOURS)
    const width = Math.max(around[Math.min(5, around.length - 1)]!.d, place.distance * 0.8, 1e-4)
    const sources = around.map(({ s }) => s)
    rows.push({ sources, weights: mlsWeights(at, skin.positions, sources, width) })
    rowJoints.push(skinOf(skin, corners, place.weights))
  }

  const following = packFollowing(rows)
  const neighbours = pointNeighbours(triangles, count)
  // 0: holds on to the body; towards 1: hangs from its neighbours
  const hang = Float32Array.from(distances, (d) => Math.min(0.9, Math.max(0, (d - HANGING) / (3 * HANGING))))
  const morphs = skin.morphs.map((morph) => {
    const moves = followMorph(following, skin, morph)
    smooth(moves, 3, neighbours, hang)
    return sparseMorph(morph.name, moves)
  })
  const dense = new Float32Array(count * body.model.bones.length)
  rowJoints.forEach((row, p) => row.forEach((w, bone) => (dense[p * body.model.bones.length + bone] = w)))
  smooth(dense, body.model.bones.length, neighbours, hang)
  return { part, rest: mesh.positions, triangles, morphs, ...strongestFour(dense, body.model.bones.length), distances }
}

/** Nearest allowed place that faces the same way; failing that, the nearest allowed; failing that, the nearest. */
function nearestFacing(
  body: PreparedBody,
  at: readonly [number, number, number],
  allowed: (t: number) => boolean,
  facing: (t: number) => number,
): NearestPlace {
  const [x, y, z] = at
  const any = body.surface.nearest(x, y, z, Infinity, allowed) ?? body.surface.nearest(x, y, z)!
  if (facing(any.triangle) > 0.2) return any
  // a lining or a rim faces away from the surface it lies on: only a near match is worth a detour
  const same = body.surface.nearest(x, y, z, any.distance * 1.6 + 0.01, (t) => allowed(t) && facing(t) > 0.2)
  return same ?? any
}

function distanceTo(positions: ArrayLike<number>, p: number, at: readonly number[]): number {
  return Math.hypot(positions[p * 3]! - at[0]!, positions[p * 3 + 1]! - at[1]!, positions[p * 3 + 2]! - at[2]!)
}

/** The given points and those within two edges of them. */
function ring(body: PreparedBody, points: readonly number[]): number[] {
  const { starts, items } = body.neighbours
  const found = new Set(points)
  for (let round = 0; round < 2; round++)
    for (const p of [...found]) for (let i = starts[p]!; i < starts[p + 1]!; i++) found.add(items[i]!)
  return [...found]
}

function seamPoints(body: PreparedBody, part: PartModel): number[] {
  const def = part.def
  if (def.how !== 'replaces') return []
  const seam = body.model.def.seams.find((s) => s.id === def.seam)
  return seam ? regionLoop(body, seam.region) : []
}

function skinOf(
  skin: { joints: Uint8Array; weights: Float32Array },
  points: readonly number[],
  shares: readonly number[],
): Map<number, number> {
  const sums = new Map<number, number>()
  points.forEach((p, i) => {
    for (let j = 0; j < 4; j++) {
      const w = skin.weights[p * 4 + j]! * Math.max(0, shares[i]!)
      if (w > 0) sums.set(skin.joints[p * 4 + j]!, (sums.get(skin.joints[p * 4 + j]!) ?? 0) + w)
    }
  })
  return sums
}

/** Draws each row towards the mean of its neighbours by its own share, a few rounds (Jacobi). */
function smooth(
  values: Float32Array,
  stride: number,
  neighbours: { starts: Uint32Array; items: Uint32Array },
  share: Float32Array,
): void {
  const { starts, items } = neighbours
  const free = [...share.keys()].filter((p) => share[p]! > 0 && starts[p + 1]! > starts[p]!)
  const next = new Float32Array(free.length * stride)
  for (let round = 0; round < SMOOTHING_ROUNDS; round++) {
    free.forEach((p, at) => {
      const s = share[p]!
      const part = s / (starts[p + 1]! - starts[p]!)
      for (let k = 0; k < stride; k++) {
        let sum = 0
        for (let i = starts[p]!; i < starts[p + 1]!; i++) sum += values[items[i]! * stride + k]!
        next[at * stride + k] = values[p * stride + k]! * (1 - s) + sum * part
      }
    })
    free.forEach((p, at) => {
      for (let k = 0; k < stride; k++) values[p * stride + k] = next[at * stride + k]!
    })
  }
}

/** The four strongest bones of each row, falling, scaled to sum to one. */
export function strongestFour(dense: Float32Array, bones: number): { joints: Uint8Array; weights: Float32Array } {
  const count = dense.length / bones
  const joints = new Uint8Array(count * 4)
  const weights = new Float32Array(count * 4)
  for (let p = 0; p < count; p++) {
    let sum = 0
    for (let slot = 0; slot < 4; slot++) {
      let best = -1
      for (let b = 0; b < bones; b++) {
        const w = dense[p * bones + b]!
        if (w > 0.004 && (best < 0 || w > dense[p * bones + best]!) && !taken(joints, weights, p, slot, b)) best = b
      }
      if (best < 0) break
      joints[p * 4 + slot] = best
      weights[p * 4 + slot] = dense[p * bones + best]!
      sum += dense[p * bones + best]!
    }
    for (let slot = 0; slot < 4; slot++) if (sum > 0) weights[p * 4 + slot]! /= sum
  }
  return { joints, weights }
}

function taken(joints: Uint8Array, weights: Float32Array, p: number, upTo: number, bone: number): boolean {
  for (let i = 0; i < upTo; i++) if (joints[p * 4 + i] === bone && weights[p * 4 + i]! > 0) return true
  return false
}

/**
 * A part on a socket is modeled about the socket and goes with the socket's bone. With fit `shape` it also takes on the form of
 * the body around that bone: every morph's least-squares affine map of the bone's points.
 */
function bindAttached(body: PreparedBody, part: PartModel): BoundPart {
  const { def, mesh } = part
  if (def.how !== 'attached') throw new TypeError(`${def.id} is not attached`)
  const triangles = pointTriangles(mesh)
  const count = mesh.positions.length / 3
  const socket = body.model.def.sockets.find((s) => s.id === def.socket)!
  const bone = Math.max(
    0,
    body.model.bones.findIndex((b) => b.name === socket.bone),
  )
  const skin = body.model.mesh
  const held: number[] = []
  for (let p = 0; p < skin.positions.length / 3; p++)
    if (skin.joints[p * 4] === bone && skin.weights[p * 4]! > 0.5) held.push(p)
  const at = socket.at
  const rest = mesh.positions.map((v, i) => v + at[i % 3]!)
  const followAt = (place: readonly [number, number, number]) => {
    const sources = held.length >= 4 ? held : Array.from({ length: skin.positions.length / 3 }, (_, i) => i)
    const width = sources.reduce((s, p) => s + distanceTo(skin.positions, p, place), 0) / sources.length
    return { sources, weights: mlsWeights(place, skin.positions, sources, Math.max(width, 1e-3)) }
  }
  const rigid = def.fit === 'rigid' ? packFollowing([followAt(at)]) : null
  const shaped = rigid
    ? null
    : packFollowing(
        Array.from({ length: count }, (_, p) => followAt([rest[p * 3]!, rest[p * 3 + 1]!, rest[p * 3 + 2]!])),
      )
  const morphs = skin.morphs.map((morph) => {
    if (shaped) return sparseMorph(morph.name, followMorph(shaped, skin, morph))
    const move = followMorph(rigid!, skin, morph)
    return sparseMorph(
      morph.name,
      Float32Array.from({ length: count * 3 }, (_, i) => move[i % 3]!),
    )
  })
  const joints = new Uint8Array(count * 4)
  const weights = new Float32Array(count * 4)
  for (let p = 0; p < count; p++) {
    joints[p * 4] = bone
    weights[p * 4] = 1
  }
  return { part, rest, triangles, morphs, joints, weights, distances: new Float32Array(count).fill(1) }
}
