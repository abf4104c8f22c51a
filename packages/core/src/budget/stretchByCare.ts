import type { Mesh } from '../mesh/Mesh.ts'
import type { Piece } from './mergeOutfit.ts'

export interface CareOptions {
  /** How finely what hangs on each bone is kept; 1 is ordinary. */
  ofBones: Float32Array
  /** Joints by bone, xyz each: what a bone carries is stretched about the first joint of its kind. */
  centers: Float32Array
  /** How finely each piece is kept. */
  ofPieces: Float32Array
}

/**
 * Positions in which a reduction measures what it does: what deserves care is stretched, so that
 * the same deviation counts for more there. Bones stretch smoothly by their weights; a piece,
 * which shares no point with another, is stretched about its own middle.
 *
 * @returns xyz a point, metres, only good for measuring
 */
export function stretchByCare(
  mesh: Pick<Mesh, 'positions' | 'joints' | 'weights'>,
  pieces: readonly Pick<Piece, 'points'>[],
  { ofBones, centers, ofPieces }: CareOptions,
): Float32Array {
  const { positions, joints, weights } = mesh
  const out = positions.slice()
  for (let p = 0; p < positions.length / 3; p++)
    for (let j = 0; j < 4; j++) {
      const bone = joints[p * 4 + j]!
      const by = weights[p * 4 + j]! * (ofBones[bone]! - 1)
      if (by !== 0) for (let k = 0; k < 3; k++) out[p * 3 + k]! += by * (positions[p * 3 + k]! - centers[bone * 3 + k]!)
    }
  pieces.forEach(({ points: [start, end] }, i) => {
    if (ofPieces[i] === 1 || end === start) return
    const middle = [0, 0, 0]
    for (let p = start; p < end; p++) for (let k = 0; k < 3; k++) middle[k]! += out[p * 3 + k]! / (end - start)
    for (let p = start; p < end; p++)
      for (let k = 0; k < 3; k++) out[p * 3 + k] = middle[k]! + (out[p * 3 + k]! - middle[k]!) * ofPieces[i]!
  })
  return out
}
