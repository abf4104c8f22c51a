import { pointNormals } from '../mesh/normals.ts'
import { Surface } from '../mesh/Surface.ts'
import type { Piece } from './mergeOutfit.ts'

/** Cloth this near above a point covers it, metres. */
const REACH = 0.04
/** How far a covered point is sunk, metres: more than flat triangles cut off a round limb at crowd detail or in a stride. */
const DEPTH = 0.018

/**
 * How far points that lie beneath another piece are to be sunk before a figure is reduced: fewer,
 * flatter triangles of the cloth above then still pass over them. A point counts as covered when
 * the ray along its normal soon meets cloth of a later piece (pieces run from the skin outward).
 *
 * @param positions xyz a point, rest shape, metres
 * @param triangles three points each; triangles of a piece share no point with another piece
 * @returns xyz a point, metres; zero where nothing lies above
 */
export function sinkCovered(
  positions: Float32Array,
  triangles: Uint32Array,
  pieces: readonly Pick<Piece, 'points' | 'lies'>[],
): Float32Array {
  const moves = new Float32Array(positions.length)
  const normals = pointNormals(positions, triangles)
  const pieceOf = new Uint16Array(positions.length / 3)
  pieces.forEach(({ points }, i) => pieceOf.fill(i, points[0], points[1]))
  for (let inner = 0; inner + 1 < pieces.length; inner++) {
    // the body and cloth; what stands free or lies on the skin stays where it is
    if (inner > 0 && pieces[inner]!.lies !== 'over') continue
    const above = triangles.filter((_, i) => {
      const piece = pieceOf[triangles[i - (i % 3)]!]!
      return piece > inner && pieces[piece]!.lies === 'over'
    })
    if (above.length === 0) break
    const surface = new Surface(positions, above)
    const [start, end] = pieces[inner]!.points
    for (let p = start; p < end; p++) {
      const [nx, ny, nz] = [normals[p * 3]!, normals[p * 3 + 1]!, normals[p * 3 + 2]!]
      if (nx === 0 && ny === 0 && nz === 0) continue
      const hit = surface.castRay(positions[p * 3]!, positions[p * 3 + 1]!, positions[p * 3 + 2]!, nx, ny, nz, 0, REACH)
      if (hit === Infinity) continue
      moves[p * 3] = -nx * DEPTH
      moves[p * 3 + 1] = -ny * DEPTH
      moves[p * 3 + 2] = -nz * DEPTH
    }
  }
  return moves
}
