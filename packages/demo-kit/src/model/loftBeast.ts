import { halfRing, type Chain, type Face, type Sculpt } from './Sculpt.ts'
import { add, along, cross, dot, flipX, mean, scale, size, sub, unit, type V3 } from './vector.ts'

/*
 * Bodies of any plan: a trunk of half rings along a way, limbs that grow out of openings in it.
 */

/** A half ring of a trunk: its middle, how steeply the way rises there, half-width, height above and below, squareness. */
export type TrunkRing = readonly [y: number, z: number, rise: number, w: number, up: number, down: number, e: number]

/** A ring of a limb: middle, half-width to the outside and the inside, to the front and to the back, squareness. */
export interface LimbRing {
  at: V3
  /** Outside, inside, front, back. */
  r: readonly [number, number, number, number]
  e?: number
  /** Where the limb goes here; from ring to ring if not said. */
  way?: V3
}

const DEGREE = Math.PI / 180

/** The points of a half ring, from its top by +x to its bottom. */
export function placeHalfRing([y, z, rise, w, up, down, e]: TrunkRing, n: number): V3[] {
  const [c, s] = [Math.cos(rise * DEGREE), Math.sin(rise * DEGREE)]
  // across the way, upright on it
  return halfRing(n, w, up, down, e).map(([x, , v]): V3 => [x, y + v * c, z - v * s])
}

/** Half rings one after another from behind to the front, with points about the way's middle; `skip` leaves openings. */
export function loftTrunk(
  s: Sculpt,
  rings: readonly TrunkRing[],
  n: number,
  labels: { limb: string; tag: string; first: number; u?: number },
  skip: (row: number) => readonly number[] = () => [],
): Chain[] {
  let u = labels.u ?? 0
  return s.as({ limb: labels.limb, tag: labels.tag }, () => {
    const rows = rings.map((ring, r) => {
      const before = rings[r - 1]
      if (before) u += Math.hypot(ring[0] - before[0], ring[1] - before[1])
      const middle: V3 = [0, ring[0], ring[1]]
      return placeHalfRing(ring, n).map((at) => s.add(at, { row: labels.first + r, u, out: unit(sub(at, middle)) }))
    })
    rows.slice(0, -1).forEach((row, r) => band(s, row, rows[r + 1]!, labels.first + r, skip(labels.first + r)))
    return rows
  })
}

/** The quads between two half rings, the second further to the front. */
export function band(s: Sculpt, back: Chain, front: Chain, row: number, skip: readonly number[] = []): void {
  s.loft(front, back, false, { row }, skip)
}

/**
 * The rim of an opening of two columns by two bands: eight points, in the order in which faces beyond it run.
 *
 * @param rows three half rings, from behind to the front
 */
export function openingOf(rows: readonly [Chain, Chain, Chain], column: number): Chain {
  const [back, middle, front] = rows
  const at = (row: Chain, k: number) => row[column + k]!
  return [at(front, 0), at(front, 1), at(front, 2), at(middle, 2), at(back, 2), at(back, 1), at(back, 0), at(middle, 0)]
}

/**
 * Grows a limb out of an opening: rings of as many points as its rim, each turned as little as can be against the one
 * before. Returns the last ring.
 *
 * @param front which way the rings' front looks where the limb begins
 */
export function growLimb(
  s: Sculpt,
  rim: Chain,
  rings: readonly LimbRing[],
  front: V3,
  labels: { limb: string; region: string | ((row: number, col: number) => string); first?: number; u?: number },
): Chain {
  const n = rim.length
  let last = rim
  let facing = front
  let from = mean(rim.map((i) => s.at(i)))
  let u = labels.u ?? 0
  const region = (row: number, col: number) =>
    typeof labels.region === 'string' ? labels.region : labels.region(row, col)
  s.as({ limb: labels.limb, tag: labels.limb }, () => {
    rings.forEach((ring, k) => {
      const row = (labels.first ?? 0) + k
      const next = rings[k + 1]
      const way = unit(ring.way ?? sub(next ? next.at : ring.at, next && k > 0 ? rings[k - 1]!.at : from))
      facing = unit(sub(facing, scale(way, dot(facing, way))))
      const outside = cross(way, facing)
      // on the left side the outside lies at +x
      const sign = outside[0] >= 0 ? 1 : -1
      const [out, inner, fore, aft] = ring.r
      const e = ring.e ?? 2.5
      u += size(sub(ring.at, from))
      from = ring.at
      const places = Array.from({ length: n }, (_, i): V3 => {
        const a = (2 * Math.PI * i) / n
        const [c, q] = [Math.cos(a), Math.sin(a)]
        const f = (c >= 0 ? fore : -aft) * Math.abs(c) ** (2 / e)
        const o = (q >= 0 ? out : -inner) * Math.abs(q) ** (2 / e)
        return along(along(ring.at, facing, f), outside, o * sign)
      })
      const points = alignRing(
        last.map((i) => s.at(i)),
        places,
      ).map((at) => s.add(at, { row, u, out: unit(sub(at, ring.at)) }))
      const faces = s.faces.length
      s.loft(last, points, true, { row })
      for (const f of s.faces.slice(faces)) f.region = region(f.row, f.col)
      last = points
    })
  })
  return last
}

/** The turn, and the direction round, of a ring that lies nearest to another of as many points. */
function alignRing(to: readonly V3[], ring: readonly V3[]): V3[] {
  const n = ring.length
  const [a, b] = [mean(to), mean(ring)]
  let best = { cost: Infinity, ring: [...ring] }
  for (const order of [ring, [...ring].reverse()])
    for (let k = 0; k < n; k++) {
      const turned = order.map((_, i) => order[(i + k) % n]!)
      const cost = turned.reduce((sum, p, i) => sum + size(sub(sub(p, b), sub(to[i]!, a))) ** 2, 0)
      if (cost < best.cost) best = { cost, ring: turned }
    }
  return best.ring
}

/** The joints of a leg. */
export interface LegJoints {
  hip: V3
  knee: V3
  ankle: V3
  toes: V3
}

/** Marks the joints of legs on both sides, by the names of their bones; those given are on the left. */
export function markLegs(marks: Map<string, V3>, legs: Readonly<Record<string, LegJoints>>): void {
  for (const [end, { hip, knee, ankle, toes }] of Object.entries(legs))
    for (const [bone, at] of Object.entries({ UpperLeg: hip, LowerLeg: knee, Foot: ankle, Toes: toes }))
      marks.set(`left${end}${bone}`, at).set(`right${end}${bone}`, flipX(at))
}

/** A claw, spike or tooth: a closed cone bent from its root to its tip. */
export function thorn(s: Sculpt, path: readonly V3[], radius: number, sides: number, labels: Partial<Face>): void {
  const [root, ...rest] = path
  const way = unit(sub(rest[0]!, root!))
  const side = unit(cross(way, Math.abs(way[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0]))
  const up = cross(side, way)
  const circle = (at: V3, r: number) =>
    Array.from({ length: sides }, (_, k) => {
      const a = (2 * Math.PI * (k + 0.5)) / sides
      return s.add(add(at, add(scale(side, r * Math.cos(a)), scale(up, r * Math.sin(a)))), { out: way })
    })
  const first = s.faces.length
  let last = circle(root!, radius)
  if (sides > 4) s.cap([...last].reverse(), [0, 0, 0], labels)
  else s.face([...last].reverse(), labels)
  rest.slice(0, -1).forEach((at, i) => {
    const next = circle(at, radius * (1 - (0.62 * (i + 1)) / rest.length))
    s.loft(last, next, true, labels)
    last = next
  })
  s.fan(last, s.add(rest.at(-1)!, { out: way }), labels)
  // wound outward, whichever way the frame came out
  let six = 0
  for (const f of s.faces.slice(first))
    for (let i = 1; i + 1 < f.v.length; i++)
      six += dot(sub(s.at(f.v[0]!), root!), cross(sub(s.at(f.v[i]!), root!), sub(s.at(f.v[i + 1]!), root!)))
  if (six < 0) for (const f of s.faces.slice(first)) f.v.reverse()
}
