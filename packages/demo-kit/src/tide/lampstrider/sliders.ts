import type { BodyDef } from '@idle-tinker/core'
import { slider, STILL, sum, times, type Field, type SliderSpec } from '../../folk/sliders/fields.ts'
import type { CorrectiveSpec } from '../../folk/sliders/whole.ts'
import type { Point } from '../../model/Sculpt.ts'
import { add, bump, clamp, scale, smoothstep, sub, type V3 } from '../../model/vector.ts'
import { smallerWith } from '../correctives.ts'
import { eyeMovements } from '../eyeMoods.ts'
import { FORE, HIND } from './body.ts'

/*
 * What can be told of a lampstrider's shape. Feet stay where they stand unless the slider is theirs.
 */

const side = (p: Point) => (p.at[0] >= 0 ? 1 : -1)
const onLeg = (p: Point) => p.limb.endsWith('Leg')
const onFoot = (p: Point) => p.limb.endsWith('Foot')
const jointsOf = (p: Point) => (p.limb.includes('Hind') ? HIND : FORE)

/** What all above the legs does; along a leg it fades to the foot. */
const carried =
  (by: V3): Field =>
  (p) => {
    if (onFoot(p)) return STILL
    if (!onLeg(p)) return by
    const { hip, toes } = jointsOf(p)
    return scale(by, clamp((p.at[1] - toes[1]) / (hip[1] - 4 - toes[1]), 0, 1))
  }
const torso =
  (move: (x: number, y: number, z: number) => V3): Field =>
  (p) =>
    p.limb === 'torso' ? move(...p.at) : STILL
/** The neck from its root, the head with its end. */
const along = (move: (t: number, p: Point) => V3): Field => {
  const t = (y: number) => smoothstep(66, 89, y)
  return (p) => (p.limb === 'head' ? move(1, p) : p.limb === 'neck' ? move(t(p.at[1]), p) : STILL)
}
const onHead =
  (move: (x: number, y: number, z: number) => V3): Field =>
  (p) => {
    if (p.limb !== 'head') return STILL
    const d = move(Math.abs(p.at[0]), p.at[1], p.at[2])
    return [side(p) * d[0], d[1], d[2]]
  }
/** Away from a leg's own middle. */
const leg =
  (amount: (y: number, p: Point) => number): Field =>
  (p) =>
    onLeg(p) ? scale(p.out, amount(p.at[1], p)) : STILL

const stature: Field = (p) => scale(p.at, 0.15)
const legs = carried([0, 13, 0])
const girth: Field = (p) => {
  const [x, y] = p.at
  if (p.limb === 'torso') return [x * 0.2, (y - 64) * 0.12, 0]
  if (p.limb === 'neck') return [x * 0.12 * smoothstep(80, 66, y), 0, 0]
  if (onLeg(p)) return [side(p) * 1.7 * smoothstep(16, 52, y), (y - 64) * 0.12 * smoothstep(44, 53, y), 0]
  return STILL
}
const neckLength = along((t) => [0, 10 * t, 1.5 * t])
const neckThick: Field = (p) =>
  p.limb === 'neck' ? scale(p.out, 1.1 * smoothstep(90.4, 86, p.at[1]) * smoothstep(64, 72, p.at[1])) : STILL
const neckCurve = along((t, p) =>
  p.limb === 'head' ? [0, -0.8, 2.4] : [0, -0.8 * t, 2.4 * t - 5.2 * bump(p.at[1], 79, 6.5)],
)
const head: Field = (p) =>
  p.limb === 'head'
    ? scale(sub(p.at, [0, 89, 24.5]), 0.24)
    : p.limb === 'neck'
      ? scale(p.out, 0.8 * smoothstep(82, 89, p.at[1]))
      : STILL
const skull = onHead((_x, y, z) => [0, 2.6 * smoothstep(92, 99, y) * smoothstep(40, 30, z), 0])
const beak = onHead((_x, _y, z) => [0, 0, Math.max(0, z - 38) * 0.5])
const beakDeep = onHead((x, y, z) => {
  const t = smoothstep(36, 40, z) * smoothstep(54, 44, z)
  return [x * 0.25 * t, (y - 91) * 0.5 * t, 0]
})
const beakBend = onHead((_x, _y, z) => {
  const t = Math.max(0, z - 37) / 15
  return [0, -4.2 * t * t, -0.8 * t * t]
})
const keel = torso((x, y, z) => {
  // between the legs: their roots stay
  const t = smoothstep(60, 48, y) * smoothstep(-6, 10, z) * smoothstep(7, 2, Math.abs(x))
  return [-x * 0.12 * t, -3.6 * t, 1.6 * t]
})
const back = torso((_x, y, z) => [0, 4.6 * smoothstep(60, 71, y) * bump(z, -7, 10), 0])
const haunches: Field = (p) => {
  const [x, y, z] = p.at
  if (p.limb === 'torso') return [x * 0.14 * bump(z, -13, 7) * smoothstep(74, 60, y), 0, 0]
  if (onLeg(p) && p.limb.includes('Hind')) return scale(p.out, 1.3 * smoothstep(38, 48, y))
  return STILL
}
const legThick = leg((y) => 0.55 * smoothstep(52, 43, y))
const knees = leg((y, p) => {
  const { knee, ankle } = jointsOf(p)
  return 0.85 * (bump(y, knee[1], 2.6) + bump(y, ankle[1], 2.4))
})
const feet: Field = (p) => {
  if (!onFoot(p)) return STILL
  const { toes } = jointsOf(p)
  return scale([p.at[0] - side(p) * toes[0], 0, p.at[2] - toes[2]], 0.3)
}
const tail: Field = (p) => (p.limb === 'tail' ? [0, 0, Math.min(0, p.at[2] + 29.6) * 0.85] : STILL)
const tailRise: Field = (p) => (p.limb === 'tail' ? [0, 7 * smoothstep(27, 41, -p.at[2]) ** 1.4, 0] : STILL)

/** A chick: all of it small, on legs and a neck that have still to grow, a great head with hardly a beak. */
const chick: Field = (p) => {
  const k = 0.55
  const young = sum([legs, -1], [neckLength, -0.9], [beak, -1.1], [tail, -0.8], [head, 1.6], [keel, -0.6], [knees, 0.5])
  return sub(scale(add(p.at, young(p)), k), p.at)
}
const old = sum([neckCurve, 0.85], [back, 0.6], [knees, 0.8], [legThick, -0.35], [beakBend, 0.5], [keel, 0.5])

export const LAMPSTRIDER_SLIDERS: SliderSpec[] = [
  slider('stature', 'Stature', 'whole', ['short', 'tall'], stature, -1, ['crown', [0, 1, 0]]),
  slider('girth', 'Girth', 'whole', ['lean', 'stout'], girth, -0.8, ['flank', [1, 0, 0]]),
  { id: 'years', name: 'Years', group: 'whole', ends: ['chick', 'very old'], up: old, down: chick },
  slider('legs', 'Leg length', 'legs', ['short', 'long'], legs, -1.1, ['leftHindLowerLeg', [0, 1, 0]]),
  slider('leg-thick', 'Legs', 'legs', ['thin', 'thick'], legThick, -0.7),
  slider('knees', 'Knees', 'legs', ['smooth', 'knotty'], knees, -0.5),
  slider('haunches', 'Haunches', 'legs', ['slight', 'heavy'], haunches, -0.7),
  slider('feet', 'Feet', 'legs', ['small', 'large'], feet, -0.8),
  slider('keel', 'Chest', 'torso', ['shallow', 'deep'], keel, -0.8, ['keel', [0, -1, 0]]),
  slider('back', 'Back', 'torso', ['hollow', 'humped'], back, -0.8, ['rump', [0, 1, 0]]),
  slider('tail-length', 'Tail length', 'torso', ['short', 'long'], tail, -0.55),
  slider('tail-rise', 'Tail', 'torso', ['hanging', 'raised'], tailRise, -0.9),
  slider('neck-length', 'Neck length', 'neck', ['short', 'long'], neckLength, -0.7, ['neckMiddle', [0, 1, 0]]),
  slider('neck', 'Neck', 'neck', ['thin', 'thick'], neckThick, -0.7),
  slider('neck-curve', 'Neck curve', 'neck', ['straight', 'curved'], neckCurve, -0.6),
  slider('head', 'Head', 'head', ['small', 'large'], head, -0.8),
  slider('skull', 'Skull', 'head', ['flat', 'domed'], skull, -0.7),
  slider('beak', 'Beak length', 'head', ['short', 'long'], beak, -1, ['beakTip', [0, 0, 1]]),
  slider('beak-deep', 'Beak', 'head', ['fine', 'stout'], beakDeep, -0.7),
  slider('beak-bend', 'Beak curve', 'head', ['upturned', 'hooked'], beakBend, -0.8),
]

/** On a chick everything else is as much smaller as the chick is. */
export const LAMPSTRIDER_CORRECTIVES: CorrectiveSpec[] = [
  ...smallerWith('chick', LAMPSTRIDER_SLIDERS, 0.55, {
    'tail-length down': 0.05,
    'neck-length down': 0.1,
    'beak down': 0.05,
    'legs down': 0.3,
    'head up': 0.3,
    'keel down': 0.3,
  }),
  // an old neck is curved already
  {
    id: 'old neck-curve up',
    when: [
      { slider: 'years', end: 'up' },
      { slider: 'neck-curve', end: 'up' },
    ],
    move: times(neckCurve, -0.8),
  },
]

export const LAMPSTRIDER_GROUPS: BodyDef['sliderGroups'] = [
  { id: 'whole', name: 'Whole figure' },
  { id: 'head', name: 'Head' },
  { id: 'neck', name: 'Neck' },
  { id: 'torso', name: 'Trunk and tail' },
  { id: 'legs', name: 'Legs' },
  { id: 'moving', name: 'Eyes, moving', moves: true },
]

const brow = onHead((x, y, z) => [0, 0.5 * bump(y, 96.4, 1.6) * smoothstep(2, 5, x) * bump(z, 31, 4), 0])

export const LAMPSTRIDER_MOVEMENTS = eyeMovements(brow)
