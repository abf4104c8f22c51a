import type { Figure } from '@idle-tinker/core'
import type { FigureView } from '../../workers/protocol.ts'

/** What a worker would send for a figure. */
export function viewOf(figure: Figure, topology = 'same'): FigureView {
  const { mesh } = figure
  const corners = [...mesh.cornerPoints]
  const spread = (array: ArrayLike<number>, n: number) =>
    corners.flatMap((p) => Array.from({ length: n }, (_, k) => array[p * n + k]!))
  return {
    topology,
    mesh: {
      positions: Float32Array.from(spread(mesh.positions, 3)),
      normals: mesh.normals.slice(),
      uvs: mesh.uvs.slice(),
      colors: Float32Array.from([...mesh.shades].flatMap((s) => [s / 255, s / 255, s / 255])),
      joints: Uint16Array.from(spread(mesh.joints, 4)),
      weights: Float32Array.from(spread(mesh.weights, 4)),
      indices: mesh.indices.slice(),
    },
    pieces: [],
    bones: figure.skeleton.bones,
    limbs: figure.skeleton.limbs,
    pairs: figure.skeleton.pairs,
    landmarks: {},
    atlas: { size: figure.atlas.size, pixels: figure.atlas.pixels, painted: false },
    doubleSided: figure.doubleSided,
    costs: figure.costs,
    pieceCosts: [],
    reductionError: 0,
  }
}
