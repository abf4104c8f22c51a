import { add, bump, scale, smoothstep } from '../../model/vector.ts'
import { ARM_AXIS, ELBOW, SHOULDER, WRIST } from '../proportions.ts'
import {
  belowHead,
  type Field,
  frame,
  inProportions,
  is,
  onArms,
  onTrunk,
  outOfArmpit,
  proportions,
  type Proportions,
  shiftArms,
  side,
  slider,
  type SliderSpec,
  STILL,
  stoop,
  sum,
} from './fields.ts'
import { femaleFace, headSize, heavyFace, HEAD_SLIDERS, leanFace, maleFace, oldFace, youngFace } from './head.ts'
import { calves, feet, forearms, hands, LIMB_SLIDERS, thighs, upperArms } from './limbs.ts'
import {
  belly,
  bust,
  chest,
  deltoids,
  flanks,
  hips,
  neck,
  ribs,
  seat,
  shoulders,
  slope,
  TRUNK_SLIDERS,
  waist,
} from './trunk.ts'

const tall: Field = (p) => {
  // legs and trunk grow, the head hardly: more heads to the height
  const lift = (onArms(p) ? SHOULDER[1] : Math.min(p.at[1], 81)) * 0.1
  const reach = onArms(p) ? Math.max(0, Math.min(p.u, WRIST)) * 0.08 : 0
  return [side(p) * ARM_AXIS[0] * reach, lift + ARM_AXIS[1] * reach, 0]
}

/** So many heads to the same height: from 5.6, the head shrinks or grows and the rest makes up for it. */
function heads(count: number): Proportions {
  const k = 5.6 / count
  const chinAt = 99.3 - 17.6 * k
  const body = chinAt / 81.7
  // limbs follow the head less than it goes: the study's power of 0.3
  const limbs = k ** 0.3
  return {
    heights: [
      [-2, -2 * body],
      [0, 0],
      [81.7, chinAt],
      [101, chinAt + 19.3 * k],
    ],
    trunk: limbs,
    arm: body,
    armThick: limbs,
    legThick: limbs,
    hand: k ** 0.5,
    foot: k ** 0.35,
    neck: k ** 0.85,
    head: k,
  }
}

/** About six years old: two thirds as tall, a head nearly grown, short legs, narrow all over. */
export const CHILD: Proportions = {
  heights: [
    [-2, -1.4],
    [0, 0],
    [7.4, 5.2],
    [42.8, 29],
    [81.7, 50.4],
    [101, 68.5],
  ],
  trunk: 0.66,
  arm: 0.63,
  armThick: 0.66,
  legThick: 0.67,
  hand: 0.66,
  foot: 0.69,
  neck: 0.6,
  head: 0.94,
}

const young: Field = (p) => {
  const there = inProportions(p, CHILD)
  const moved = scale(youngFace(p), CHILD.head)
  // a child's belly stands out, its shoulders are narrow
  const shape = scale(sum([belly, 0.3], [waist, 0.35], [shoulders, -0.35], [seat, -0.35], [chest, -0.2])(p), 0.66)
  return add(add([there[0] - p.at[0], there[1] - p.at[1], there[2] - p.at[2]], moved), shape)
}

const old = sum(
  [stoop(0.85), 1],
  [oldFace, 1],
  [belly, 0.35],
  [shoulders, -0.35],
  [chest, -0.35],
  [seat, -0.5],
  [upperArms, -0.5],
  [forearms, -0.45],
  [thighs, -0.5],
  [calves, -0.5],
  [neck, -0.3],
  [tall, -0.25],
)

/** Fat: most at belly, seat and thighs, little at joints. The arms move out of its way. */
const fat: Field = (p) => {
  const [x, y, z] = p.at
  if (p.limb === 'neck') return scale([x * 0.22, 0, (z + 1.4) * 0.16], belowHead(p))
  if (is(p, 'Arm')) {
    const joint = 1 - 0.55 * Math.max(bump(p.u, ELBOW, 2), bump(p.u, WRIST, 4))
    return add(scale(p.out, (0.75 + 0.6 * bump(p.u, 7, 6)) * joint * outOfArmpit(p)), [side(p) * 1.5, 0, 0])
  }
  if (is(p, 'Hand')) return add(scale(p.out, 0.3), [side(p) * 1.5, 0, 0])
  if (is(p, 'Leg')) {
    const joint = 1 - 0.45 * Math.max(bump(y, 26, 2.5), bump(y, 7.4, 4))
    return add(scale(p.out, (0.7 + 0.9 * smoothstep(24, 40, y)) * joint), [
      side(p) * (0.5 + 0.6 * smoothstep(24, 40, y)),
      0,
      0,
    ])
  }
  if (is(p, 'Foot')) return add([side(p) * 0.5, 0, 0], scale(p.out, 0.15 * smoothstep(2, 6, y)))
  if (p.limb !== 'torso') return STILL
  const low = bump(y, 56, 10)
  return [
    x * (0.1 + 0.15 * low),
    0,
    z > 0 ? 0.6 + 3.0 * bump(y, 57, 8) * smoothstep(-1, 5, z) + 0.9 * bump(y, 69.5, 5) : -0.7 - 0.9 * bump(y, 47, 7),
  ]
}
const heavy = sum([fat, 1], [heavyFace, 1], [flanks, 0.4])
const lean = sum([fat, -0.55], [leanFace, 1])

const pecs = onTrunk((x, y, z) => [0, 0, z > 0 ? 1.5 * bump(y, 72, 4.6) * bump(Math.abs(x), 4.5, 4.5) : 0])
const lats = onTrunk((x, y) => [x * 0.1 * bump(y, 65.4, 4), 0, 0])
const strong = sum(
  [shoulders, 0.7],
  [deltoids, 0.9],
  [upperArms, 0.95],
  [forearms, 0.85],
  [slope, 0.75],
  [pecs, 1],
  [lats, 1],
  [shiftArms(0.7), 1],
  [waist, -0.15],
  [seat, 0.25],
  [thighs, 0.75],
  [calves, 0.8],
  [neck, 0.7],
  [hands, 0.15],
)
const soft = sum([strong, -0.5], [belly, 0.2], [waist, 0.25])

const male = sum(
  [shoulders, 0.7],
  [chest, 0.4],
  [hips, -0.4],
  [seat, -0.2],
  [waist, 0.2],
  [neck, 0.4],
  [slope, 0.25],
  [hands, 0.3],
  [feet, 0.25],
  [upperArms, 0.2],
  [calves, 0.15],
  [maleFace, 1],
)
const female = sum(
  [shoulders, -0.65],
  [ribs, -0.4],
  [bust, 0.75],
  [waist, -0.6],
  [hips, 0.65],
  [seat, 0.5],
  [thighs, 0.25],
  [neck, -0.45],
  [slope, -0.3],
  [hands, -0.45],
  [feet, -0.35],
  [upperArms, -0.4],
  [forearms, -0.35],
  [calves, -0.15],
  [femaleFace, 1],
)

const WHOLE_SLIDERS: SliderSpec[] = [
  slider('stature', 'Stature', 'whole', ['short', 'tall'], tall, -1.35, ['crown', [0, 1, 0]]),
  {
    id: 'heads',
    name: 'Heads tall',
    group: 'whole',
    ends: ['4.2: large head', '7: small head'],
    up: proportions(heads(7)),
    down: proportions(heads(4.2)),
  },
  slider('build', 'Frame', 'whole', ['slight', 'broad'], frame, -0.85),
  { id: 'heft', name: 'Heft', group: 'whole', ends: ['lean', 'heavy'], up: heavy, down: lean },
  { id: 'muscle', name: 'Muscle', group: 'whole', ends: ['soft', 'strong'], up: strong, down: soft },
  { id: 'years', name: 'Years', group: 'whole', ends: ['child', 'very old'], up: old, down: young },
  { id: 'sex', name: 'Sex', group: 'whole', ends: ['female', 'male'], up: male, down: female },
  { id: 'stoop', name: 'Stoop', group: 'whole', ends: ['upright', 'stooped'], up: stoop(1), down: stoop(-0.25) },
]

/** All that shapes the human body, in the order of its groups. */
export const HUMAN_SLIDERS: SliderSpec[] = [...WHOLE_SLIDERS, ...TRUNK_SLIDERS, ...LIMB_SLIDERS, ...HEAD_SLIDERS]

export const HUMAN_GROUPS: { id: string; name: string }[] = [
  { id: 'whole', name: 'Whole figure' },
  { id: 'head', name: 'Head' },
  { id: 'eyes', name: 'Brow and eyes' },
  { id: 'nose', name: 'Nose' },
  { id: 'cheeks', name: 'Cheeks and ears' },
  { id: 'mouth', name: 'Mouth' },
  { id: 'jaw', name: 'Jaw and chin' },
  { id: 'neck', name: 'Neck' },
  { id: 'torso', name: 'Trunk' },
  { id: 'hips', name: 'Hips' },
  { id: 'arms', name: 'Arms' },
  { id: 'hands', name: 'Hands' },
  { id: 'legs', name: 'Legs' },
  { id: 'feet', name: 'Feet' },
]

/** A movement that plays where several sliders meet, with the product of their values. */
export interface CorrectiveSpec {
  id: string
  when: { slider: string; end: 'up' | 'down' }[]
  move: Field
}

/** What moves a body so far that a child's smaller size shows in it; the rest is too little to correct. */
const FAR = new Set([
  ...['stature', 'heads', 'build', 'heft', 'muscle', 'sex', 'stoop', 'neck-length', 'shoulders', 'chest', 'bust'],
  ...[
    'waist',
    'belly',
    'hips',
    'seat',
    'arms',
    'hands',
    'legs',
    'thighs',
    'feet',
    'ribs',
    'upper-arms',
    'deltoids',
    'neck',
    'back',
  ],
])

/**
 * Where sliders meet that were each made on the plain body: on a child everything else is as much
 * smaller as the child is; a head may shrink and grow only once; fat and muscle share the same room.
 */
export const HUMAN_CORRECTIVES: CorrectiveSpec[] = [
  ...HUMAN_SLIDERS.filter((s) => FAR.has(s.id)).flatMap((s) =>
    (['up', 'down'] as const).flatMap((end): CorrectiveSpec[] => {
      const move = s[end]
      if (!move) return []
      return [
        {
          id: `child ${s.id} ${end}`,
          when: [
            { slider: 'years', end: 'down' },
            { slider: s.id, end },
          ],
          // what moves the head as a whole moves it as it moves the neck
          move: (p) => scale(move(p), CHILD.trunk - 1),
        },
      ]
    }),
  ),
  {
    id: 'heavy and strong',
    when: [
      { slider: 'heft', end: 'up' },
      { slider: 'muscle', end: 'up' },
    ],
    move: sum([upperArms, -0.35], [thighs, -0.35], [calves, -0.3], [neck, -0.3], [pecs, -0.4]),
  },
  {
    id: 'small head twice',
    when: [
      { slider: 'heads', end: 'up' },
      { slider: 'head', end: 'down' },
    ],
    // it has shrunk already
    move: sum([headSize, 0.5]),
  },
  {
    id: 'small head on a thick neck',
    when: [
      { slider: 'heads', end: 'up' },
      { slider: 'neck', end: 'up' },
    ],
    move: sum([neck, -0.5]),
  },
  {
    id: 'lean and slight',
    when: [
      { slider: 'heft', end: 'down' },
      { slider: 'build', end: 'down' },
    ],
    move: sum([fat, 0.3]),
  },
  {
    id: 'broad and heavy',
    when: [
      { slider: 'build', end: 'up' },
      { slider: 'heft', end: 'up' },
    ],
    // the arms need more room than both ask for alone; thighs meet
    move: sum([shiftArms(0.9), 1], [thighs, -0.25]),
  },
]
