import { add, bump, scale, smoothstep, sub, type V3 } from '../../model/vector.ts'
import { ANKLE, ARM_AXIS, CROTCH, ELBOW, KNUCKLES, SHOULDER, TOE_OUT, WRIST } from '../proportions.ts'
import { around, is, onArms, side, STILL, times, type Field, type SliderSpec } from './fields.ts'

const axis = (p: Parameters<Field>[0]): V3 => [side(p) * ARM_AXIS[0], ARM_AXIS[1], 0]

/** The arm is drawn out between two places along it; all beyond goes along. */
const armLength =
  (from: number, to: number, amount: number): Field =>
  (p) =>
    onArms(p) ? scale(axis(p), Math.max(0, Math.min(p.u, to) - from) * amount) : STILL

const arms = armLength(4.5, WRIST, 0.167)
const forearmLength: Field = (p) => add(armLength(ELBOW, WRIST, 0.16)(p), armLength(4.5, ELBOW, -0.15)(p))

export const upperArms = around('Arm', (u) => 1.25 * bump(u, 8.5, 5.5) * smoothstep(1.5, 7, u))
export const forearms = around('Arm', (u) => 0.95 * bump(u, 20, 4.2))
const elbows = around('Arm', (u) => 0.75 * bump(u, ELBOW, 1.9))
const wrists: Field = (p) =>
  add(around('Arm', (u) => 0.6 * bump(u, WRIST, 3))(p), around('Hand', (u) => 0.6 * bump(u, WRIST, 2.6))(p))

const wristAt = (p: Parameters<Field>[0]): V3 => {
  const c = add(SHOULDER, scale(ARM_AXIS, WRIST))
  return [c[0] * side(p), c[1], c[2]]
}
export const hands: Field = (p) => (is(p, 'Hand') ? scale(sub(p.at, wristAt(p)), 0.24) : STILL)

const handWidth: Field = (p) => {
  if (!is(p, 'Hand')) return STILL
  return [0, 0, (p.at[2] - SHOULDER[2]) * 0.26 * smoothstep(WRIST, WRIST + 4, p.u)]
}
const palmThick: Field = (p) =>
  is(p, 'Hand') && p.u < KNUCKLES + 1 ? scale(p.out, 0.7 * smoothstep(WRIST, 32, p.u)) : STILL

/** Beyond the knuckles, along the arm. */
const fingers: Field = (p) => {
  if (!is(p, 'Hand')) return STILL
  const d = sub(p.at, wristAt(p))
  const u = d[0] * axis(p)[0] + d[1] * axis(p)[1]
  return scale(axis(p), Math.max(0, u - (KNUCKLES - WRIST)) * 0.3)
}
const fingerThick: Field = (p) => (is(p, 'Hand') && p.u > KNUCKLES + 1 ? scale(p.out, 0.34) : STILL)
/** The thumb's rings carry their own place along the arm. */
const onThumb = (p: Parameters<Field>[0]) => is(p, 'Hand') && p.u === WRIST + 6
const thumbs: Field = (p) => {
  if (!onThumb(p)) return STILL
  const root = add(add(wristAt(p), scale(axis(p), 4.2)), [0, 0, 4.2])
  return scale(sub(p.at, root), 0.25)
}

const legs: Field = (p) => {
  // feet keep their height; everything above the crotch rides up whole
  const grown = onArms(p) ? CROTCH[1] : Math.min(p.at[1], CROTCH[1])
  return [0, 0.13 * Math.max(0, grown - ANKLE[1]), 0]
}
const KNEE = 26
/** The knee moves; the leg's whole length stays. */
const shinLength: Field = (p) => {
  if (!is(p, 'Leg')) return STILL
  const y = p.at[1]
  return [0, y < KNEE ? 2.2 * smoothstep(ANKLE[1], KNEE, y) : 2.2 * smoothstep(CROTCH[1], KNEE, y), 0]
}
export const thighs: Field = (p) => {
  if (!is(p, 'Leg')) return STILL
  const near = bump(p.at[1], 37, 7)
  // the inner side gives way, so that the two do not meet
  return add(scale(p.out, 1.25 * near), [side(p) * 0.75 * near, 0, 0])
}
const knees = around('Leg', (y) => 0.7 * bump(y, KNEE, 2.4))
export const calves: Field = (p) => {
  if (!is(p, 'Leg')) return STILL
  const near = bump(p.at[1], 17.4, 5)
  return add(scale(p.out, 0.65 * near), [0, 0, p.at[2] < 0 ? -0.7 * near : 0])
}
const calfHeight: Field = (p) =>
  is(p, 'Leg') ? add(scale(p.out, 0.55 * bump(p.at[1], 21, 3) - 0.5 * bump(p.at[1], 13, 3.4)), STILL) : STILL
const ankles: Field = (p) => {
  if (is(p, 'Leg')) return scale(p.out, 0.75 * bump(p.at[1], 8.5, 3.6))
  return is(p, 'Foot') ? scale(p.out, 0.75 * smoothstep(3.5, 7, p.at[1])) : STILL
}
/** Knees apart: the feet stay where they are. */
const bow: Field = (p) =>
  is(p, 'Leg') ? [side(p) * 1.7 * bump(p.at[1], KNEE, 9) * smoothstep(43, 36, p.at[1]), 0, 0] : STILL

export const feet: Field = (p) => {
  if (!is(p, 'Foot')) return STILL
  const d = sub(p.at, [side(p) * ANKLE[0], 0, ANKLE[2]])
  return [d[0] * 0.2, 0, d[2] * 0.2]
}
const footWidth: Field = (p) => {
  if (!is(p, 'Foot')) return STILL
  const middle = side(p) * (ANKLE[0] + (p.at[2] - ANKLE[2]) * TOE_OUT)
  return [(p.at[0] - middle) * 0.2 * smoothstep(7, 4, p.at[1]), 0, 0]
}
const instep: Field = (p) => {
  if (!is(p, 'Foot')) return STILL
  return [0, 1.0 * bump(p.at[2], 5.5, 4) * smoothstep(1, 3.5, p.at[1]), 0]
}
const toes: Field = (p) => {
  if (!is(p, 'Foot')) return STILL
  const on = Math.max(0, p.at[2] - 11)
  return [side(p) * on * 0.3 * TOE_OUT, 0, on * 0.3]
}

export const LIMB_SLIDERS: SliderSpec[] = [
  {
    id: 'arms',
    name: 'Arm length',
    group: 'arms',
    ends: ['short', 'long'],
    up: arms,
    down: times(arms, -1),
    pull: { landmark: 'leftHand', direction: [0.7, -0.7, 0] },
  },
  {
    id: 'forearm-length',
    name: 'Elbow',
    group: 'arms',
    ends: ['low', 'high'],
    up: forearmLength,
    down: times(forearmLength, -1),
  },
  {
    id: 'upper-arms',
    name: 'Upper arms',
    group: 'arms',
    ends: ['thin', 'thick'],
    up: upperArms,
    down: times(upperArms, -0.7),
    pull: { landmark: 'leftBiceps', direction: [0, 0, 1] },
  },
  {
    id: 'elbows',
    name: 'Elbow width',
    group: 'arms',
    ends: ['slender', 'bony'],
    up: elbows,
    down: times(elbows, -0.6),
  },
  {
    id: 'forearms',
    name: 'Forearms',
    group: 'arms',
    ends: ['thin', 'thick'],
    up: forearms,
    down: times(forearms, -0.7),
    pull: { landmark: 'leftForearm', direction: [0, 0, 1] },
  },
  { id: 'wrists', name: 'Wrists', group: 'arms', ends: ['thin', 'thick'], up: wrists, down: times(wrists, -0.6) },
  {
    id: 'hands',
    name: 'Hands',
    group: 'hands',
    ends: ['small', 'large'],
    up: hands,
    down: times(hands, -0.8),
    pull: { landmark: 'leftKnuckles', direction: [0.7, -0.7, 0] },
  },
  {
    id: 'hand-width',
    name: 'Hand width',
    group: 'hands',
    ends: ['narrow', 'wide'],
    up: handWidth,
    down: times(handWidth, -0.8),
    pull: { landmark: 'leftKnuckles', direction: [0, 0, 1] },
  },
  { id: 'palms', name: 'Palms', group: 'hands', ends: ['flat', 'thick'], up: palmThick, down: times(palmThick, -0.3) },
  {
    id: 'fingers',
    name: 'Finger length',
    group: 'hands',
    ends: ['short', 'long'],
    up: fingers,
    down: times(fingers, -0.9),
  },
  {
    id: 'finger-thick',
    name: 'Finger thickness',
    group: 'hands',
    ends: ['thin', 'thick'],
    up: fingerThick,
    down: times(fingerThick, -0.7),
  },
  { id: 'thumbs', name: 'Thumbs', group: 'hands', ends: ['small', 'large'], up: thumbs, down: times(thumbs, -0.5) },
  {
    id: 'legs',
    name: 'Leg length',
    group: 'legs',
    ends: ['short', 'long'],
    up: legs,
    down: times(legs, -1),
    pull: { landmark: 'leftKnee', direction: [0, 1, 0] },
  },
  {
    id: 'shin-length',
    name: 'Knee',
    group: 'legs',
    ends: ['low', 'high'],
    up: shinLength,
    down: times(shinLength, -1),
  },
  {
    id: 'thighs',
    name: 'Thighs',
    group: 'legs',
    ends: ['thin', 'thick'],
    up: thighs,
    down: times(thighs, -0.7),
    pull: { landmark: 'leftThigh', direction: [1, 0, 0] },
  },
  { id: 'knees', name: 'Knee width', group: 'legs', ends: ['slender', 'knobbly'], up: knees, down: times(knees, -0.6) },
  {
    id: 'calves',
    name: 'Calves',
    group: 'legs',
    ends: ['thin', 'thick'],
    up: calves,
    down: times(calves, -0.7),
    pull: { landmark: 'leftCalf', direction: [0, 0, -1] },
  },
  {
    id: 'calf-height',
    name: 'Calf height',
    group: 'legs',
    ends: ['low', 'high'],
    up: calfHeight,
    down: times(calfHeight, -1),
    pull: { landmark: 'leftCalf', direction: [0, 1, 0] },
  },
  { id: 'ankles', name: 'Ankles', group: 'legs', ends: ['slender', 'thick'], up: ankles, down: times(ankles, -0.6) },
  {
    id: 'bow',
    name: 'Legs stand',
    group: 'legs',
    ends: ['knock-kneed', 'bowed'],
    up: bow,
    down: times(bow, -0.8),
    pull: { landmark: 'leftKnee', direction: [1, 0, 0] },
  },
  {
    id: 'feet',
    name: 'Feet',
    group: 'feet',
    ends: ['small', 'large'],
    up: feet,
    down: times(feet, -0.8),
    pull: { landmark: 'leftToes', direction: [0, 0, 1] },
  },
  {
    id: 'foot-width',
    name: 'Foot width',
    group: 'feet',
    ends: ['narrow', 'wide'],
    up: footWidth,
    down: times(footWidth, -0.8),
    pull: { landmark: 'leftToes', direction: [1, 0, 0] },
  },
  { id: 'instep', name: 'Instep', group: 'feet', ends: ['flat', 'high'], up: instep, down: times(instep, -0.7) },
  { id: 'toes', name: 'Toes', group: 'feet', ends: ['short', 'long'], up: toes, down: times(toes, -0.8) },
]
