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

/**
 * The moves of followers under one delta of the mesh they follow: xyz a follower, metres.
 *
 * @param points how many points that mesh has
 */
export function followDelta(following: Following, points: number, delta: Morph): Float32Array {
  const { full, moved } = spread(delta, points)
  const { starts, sources, weights } = following
  const out = new Float32Array((starts.length - 1) * 3)
  for (let f = 0; f < starts.length - 1; f++) {
    let follows = false
    for (let i = starts[f]!; i < starts[f + 1]! && !follows; i++) follows = moved[sources[i]!] === 1
    if (!follows) continue
    // three sums at once: this is what a hand waits for
    let [x, y, z] = [0, 0, 0]
    for (let i = starts[f]!; i < starts[f + 1]!; i++) {
      const [w, s] = [weights[i]!, sources[i]! * 3]
      x += w * full[s]!
      y += w * full[s + 1]!
      z += w * full[s + 2]!
    }
    out[f * 3] = x
    out[f * 3 + 1] = y
    out[f * 3 + 2] = z
  }
  return out
}

let spreadLast: ReturnType<typeof spread> | null = null

/** A delta over all points, and which of them it moves. One delta goes through many ties in a row: the last is kept. */
function spread(delta: Morph, points: number): { delta: Morph; full: Float32Array; moved: Uint8Array } {
  if (spreadLast?.delta === delta && spreadLast.moved.length === points) return spreadLast
  const full = new Float32Array(points * 3)
  const moved = new Uint8Array(points)
  for (let i = 0; i < delta.points.length; i++) {
    const p = delta.points[i]!
    moved[p] = 1
    for (let k = 0; k < 3; k++) full[p * 3 + k] = delta.deltas[i * 3 + k]!
  }
  return (spreadLast = { delta, full, moved })
}

/** Keeps only the points that move by more than a tenth of a millimetre. */
export function sparseMorph(name: string, moves: Float32Array): Morph {
  const points: number[] = []
  const deltas: number[] = []
  for (let p = 0; p < moves.length / 3; p++) {
    const [x, y, z] = [moves[p * 3]!, moves[p * 3 + 1]!, moves[p * 3 + 2]!]
    if (x * x + y * y + z * z > 1e-8) {
      points.push(p)
      deltas.push(x, y, z)
    }
  }
  return { name, points: Uint32Array.from(points), deltas: Float32Array.from(deltas) }
}
