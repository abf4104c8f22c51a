import { add, bump, scale, smoothstep, sub, type V3 } from '../../model/vector.ts'
import { ANKLE, ARM_AXIS, CROTCH, ELBOW, KNUCKLES, SHOULDER, TOE_OUT, WRIST } from '../proportions.ts'
import { around, type Field, is, onArms, side, slider, type SliderSpec, STILL } from './fields.ts'

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
  slider('arms', 'Arm length', 'arms', ['short', 'long'], arms, -1, ['leftHand', [0.7, -0.7, 0]]),
  slider('forearm-length', 'Elbow', 'arms', ['low', 'high'], forearmLength, -1),
  slider('upper-arms', 'Upper arms', 'arms', ['thin', 'thick'], upperArms, -0.7, ['leftBiceps', [0, 0, 1]]),
  slider('elbows', 'Elbow width', 'arms', ['slender', 'bony'], elbows, -0.6),
  slider('forearms', 'Forearms', 'arms', ['thin', 'thick'], forearms, -0.7, ['leftForearm', [0, 0, 1]]),
  slider('wrists', 'Wrists', 'arms', ['thin', 'thick'], wrists, -0.6),
  slider('hands', 'Hands', 'hands', ['small', 'large'], hands, -0.8, ['leftKnuckles', [0.7, -0.7, 0]]),
  slider('hand-width', 'Hand width', 'hands', ['narrow', 'wide'], handWidth, -0.8, ['leftKnuckles', [0, 0, 1]]),
  slider('palms', 'Palms', 'hands', ['flat', 'thick'], palmThick, -0.3),
  slider('fingers', 'Finger length', 'hands', ['short', 'long'], fingers, -0.9),
  slider('finger-thick', 'Finger thickness', 'hands', ['thin', 'thick'], fingerThick, -0.7),
  slider('thumbs', 'Thumbs', 'hands', ['small', 'large'], thumbs, -0.5),
  slider('legs', 'Leg length', 'legs', ['short', 'long'], legs, -1, ['leftKnee', [0, 1, 0]]),
  slider('shin-length', 'Knee', 'legs', ['low', 'high'], shinLength, -1),
  slider('thighs', 'Thighs', 'legs', ['thin', 'thick'], thighs, -0.7, ['leftThigh', [1, 0, 0]]),
  slider('knees', 'Knee width', 'legs', ['slender', 'knobbly'], knees, -0.6),
  slider('calves', 'Calves', 'legs', ['thin', 'thick'], calves, -0.7, ['leftCalf', [0, 0, -1]]),
  slider('calf-height', 'Calf height', 'legs', ['low', 'high'], calfHeight, -1, ['leftCalf', [0, 1, 0]]),
  slider('ankles', 'Ankles', 'legs', ['slender', 'thick'], ankles, -0.6),
  slider('bow', 'Legs stand', 'legs', ['knock-kneed', 'bowed'], bow, -0.8, ['leftKnee', [1, 0, 0]]),
  slider('feet', 'Feet', 'feet', ['small', 'large'], feet, -0.8, ['leftToes', [0, 0, 1]]),
  slider('foot-width', 'Foot width', 'feet', ['narrow', 'wide'], footWidth, -0.8, ['leftToes', [1, 0, 0]]),
  slider('instep', 'Instep', 'feet', ['flat', 'high'], instep, -0.7),
  slider('toes', 'Toes', 'feet', ['short', 'long'], toes, -0.8),
]
