import type { Mesh, Morph } from './Mesh.ts'
import { computeNormals, createNormalScratch } from './normals.ts'

/**
 * What a morph does to the corners of a mesh at full effect: which of them move or are shaded otherwise, how far, xyz
 * metres, and by what their normals differ.
 *
 * @param scratch of the mesh, for many of its morphs
 */
export function morphCorners(
  mesh: Pick<Mesh, 'positions' | 'normals' | 'cornerPoints' | 'indices' | 'softness'>,
  { points, deltas }: Pick<Morph, 'points' | 'deltas'>,
  scratch = createNormalScratch(mesh),
): { corners: Uint32Array; offsets: Float32Array; turns: Float32Array } {
  const { cornerPoints } = mesh
  const moved = mesh.positions.slice()
  points.forEach((p, i) => {
    for (let k = 0; k < 3; k++) moved[p * 3 + k]! += deltas[i * 3 + k]!
  })
  const normals = mesh.normals.slice()
  computeNormals(mesh, moved, normals, scratch, mesh)
  const differs = (c: number) => {
    const p = cornerPoints[c]! * 3
    return [0, 1, 2].some(
      (k) => moved[p + k] !== mesh.positions[p + k] || normals[c * 3 + k] !== mesh.normals[c * 3 + k],
    )
  }
  const corners = Uint32Array.from([...cornerPoints.keys()].filter(differs))
  const [offsets, turns] = [new Float32Array(corners.length * 3), new Float32Array(corners.length * 3)]
  corners.forEach((c, i) => {
    for (let k = 0; k < 3; k++) {
      const at = cornerPoints[c]! * 3 + k
      offsets[i * 3 + k] = moved[at]! - mesh.positions[at]!
      turns[i * 3 + k] = normals[c * 3 + k]! - mesh.normals[c * 3 + k]!
    }
  })
  return { corners, offsets, turns }
}
