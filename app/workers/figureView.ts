import type { Figure, Mesh } from '@idle-tinker/core'
import type { DrawMesh, FigureView } from './protocol'

/** One vertex a corner, as a renderer wants it. */
function drawMesh(mesh: Mesh): DrawMesh {
  const n = mesh.cornerPoints.length
  const out: DrawMesh = {
    positions: new Float32Array(n * 3),
    normals: mesh.normals.slice(),
    uvs: mesh.uvs.slice(),
    colors: new Float32Array(n * 3),
    joints: new Uint16Array(n * 4),
    weights: new Float32Array(n * 4),
    indices: mesh.indices.slice(),
  }
  for (let c = 0; c < n; c++) {
    const p = mesh.cornerPoints[c]!
    const shade = mesh.shades[c]! / 255
    for (let k = 0; k < 3; k++) {
      out.positions[c * 3 + k] = mesh.positions[p * 3 + k]!
      out.colors[c * 3 + k] = shade
    }
    for (let k = 0; k < 4; k++) {
      out.joints[c * 4 + k] = mesh.joints[p * 4 + k]!
      out.weights[c * 4 + k] = mesh.weights[p * 4 + k]!
    }
  }
  return out
}

/** A built figure as the page sees it. Equal topologies: meshes that differ in positions and normals alone. */
export function figureView(figure: Figure, topology: string): FigureView {
  return {
    topology,
    mesh: drawMesh(figure.mesh),
    pieces: figure.pieces.map((p) => ({
      instance: p.instance,
      slot: p.slot,
      kit: p.kit,
      id: p.id,
      name: p.name,
      holds: p.slot === 'body' || p.lies !== 'free',
      morphs: p.morphs,
      start: p.triangles[0] * 3,
      count: (p.triangles[1] - p.triangles[0]) * 3,
    })),
    bones: figure.skeleton.bones,
    limbs: figure.skeleton.limbs,
    pairs: figure.skeleton.pairs,
    landmarks: Object.fromEntries(figure.landmarks),
    atlas: { size: figure.atlas.size, pixels: figure.atlas.pixels.slice(), painted: figure.atlas.painted },
    doubleSided: figure.doubleSided,
    costs: figure.costs,
    pieceCosts: figure.pieceCosts,
    reductionError: figure.reductionError,
  }
}
