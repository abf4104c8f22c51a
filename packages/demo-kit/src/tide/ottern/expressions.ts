import type { BodyDef } from '@idle-tinker/core'
import type { Point } from '../../model/Sculpt.ts'
import { bump, smoothstep } from '../../model/vector.ts'
import { face, mood, type Expressions } from '../../folk/expressions.ts'
import { STILL, times, type Field, type SliderSpec } from '../../folk/sliders/fields.ts'

/*
 * How an ottern's face moves: lids and ears tell most, the line of the mouth and the muzzle the rest.
 */
const side = (p: Point) => (p.at[0] >= 0 ? 1 : -1)
const onHead =
  (move: (x: number, y: number, z: number) => readonly [number, number, number]): Field =>
  (p) => {
    if (p.limb !== 'head') return STILL
    const d = move(Math.abs(p.at[0]), p.at[1], p.at[2])
    return [side(p) * d[0], d[1], d[2]]
  }
/** The line of the mouth is a piece of its own; it leaves the skin nowhere. */
const mouth =
  (by: (x: number) => readonly [number, number, number]): Field =>
  (p) => {
    if (p.spot !== 'mouth') return STILL
    const d = by(Math.abs(p.at[0]))
    return [side(p) * d[0], d[1], d[2]]
  }
const ear =
  (move: (p: Point) => readonly [number, number, number]): Field =>
  (p) =>
    p.limb === 'ear' ? (move(p) as [number, number, number]) : STILL

const browAt = (x: number, y: number, z: number) => bump(y, 90.6, 2) * bump(x, 5.5, 4) * smoothstep(3, 8, z)
const brow = onHead((x, y, z) => [0, 0.9 * browAt(x, y, z), 0.1 * browAt(x, y, z)])
const cheek = onHead((x, y, z) => {
  const near = bump(y, 83, 2.6) * smoothstep(4, 9, x) * smoothstep(1, 7, z)
  return [0.5 * near, 0.7 * near, 0.5 * near]
})
const wrinkle = onHead((x, y, z) => {
  const near = smoothstep(9, 15, z) * bump(y, 86.5, 2.6) * bump(x, 2.5, 3.5)
  return [0, 0.9 * near, -0.5 * near]
})
const puff = onHead((x, y, z) => {
  const near = bump(y, 82.5, 3.4) * smoothstep(3, 8, x) * smoothstep(2, 9, z)
  return [1.6 * near, 0, 0.6 * near]
})
const cornersUp = mouth((x) => [
  0.2 * smoothstep(1, 5.9, x),
  1.7 * smoothstep(0.6, 5.9, x),
  -0.15 * smoothstep(1, 5.9, x),
])
const cornersDown = mouth((x) => [0, -1.1 * smoothstep(1.2, 5.9, x), -0.35 * smoothstep(1, 5.9, x)])

const move = (id: string, name: string, group: string, ends: [string, string], up: Field, max = 1.25): SliderSpec => ({
  id,
  name,
  group,
  ends,
  range: [0, max],
  up,
})
const lid = times(brow, 0.18)

export const OTTERN_MOVEMENTS: SliderSpec[] = [
  move('blink', 'Lids', 'moving-eyes', ['open', 'shut'], times(lid, -1), 1),
  move('squint', 'Squint', 'moving-eyes', ['at rest', 'squinting'], times(cheek, 0.3), 1),
  move('wide', 'Eyes wide', 'moving-eyes', ['at rest', 'wide'], lid, 1),
  move('lid-frown', 'Lids frowning', 'moving-eyes', ['at rest', 'frowning'], times(brow, -0.5)),
  move('lid-sorrow', 'Lids drooping', 'moving-eyes', ['at rest', 'drooping'], times(brow, 0.3)),
  {
    id: 'gaze-side',
    name: 'Look to the side',
    group: 'moving-eyes',
    ends: ['to their right', 'to their left'],
    up: times(lid, 0.3),
    down: times(lid, -0.3),
  },
  { id: 'gaze-up', name: 'Look up or down', group: 'moving-eyes', ends: ['down', 'up'], up: lid, down: times(lid, -1) },
  move('brow-up', 'Brow raised', 'moving-eyes', ['at rest', 'raised'], brow),
  {
    ...move('smile', 'Smile', 'moving-muzzle', ['at rest', 'smiling'], (p) => {
      const [a, b] = [cornersUp(p), cheek(p)]
      return [a[0] + b[0], a[1] + b[1], a[2] + b[2]]
    }),
    pull: { landmark: 'chin', direction: [0, 1, 0] },
  },
  move('frown', 'Corners down', 'moving-muzzle', ['at rest', 'down'], cornersDown),
  move('wrinkle', 'Nose wrinkled', 'moving-muzzle', ['at rest', 'wrinkled'], wrinkle),
  move('puff', 'Cheeks puffed', 'moving-muzzle', ['at rest', 'puffed'], puff),
  {
    ...move(
      'ears-back',
      'Ears back',
      'moving-ears',
      ['at rest', 'laid back'],
      ear((p) => [side(p) * -0.9, -1.9, -2.6]),
    ),
    pull: { landmark: 'leftEar', direction: [0, 0, -1] },
  },
  {
    ...move(
      'ears-up',
      'Ears up',
      'moving-ears',
      ['at rest', 'pricked'],
      ear((p) => [side(p) * -0.3, 1.5 + (p.at[1] - 92) * 0.14, 0.7]),
    ),
    pull: { landmark: 'leftEar', direction: [0, 1, 0] },
  },
]

export const OTTERN_MOVING: BodyDef['sliderGroups'] = [
  { id: 'moving-eyes', name: 'Eyes, moving', moves: true },
  { id: 'moving-muzzle', name: 'Muzzle, moving', moves: true },
  { id: 'moving-ears', name: 'Ears, moving', moves: true },
]

export const OTTERN_EXPRESSIONS: Expressions = [
  mood('glad', 'Glad', { smile: 1, squint: 0.55, 'brow-up': 0.4, 'ears-up': 0.5 }, 'happy'),
  mood('sly', 'Sly', { smile: [1, 0.1], blink: 0.35, 'lid-frown': [0, 0.5], squint: 0.3, 'ears-back': [0, 0.5] }),
  mood('winking', 'Winking', { smile: [0.5, 0.9], blink: [0, 1], 'brow-up': [0.6, 0], 'ears-up': [0.8, 0] }),
  mood('surprised', 'Surprised', { wide: 1, 'brow-up': 1, 'ears-up': 1.2, puff: 0.3 }, 'surprised'),
  mood('afraid', 'Afraid', { wide: 0.8, 'lid-sorrow': 0.8, frown: 0.8, 'ears-back': 1.1 }),
  mood('sad', 'Sad', { frown: 1, 'lid-sorrow': 1.1, blink: 0.25, 'ears-back': 0.5, 'gaze-up': -0.4 }, 'sad'),
  mood('weary', 'Weary', { frown: 0.4, blink: 0.6, 'lid-sorrow': 0.6, 'ears-back': 0.6, 'gaze-up': -0.3 }, 'relaxed'),
  mood('asleep', 'Asleep', { blink: 1, smile: 0.15, 'ears-back': 0.4 }),
  mood('disgusted', 'Disgusted', {
    wrinkle: 1.1,
    frown: [0.4, 0.9],
    'lid-frown': [0.4, 0.9],
    squint: 0.6,
    'ears-back': 0.7,
  }),
  mood('angry', 'Angry', { 'lid-frown': 1.2, frown: 0.9, wrinkle: 0.6, 'ears-back': 1.2 }, 'angry'),
  face('blink-both', 'Blink', { blink: 1 }, 'blink'),
  face('blink-left', 'Blink, left', { blink: [1, 0] }, 'blinkLeft'),
  face('blink-right', 'Blink, right', { blink: [0, 1] }, 'blinkRight'),
  face('look-up', 'Look up', { 'gaze-up': 1 }, 'lookUp'),
  face('look-down', 'Look down', { 'gaze-up': -1 }, 'lookDown'),
  face('look-left', 'Look left', { 'gaze-side': 1 }, 'lookLeft'),
  face('look-right', 'Look right', { 'gaze-side': -1 }, 'lookRight'),
]
