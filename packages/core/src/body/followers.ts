import { roomFor } from '../base/room.ts'
import { transposed, type Packed } from '../mesh/adjacency.ts'
import type { Morph } from '../mesh/Mesh.ts'

/** Points that follow others: follower i is the sum of `weights` times the moves of `sources`, packed. */
export interface Following {
  starts: Uint32Array // length n + 1
  sources: Uint32Array
  weights: Float32Array
}

export function packFollowing(rows: { sources: readonly number[]; weights: readonly number[] }[]): Following {
  const starts = new Uint32Array(rows.length + 1)
  rows.forEach((row, i) => (starts[i + 1] = starts[i]! + row.sources.length))
  const sources = new Uint32Array(starts[rows.length]!)
  const weights = new Float32Array(sources.length)
  rows.forEach((row, i) => {
    sources.set(row.sources, starts[i])
    weights.set(row.weights, starts[i])
  })
  return { starts, sources, weights }
}

/** Which followers were worked out; written over with every call. */
let done = new Uint8Array(0)

/**
 * The moves of followers under one delta of the mesh they follow.
 *
 * @param points how many points that mesh has
 * @param out    where they go: xyz a follower, metres; all zero
 */
export function followDelta(following: Following, points: number, delta: Morph, out: Float32Array): void {
  const full = spread(delta, points)
  const { starts, sources, weights } = following
  const { starts: first, items: followers } = followersOf(following, points)
  done = roomFor(done, starts.length - 1, Uint8Array)
  for (let d = 0; d < delta.points.length; d++) {
    const p = delta.points[d]!
    for (let n = first[p]!; n < first[p + 1]!; n++) {
      const f = followers[n]!
      if (done[f] !== 0) continue
      done[f] = 1
      // three sums at once: this is what a hand waits for
      let x = 0
      let y = 0
      let z = 0
      for (let i = starts[f]!; i < starts[f + 1]!; i++) {
        const w = weights[i]!
        const s = sources[i]! * 3
        x += w * full[s]!
        y += w * full[s + 1]!
        z += w * full[s + 2]!
      }
      out[f * 3] = x
      out[f * 3 + 1] = y
      out[f * 3 + 2] = z
    }
  }
}

/** Whether anyone follows a point that a delta moves. */
export function isFollowed(following: Following, points: number, delta: Morph): boolean {
  const { starts } = followersOf(following, points)
  for (let d = 0; d < delta.points.length; d++) {
    const p = delta.points[d]!
    if (starts[p + 1]! > starts[p]!) return true
  }
  return false
}

const followersKnown = new WeakMap<Following, Packed>()

/** Who follows each of the points. */
function followersOf(following: Following, points: number): Packed {
  let known = followersKnown.get(following)
  if (!known) {
    const { starts, sources } = following
    followersKnown.set(following, (known = transposed({ starts, items: sources }, points)))
  }
  return known
}

let spreadLast: { delta: Morph; full: Float32Array } | null = null

/** A delta over all points. One goes through many ties in a row: the last is kept. */
function spread(delta: Morph, points: number): Float32Array {
  if (spreadLast?.delta === delta && spreadLast.full.length === points * 3) return spreadLast.full
  const full = new Float32Array(points * 3)
  for (let i = 0, d = 0; i < delta.points.length; i++, d += 3) {
    const o = delta.points[i]! * 3
    full[o] = delta.deltas[d]!
    full[o + 1] = delta.deltas[d + 1]!
    full[o + 2] = delta.deltas[d + 2]!
  }
  spreadLast = { delta, full }
  return full
}

/**
 * Keeps only the points that move by more than a tenth of a millimetre.
 *
 * @param moves xyz for each of so many points, metres
 */
export function sparseMorph(name: string, moves: Float32Array, count: number): Morph {
  const points: number[] = []
  const deltas: number[] = []
  for (let p = 0; p < count; p++) {
    const x = moves[p * 3]!
    const y = moves[p * 3 + 1]!
    const z = moves[p * 3 + 2]!
    if (x * x + y * y + z * z > 1e-8) {
      points.push(p)
      deltas.push(x, y, z)
    }
  }
  return { name, points: Uint32Array.from(points), deltas: Float32Array.from(deltas) }
}
