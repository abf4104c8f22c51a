import type { BodyDef } from '@idle-tinker/core'
import { slider, STILL, sum, type Field, type SliderSpec } from '../../folk/sliders/fields.ts'
import type { CorrectiveSpec } from '../../folk/sliders/whole.ts'
import type { Point } from '../../model/Sculpt.ts'
import { add, bump, clamp, scale, smoothstep, sub, type V3 } from '../../model/vector.ts'
import { smallerWith } from '../correctives.ts'
import { eyeMovements } from '../eyeMoods.ts'
import { FORE, HIND } from './body.ts'

/*
 * What can be told of a gulper's shape.
 */

const side = (p: Point) => (p.at[0] >= 0 ? 1 : -1)
const isLeg = (p: Point) => p.limb.endsWith('Leg') || p.limb.endsWith('Foot')
const isHind = (p: Point) => p.limb.includes('Hind')
const trunk = (p: Point) => p.limb === 'torso' || p.limb === 'tongue'
const MIDDLE: V3 = [0, 45, 0]
/** Where the mouth's line lies at a place of the front. */
const LIPS = 47.5

const onTrunk =
  (move: (x: number, y: number, z: number, p: Point) => V3): Field =>
  (p) => {
    if (!trunk(p)) return STILL
    const d = move(Math.abs(p.at[0]), p.at[1], p.at[2], p)
    return [side(p) * d[0], d[1], d[2]]
  }
/** How much of what the trunk does a leg's root does: none at the foot. */
const rooted = (p: Point) => {
  const { hip } = isHind(p) ? HIND : FORE
  return p.limb.endsWith('Foot') ? 0 : clamp((p.at[1] - 6) / (hip[1] - 8), 0, 1)
}
const withRoots =
  (field: Field, root: (p: Point) => V3): Field =>
  (p) =>
    isLeg(p) ? scale(root(p), rooted(p)) : field(p)

const stature: Field = (p) => scale(p.at, 0.18)
// what widens the trunk takes all of each leg outwards
const girth: Field = (p) =>
  isLeg(p) ? [side(p) * (isHind(p) ? 5 : 3), 0, 0] : trunk(p) ? [p.at[0] * 0.13, 0, 0] : STILL
const deep: Field = (p) =>
  isLeg(p) ? [0, 0, isHind(p) ? -1.6 : 3] : trunk(p) ? [0, 0, (p.at[2] - MIDDLE[2]) * 0.12] : STILL
const height = onTrunk((_x, y) => [0, Math.max(0, y - LIPS) * 0.36, 0])
/** 0 where a leg grows out of the trunk, 1 away from there. */
const awayFromLegs = (x: number, y: number, z: number) =>
  (1 - bump(Math.hypot(x - 23, y - 20, z - 25), 0, 15)) * (1 - bump(Math.hypot(x - 38, y - 30, z + 12), 0, 15))
const belly = onTrunk((x, y, z) => {
  const t = smoothstep(40, 20, y) * smoothstep(46, 20, Math.abs(z)) * awayFromLegs(x, y, z)
  return [x * 0.05 * t, -4.2 * t, 2 * t]
})
const gapeUp = (x: number, y: number, z: number) => {
  const near = smoothstep(6, 34, z) * smoothstep(46, 26, x)
  return y >= LIPS ? near * smoothstep(LIPS, 54, y) : -near * smoothstep(LIPS, 41, y) * smoothstep(17, 31, y)
}
const gape = onTrunk((x, y, z) => {
  const t = gapeUp(x, y, z)
  return [0, (t > 0 ? 5.5 : 7.5) * t, -1.2 * Math.abs(t)]
})
const mouthWide = onTrunk((x, y, z) => {
  const t = bump(y, LIPS, 12) * smoothstep(-14, 16, z) * smoothstep(16, 42, x)
  return [3.4 * t, 0, -2.6 * t]
})
const lips = (p: Point): V3 =>
  p.row >= 0 && p.row <= 1 && p.limb === 'torso' ? scale(p.out, p.row === 1 ? 2.2 : 1.1) : STILL
const brow = onTrunk((x, y, z) => {
  const t = bump(y, 66, 8) * smoothstep(8, 34, z) * smoothstep(48, 20, x)
  return [0, 0.8 * t, 4.2 * t]
})
const jaw = onTrunk((x, y, z) => {
  const t = smoothstep(LIPS, 40, y) * smoothstep(14, 24, y) * smoothstep(4, 30, z) * smoothstep(50, 24, x)
  return [0, 1.2 * t, 5 * t]
})
const hump = onTrunk((x, y, z) => {
  const t = smoothstep(52, 74, y) * bump(z, -16, 20) * smoothstep(46, 8, x)
  return [0, 6.4 * t, -1.5 * t]
})
const rump = onTrunk((x, y, z) => {
  const t = smoothstep(-20, -46, z) * bump(y, 46, 24)
  return [-x * 0.12 * t, 3 * t, -8 * t]
})
const hindLength: Field = (p) => {
  // the fold opens: the whole stands higher behind, the knee goes up and forward
  if (isLeg(p) && isHind(p)) {
    if (p.limb.endsWith('Foot')) return [side(p) * 1.2, 0, 0.6]
    const t = rooted(p)
    return [side(p) * 1.2, 5.5 * t, 5.5 * bump(p.at[2], 12, 9) * t]
  }
  if (!trunk(p)) return STILL
  return [0, 5.5 * smoothstep(30, -20, p.at[2]), 0]
}
const thighs: Field = (p) =>
  isLeg(p) && isHind(p) && p.limb.endsWith('Leg') ? scale(p.out, 2.4 * smoothstep(52, 18, p.u)) : STILL
const foreLength: Field = withRoots(
  onTrunk((_x, _y, z) => [0, 4.6 * smoothstep(-24, 26, z), 0]),
  (p) => (isHind(p) ? STILL : [0, 4.6, 0]),
)
const foreThick: Field = (p) =>
  isLeg(p) && !isHind(p) && p.limb.endsWith('Leg') ? scale(p.out, 1.3 * smoothstep(26, 16, p.at[1])) : STILL
const feet: Field = (p) => {
  if (!p.limb.endsWith('Foot')) return STILL
  const { ankle } = isHind(p) ? HIND : FORE
  return scale([p.at[0] - side(p) * ankle[0], 0, p.at[2] - ankle[2]], 0.26)
}

/** A froglet: small, with a great mouth on it and legs that are hardly there. */
const froglet: Field = (p) => {
  const young = sum(
    [hindLength, -0.8],
    [thighs, -0.8],
    [foreLength, -0.5],
    [height, 0.7],
    [feet, -0.4],
    [rump, 0.7],
    [gape, -0.4],
  )
  return sub(scale(add(p.at, young(p)), 0.5), p.at)
}
const old = sum([belly, 0.9], [brow, 0.8], [jaw, 0.6], [hump, 0.6], [lips, 0.8], [thighs, -0.5], [height, -0.3])

export const GULPER_SLIDERS: SliderSpec[] = [
  slider('stature', 'Size', 'whole', ['small', 'huge'], stature, -1, ['crown', [0, 1, 0]]),
  slider('girth', 'Girth', 'whole', ['narrow', 'broad'], girth, -0.9, ['flank', [1, 0, 0]]),
  { id: 'years', name: 'Years', group: 'whole', ends: ['froglet', 'very old'], up: old, down: froglet },
  slider('height', 'Skull', 'head', ['flat', 'high'], height, -0.7),
  slider('brow', 'Brow', 'head', ['receding', 'overhanging'], brow, -0.8),
  slider('gape', 'Mouth', 'head', ['nearly shut', 'wide open'], gape, -0.95, ['chin', [0, -1, 0]]),
  slider('mouth-width', 'Mouth width', 'head', ['narrow', 'ear to ear'], mouthWide, -1, ['leftCorner', [1, 0, 0]]),
  slider('lips', 'Lips', 'head', ['thin', 'full'], lips, -0.6),
  slider('jaw', 'Jaw', 'head', ['receding', 'thrust out'], jaw, -0.8, ['chin', [0, 0, 1]]),
  slider('deep', 'Length', 'torso', ['short', 'long'], deep, -0.9),
  slider('belly', 'Belly', 'torso', ['tucked', 'hanging'], belly, -0.8, ['belly', [0, -1, 0]]),
  slider('hump', 'Back', 'torso', ['sloping', 'humped'], hump, -0.6),
  slider('rump', 'Rump', 'torso', ['round', 'pointed'], rump, -0.5, ['rump', [0, 0, -1]]),
  slider('hind-legs', 'Hind legs', 'legs', ['short', 'long'], hindLength, -0.8, ['leftHindLowerLeg', [0, 1, 0]]),
  slider('thighs', 'Thighs', 'legs', ['slight', 'mighty'], thighs, -0.8),
  slider('fore-legs', 'Fore legs', 'legs', ['short', 'long'], foreLength, -0.8),
  slider('fore-thick', 'Arms', 'legs', ['thin', 'thick'], foreThick, -0.6),
  slider('feet', 'Feet', 'legs', ['small', 'large'], feet, -0.45),
]

/** On a froglet everything else is as much smaller as the froglet is. */
export const GULPER_CORRECTIVES: CorrectiveSpec[] = smallerWith('froglet', GULPER_SLIDERS, 0.5, {
  'hind-legs down': 0.1,
  'fore-legs down': 0.2,
  'thighs down': 0.1,
  'feet down': 0.2,
  'height up': 0.3,
  'rump up': 0.2,
})

export const GULPER_GROUPS: BodyDef['sliderGroups'] = [
  { id: 'whole', name: 'Whole figure' },
  { id: 'head', name: 'Head and mouth' },
  { id: 'torso', name: 'Trunk' },
  { id: 'legs', name: 'Legs' },
  { id: 'moving', name: 'Eyes, moving', moves: true },
]

const frown = onTrunk((x, y, z) => [0, 1.4 * bump(y, 72, 5) * smoothstep(10, 26, x) * smoothstep(4, 26, z), 0])

export const GULPER_MOVEMENTS = eyeMovements(frown)
