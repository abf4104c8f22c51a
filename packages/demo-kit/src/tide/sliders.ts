import type { Point } from '../model/Sculpt.ts'
import { bump, scale, smoothstep, sub, type V3 } from '../model/vector.ts'
import type { Field, SliderSpec } from '../folk/sliders.ts'
import { OTTERN_ARM } from './ottern.ts'

const arm = (p: Point) => p.limb.endsWith('Arm') || p.limb.endsWith('Hand')
const leg = (p: Point) => p.limb.endsWith('Leg') || p.limb.endsWith('Foot')
const side = (p: Point) => (p.at[0] >= 0 ? 1 : -1)
const opposite =
  (f: Field, k = -1): Field =>
  (p) =>
    scale(f(p), k)

const stature: Field = (p) => {
  const y = arm(p) ? 66 : Math.min(p.at[1], 75)
  return [0, p.limb === 'tail' ? 0 : 0.16 * Math.max(0, y - 12), 0]
}
const girth: Field = (p) => {
  const [x, y, z] = p.at
  if (arm(p)) return [side(p) * 1.5, 0, 0]
  if (leg(p)) return [side(p) * 0.9 * smoothstep(4, 18, y), 0, 0]
  if (p.limb !== 'torso') return p.limb === 'neck' ? [x * 0.08, 0, z * 0.08] : [0, 0, 0]
  const low = 0.1 + 0.12 * bump(y, 36, 16)
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
  const u = Math.max(0, Math.min(p.u, 23)) * 0.26
  return [side(p) * OTTERN_ARM[0] * u, OTTERN_ARM[1] * u, OTTERN_ARM[2] * u]
}
const ears: Field = (p) => (p.limb === 'ear' ? scale(sub(p.at, [side(p) * 11, 91.6, -2.6]), 0.7) : [0, 0, 0])
const paws: Field = (p) => {
  if (p.limb.endsWith('Hand')) {
    const c: V3 = [side(p) * 23.7, 49, 5.5]
    return scale(sub(p.at, c), 0.22)
  }
  return p.limb.endsWith('Foot') ? [(p.at[0] - side(p) * 10.2) * 0.2, 0, p.at[2] * 0.2] : [0, 0, 0]
}

export const OTTERN_SLIDERS: SliderSpec[] = [
  {
    id: 'stature',
    name: 'Stature',
    group: 'whole',
    ends: ['short', 'tall'],
    up: stature,
    down: opposite(stature),
    pull: { landmark: 'crown', direction: [0, 1, 0] },
  },
  {
    id: 'girth',
    name: 'Girth',
    group: 'whole',
    ends: ['lean', 'stout'],
    up: girth,
    down: opposite(girth, -0.8),
    pull: { landmark: 'hipSide', direction: [1, 0, 0] },
  },
  {
    id: 'arms',
    name: 'Arm length',
    group: 'arms',
    ends: ['short', 'long'],
    up: arms,
    down: opposite(arms, -0.8),
    pull: { landmark: 'leftHand', direction: [0.4, -0.9, 0] },
  },
  { id: 'paws', name: 'Paws', group: 'arms', ends: ['small', 'large'], up: paws, down: opposite(paws, -0.7) },
  { id: 'head', name: 'Head', group: 'head', ends: ['small', 'large'], up: head, down: opposite(head, -0.8) },
  {
    id: 'muzzle',
    name: 'Muzzle',
    group: 'head',
    ends: ['blunt', 'long'],
    up: muzzle,
    down: opposite(muzzle, -0.7),
    pull: { landmark: 'chin', direction: [0, 0, 1] },
  },
  { id: 'cheeks', name: 'Cheeks', group: 'head', ends: ['lean', 'full'], up: cheeks, down: opposite(cheeks, -0.8) },
  { id: 'ears', name: 'Ears', group: 'head', ends: ['small', 'large'], up: ears, down: opposite(ears, -0.45) },
  {
    id: 'tail-length',
    name: 'Tail length',
    group: 'tail',
    ends: ['short', 'long'],
    up: tail,
    down: opposite(tail, -0.8),
  },
  {
    id: 'tail-girth',
    name: 'Tail thickness',
    group: 'tail',
    ends: ['thin', 'thick'],
    up: tailThick,
    down: opposite(tailThick, -0.7),
  },
]
