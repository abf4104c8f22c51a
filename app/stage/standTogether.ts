import { Box3, Vector3 } from 'three'
import type { FigureView } from '../workers/protocol'

/** The box around all that is drawn of a view. */
export function boxOf({ mesh }: FigureView): Box3 {
  const box = new Box3()
  const p = new Vector3()
  for (let i = 0; i < mesh.positions.length; i += 3) box.expandByPoint(p.fromArray(mesh.positions, i))
  return box
}

/** Pieces in a row to the right of the body, all in one view. */
export function standTogether(left: FigureView, pieces: readonly FigureView[]): FigureView {
  const views = [left, ...pieces]
  const size = views.reduce((n, v) => n + v.atlas.size ** 2, 0)
  const side = 2 ** Math.ceil(Math.log2(Math.sqrt(size)))
  const pixels = new Uint8Array(side * side * 4).fill(255)
  const shift = boxOf(left).max.x * 2 + 0.25
  const mesh = { positions: [], normals: [], uvs: [] } as Record<'positions' | 'normals' | 'uvs', number[]>
  let cell = 0
  for (const [n, { mesh: own, atlas }] of views.entries()) {
    pixels.set(atlas.pixels, cell * 4)
    for (let v = 0; v < own.positions.length / 3; v++) {
      const [x, y, z] = own.positions.subarray(v * 3, v * 3 + 3)
      mesh.positions.push(x! + (n ? shift : 0), y!, z!)
      for (let k = 0; k < 3; k++) mesh.normals.push(own.normals[v * 3 + k]!)
      const color =
        cell + Math.floor(own.uvs[v * 2]! * atlas.size) + Math.floor(own.uvs[v * 2 + 1]! * atlas.size) * atlas.size
      mesh.uvs.push(((color % side) + 0.5) / side, (Math.floor(color / side) + 0.5) / side)
    }
    cell += atlas.size ** 2
  }
  const count = mesh.positions.length / 3
  return {
    ...left,
    mesh: {
      positions: Float32Array.from(mesh.positions),
      normals: Float32Array.from(mesh.normals),
      uvs: Float32Array.from(mesh.uvs),
      colors: new Float32Array(count * 3).fill(1),
      joints: new Uint16Array(count * 4),
      weights: Float32Array.from({ length: count * 4 }, (_, i) => (i % 4 ? 0 : 1)),
      indices: Uint32Array.from({ length: count }, (_, i) => i),
    },
    atlas: { size: side, pixels, painted: false },
  }
}
