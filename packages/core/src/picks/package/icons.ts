import { hiddenOfBody } from '../../dress/cover.ts'
import { axesOf, drawMesh, type Drawn, type MeshView } from '../../color/drawMesh.ts'
import type { Standing } from './standing.ts'

/** What an icon's bust is drawn in. */
const BUST = '#b9b4aa'
/** Around what is shown, as a share of it. */
const ROOM = 1.25
/** No icon shows less than this of a grown person, metres to each side: an eye alone says nothing. */
const LEAST = 0.1
const TILT = 8
/** From the front and a little to the side; what is on the back is shown from there. */
const TURNS = [28, 152, -28, -152]
/** Another side is taken where one sees so much more of the part there. */
const BETTER = 2.2

/** A picture of each option on a neutral bust, RGBA, by their order. */
export function drawIcons(standing: Standing, size: number, colorOf: (region: number) => string): Uint8Array[] {
  const { merged, options, outfit, body } = standing
  const { mesh } = merged
  return options.map(({ piece, layer }) => {
    const { bound } = outfit.layers[layer]!
    const own: Drawn = { mesh, triangles: piece.triangles, look: colorOf }
    const bust: Drawn = {
      mesh,
      triangles: merged.pieces[0]!.triangles,
      without: hiddenOfBody(body, bound),
      look: () => BUST,
    }
    const points = mesh.indices.slice(piece.triangles[0] * 3, piece.triangles[1] * 3).map((c) => mesh.cornerPoints[c]!)
    const views = TURNS.map((turn) => viewOf(mesh.positions, points, turn, LEAST * body.scale))
    const seen = views.map((view) => seenOf(own, bust, view))
    const best = seen.reduce((at, n, i) => (n > seen[at]! * BETTER ? i : at), 0)
    return drawMesh([bust, own], views[best]!, size)
  })
}

function viewOf(positions: Float32Array, points: ArrayLike<number>, turn: number, least: number): MeshView {
  const axes = axesOf({ turn, tilt: TILT })
  const low = [Infinity, Infinity, Infinity]
  const high = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < points.length; i++)
    axes.forEach((axis, k) => {
      const at = [0, 1, 2].reduce((sum, n) => sum + axis[n]! * positions[points[i]! * 3 + n]!, 0)
      low[k] = Math.min(low[k]!, at)
      high[k] = Math.max(high[k]!, at)
    })
  const center = low.map((v, k) => (v + high[k]!) / 2)
  const reach = Math.max(least, ((Math.max(high[0]! - low[0]!, high[1]! - low[1]!) || 0) / 2) * ROOM)
  const middle = [0, 1, 2].map((n) => axes.reduce((sum, axis, k) => sum + axis[n]! * center[k]!, 0))
  return { turn, tilt: TILT, middle: middle as [number, number, number], reach }
}

/** In a small picture, how many pixels show the part and not the bust: it alone is white. */
function seenOf(own: Drawn, bust: Drawn, view: MeshView): number {
  const flat = (thing: Drawn, color: string): Drawn => ({ ...thing, look: () => color })
  const pixels = drawMesh([flat(bust, '#000000'), flat(own, '#ffffff')], view, 24)
  let seen = 0
  for (let i = 0; i < pixels.length; i += 4) if (pixels[i]! > 60) seen++
  return seen
}
