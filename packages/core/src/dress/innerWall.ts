import { triangleNormal } from '../mesh/normals.ts'
import type { Surface } from '../mesh/Surface.ts'
import { THICKEST, type LayerShape } from './clearance.ts'

/**
 * Which triangles are the inner wall of a thick garment: they face the body, and the garment's own
 * other wall lies close behind them.
 *
 * @returns one byte a triangle
 */
export function innerWall(shape: LayerShape, own: Surface, body: Surface, scale: number): Uint8Array {
  const { positions, triangles } = shape
  return Uint8Array.from({ length: triangles.length / 3 }, (_, t) => {
    const [a, b, c] = [triangles[t * 3]!, triangles[t * 3 + 1]!, triangles[t * 3 + 2]!]
    const n = triangleNormal(positions, a, b, c)
    const at = [0, 1, 2].map((k) => (positions[a * 3 + k]! + positions[b * 3 + k]! + positions[c * 3 + k]!) / 3) as [
      number,
      number,
      number,
    ]
    const behind = own.castRay(
      at[0] - n[0] * 1e-4,
      at[1] - n[1] * 1e-4,
      at[2] - n[2] * 1e-4,
      -n[0],
      -n[1],
      -n[2],
      0,
      THICKEST * scale,
    )
    if (behind === Infinity) return 0
    const place = body.nearest(...at)
    if (!place) return 0
    const away = [0, 1, 2].reduce((s, k) => s + n[k]! * (at[k]! - place.point[k]!), 0)
    return away < 0 ? 1 : 0
  })
}
