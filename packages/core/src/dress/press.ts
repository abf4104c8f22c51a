import type { PreparedBody } from '../body/PreparedBody.ts'
import type { Surface } from '../mesh/Surface.ts'

/** Points that are drawn in towards the body so that they lie beneath another part. */
export interface Press {
  points: Uint32Array
  /** The three body points each is drawn to, and their shares; length 3n. */
  anchors: Uint32Array
  shares: Float32Array
  /** What is left of the distance to the body, 0..1. */
  factors: Float32Array
}

/** Left between a pressed point and the part above it, metres. */
const MARGIN = 0.008

/** Finds, in the rest shape, how far each point must come in to lie under `outer` as seen from the body. */
export function pressUnder(body: PreparedBody, rest: Float32Array, outer: Surface): Press {
  const points: number[] = []
  const anchors: number[] = []
  const shares: number[] = []
  const factors: number[] = []
  for (let p = 0; p < rest.length / 3; p++) {
    const at = [rest[p * 3]!, rest[p * 3 + 1]!, rest[p * 3 + 2]!] as const
    const place = body.surface.nearest(...at)
    if (!place || place.distance < 1e-4) continue
    const d = [0, 1, 2].map((k) => (at[k]! - place.point[k]!) / place.distance) as [number, number, number]
    const roof = outer.castRay(...place.point, ...d, 0, place.distance + MARGIN)
    if (roof === Infinity) continue
    points.push(p)
    for (let k = 0; k < 3; k++) anchors.push(body.triangles[place.triangle * 3 + k]!)
    shares.push(...place.weights)
    factors.push(Math.max(0.05, Math.min(1, (roof - MARGIN) / place.distance)))
  }
  return {
    points: Uint32Array.from(points),
    anchors: Uint32Array.from(anchors),
    shares: Float32Array.from(shares),
    factors: Float32Array.from(factors),
  }
}

/** Draws the points in. Allocates nothing; O(points pressed). */
export function applyPress(positions: Float32Array, body: Float32Array, press: Press): void {
  for (let i = 0; i < press.points.length; i++) {
    const o = press.points[i]! * 3
    const f = press.factors[i]!
    for (let k = 0; k < 3; k++) {
      let ground = 0
      for (let j = 0; j < 3; j++) ground += press.shares[i * 3 + j]! * body[press.anchors[i * 3 + j]! * 3 + k]!
      positions[o + k] = ground + (positions[o + k]! - ground) * f
    }
  }
}
