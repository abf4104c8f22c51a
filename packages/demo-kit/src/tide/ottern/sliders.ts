import type { Point } from '../../model/Sculpt.ts'
import { add, bump, scale, smoothstep, sub, type V3 } from '../../model/vector.ts'
import { type Field, onTrunk, slider, type SliderSpec, STILL, sum } from '../../folk/sliders/fields.ts'
import type { CorrectiveSpec } from '../../folk/sliders/whole.ts'
import { OTTERN_ARM } from './body.ts'

const arm = (p: Point) => p.limb.endsWith('Arm') || p.limb.endsWith('Hand')
const leg = (p: Point) => p.limb.endsWith('Leg') || p.limb.endsWith('Foot')
const side = (p: Point) => (p.at[0] >= 0 ? 1 : -1)
const stature: Field = (p) => {
  const y = arm(p) ? 66 : Math.min(p.at[1], 75)
  return [0, p.limb === 'tail' ? 0 : 0.16 * Math.max(0, y - 12), 0]
}
const girth: Field = (p) => {
  const [x, y, z] = p.at
  if (arm(p)) return [side(p) * 1.3, 0, 0]
  if (leg(p)) return [side(p) * 0.9 * smoothstep(4, 18, y), 0, 0]
  if (p.limb !== 'torso') return p.limb === 'neck' ? [x * 0.08, 0, z * 0.08] : [0, 0, 0]
  const low = 0.07 + 0.14 * bump(y, 36, 16)
  return [x * low, 0, z * low * (z > 0 ? 1.3 : 0.6)]
}
const tail: Field = (p) => (p.limb === 'tail' ? [p.at[0] * 0.06, 0, Math.min(0, p.at[2] + 12) * 0.42] : [0, 0, 0])
const tailThick: Field = (p) => {
  if (p.limb !== 'tail') return [0, 0, 0]
  const f = smoothstep(12, 24, -p.at[2])
  return [p.at[0] * 0.4 * f, p.out[1] * 1.4 * f, 0]
}
const muzzle: Field = (p) =>
  p.limb === 'head'
    ? [
        0,
        -0.6 * bump(p.at[1], 84, 6) * smoothstep(6, 15, p.at[2]),
        4.6 * smoothstep(5, 16, p.at[2]) * bump(p.at[1], 84.5, 7),
      ]
    : [0, 0, 0]
const cheeks: Field = (p) =>
  p.limb === 'head' ? [side(p) * 2.4 * bump(p.at[1], 84.5, 5) * smoothstep(5, 11, Math.abs(p.at[0])), 0, 0] : [0, 0, 0]
const head: Field = (p) =>
  p.limb === 'head' || p.limb === 'ear' ? scale(sub(p.at, [0, 76, -1]), 0.18 * smoothstep(75, 80, p.at[1])) : [0, 0, 0]
const arms: Field = (p) => {
  if (!arm(p)) return [0, 0, 0]
  const u = Math.max(0, Math.min(p.u, 23) - 4) * 0.315
  return [side(p) * OTTERN_ARM[0] * u, OTTERN_ARM[1] * u, OTTERN_ARM[2] * u]
}
const ears: Field = (p) => (p.limb === 'ear' ? scale(sub(p.at, [side(p) * 11, 91.6, -2.6]), 0.7) : [0, 0, 0])
const inPaws: Field = (p) => (p.limb.endsWith('Hand') ? scale(sub(p.at, [side(p) * 23.7, 49, 5.5]), 0.22) : STILL)
const hindPaws: Field = (p) => (p.limb.endsWith('Foot') ? [(p.at[0] - side(p) * 10.2) * 0.2, 0, p.at[2] * 0.2] : STILL)
const paws = sum([inPaws, 1], [hindPaws, 1])

const onHead = (p: Point) => p.limb === 'head' || p.limb === 'ear'
/** A field on the head alone; x is told as on the left and mirrored. */
const skull =
  (move: (x: number, y: number, z: number) => V3): Field =>
  (p) => {
    if (!onHead(p)) return STILL
    const d = move(Math.abs(p.at[0]), p.at[1], p.at[2])
    return [side(p) * d[0], d[1], d[2]]
  }
const snout = (y: number, z: number) => smoothstep(6, 15, z) * bump(y, 84, 6.5)

const arch: Field = (p) => {
  // a round back: what is above the waist goes forward and down, the head keeps looking ahead
  const y = arm(p) ? 66 : p.at[1]
  if (leg(p) || p.limb === 'tail') return STILL
  const t = smoothstep(34, 78, y)
  const behind = p.limb === 'torso' && p.at[2] < 0 ? -2.6 * bump(y, 60, 9) : 0
  return [0, -4.2 * t * t, 6.5 * t * t + behind]
}
const shoulders: Field = (p) => {
  if (arm(p)) return [side(p) * 1.9, 0, 0]
  if (p.limb !== 'torso') return STILL
  return [side(p) * 1.9 * smoothstep(54, 68, p.at[1]) * smoothstep(2, 10, Math.abs(p.at[0])), 0, 0]
}
const chest = onTrunk((x, y, z) => [x * 0.05 * bump(y, 57, 7), 0, z * 0.2 * bump(y, 60, 8)])
const belly = onTrunk((x, y, z) => [
  x * 0.08 * bump(y, 39, 13),
  -0.3 * bump(y, 36, 10),
  z > 0 ? z * 0.24 * bump(y, 39, 13) : 0,
])
const haunch: Field = (p) => {
  const [x, y, z] = p.at
  if (p.limb === 'torso') return [x * 0.14 * bump(y, 25, 9), 0, z * 0.12 * bump(y, 25, 9)]
  return leg(p) ? add([side(p) * 0.9, 0, 0], scale(p.out, 0.9 * smoothstep(4, 15, y))) : STILL
}
const legLength: Field = (p) => {
  const y = arm(p) ? 66 : Math.min(p.at[1], 17.4)
  if (p.limb === 'tail') return [0, 3.2 * smoothstep(45, 14, -p.at[2]), 0]
  return [0, 3.2 * smoothstep(4.5, 17.4, y), 0]
}
const armThick: Field = (p) => (p.limb.endsWith('Arm') ? scale(p.out, 0.95 * smoothstep(3, 9, p.u)) : STILL)
const neckThick: Field = (p) =>
  p.limb === 'neck' ? scale([p.at[0] * 0.15, 0, p.at[2] * 0.15], 1 - 0.8 * smoothstep(73, 75.5, p.at[1])) : STILL
const neckLength: Field = (p) =>
  onHead(p) ? [0, 3, 0] : p.limb === 'neck' ? [0, 3 * smoothstep(72.5, 75.5, p.at[1]), 0] : STILL
const skullWidth = skull((x) => [x * 0.13, 0, 0])
const skullHeight = skull((_x, y) => [0, Math.max(0, y - 88) * 0.3, 0])
const brow = skull((x, y, z) => [
  0,
  0.5 * bump(y, 91, 2),
  1.3 * bump(y, 90.5, 2.6) * bump(x, 5, 4.5) * smoothstep(3, 9, z),
])
const muzzleWidth = skull((x, y, z) => [Math.min(x, 6) * 0.26 * snout(y, z), 0, 0])
const muzzleHeight = skull((_x, y, z) => [
  0,
  (y > 84 ? 1.7 : -1.3) * snout(y, z) * smoothstep(0.3, 2.5, Math.abs(y - 84)),
  0,
])
const muzzleDroop = skull((_x, y, z) => [0, 1.9 * smoothstep(8, 18, z) * bump(y, 85, 7), 0])
const jaw = skull((x, y, z) => [
  x * 0.1 * bump(y, 78.5, 3),
  -1.2 * bump(y, 77.5, 3) * smoothstep(-2, 8, z),
  1.3 * bump(y, 78, 3) * smoothstep(2, 12, z),
])
const earHeight: Field = (p) => (p.limb === 'ear' ? [side(p) * -0.7, 1.7, 0] : STILL)
const earApart: Field = (p) => (p.limb === 'ear' ? [side(p) * 1.1, -1.3, 0] : STILL)
const tailWide: Field = (p) => (p.limb === 'tail' ? [p.at[0] * 0.5 * smoothstep(14, 34, -p.at[2]), 0, 0] : STILL)
const tailRise: Field = (p) => (p.limb === 'tail' ? [0, 11 * smoothstep(18, 62, -p.at[2]) ** 1.5, 0] : STILL)

/** A pup: much smaller, a great head on a short round body with hardly a tail. */
const pup: Field = (p) => {
  const k = 0.62
  if (onHead(p)) {
    const d = sub(p.at, [0, 76, -1])
    return sub(add([0, 76 * k, -1 * k], scale(add(d, add(scale(muzzle(p), -0.8), scale(cheeks(p), 0.7))), 0.8)), p.at)
  }
  if (p.limb === 'neck') {
    const t = smoothstep(72, 76, p.at[1])
    return [p.at[0] * (k + 0.16 * t - 1), p.at[1] * (k - 1), p.at[2] * (k + 0.16 * t - 1)]
  }
  return scale(add(p.at, scale(tail(p), -0.8)), k).map((v, i) => v - p.at[i]!) as unknown as V3
}
const strong = sum([shoulders, 0.8], [chest, 0.5], [armThick, 1], [neckThick, 0.8], [haunch, 0.3], [jaw, 0.3])

export const OTTERN_SLIDERS: SliderSpec[] = [
  slider('stature', 'Stature', 'whole', ['short', 'tall'], stature, -1, ['crown', [0, 1, 0]]),
  slider('girth', 'Girth', 'whole', ['lean', 'stout'], girth, -0.8, ['hipSide', [1, 0, 0]]),
  slider('muscle', 'Muscle', 'whole', ['soft', 'strong'], strong, -0.6),
  {
    id: 'years',
    name: 'Years',
    group: 'whole',
    ends: ['pup', 'very old'],
    up: sum([arch, 0.9], [belly, 0.3], [brow, 0.8], [muzzleDroop, -0.6], [armThick, -0.4], [cheeks, -0.5]),
    down: pup,
  },
  slider('arch', 'Back', 'whole', ['upright', 'arched'], arch, -0.3),
  slider('neck-length', 'Neck length', 'torso', ['short', 'long'], neckLength, -0.5),
  slider('neck', 'Neck', 'torso', ['thin', 'thick'], neckThick, -0.8),
  slider('shoulders', 'Shoulders', 'torso', ['narrow', 'wide'], shoulders, -0.6, ['leftUpperArm', [1, 0, 0]]),
  slider('chest', 'Chest', 'torso', ['flat', 'deep'], chest, -0.7),
  slider('belly', 'Belly', 'torso', ['flat', 'round'], belly, -0.6, ['belly', [0, 0, 1]]),
  slider('haunches', 'Haunches', 'torso', ['narrow', 'wide'], haunch, -0.7),
  slider('arms', 'Arm length', 'arms', ['short', 'long'], arms, -0.8, ['leftHand', [0.4, -0.9, 0]]),
  slider('arm-thick', 'Arms', 'arms', ['thin', 'thick'], armThick, -0.7),
  slider('paws', 'Paws', 'arms', ['small', 'large'], paws, -0.7),
  slider('fore-paws', 'Fore paws', 'arms', ['small', 'large'], inPaws, -0.7),
  slider('hind-paws', 'Hind paws', 'legs', ['small', 'large'], hindPaws, -0.7),
  slider('legs', 'Leg length', 'legs', ['short', 'long'], legLength, -0.8, ['leftLowerLeg', [0, 1, 0]]),
  slider('head', 'Head', 'head', ['small', 'large'], head, -0.8),
  slider('skull-width', 'Head width', 'head', ['narrow', 'broad'], skullWidth, -0.8),
  slider('skull-height', 'Skull height', 'head', ['low', 'high'], skullHeight, -0.7),
  slider('brow', 'Brow', 'head', ['smooth', 'heavy'], brow, -0.6),
  slider('muzzle', 'Muzzle', 'head', ['blunt', 'long'], muzzle, -0.7, ['chin', [0, 0, 1]]),
  slider('muzzle-width', 'Muzzle width', 'head', ['narrow', 'broad'], muzzleWidth, -0.8),
  slider('muzzle-height', 'Muzzle height', 'head', ['low', 'high'], muzzleHeight, -0.7),
  slider('muzzle-tip', 'Nose', 'head', ['drooping', 'turned up'], muzzleDroop, -0.8),
  slider('jaw', 'Jaw', 'head', ['weak', 'strong'], jaw, -0.6),
  slider('cheeks', 'Cheeks', 'head', ['lean', 'full'], cheeks, -0.8),
  slider('ears', 'Ears', 'head', ['small', 'large'], ears, -0.45),
  slider('ear-height', 'Ear height', 'head', ['low', 'high'], earHeight, -0.6),
  slider('ears-apart', 'Ears apart', 'head', ['close', 'wide'], earApart, -0.7),
  slider('tail-length', 'Tail length', 'tail', ['short', 'long'], tail, -0.8),
  slider('tail-girth', 'Tail thickness', 'tail', ['thin', 'thick'], tailThick, -0.7),
  slider('tail-width', 'Tail width', 'tail', ['round', 'paddle'], tailWide, -0.4),
  slider('tail-rise', 'Tail tip', 'tail', ['trailing', 'raised'], tailRise, -0.1),
]

export const OTTERN_GROUPS: { id: string; name: string }[] = [
  { id: 'whole', name: 'Whole figure' },
  { id: 'head', name: 'Head' },
  { id: 'torso', name: 'Trunk' },
  { id: 'arms', name: 'Arms' },
  { id: 'legs', name: 'Legs' },
  { id: 'tail', name: 'Tail' },
]

/** On a pup everything else is as much smaller as the pup is. */
export const OTTERN_CORRECTIVES: CorrectiveSpec[] = OTTERN_SLIDERS.filter((s) => s.id !== 'years').flatMap((s) =>
  (['up', 'down'] as const).map((end): CorrectiveSpec => {
    const move = s[end]!
    return {
      id: `pup ${s.id} ${end}`,
      when: [
        { slider: 'years', end: 'down' },
        { slider: s.id, end },
      ],
      // what moves the head as a whole moves it as it moves the neck
      move: (p) => scale(move(p), s.group === 'head' ? -0.2 : -0.38),
    }
  }),
)
