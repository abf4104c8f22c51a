import { add, bump, scale, smoothstep, type V3 } from '../../model/vector.ts'
import { ARM_UP } from '../proportions.ts'
import {
  around,
  belowHead,
  type Field,
  is,
  onArms,
  onTrunk,
  shiftArms,
  side,
  slider,
  type SliderSpec,
  STILL,
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
  slider('neck', 'Neck', 'neck', ['thin', 'thick'], neck, -0.7, ['neckSide', [1, 0, 0]]),
  slider('neck-length', 'Neck length', 'neck', ['short', 'long'], neckLength, -0.8, ['neckSide', [0, 1, 0]]),
  slider('neck-forward', 'Head carried', 'neck', ['back', 'forward'], neckForward, -0.6),
  slider('neck-slope', 'Neck to shoulder', 'neck', ['hollow', 'sloping'], slope, -0.55),
  slider('shoulders', 'Shoulders', 'torso', ['narrow', 'wide'], shoulders, -1, ['leftDeltoid', [1, 0, 0]]),
  slider('shoulder-height', 'Shoulder height', 'torso', ['hanging', 'square'], shoulderHeight, -1, [
    'leftDeltoid',
    [0, 1, 0],
  ]),
  slider('deltoids', 'Shoulder roundness', 'torso', ['flat', 'round'], deltoids, -0.6),
  slider('chest', 'Chest', 'torso', ['flat', 'deep'], chest, -0.8, ['breastbone', [0, 0, 1]]),
  slider('ribs', 'Rib cage', 'torso', ['narrow', 'wide'], ribs, -0.8, ['ribSide', [1, 0, 0]]),
  slider('bust', 'Bust', 'torso', ['none', 'full'], bust, -0.15, ['leftBreast', [0, 0, 1]]),
  slider('bust-height', 'Bust height', 'torso', ['low', 'high'], bustHeight, -0.8, ['leftBreast', [0, 1, 0]]),
  slider('back', 'Upper back', 'torso', ['flat', 'rounded'], back, -0.35, ['shoulderBlades', [0, 0, -1]]),
  slider('waist', 'Waist', 'torso', ['narrow', 'wide'], waist, -0.8, ['waist', [1, 0, 0]]),
  slider('waist-height', 'Waist height', 'torso', ['low', 'high'], waistHeight, -0.9, ['waist', [0, 1, 0]]),
  slider('belly', 'Belly', 'torso', ['flat', 'round'], belly, -0.2, ['belly', [0, 0, 1]]),
  slider('belly-height', 'Belly height', 'torso', ['low', 'high'], bellyHeight, -0.8, ['belly', [0, 1, 0]]),
  slider('flanks', 'Flanks', 'torso', ['drawn in', 'full'], flanks, -0.6),
  slider('hips', 'Hips', 'hips', ['narrow', 'wide'], hips, -0.7, ['hipSide', [1, 0, 0]]),
  slider('pelvis', 'Small of the back', 'hips', ['straight', 'hollow'], pelvis, -0.5),
  slider('seat', 'Seat', 'hips', ['flat', 'full'], seat, -0.6, ['seat', [0, 0, -1]]),
  slider('seat-height', 'Seat height', 'hips', ['low', 'high'], seatHeight, -0.8, ['seat', [0, 1, 0]]),
]
