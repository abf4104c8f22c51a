import { add, bump, scale, smoothstep, type V3 } from '../../model/vector.ts'
import { ARM_UP } from '../proportions.ts'
import {
  around,
  belowHead,
  is,
  onArms,
  onTrunk,
  shiftArms,
  side,
  STILL,
  times,
  type Field,
  type SliderSpec,
} from './fields.ts'

export const shoulders = shiftArms(2.1)

export const chest = onTrunk((x, y, z) => [x * 0.07 * bump(y, 71, 7), 0, (z + 0.5) * 0.22 * bump(y, 71, 6.5)])

export const ribs: Field = (p) => {
  if (onArms(p)) return [side(p) * 0.8, 0, 0]
  if (p.limb !== 'torso') return STILL
  const near = bump(p.at[1], 64.5, 4.6)
  return [p.at[0] * 0.13 * near, 0, (p.at[2] + 0.5) * 0.06 * near]
}

export const bust = onTrunk((x, y, z) => [
  0,
  -0.4 * bump(y, 70, 4),
  z > 0 ? 3.0 * bump(y, 69.5, 3.8) * bump(Math.abs(x), 5.2, 3.4) : 0,
])

const bustHeight = onTrunk((x, y, z) => [
  0,
  z > 0 ? 2.2 * bump(y, 70, 4.5) * bump(Math.abs(x), 4.5, 4) : 0,
  z > 0 ? 0.5 * bump(y, 73, 3) * bump(Math.abs(x), 4.5, 4) : 0,
])

const back = onTrunk((_x, y, z) => [
  0,
  0,
  z < 0 ? -2.4 * bump(y, 73, 6) * smoothstep(0, -6, z) - 0.8 * bump(y, 65, 5) * smoothstep(0, -5, z) : 0,
])

export const belly = onTrunk((x, y, z) => {
  const low = bump(y, 56, 8)
  return [x * 0.2 * low, -0.5 * low * smoothstep(0, 6, z), 4.6 * low * smoothstep(-3, 5, z)]
})

const bellyHeight = onTrunk((_x, y, z) => [0, 0, smoothstep(0, 6, z) * (1.9 * bump(y, 62.5, 4) - 1.5 * bump(y, 54, 4))])

export const waist = onTrunk((x, y, z) => [x * 0.22 * bump(y, 60, 6), 0, (z + 0.5) * 0.16 * bump(y, 60, 6)])

const waistHeight = onTrunk((x, y, z) => {
  // the narrowest place rises: what was narrow below fills out, what is above draws in
  const [below, above] = [bump(y, 56.4, 2.6), bump(y, 65.4, 3)]
  return [x * (0.09 * below - 0.09 * above), 1.6 * bump(y, 60.4, 4), (z + 0.5) * (0.05 * below - 0.04 * above)]
})

export const flanks = onTrunk((x, y, z) => [
  side({ at: [x, y, z] } as never) * 1.7 * bump(y, 55.5, 3.2) * smoothstep(3, 9, Math.abs(x)),
  0,
  z < 0 ? -0.6 * bump(y, 55.5, 3.4) : 0,
])

export const hips: Field = (p) => {
  const [x, y, z] = p.at
  if (p.limb === 'torso') return [x * 0.17 * bump(y, 49, 6.5), 0, (z < 0 ? z * 0.18 : 0) * bump(y, 48, 6)]
  if (is(p, 'Leg')) {
    const f = smoothstep(22, 44, y)
    return add([side(p) * 0.9 * f, 0, 0], scale(p.out, 0.7 * f))
  }
  return STILL
}

export const seat: Field = (p) => {
  const [x, y, z] = p.at
  if (p.limb !== 'torso' && !is(p, 'Leg')) return STILL
  const near = bump(y, 46.5, 5) * smoothstep(-1, -6, z)
  return [0, 0, -2.6 * near * (0.55 + 0.45 * bump(Math.abs(x), 4.5, 3.5))]
}

const seatHeight: Field = (p) => {
  const [, y, z] = p.at
  if (p.limb !== 'torso' && !is(p, 'Leg')) return STILL
  const behind = smoothstep(-1, -6, z)
  return [0, 1.3 * bump(y, 45.5, 4) * behind, behind * (-0.9 * bump(y, 50, 3) + 0.8 * bump(y, 41.5, 3.2))]
}

const pelvis: Field = (p) => {
  // the pelvis tips: the belly's lower edge comes forward, the small of the back hollows
  const [, y, z] = p.at
  if (p.limb !== 'torso') return STILL
  return [0, 0, 1.3 * bump(y, 58, 4.5) * smoothstep(2, -6, z) + 0.7 * bump(y, 55, 5) * smoothstep(0, 5, z)]
}

const shoulderHeight = (p: Parameters<Field>[0]): V3 => shiftArms(0, 1.7)(p)

/** The cap of the shoulder; the armpit below it keeps its place. */
export const deltoids = around('Arm', (u, p) => {
  const above = p.out[0] * ARM_UP[0] * side(p) + p.out[1] * ARM_UP[1]
  return 1.1 * bump(u, 3.4, 3.2) * smoothstep(-0.2, 0.6, above)
})

export const neck: Field = (p) =>
  p.limb === 'neck' ? scale([p.at[0] * 0.26, 0, (p.at[2] + 1.4) * 0.22], belowHead(p)) : STILL

/** The head rides on the neck; the neck alone becomes longer. */
const neckLength: Field = (p) => {
  if (p.limb === 'head' || p.limb === 'ear') return [0, 2.3, 0]
  return p.limb === 'neck' ? [0, 2.3 * smoothstep(79, 83.5, p.at[1]), 0] : STILL
}

const neckForward: Field = (p) => {
  if (p.limb === 'head' || p.limb === 'ear') return [0, -0.3, 1.7]
  return p.limb === 'neck' ? scale([0, -0.3, 1.7], smoothstep(79, 83.5, p.at[1])) : STILL
}

/** The slope from neck to shoulder. */
export const slope: Field = (p) => {
  const [x, y, z] = p.at
  if (p.limb === 'neck') {
    const low = smoothstep(83, 79.5, y)
    return [side(p) * Math.min(1, Math.abs(x) / 3) * 1.3 * low, 1.2 * low, 0]
  }
  if (p.limb !== 'torso') return STILL
  const near = bump(y, 78.6, 1.8) * bump(Math.abs(x), 5.5, 3.6)
  return [0, 1.7 * near, z < 0 ? -0.4 * near : 0]
}

export const TRUNK_SLIDERS: SliderSpec[] = [
  {
    id: 'neck',
    name: 'Neck',
    group: 'neck',
    ends: ['thin', 'thick'],
    up: neck,
    down: times(neck, -0.7),
    pull: { landmark: 'neckSide', direction: [1, 0, 0] },
  },
  {
    id: 'neck-length',
    name: 'Neck length',
    group: 'neck',
    ends: ['short', 'long'],
    up: neckLength,
    down: times(neckLength, -0.8),
    pull: { landmark: 'neckSide', direction: [0, 1, 0] },
  },
  {
    id: 'neck-forward',
    name: 'Head carried',
    group: 'neck',
    ends: ['back', 'forward'],
    up: neckForward,
    down: times(neckForward, -0.6),
  },
  {
    id: 'neck-slope',
    name: 'Neck to shoulder',
    group: 'neck',
    ends: ['hollow', 'sloping'],
    up: slope,
    down: times(slope, -0.55),
  },
  {
    id: 'shoulders',
    name: 'Shoulders',
    group: 'torso',
    ends: ['narrow', 'wide'],
    up: shoulders,
    down: times(shoulders, -1),
    pull: { landmark: 'leftDeltoid', direction: [1, 0, 0] },
  },
  {
    id: 'shoulder-height',
    name: 'Shoulder height',
    group: 'torso',
    ends: ['hanging', 'square'],
    up: shoulderHeight,
    down: times(shoulderHeight, -1),
    pull: { landmark: 'leftDeltoid', direction: [0, 1, 0] },
  },
  {
    id: 'deltoids',
    name: 'Shoulder roundness',
    group: 'torso',
    ends: ['flat', 'round'],
    up: deltoids,
    down: times(deltoids, -0.6),
  },
  {
    id: 'chest',
    name: 'Chest',
    group: 'torso',
    ends: ['flat', 'deep'],
    up: chest,
    down: times(chest, -0.8),
    pull: { landmark: 'breastbone', direction: [0, 0, 1] },
  },
  {
    id: 'ribs',
    name: 'Rib cage',
    group: 'torso',
    ends: ['narrow', 'wide'],
    up: ribs,
    down: times(ribs, -0.8),
    pull: { landmark: 'ribSide', direction: [1, 0, 0] },
  },
  {
    id: 'bust',
    name: 'Bust',
    group: 'torso',
    ends: ['none', 'full'],
    up: bust,
    down: times(bust, -0.15),
    pull: { landmark: 'leftBreast', direction: [0, 0, 1] },
  },
  {
    id: 'bust-height',
    name: 'Bust height',
    group: 'torso',
    ends: ['low', 'high'],
    up: bustHeight,
    down: times(bustHeight, -0.8),
    pull: { landmark: 'leftBreast', direction: [0, 1, 0] },
  },
  {
    id: 'back',
    name: 'Upper back',
    group: 'torso',
    ends: ['flat', 'rounded'],
    up: back,
    down: times(back, -0.35),
    pull: { landmark: 'shoulderBlades', direction: [0, 0, -1] },
  },
  {
    id: 'waist',
    name: 'Waist',
    group: 'torso',
    ends: ['narrow', 'wide'],
    up: waist,
    down: times(waist, -0.8),
    pull: { landmark: 'waist', direction: [1, 0, 0] },
  },
  {
    id: 'waist-height',
    name: 'Waist height',
    group: 'torso',
    ends: ['low', 'high'],
    up: waistHeight,
    down: times(waistHeight, -0.9),
    pull: { landmark: 'waist', direction: [0, 1, 0] },
  },
  {
    id: 'belly',
    name: 'Belly',
    group: 'torso',
    ends: ['flat', 'round'],
    up: belly,
    down: times(belly, -0.2),
    pull: { landmark: 'belly', direction: [0, 0, 1] },
  },
  {
    id: 'belly-height',
    name: 'Belly height',
    group: 'torso',
    ends: ['low', 'high'],
    up: bellyHeight,
    down: times(bellyHeight, -0.8),
    pull: { landmark: 'belly', direction: [0, 1, 0] },
  },
  { id: 'flanks', name: 'Flanks', group: 'torso', ends: ['drawn in', 'full'], up: flanks, down: times(flanks, -0.6) },
  {
    id: 'hips',
    name: 'Hips',
    group: 'hips',
    ends: ['narrow', 'wide'],
    up: hips,
    down: times(hips, -0.7),
    pull: { landmark: 'hipSide', direction: [1, 0, 0] },
  },
  {
    id: 'pelvis',
    name: 'Small of the back',
    group: 'hips',
    ends: ['straight', 'hollow'],
    up: pelvis,
    down: times(pelvis, -0.5),
  },
  {
    id: 'seat',
    name: 'Seat',
    group: 'hips',
    ends: ['flat', 'full'],
    up: seat,
    down: times(seat, -0.6),
    pull: { landmark: 'seat', direction: [0, 0, -1] },
  },
  {
    id: 'seat-height',
    name: 'Seat height',
    group: 'hips',
    ends: ['low', 'high'],
    up: seatHeight,
    down: times(seatHeight, -0.8),
    pull: { landmark: 'seat', direction: [0, 1, 0] },
  },
]
