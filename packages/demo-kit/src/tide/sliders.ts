import type { Point } from '../model/Sculpt.ts'
import { add, bump, scale, smoothstep, sub, type V3 } from '../model/vector.ts'
import { onTrunk, STILL, sum, times, type Field, type SliderSpec } from '../folk/sliders/fields.ts'
import type { CorrectiveSpec } from '../folk/sliders/whole.ts'
import { OTTERN_ARM } from './ottern.ts'

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
  {
    id: 'stature',
    name: 'Stature',
    group: 'whole',
    ends: ['short', 'tall'],
    up: stature,
    down: times(stature, -1),
    pull: { landmark: 'crown', direction: [0, 1, 0] },
  },
  {
    id: 'girth',
    name: 'Girth',
    group: 'whole',
    ends: ['lean', 'stout'],
    up: girth,
    down: times(girth, -0.8),
    pull: { landmark: 'hipSide', direction: [1, 0, 0] },
  },
  { id: 'muscle', name: 'Muscle', group: 'whole', ends: ['soft', 'strong'], up: strong, down: times(strong, -0.6) },
  {
    id: 'years',
    name: 'Years',
    group: 'whole',
    ends: ['pup', 'very old'],
    up: sum([arch, 0.9], [belly, 0.3], [brow, 0.8], [muzzleDroop, -0.6], [armThick, -0.4], [cheeks, -0.5]),
    down: pup,
  },
  { id: 'arch', name: 'Back', group: 'whole', ends: ['upright', 'arched'], up: arch, down: times(arch, -0.3) },
  {
    id: 'neck-length',
    name: 'Neck length',
    group: 'torso',
    ends: ['short', 'long'],
    up: neckLength,
    down: times(neckLength, -0.5),
  },
  { id: 'neck', name: 'Neck', group: 'torso', ends: ['thin', 'thick'], up: neckThick, down: times(neckThick, -0.8) },
  {
    id: 'shoulders',
    name: 'Shoulders',
    group: 'torso',
    ends: ['narrow', 'wide'],
    up: shoulders,
    down: times(shoulders, -0.6),
    pull: { landmark: 'leftUpperArm', direction: [1, 0, 0] },
  },
  { id: 'chest', name: 'Chest', group: 'torso', ends: ['flat', 'deep'], up: chest, down: times(chest, -0.7) },
  {
    id: 'belly',
    name: 'Belly',
    group: 'torso',
    ends: ['flat', 'round'],
    up: belly,
    down: times(belly, -0.6),
    pull: { landmark: 'belly', direction: [0, 0, 1] },
  },
  { id: 'haunches', name: 'Haunches', group: 'torso', ends: ['narrow', 'wide'], up: haunch, down: times(haunch, -0.7) },
  {
    id: 'arms',
    name: 'Arm length',
    group: 'arms',
    ends: ['short', 'long'],
    up: arms,
    down: times(arms, -0.8),
    pull: { landmark: 'leftHand', direction: [0.4, -0.9, 0] },
  },
  { id: 'arm-thick', name: 'Arms', group: 'arms', ends: ['thin', 'thick'], up: armThick, down: times(armThick, -0.7) },
  { id: 'paws', name: 'Paws', group: 'arms', ends: ['small', 'large'], up: paws, down: times(paws, -0.7) },
  {
    id: 'fore-paws',
    name: 'Fore paws',
    group: 'arms',
    ends: ['small', 'large'],
    up: inPaws,
    down: times(inPaws, -0.7),
  },
  {
    id: 'hind-paws',
    name: 'Hind paws',
    group: 'legs',
    ends: ['small', 'large'],
    up: hindPaws,
    down: times(hindPaws, -0.7),
  },
  {
    id: 'legs',
    name: 'Leg length',
    group: 'legs',
    ends: ['short', 'long'],
    up: legLength,
    down: times(legLength, -0.8),
    pull: { landmark: 'leftLowerLeg', direction: [0, 1, 0] },
  },
  { id: 'head', name: 'Head', group: 'head', ends: ['small', 'large'], up: head, down: times(head, -0.8) },
  {
    id: 'skull-width',
    name: 'Head width',
    group: 'head',
    ends: ['narrow', 'broad'],
    up: skullWidth,
    down: times(skullWidth, -0.8),
  },
  {
    id: 'skull-height',
    name: 'Skull height',
    group: 'head',
    ends: ['low', 'high'],
    up: skullHeight,
    down: times(skullHeight, -0.7),
  },
  { id: 'brow', name: 'Brow', group: 'head', ends: ['smooth', 'heavy'], up: brow, down: times(brow, -0.6) },
  {
    id: 'muzzle',
    name: 'Muzzle',
    group: 'head',
    ends: ['blunt', 'long'],
    up: muzzle,
    down: times(muzzle, -0.7),
    pull: { landmark: 'chin', direction: [0, 0, 1] },
  },
  {
    id: 'muzzle-width',
    name: 'Muzzle width',
    group: 'head',
    ends: ['narrow', 'broad'],
    up: muzzleWidth,
    down: times(muzzleWidth, -0.8),
  },
  {
    id: 'muzzle-height',
    name: 'Muzzle height',
    group: 'head',
    ends: ['low', 'high'],
    up: muzzleHeight,
    down: times(muzzleHeight, -0.7),
  },
  {
    id: 'muzzle-tip',
    name: 'Nose',
    group: 'head',
    ends: ['drooping', 'turned up'],
    up: muzzleDroop,
    down: times(muzzleDroop, -0.8),
  },
  { id: 'jaw', name: 'Jaw', group: 'head', ends: ['weak', 'strong'], up: jaw, down: times(jaw, -0.6) },
  { id: 'cheeks', name: 'Cheeks', group: 'head', ends: ['lean', 'full'], up: cheeks, down: times(cheeks, -0.8) },
  { id: 'ears', name: 'Ears', group: 'head', ends: ['small', 'large'], up: ears, down: times(ears, -0.45) },
  {
    id: 'ear-height',
    name: 'Ear height',
    group: 'head',
    ends: ['low', 'high'],
    up: earHeight,
    down: times(earHeight, -0.6),
  },
  {
    id: 'ears-apart',
    name: 'Ears apart',
    group: 'head',
    ends: ['close', 'wide'],
    up: earApart,
    down: times(earApart, -0.7),
  },
  { id: 'tail-length', name: 'Tail length', group: 'tail', ends: ['short', 'long'], up: tail, down: times(tail, -0.8) },
  {
    id: 'tail-girth',
    name: 'Tail thickness',
    group: 'tail',
    ends: ['thin', 'thick'],
    up: tailThick,
    down: times(tailThick, -0.7),
  },
  {
    id: 'tail-width',
    name: 'Tail width',
    group: 'tail',
    ends: ['round', 'paddle'],
    up: tailWide,
    down: times(tailWide, -0.4),
  },
  {
    id: 'tail-rise',
    name: 'Tail tip',
    group: 'tail',
    ends: ['trailing', 'raised'],
    up: tailRise,
    down: times(tailRise, -0.1),
  },
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
