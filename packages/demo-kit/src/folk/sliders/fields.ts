import type { Point } from '../../model/Sculpt.ts'
import { add, bump, curve, scale, smoothstep, sub, type V3 } from '../../model/vector.ts'
import { ANKLE, ARM_AXIS, CHIN_HEIGHT, ELBOW, HEAD_FORWARD, HEAD_UNIT, LEG, SHOULDER, WRIST } from '../proportions.ts'

/** How a slider at one end moves a point of a body; body units. */
export type Field = (p: Point) => V3

export interface SliderSpec {
  id: string
  name: string
  group: string
  ends: [string, string]
  /** From -1 to 1 if not said. */
  range?: [number, number]
  up: Field
  down?: Field
  pull?: { landmark: string; direction: V3 }
}

export const STILL: V3 = [0, 0, 0]

export const is = (p: Point, part: 'Arm' | 'Hand' | 'Leg' | 'Foot') => p.limb.endsWith(part)
export const side = (p: Point) => (p.at[0] >= 0 ? 1 : -1)
export const onArms = (p: Point) => is(p, 'Arm') || is(p, 'Hand')
export const onHead = (p: Point) => p.limb === 'head' || p.limb === 'ear'

/**
 * A slider from -1 to 1 whose lower end is its upper one the other way, by a factor.
 *
 * @param pull where it is pulled, and in which direction it rises then
 */
export const slider = (
  id: string,
  name: string,
  group: string,
  ends: [string, string],
  up: Field,
  down: number,
  pull?: [landmark: string, direction: V3],
): SliderSpec => ({
  id,
  name,
  group,
  ends,
  up,
  down: times(up, down),
  ...(pull ? { pull: { landmark: pull[0], direction: pull[1] } } : {}),
})

/** Several fields at once, each with its share. */
export const sum =
  (...shares: readonly (readonly [Field, number])[]): Field =>
  (p) =>
    shares.reduce<V3>((total, [field, k]) => add(total, scale(field(p), k)), STILL)

export const times =
  (field: Field, k: number): Field =>
  (p) =>
    scale(field(p), k)

/** A field on the trunk alone; the limbs keep what it does not say. */
export const onTrunk =
  (move: (x: number, y: number, z: number) => V3): Field =>
  (p) =>
    p.limb === 'torso' ? move(...p.at) : STILL

/** Away from the axis of arms, hands or legs, by place along them. */
export const around =
  (part: 'Arm' | 'Hand' | 'Leg' | 'Foot', amount: (u: number, p: Point) => number): Field =>
  (p) =>
    is(p, part) ? scale(p.out, amount(part === 'Leg' ? p.at[1] : p.u, p)) : STILL

/** Head points by their place in head units. */
export const inHead = (p: Point): V3 => [
  p.at[0] / HEAD_UNIT,
  (p.at[1] - CHIN_HEIGHT) / HEAD_UNIT,
  (p.at[2] - HEAD_FORWARD) / HEAD_UNIT,
]

/** A field on the head, ears included, in head units; x is told as on the left and mirrored. */
export const head =
  (move: (x: number, y: number, z: number, p: Point) => V3): Field =>
  (p) => {
    if (!onHead(p)) return STILL
    const [x, y, z] = inHead(p)
    const d = move(Math.abs(x), y, z, p)
    return [side(p) * d[0] * HEAD_UNIT, d[1] * HEAD_UNIT, d[2] * HEAD_UNIT]
  }

/** A field that falls off around a place on the face, head units. */
export const face = (center: V3, reach: V3, move: (x: number, y: number, z: number) => V3): Field =>
  head((x, y, z, p) => {
    if (p.limb === 'ear') return STILL
    const near = bump(x, center[0], reach[0]) * bump(y, center[1], reach[1]) * bump(z, center[2], reach[2])
    return scale(move(x, y, z), near)
  })

/** Moves of named spots of the head, head units, as on the left. A name without its number moves the whole row. */
export const spots = (moves: Readonly<Record<string, V3>>): Field =>
  head((x, _y, _z, p) => {
    const [dx, dy, dz] = moves[p.spot ?? ''] ?? moves[(p.spot ?? '').replace(/\d+$/, '')] ?? STILL
    // what lies on the middle stays there
    return [x < 1e-6 ? 0 : dx, dy, dz]
  })

/** New proportions for the whole body: what becomes of heights, of widths, and of each limb. */
export interface Proportions {
  /** Old height to new height, rising, body units; the last stretch is the head's. */
  heights: readonly (readonly [number, number])[]
  /** Factors: width and depth of the trunk, length and thickness of arms and legs, hands, feet, neck, head. */
  trunk: number
  arm: number
  armThick: number
  legThick: number
  hand: number
  foot: number
  neck: number
  head: number
}

const legCenter = (y: number, column: 5 | 6) =>
  curve(
    [...LEG].reverse().map((ring) => [ring[0], ring[column]]),
    y,
  )

/** Where a point comes to lie in other proportions. Joints between limbs agree, so that nothing tears. */
export function inProportions(p: Point, m: Proportions): V3 {
  const [x, y, z] = p.at
  const s = side(p)
  const height = (h: number) => curve(m.heights, h)
  const trunk = (depth: number) => (depth + 0.8) * m.trunk - 0.8
  if (onHead(p)) {
    const pivot: V3 = [0, CHIN_HEIGHT, -0.7]
    return add([0, height(CHIN_HEIGHT), trunk(-0.7)], scale(sub(p.at, pivot), m.head))
  }
  if (p.limb === 'neck') {
    const k = m.trunk + (m.neck - m.trunk) * smoothstep(78.5, 83, y)
    return [x * k, height(y), trunk(-1) + (z + 1) * k]
  }
  if (onArms(p)) {
    const axis: V3 = [ARM_AXIS[0] * s, ARM_AXIS[1], ARM_AXIS[2]]
    const from: V3 = [SHOULDER[0] * s, SHOULDER[1], SHOULDER[2]]
    const to: V3 = [SHOULDER[0] * m.trunk * s, height(SHOULDER[1]), trunk(SHOULDER[2])]
    if (is(p, 'Hand')) {
      const wrist = add(from, scale(axis, WRIST))
      return add(add(to, scale(axis, WRIST * m.arm)), scale(sub(p.at, wrist), m.hand))
    }
    const off = sub(p.at, add(from, scale(axis, p.u)))
    const k = m.trunk + (m.armThick - m.trunk) * smoothstep(1.5, 8, p.u)
    const end = k + (m.hand - k) * smoothstep(23, WRIST, p.u)
    return add(add(to, scale(axis, p.u * m.arm)), scale(off, end))
  }
  if (is(p, 'Leg')) {
    const [cx, cz] = [legCenter(y, 5) * s, legCenter(y, 6)]
    const k = m.legThick + (m.trunk - m.legThick) * smoothstep(34, 46, y)
    const end = m.foot + (k - m.foot) * smoothstep(7, 15, y)
    return [cx * m.trunk + (x - cx) * end, height(y), trunk(cz) + (z - cz) * end]
  }
  if (is(p, 'Foot')) {
    const cx = ANKLE[0] * s
    return [cx * m.trunk + (x - cx) * m.foot, height(y), trunk(ANKLE[2]) + (z - ANKLE[2]) * m.foot]
  }
  return [x * m.trunk, height(y), trunk(z)]
}

export const proportions =
  (m: Proportions): Field =>
  (p) =>
    sub(inProportions(p, m), p.at)

/** What thickens an arm is less at its root, where the trunk is. */
export const outOfArmpit = ({ u }: Point): number => 0.4 + 0.6 * smoothstep(0, 6.5, u)

/** What thickens a neck fades towards the head it meets, which does not grow with it. */
export const belowHead = ({ at: [, y, z] }: Point): number => 1 - 0.75 * smoothstep(80.8, 83.2, y + 0.35 * z)

/** Thickness of limbs and trunk: the study's figures for broad and slight. */
export const frame: Field = (p) => {
  const [x, y, z] = p.at
  if (onHead(p)) return [x * 0.025, 0, 0]
  if (p.limb === 'neck') return scale([x * 0.14, 0, (z + 1) * 0.12], belowHead(p))
  if (is(p, 'Arm')) {
    const joint = 1 - 0.3 * Math.max(bump(p.u, ELBOW, 2), bump(p.u, WRIST, 2.5))
    return add(scale(p.out, 0.85 * joint * outOfArmpit(p)), [side(p) * 1.5, 0, 0])
  }
  if (is(p, 'Hand')) return add(scale(p.out, 0.18), [side(p) * 1.5, 0, 0])
  if (is(p, 'Leg')) {
    const joint = 1 - 0.3 * Math.max(bump(p.u, 26, 2.5), bump(p.u, 7.4, 3))
    return add(scale(p.out, 0.95 * joint), [side(p) * 0.9, 0, 0])
  }
  if (is(p, 'Foot')) return [side(p) * 0.9 + (x - side(p) * 8) * 0.1, 0, (z - 1) * 0.05]
  const shoulders = smoothstep(66, 76, y)
  return [x * (0.13 + 0.02 * shoulders), 0, (z + 0.8) * 0.12]
}

/** The trunk bends forward from the waist; the head levels back. */
export function stoop(k: number): Field {
  const bend = (height: number) => ((k * 24 * Math.PI) / 180) * smoothstep(52, 82, height)
  // integrate the bend along the spine so that lengths stay
  const spine = (height: number): V3 => {
    let [sy, sz] = [0, 0]
    const steps = 12
    const from = 52
    for (let i = 0; i < steps; i++) {
      const h = from + ((Math.min(height, 86) - from) * (i + 0.5)) / steps
      const a = bend(h)
      const length = Math.max(0, Math.min(height, 86) - from) / steps
      sy += Math.cos(a) * length
      sz += Math.sin(a) * length
    }
    return [0, from + sy, sz]
  }
  const turn = (v: V3, a: number): V3 => [
    v[0],
    v[1] * Math.cos(a) - v[2] * Math.sin(a),
    v[1] * Math.sin(a) + v[2] * Math.cos(a),
  ]
  return (p) => {
    const y = onArms(p) ? SHOULDER[1] : p.at[1]
    const angle = bend(y)
    if (p.at[1] < 52 && !onArms(p)) return STILL
    if (onHead(p)) return sub(add(spine(84), turn(sub(p.at, [0, 84, 0]), angle * 0.25)), p.at)
    return sub(add(spine(y), turn(sub(p.at, [0, y, 0]), onArms(p) ? angle * 0.55 : angle)), p.at)
  }
}

/** Shifts the whole arm outwards and up with the trunk's side beside it. */
export const shiftArms =
  (out: number, up = 0, forward = 0): Field =>
  (p) => {
    if (onArms(p)) return [side(p) * out, up, forward]
    if (p.limb !== 'torso') return STILL
    const near = smoothstep(60, 74, p.at[1]) * smoothstep(1.5, 9.5, Math.abs(p.at[0]))
    return [side(p) * out * near, up * near, forward * near]
  }
