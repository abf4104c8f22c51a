import { boundsOf } from '../mesh/Mesh.ts'
import { pointNormals } from '../mesh/normals.ts'
import { Surface } from '../mesh/Surface.ts'
import type { Piece } from './mergeOutfit.ts'

/** Cloth this near above a point of a grown person covers it, metres. */
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
 * @param scale of the body
 * @returns xyz a point, metres; zero where nothing lies above
 */
export function sinkCovered(
  positions: Float32Array,
  triangles: Uint32Array,
  pieces: readonly Pick<Piece, 'points' | 'lies'>[],
  scale: number,
): Float32Array {
  const moves = new Float32Array(positions.length)
  const normals = pointNormals(positions, triangles)
  const pieceOf = new Uint16Array(positions.length / 3)
  pieces.forEach(({ points }, i) => pieceOf.fill(i, points[0], points[1]))
  const cloth = clothSurfaces(positions, triangles, pieces, pieceOf, scale)
  for (let inner = 0; inner + 1 < pieces.length; inner++) {
    // the body and cloth; what stands free or lies on the skin stays where it is
    if (inner > 0 && pieces[inner]!.lies !== 'over') continue
    const above = cloth.filter((c) => c.piece > inner)
    if (above.length === 0) break
    const [start, end] = pieces[inner]!.points
    for (let p = start; p < end; p++) {
      const [nx, ny, nz] = [normals[p * 3]!, normals[p * 3 + 1]!, normals[p * 3 + 2]!]
      if (nx === 0 && ny === 0 && nz === 0) continue
      const [x, y, z] = [positions[p * 3]!, positions[p * 3 + 1]!, positions[p * 3 + 2]!]
      const covered = above.some(
        ({ surface, min, max }) =>
          x > min[0] &&
          x < max[0] &&
          y > min[1] &&
          y < max[1] &&
          z > min[2] &&
          z < max[2] &&
          surface.castRay(x, y, z, nx, ny, nz, 0, REACH * scale) !== Infinity,
      )
      if (!covered) continue
      moves[p * 3] = -nx * DEPTH * scale
      moves[p * 3 + 1] = -ny * DEPTH * scale
      moves[p * 3 + 2] = -nz * DEPTH * scale
    }
  }
  return moves
}

/** The cloth of each piece as a surface, and the box within which it can cover anything. */
function clothSurfaces(
  positions: Float32Array,
  triangles: Uint32Array,
  pieces: readonly Pick<Piece, 'lies'>[],
  pieceOf: Uint16Array,
  scale: number,
) {
  return pieces.flatMap(({ lies }, piece) => {
    if (piece === 0 || lies !== 'over') return []
    const own = triangles.filter((_, i) => pieceOf[triangles[i - (i % 3)]!] === piece)
    if (own.length === 0) return []
    const used = Float32Array.from(
      { length: own.length * 3 },
      (_, i) => positions[own[Math.floor(i / 3)]! * 3 + (i % 3)]!,
    )
    const { min, max } = boundsOf(used)
    const reach = REACH * scale
    return [
      {
        piece,
        surface: new Surface(positions, own),
        min: min.map((v) => v - reach) as [number, number, number],
        max: max.map((v) => v + reach) as [number, number, number],
      },
    ]
  })
}
