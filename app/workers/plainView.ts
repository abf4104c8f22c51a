import { pointNormals } from '@idle-tinker/core'
import type { FigureView } from './protocol'

/** The color of a body that is there for the sake of something else. */
export const CLAY = '#b9ae97'

/** Triangles in one color, as they are to be drawn. */
export interface Colored {
  positions: Float32Array
  triangles: Uint32Array
  /** Of each triangle, #rrggbb. */
  colorOf: (triangle: number) => string
}

let views = 0

/** Something to be drawn that is no figure: a vertex a corner, its colors in an atlas, one bone that does nothing. */
export function viewOf(parts: readonly Colored[]): FigureView {
  const count = parts.reduce((n, p) => n + p.triangles.length, 0)
  const [positions, normals] = [new Float32Array(count * 3), new Float32Array(count * 3)]
  const cellOf = new Map<string, number>()
  const cells = new Uint32Array(count)
  let at = 0
  for (const part of parts) {
    const own = pointNormals(part.positions, part.triangles)
    let cell = 0
    for (const [c, v] of part.triangles.entries()) {
      if (c % 3 === 0) {
        const color = part.colorOf(c / 3)
        if (!cellOf.has(color)) cellOf.set(color, cellOf.size)
        cell = cellOf.get(color)!
      }
      cells[at] = cell
      positions.set(part.positions.subarray(v * 3, v * 3 + 3), at * 3)
      normals.set(own.subarray(v * 3, v * 3 + 3), at * 3)
      at++
    }
  }
  const size = 2 ** Math.ceil(Math.log2(Math.max(2, Math.sqrt(cellOf.size))))
  const pixels = new Uint8Array(size * size * 4).fill(255)
  for (const [color, cell] of cellOf)
    for (let k = 0; k < 3; k++) pixels[cell * 4 + k] = parseInt(color.slice(1 + 2 * k, 3 + 2 * k), 16)
  const uvs = new Float32Array(count * 2)
  cells.forEach((cell, v) => uvs.set([((cell % size) + 0.5) / size, (Math.floor(cell / size) + 0.5) / size], v * 2))
  return {
    // colors are other places in the atlas: none of them is another with its points elsewhere
    topology: `plain ${++views}`,
    mesh: {
      positions,
      normals,
      uvs,
      colors: new Float32Array(count * 3).fill(1),
      joints: new Uint16Array(count * 4),
      weights: new Float32Array(count * 4).map((_, i) => (i % 4 ? 0 : 1)),
      indices: Uint32Array.from(cells.keys()),
    },
    pieces: [],
    bones: [{ name: 'root', parent: -1, at: [0, 0, 0], tail: [0, 0, 0], turn: [0, 0, 0, 1] }],
    limbs: [],
    pairs: [],
    landmarks: {},
    atlas: { size, pixels, painted: false },
    // sheets of cloth are seen from both sides
    doubleSided: true,
    costs: { triangles: 0, vertices: 0, bones: 0, influences: 0, drawCalls: 0, textureBytes: 0, fileBytes: 0 },
    pieceCosts: [],
    reductionError: 0,
  }
}
