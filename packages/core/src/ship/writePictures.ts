import { encode } from 'fast-png'
import { drawMesh, type Drawn, type MeshView } from '../color/drawMesh.ts'
import { boundsOf, type Mesh } from '../mesh/Mesh.ts'
import type { Prepared } from './prepare.ts'
import { atlasPng } from './writeFigure.ts'

/** Pixels a side of a view on the sheet, and of the icon. */
export const SHEET_VIEW = 512
export const ICON_SIDE = 256
/** What a sheet shows from left to right: from ahead, from its left, from behind, from its right; degrees. */
const SHEET_TURNS = [0, 90, 180, -90] as const
/** Around what is shown, as a share of it. */
const ROOM = 1.06

/** The box round what is drawn: its middle, and half of its longest side. */
function frameOf({ positions, cornerPoints }: Mesh): Pick<MeshView, 'middle' | 'reach'> {
  const drawn = Float32Array.from({ length: cornerPoints.length * 3 }, (_, i) => {
    return positions[cornerPoints[Math.floor(i / 3)]! * 3 + (i % 3)]!
  })
  const { min, max } = boundsOf(drawn)
  const middle = [0, 1, 2].map((k) => (min[k]! + max[k]!) / 2) as [number, number, number]
  // as wide as it is when it is seen from a corner of its box
  const across = Math.hypot(max[0]! - min[0]!, max[2]! - min[2]!)
  return { middle, reach: (Math.max(max[1]! - min[1]!, across) / 2) * ROOM }
}

const png = (width: number, height: number, data: Uint8Array) =>
  new Uint8Array(encode({ width, height, data, channels: 4, depth: 8 }))

/**
 * Draws a figure as it stands at rest: its colors as they lie in the atlas, a sheet with four sides of it in a row, and an
 * icon from a little aside and above; clear behind it. Same figure, same bytes.
 *
 * @param stem what files are called
 * @returns files by name
 */
export function writePictures({ standing, leaving }: Pick<Prepared, 'standing' | 'leaving'>, stem: string) {
  const { mesh, atlas } = standing
  const things: Drawn[] = [{ mesh, triangles: [0, mesh.indices.length / 3], look: atlas }]
  const frame = frameOf(mesh)
  const width = SHEET_VIEW * SHEET_TURNS.length
  const sheet = new Uint8Array(width * SHEET_VIEW * 4)
  SHEET_TURNS.forEach((turn, nth) => {
    const view = drawMesh(things, { ...frame, turn, tilt: 0 }, SHEET_VIEW)
    for (let y = 0; y < SHEET_VIEW; y++)
      sheet.set(view.subarray(y * SHEET_VIEW * 4, (y + 1) * SHEET_VIEW * 4), (y * width + nth * SHEET_VIEW) * 4)
  })
  const icon = drawMesh(things, { ...frame, turn: 28, tilt: 8 }, ICON_SIDE)
  return new Map([
    [`${stem}.png`, atlasPng(leaving)],
    [`${stem}-sheet.png`, png(width, SHEET_VIEW, sheet)],
    [`${stem}-icon.png`, png(ICON_SIDE, ICON_SIDE, icon)],
  ])
}
