import type { PreparedBody } from '../body/PreparedBody.ts'
import { triangleNormal } from '../mesh/normals.ts'
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

type Vector = readonly [number, number, number]

/* Lengths are those of a grown person; the body's own scale is multiplied in. */

/** Left between a pressed point and the part above it, metres; and for each layer that has to fit in between. */
const MARGIN = 0.008
const LAYER = 0.004
/** What is left at least of a point's distance to the body. */
const FLATTEST = 0.05
/** What is drawn in for a triangle's sake keeps this distance, so that the body does not come out between, metres. */
const LEAST = 0.005
/** How much of the distance is left after each round in which a triangle still comes out through the part above. */
const DRAWN_IN = 0.75
const ROUNDS = 10

/**
 * Finds, in the rest shape, how far each point must come in to lie under `outer` as seen from the
 * body. A point beside the outer part stays where it is, unless a triangle of it would come out
 * through that part: then its corners are drawn in until none does.
 *
 * @param between how many other layers lie between the two
 */
export function pressUnder(
  body: PreparedBody,
  rest: Float32Array,
  triangles: Uint32Array,
  outer: Surface,
  between = 0,
): Press {
  const margin = (MARGIN + between * LAYER) * body.scale
  const least = LEAST * body.scale
  const count = rest.length / 3
  const places = Array.from({ length: count }, (_, p) =>
    body.surface.nearest(rest[p * 3]!, rest[p * 3 + 1]!, rest[p * 3 + 2]!)!,
  )
  const factors = new Float32Array(count).fill(1)
  for (let p = 0; p < count; p++) {
    const { point, distance } = places[p]!
    if (distance < 1e-4) continue
    const d = [0, 1, 2].map((k) => (rest[p * 3 + k]! - point[k]!) / distance) as [number, number, number]
    const roof = outer.castRay(...point, ...d, 0, distance + margin)
    if (roof !== Infinity) factors[p] = Math.max(FLATTEST, Math.min(1, (roof - margin) / distance))
  }
  const now = rest.slice()
  const draw = (p: number) => {
    for (let k = 0; k < 3; k++) {
      const ground = places[p]!.point[k]!
      now[p * 3 + k] = ground + (rest[p * 3 + k]! - ground) * factors[p]!
    }
  }
  for (let p = 0; p < count; p++) draw(p)
  let moved: Set<number> | null = null
  for (let round = 0; round < ROUNDS; round++) {
    const through = new Set<number>()
    for (let t = 0; t < triangles.length; t += 3) {
      const corners = triangles.subarray(t, t + 3)
      // after the first round only what has moved can have come clear
      if (moved && !corners.some((p) => moved!.has(p))) continue
      if (comesThrough(body, now, corners, outer)) for (const p of corners) through.add(p)
    }
    if (!through.size) break
    for (const p of through) {
      factors[p] = Math.min(factors[p]!, Math.max(least / places[p]!.distance, factors[p]! * DRAWN_IN))
      draw(p)
    }
    moved = through
  }
  const points = Uint32Array.from([...factors.keys()].filter((p) => factors[p]! < 1))
  return {
    points,
    anchors: Uint32Array.from(
      [...points].flatMap((p) => [0, 1, 2].map((k) => body.triangles[places[p]!.triangle * 3 + k]!)),
    ),
    shares: Float32Array.from([...points].flatMap((p) => [...places[p]!.weights])),
    factors: Float32Array.from(points, (p) => factors[p]!),
  }
}

/** Whether a triangle meets `outer` where that lies outside the body; what is sunk in the body nobody sees. */
function comesThrough(body: PreparedBody, positions: Float32Array, corners: Uint32Array, outer: Surface): boolean {
  return outer.meets(positions, corners, (from, to) => {
    const middle: Vector = [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2, (from[2] + to[2]) / 2]
    return [from, middle, to].some((at) => heightOver(body, at) > (LEAST * body.scale) / 2)
  })
}

function heightOver(body: PreparedBody, at: Vector): number {
  const { point, triangle } = body.surface.nearest(...at)!
  const { positions, triangles } = body.surface
  const t = triangle * 3
  const n = triangleNormal(positions, triangles[t]!, triangles[t + 1]!, triangles[t + 2]!)
  return [0, 1, 2].reduce((sum, k) => sum + n[k]! * (at[k]! - point[k]!), 0)
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
