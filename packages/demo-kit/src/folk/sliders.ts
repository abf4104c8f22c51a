import type { Point } from '../model/Sculpt.ts'
import { add, bump, scale, smoothstep, sub, type V3 } from '../model/vector.ts'
import { ARM_AXIS, CHIN_HEIGHT, CROTCH, ELBOW, fromHead, SHOULDER, WRIST } from './proportions.ts'

/** How a slider at one end moves a point of the human body; body units. */
export type Field = (p: Point) => V3

export interface SliderSpec {
  id: string
  name: string
  group: string
  ends: [string, string]
  up: Field
  down?: Field
  pull?: { landmark: string; direction: V3 }
}

const is = (p: Point, part: 'Arm' | 'Hand' | 'Leg' | 'Foot') => p.limb.endsWith(part)
const side = (p: Point) => (p.at[0] >= 0 ? 1 : -1)
const upperBody = (p: Point) => is(p, 'Arm') || is(p, 'Hand')

/** Away from the limb's own axis, with less at the joints. */
function radial(p: Point, amount: number): V3 {
  return scale(p.out, amount)
}

const HEAD_PIVOT: V3 = [0, 83.5, -1]
const onHead = (p: Point) => p.limb === 'head' || p.limb === 'headwear'
/** Head points by their place in head units. */
const inHead = (p: Point): V3 => [p.at[0] / 1.82, (p.at[1] - CHIN_HEIGHT) / 1.82, (p.at[2] - 0.3) / 1.82]

/** Thickness of limbs and trunk: the study's figures for broad and slight. */
function build(p: Point, k: number): V3 {
  const [x, y, z] = p.at
  if (onHead(p)) return [x * 0.025 * k, 0, 0]
  if (p.limb === 'neck') return [x * 0.14 * k, 0, (z + 1) * 0.12 * k]
  if (is(p, 'Arm')) {
    const joint = 1 - 0.3 * Math.max(bump(p.u, ELBOW, 2), bump(p.u, WRIST, 2.5))
    return add(radial(p, 0.85 * k * joint), [side(p) * 1.5 * k, 0, 0])
  }
  if (is(p, 'Hand')) return add(radial(p, 0.25 * k), [side(p) * 1.5 * k, 0, 0])
  if (is(p, 'Leg')) {
    const joint = 1 - 0.3 * Math.max(bump(p.u, 26, 2.5), bump(p.u, 7.4, 3))
    return add(radial(p, 0.95 * k * joint), [side(p) * 0.9 * k, 0, 0])
  }
  if (is(p, 'Foot')) return [side(p) * 0.9 * k + (x - side(p) * 8) * 0.1 * k, 0, (z - 1) * 0.05 * k]
  const shoulders = smoothstep(66, 76, y)
  return [x * (0.13 + 0.02 * shoulders) * k, 0, (z + 0.8) * 0.12 * k]
}

/** The trunk bends forward from the waist; the head levels back. */
function stoop(p: Point, k: number): V3 {
  const y = upperBody(p) ? SHOULDER[1] : p.at[1]
  const bend = (height: number) => ((k * 24 * Math.PI) / 180) * smoothstep(52, 82, height)
  const angle = bend(y)
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
  if (p.at[1] < 52 && !upperBody(p)) return [0, 0, 0]
  if (onHead(p)) {
    const base = spine(84)
    const level = angle * 0.25
    const rel = sub(p.at, [0, 84, 0])
    const turned: V3 = [
      rel[0],
      rel[1] * Math.cos(level) - rel[2] * Math.sin(level),
      rel[1] * Math.sin(level) + rel[2] * Math.cos(level),
    ]
    return sub(add([0, base[1], base[2]], turned), p.at)
  }
  const base = spine(y)
  const rel = sub(p.at, [0, y, 0])
  const a = upperBody(p) ? angle * 0.55 : angle
  const turned: V3 = [rel[0], rel[1] * Math.cos(a) - rel[2] * Math.sin(a), rel[1] * Math.sin(a) + rel[2] * Math.cos(a)]
  return sub(add([0, base[1], base[2]], turned), p.at)
}

/** A field on the face alone: center and reach in head units. */
function face(center: V3, reach: V3, move: (p: V3) => V3): Field {
  return (p) => {
    if (!onHead(p)) return [0, 0, 0]
    const h = inHead(p)
    const near =
      bump(Math.abs(h[0]), center[0], reach[0]) * bump(h[1], center[1], reach[1]) * bump(h[2], center[2], reach[2])
    return scale(move(h), 1.82 * near)
  }
}

function times(field: (p: Point, k: number) => V3, k: number): Field {
  return (p) => field(p, k)
}

function opposite(field: Field, k = -1): Field {
  return (p) => scale(field(p), k)
}

const legs = (p: Point, k: number): V3 => {
  // feet keep their height; everything above the crotch rides up whole
  const grown = upperBody(p) ? CROTCH[1] : Math.min(p.at[1], CROTCH[1])
  return [0, k * 0.13 * Math.max(0, grown - 7.4), 0]
}

const shoulders: Field = (p) => {
  const [x, y] = p.at
  if (upperBody(p)) return [side(p) * 2.1, 0, 0]
  if (p.limb !== 'torso') return [0, 0, 0]
  return [Math.sign(x) * 2.1 * smoothstep(60, 74, y) * smoothstep(1.5, 9.5, Math.abs(x)), 0, 0]
}

const arms: Field = (p) => {
  if (!upperBody(p)) return [0, 0, 0]
  const along = Math.max(0, Math.min(p.u, WRIST)) * 0.14
  return [side(p) * ARM_AXIS[0] * along, ARM_AXIS[1] * along, 0]
}

const handCenter = (p: Point): V3 => {
  const c = add(SHOULDER, scale(ARM_AXIS, WRIST))
  return [c[0] * side(p), c[1], c[2]]
}
const hands: Field = (p) => (is(p, 'Hand') ? scale(sub(p.at, handCenter(p)), 0.24) : [0, 0, 0])
const feet: Field = (p) => {
  if (!is(p, 'Foot')) return [0, 0, 0]
  const c: V3 = [side(p) * 7.3, 0, -0.9]
  const d = sub(p.at, c)
  return [d[0] * 0.2, 0, d[2] * 0.2]
}
const head: Field = (p) => {
  if (!onHead(p)) return [0, 0, 0]
  return scale(sub(p.at, HEAD_PIVOT), 0.16 * smoothstep(-2, 4, p.at[1] - HEAD_PIVOT[1] + 3))
}
const tall: Field = (p) => {
  // legs and trunk grow, the head hardly: more heads to the height
  const lift = (upperBody(p) ? SHOULDER[1] : Math.min(p.at[1], 81)) * 0.1
  const reach = upperBody(p) ? Math.max(0, Math.min(p.u, WRIST)) * 0.08 : 0
  return [side(p) * ARM_AXIS[0] * reach, lift + ARM_AXIS[1] * reach, 0]
}
const belly: Field = (p) => {
  if (p.limb !== 'torso') return [0, 0, 0]
  const [x, y, z] = p.at
  const low = bump(y, 56, 8)
  return [x * 0.2 * low, -0.5 * low * smoothstep(0, 6, z), 4.6 * low * smoothstep(-3, 5, z)]
}
const waist: Field = (p) =>
  p.limb === 'torso'
    ? [p.at[0] * 0.22 * bump(p.at[1], 60, 6), 0, (p.at[2] + 0.5) * 0.16 * bump(p.at[1], 60, 6)]
    : [0, 0, 0]
const hips: Field = (p) => {
  const [x, y, z] = p.at
  if (p.limb === 'torso') return [x * 0.17 * bump(y, 49, 6.5), 0, (z < 0 ? z * 0.18 : 0) * bump(y, 48, 6)]
  if (is(p, 'Leg')) {
    const f = smoothstep(22, 44, y)
    return add([side(p) * 0.9 * f, 0, 0], radial(p, 0.7 * f))
  }
  return [0, 0, 0]
}
const bust: Field = (p) => {
  if (p.limb !== 'torso') return [0, 0, 0]
  const [x, y, z] = p.at
  return [0, -0.4 * bump(y, 70, 4), z > 0 ? 3.0 * bump(y, 69.5, 3.8) * bump(Math.abs(x), 5.2, 3.4) : 0]
}
const chest: Field = (p) =>
  p.limb === 'torso'
    ? [p.at[0] * 0.07 * bump(p.at[1], 71, 7), 0, (p.at[2] + 0.5) * 0.22 * bump(p.at[1], 71, 6.5)]
    : [0, 0, 0]
const neck: Field = (p) => (p.limb === 'neck' ? [p.at[0] * 0.24, 0, (p.at[2] + 1.4) * 0.2] : [0, 0, 0])
const jaw = face([2.6, 1.2, 1.5], [1.6, 1.5, 4], (h) => [
  Math.sign(h[0]) * 0.55 * Math.min(1, Math.abs(h[0]) / 1.2),
  -0.1,
  0,
])
const chin = face([0, 0.5, 4], [1.6, 1.1, 2], () => [0, -0.35, 0.45])
const nose = face([0, 3.3, 5], [1.0, 1.1, 1.2], (h) => [h[0] * 0.4, -0.1, 0.75])
const bridge = face([0, 4.2, 4.8], [0.7, 0.8, 1.2], () => [0, 0, 0.55])
const cheeks = face([2.3, 3.1, 3.2], [1.3, 1.1, 1.6], (h) => [Math.sign(h[0]) * 0.4, 0, 0.4])
const brow = face([1.4, 5.7, 4.1], [2.0, 0.6, 1.2], () => [0, -0.12, 0.42])
const mouth = face([0.8, 1.85, 4], [1.3, 0.6, 1.2], (h) => [h[0] * 0.3, 0, 0.12])
const ears: Field = (p) => {
  const h = inHead(p)
  if (!onHead(p) || Math.abs(h[0]) < 3.3 || h[2] > 0.8 || h[2] < -1.8 || h[1] < 2.9 || h[1] > 6) return [0, 0, 0]
  const root = fromHead([3.3 * Math.sign(h[0]), 4.4, 0])
  return scale(sub(p.at, root), 0.45)
}

export const HUMAN_SLIDERS: SliderSpec[] = [
  {
    id: 'stature',
    name: 'Stature',
    group: 'whole',
    ends: ['short', 'tall'],
    up: tall,
    down: opposite(tall, -1.35),
    pull: { landmark: 'crown', direction: [0, 1, 0] },
  },
  {
    id: 'build',
    name: 'Build',
    group: 'whole',
    ends: ['slight', 'broad'],
    up: times(build, 1),
    down: times(build, -0.85),
    pull: { landmark: 'hipSide', direction: [1, 0, 0] },
  },
  {
    id: 'stoop',
    name: 'Stoop',
    group: 'whole',
    ends: ['upright', 'stooped'],
    up: times(stoop, 1),
    down: times(stoop, -0.25),
  },
  {
    id: 'shoulders',
    name: 'Shoulders',
    group: 'torso',
    ends: ['narrow', 'wide'],
    up: shoulders,
    down: opposite(shoulders),
    pull: { landmark: 'leftDeltoid', direction: [1, 0, 0] },
  },
  { id: 'chest', name: 'Chest', group: 'torso', ends: ['flat', 'deep'], up: chest, down: opposite(chest, -0.8) },
  { id: 'bust', name: 'Bust', group: 'torso', ends: ['none', 'full'], up: bust, down: opposite(bust, -0.15) },
  {
    id: 'belly',
    name: 'Belly',
    group: 'torso',
    ends: ['flat', 'round'],
    up: belly,
    down: opposite(belly, -0.2),
    pull: { landmark: 'belly', direction: [0, 0, 1] },
  },
  {
    id: 'waist',
    name: 'Waist',
    group: 'torso',
    ends: ['narrow', 'wide'],
    up: waist,
    down: opposite(waist, -0.8),
    pull: { landmark: 'waist', direction: [1, 0, 0] },
  },
  { id: 'hips', name: 'Hips', group: 'hips', ends: ['narrow', 'wide'], up: hips, down: opposite(hips, -0.7) },
  {
    id: 'legs',
    name: 'Leg length',
    group: 'legs',
    ends: ['short', 'long'],
    up: times(legs, 1),
    down: times(legs, -1),
    pull: { landmark: 'leftKnee', direction: [0, 1, 0] },
  },
  {
    id: 'arms',
    name: 'Arm length',
    group: 'arms',
    ends: ['short', 'long'],
    up: arms,
    down: opposite(arms),
    pull: { landmark: 'leftHand', direction: [0.7, -0.7, 0] },
  },
  { id: 'hands', name: 'Hands', group: 'hands', ends: ['small', 'large'], up: hands, down: opposite(hands, -0.8) },
  { id: 'feet', name: 'Feet', group: 'feet', ends: ['small', 'large'], up: feet, down: opposite(feet, -0.8) },
  { id: 'neck', name: 'Neck', group: 'head', ends: ['thin', 'thick'], up: neck, down: opposite(neck, -0.7) },
  { id: 'head', name: 'Head', group: 'head', ends: ['small', 'large'], up: head, down: opposite(head, -0.8) },
  {
    id: 'jaw',
    name: 'Jaw',
    group: 'head',
    ends: ['narrow', 'square'],
    up: jaw,
    down: opposite(jaw),
    pull: { landmark: 'chin', direction: [0.3, -1, 0] },
  },
  { id: 'chin', name: 'Chin', group: 'head', ends: ['short', 'strong'], up: chin, down: opposite(chin, -0.8) },
  { id: 'cheeks', name: 'Cheeks', group: 'head', ends: ['hollow', 'full'], up: cheeks, down: opposite(cheeks) },
  { id: 'nose', name: 'Nose', group: 'head', ends: ['small', 'large'], up: nose, down: opposite(nose, -0.7) },
  {
    id: 'bridge',
    name: 'Bridge of the nose',
    group: 'head',
    ends: ['low', 'high'],
    up: bridge,
    down: opposite(bridge, -0.7),
  },
  { id: 'brow', name: 'Brow', group: 'head', ends: ['light', 'heavy'], up: brow, down: opposite(brow, -0.6) },
  { id: 'mouth', name: 'Mouth', group: 'head', ends: ['small', 'wide'], up: mouth, down: opposite(mouth, -0.8) },
  { id: 'ears', name: 'Ears', group: 'head', ends: ['small', 'large'], up: ears, down: opposite(ears, -0.6) },
]
