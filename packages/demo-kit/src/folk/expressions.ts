import type { BodyDef } from '@idle-tinker/core'
import type { Point } from '../model/Sculpt.ts'
import { curve, smoothstep, type V3 } from '../model/vector.ts'
import { HEAD_UNIT } from './proportions.ts'
import { inHead, onHead, side, spots, STILL, times, type Field, type SliderSpec } from './sliders/fields.ts'
import type { CorrectiveSpec } from './sliders/whole.ts'

/*
 * How the human face moves: components, each a slider of its own, and the faces they add up to. The
 * amounts are those the study of faces came to, in head units; the jaw turns, everything else is added.
 */

// the mouth
const smile = spots({
  corner0: [0.28, 0.5, -0.18],
  highRim1: [0.16, 0.12, -0.04],
  highLip1: [0.18, 0.14, -0.05],
  lowLip1: [0.18, 0.08, -0.05],
  lowRim1: [0.14, 0.08, -0.05],
  highRim0: [0, -0.04, -0.05],
  lowLip0: [0, -0.06, -0.02],
  nose2: [0.08, 0.18, 0.16],
  lowLid2: [0, 0.1, 0.06],
})
const frown = spots({
  corner0: [0.05, -0.28, -0.03],
  highRim1: [0.02, -0.12, -0.02],
  highLip1: [0.03, -0.14, -0.02],
  lowLip1: [0.03, -0.14, -0.02],
  highRim0: [0, -0.06, -0.02],
  lowRim0: [0, 0.05, 0.04],
  chin0: [0, 0.08, 0.06],
})
const stretch = spots({
  corner0: [0.24, 0, -0.13],
  highRim1: [0.13, 0, -0.03],
  highLip1: [0.16, 0, -0.03],
  lowLip1: [0.18, 0, -0.04],
  lowRim1: [0.12, 0, -0.03],
})
const pucker = spots({
  corner0: [-0.74, 0.02, 0.62],
  highRim1: [-0.22, 0, 0.24],
  highLip1: [-0.27, 0, 0.34],
  lowLip1: [-0.27, 0.02, 0.34],
  lowRim1: [-0.24, 0.05, 0.26],
  highRim0: [0, 0, 0.2],
  lowRim0: [0, 0, 0.2],
  highLip0: [0, 0, 0.3],
  lowLip0: [0, 0, 0.3],
  highTeeth: [0, 0, -0.4],
  highTeethTop: [0, 0, -0.4],
  lowTeeth: [0, 0, -0.4],
})
const lipUp = spots({
  highRim0: [0, 0.08, 0],
  highLip0: [0, 0.12, 0],
  highRim1: [0.03, 0.12, 0.02],
  highLip1: [0.04, 0.2, 0.02],
})
const lipDown = spots({ lowLip0: [0, -0.07, 0], lowLip1: [0.03, -0.1, -0.02], lowRim1: [0.02, -0.05, -0.02] })
const press = spots({
  highLip: [0, 0, -0.1],
  lowLip: [0, 0, -0.1],
  highRim0: [0, -0.16, 0],
  highRim1: [0, -0.14, 0],
  lowRim0: [0, 0.16, 0],
  lowRim1: [0, 0.14, 0],
})
const sneer = spots({
  nose1: [0.1, 0.18, 0.02],
  nose0: [0, 0.06, -0.03],
  nose2: [0.03, 0.18, 0.1],
  lowLid2: [0, 0.12, 0.08],
  highRim1: [0.04, 0.14, 0.02],
  highLip1: [0.04, 0.12, 0.02],
})
const puff = spots({
  nose2: [0.15, -0.28, 0.3],
  chin2: [0.3, 0.3, 0.3],
  chin3: [0.2, 0.15, 0.1],
  corner0: [-0.3, 0.22, 0.1],
})
const chinUp = spots({
  lowLip: [0, 0.14, 0],
  lowRim: [0, 0.15, 0],
  chin0: [0, 0.1, 0.1],
  chin1: [0, 0.1, 0.1],
})

/** How much of the jaw's turn each spot takes part in. */
const JAW: Record<string, number> = {
  lowRim0: 1,
  lowRim1: 1,
  lowLip0: 1,
  lowLip1: 0.95,
  chin0: 1,
  chin1: 1,
  chin2: 0.95,
  chin3: 0.6,
  under0: 1,
  under1: 1,
  under2: 0.9,
  under3: 0.6,
  lowTeeth: 1,
  tongue: 0.9,
  corner0: 0.45,
  throat: 0.5,
}
const jawShare = ({ spot = '' }: Point) => JAW[spot] ?? JAW[spot.replace(/\d+$/, '')] ?? 0
const OPEN = (19 * Math.PI) / 180
const jawOpen: Field = (p) => {
  const share = onHead(p) ? jawShare(p) : 0
  if (!share) return STILL
  const [, y, z] = inHead(p)
  // about the joint before the ear
  const [dy, dz] = [y - 3.4, z - 0.2]
  const a = OPEN * share
  const turned: V3 = [0, dy * Math.cos(a) - dz * Math.sin(a) - dy, dy * Math.sin(a) + dz * Math.cos(a) - dz]
  return [0, turned[1] * HEAD_UNIT, turned[2] * HEAD_UNIT]
}
/** To the figure's left, with all that hangs on the jaw. */
const jawSide: Field = (p) => [onHead(p) ? 0.26 * jawShare(p) * HEAD_UNIT : 0, 0, 0]

// brows: at four stops from the inner end to the outer, head units
const STOPS = [0.62, 1.15, 1.85, 2.7] as const
type Stops = readonly [number, number, number, number]
export interface BrowMove {
  up: Stops
  /** The inner end draws inwards and back. */
  inner: number
  back: number
}
export const BROWS: Record<string, BrowMove> = {
  'brow-inner': { up: [0.48, 0.34, 0.06, -0.06], inner: -0.06, back: 0 },
  'brow-up': { up: [0.46, 0.56, 0.54, 0.36], inner: 0, back: 0 },
  'brow-down': { up: [-0.44, -0.32, -0.06, 0.12], inner: -0.13, back: -0.1 },
  'brow-droop': { up: [0, -0.12, -0.2, -0.2], inner: 0, back: 0 },
}
/** How a place on the brow moves, head units, x as on the left. */
export function browMove({ up, inner, back }: BrowMove, x: number): V3 {
  const at = smoothstep(1.6, 0.6, x)
  return [inner * at, curve([STOPS.map((s, i) => [s, up[i]!] as const)].flat(), x), back * at]
}
/** The skull's row of brows follows by less than half. */
const FOLLOWS = 0.45
const browOf =
  (id: string): Field =>
  (p) => {
    if (!onHead(p) || !/^brow[1-3]$/.test(p.spot ?? '')) return STILL
    const [dx, dy, dz] = browMove(BROWS[id]!, Math.abs(inHead(p)[0]))
    return [side(p) * dx * FOLLOWS * HEAD_UNIT, dy * FOLLOWS * HEAD_UNIT, dz * FOLLOWS * HEAD_UNIT]
  }

// around the eyes; the lids themselves belong to the part that has the eyes
const highLids = (by: V3) =>
  spots({ highLid1: [by[0], by[1] * 0.6, by[2]], highLid2: by, highLid3: [by[0], by[1] * 0.6, by[2]] })
const lowLids = (by: V3) =>
  spots({ lowLid1: [by[0], by[1] * 0.5, by[2]], lowLid2: by, lowLid3: [by[0], by[1] * 0.6, by[2]] })
const blink = highLids([0, -0.06, 0.02])
const squint = lowLids([0, 0.07, 0.05])
const wide = highLids([0, 0.05, -0.01])
const lookUp = highLids([0, 0.03, 0])

type End = [string, string]
const move = (id: string, name: string, group: string, ends: End, up: Field, max = 1.25): SliderSpec => ({
  id,
  name,
  group,
  ends,
  range: [0, max],
  up,
})
const both = (id: string, name: string, group: string, ends: End, up: Field, down: Field): SliderSpec => ({
  id,
  name,
  group,
  ends,
  up,
  down,
})

export const HUMAN_MOVEMENTS: SliderSpec[] = [
  {
    ...move('brow-inner', 'Inner brows', 'moving-brows', ['at rest', 'raised'], browOf('brow-inner')),
    pull: { landmark: 'leftBrowInner', direction: [0, 1, 0] },
  },
  {
    ...move('brow-up', 'Brows up', 'moving-brows', ['at rest', 'raised'], browOf('brow-up')),
    pull: { landmark: 'leftBrow', direction: [0, 1, 0] },
  },
  {
    ...move('brow-down', 'Brows drawn', 'moving-brows', ['at rest', 'frowning'], browOf('brow-down')),
    pull: { landmark: 'leftBrowInner', direction: [-1, -0.4, 0] },
  },
  move('brow-droop', 'Outer brows', 'moving-brows', ['at rest', 'drooping'], browOf('brow-droop')),
  {
    ...move('blink', 'Lids', 'moving-eyes', ['open', 'shut'], blink, 1),
    pull: { landmark: 'leftEyeCorner', direction: [0, -1, 0] },
  },
  move('squint', 'Squint', 'moving-eyes', ['at rest', 'squinting'], squint, 1),
  move('wide', 'Eyes wide', 'moving-eyes', ['at rest', 'wide'], wide, 1),
  move('small-iris', 'Pupils', 'moving-eyes', ['at rest', 'small'], lowLids([0, 0.012, 0]), 1),
  both(
    'gaze-side',
    'Look to the side',
    'moving-eyes',
    ['to their right', 'to their left'],
    highLids([0.012, 0, 0]),
    highLids([-0.012, 0, 0]),
  ),
  both('gaze-up', 'Look up or down', 'moving-eyes', ['down', 'up'], lookUp, times(lookUp, -1.4)),
  {
    ...move('jaw-open', 'Jaw opens', 'moving-mouth', ['shut', 'open'], jawOpen, 1),
    pull: { landmark: 'chin', direction: [0, -1, 0] },
  },
  both('jaw-side', 'Jaw to the side', 'moving-mouth', ['to their right', 'to their left'], jawSide, times(jawSide, -1)),
  {
    ...move('smile', 'Smile', 'moving-mouth', ['at rest', 'smiling'], smile),
    pull: { landmark: 'leftMouthCorner', direction: [0.4, 1, 0] },
  },
  move('frown', 'Corners down', 'moving-mouth', ['at rest', 'down'], frown),
  {
    ...move('stretch', 'Mouth drawn wide', 'moving-mouth', ['at rest', 'wide'], stretch),
    pull: { landmark: 'leftMouthCorner', direction: [1, 0, 0] },
  },
  move('pucker', 'Lips pursed', 'moving-mouth', ['at rest', 'pursed'], pucker, 1),
  move('lip-up', 'Upper lip raised', 'moving-mouth', ['at rest', 'raised'], lipUp),
  move('lip-down', 'Lower lip lowered', 'moving-mouth', ['at rest', 'lowered'], lipDown),
  move('press', 'Lips pressed', 'moving-mouth', ['at rest', 'pressed'], press, 1),
  move('sneer', 'Sneer', 'moving-mouth', ['at rest', 'sneering'], sneer),
  move('puff', 'Cheeks puffed', 'moving-mouth', ['at rest', 'puffed'], puff),
  move('chin-up', 'Chin pushed up', 'moving-mouth', ['at rest', 'up'], chinUp),
]

export const MOVING_GROUPS: BodyDef['sliderGroups'] = [
  { id: 'moving-brows', name: 'Brows, moving', moves: true },
  { id: 'moving-eyes', name: 'Eyes, moving', moves: true },
  { id: 'moving-mouth', name: 'Mouth, moving', moves: true },
]

/** A lid that is shut has no lower lid to squint with. */
export const FACE_CORRECTIVES: CorrectiveSpec[] = [
  {
    id: 'shut and squinting',
    when: [
      { slider: 'blink', end: 'up' },
      { slider: 'squint', end: 'up' },
    ],
    move: times(squint, -0.4),
  },
  {
    id: 'shut and wide',
    when: [
      { slider: 'blink', end: 'up' },
      { slider: 'wide', end: 'up' },
    ],
    move: times(wide, -1),
  },
]

/** The jaw by its turn in degrees. */
const jaw = (degrees: number) => Math.round((degrees / 19) * 100) / 100

export type Expressions = NonNullable<BodyDef['expressions']>
type Values = Expressions[number]['values']
export const face = (id: string, name: string, values: Values, preset?: string) => ({
  id,
  name,
  ...(preset ? { preset } : {}),
  values,
})

export const mood: typeof face = (...told) => ({ ...face(...told), mood: true })

/** In the order of their kinship: neighbours can be blended. What is spoken and blinked comes after. */
export const HUMAN_EXPRESSIONS: Expressions = [
  mood('glad', 'Glad', { 'jaw-open': jaw(5), smile: 1.15, 'lip-up': 0.2, squint: 0.7, 'brow-up': 0.3 }, 'happy'),
  mood('smug', 'Smug', {
    smile: [1, 0],
    frown: [0, 0.2],
    blink: 0.45,
    squint: 0.3,
    'brow-up': [0.8, 0],
    'brow-down': [0, 0.4],
  }),
  mood('winking', 'Winking', { smile: [0.8, 0.5], blink: [0, 1], 'brow-up': [0.45, 0], 'brow-down': [0, 0.45] }),
  mood('whistling', 'Whistling', { 'jaw-open': jaw(4), pucker: 1, 'gaze-up': 0.35, 'brow-up': 0.45 }),
  mood(
    'surprised',
    'Surprised',
    { 'jaw-open': jaw(15), pucker: 0.4, 'lip-up': 0.4, wide: 1, 'small-iris': 0.9, 'brow-up': 1 },
    'surprised',
  ),
  mood('afraid', 'Afraid', {
    'jaw-open': jaw(7),
    stretch: 0.8,
    frown: 0.75,
    wide: 0.8,
    'small-iris': 1,
    'brow-inner': 1,
  }),
  mood('pained', 'Pained', {
    'jaw-open': jaw(4),
    stretch: 1,
    'lip-up': 0.8,
    'lip-down': 0.8,
    sneer: 0.6,
    blink: 0.78,
    squint: 0.75,
    'brow-down': 0.45,
    'brow-droop': 0.8,
  }),
  mood('sad', 'Sad', { frown: 1, 'chin-up': 0.4, blink: 0.28, 'brow-inner': 0.9, 'brow-droop': 0.6 }, 'sad'),
  mood(
    'weary',
    'Weary',
    { 'jaw-open': jaw(2), frown: 0.6, blink: 0.55, 'gaze-up': -0.38, 'brow-inner': 0.3, 'brow-droop': 1 },
    'relaxed',
  ),
  mood('asleep', 'Asleep', { 'jaw-open': jaw(2), frown: 0.15, blink: 1, 'brow-inner': 0.1 }),
  mood('chewing', 'Chewing', {
    'jaw-open': jaw(3),
    'jaw-side': 1,
    puff: [1.1, 0],
    'chin-up': 1,
    blink: 0.15,
    squint: 0.2,
    'brow-down': [0.25, 0],
  }),
  mood('grim', 'Grim', { frown: 1, 'chin-up': 0.4, blink: 0.22, squint: 0.3, 'brow-down': 1 }),
  mood('disgusted', 'Disgusted', {
    'jaw-open': jaw(1),
    sneer: [1.2, 0.7],
    'lip-up': [0.6, 0],
    frown: [0, 0.9],
    blink: 0.36,
    squint: 0.6,
    'brow-down': [0.4, 0.95],
  }),
  mood(
    'angry',
    'Angry',
    {
      'jaw-open': jaw(3.5),
      stretch: 0.6,
      frown: 0.5,
      'lip-up': 0.9,
      'lip-down': 0.9,
      sneer: 0.5,
      blink: 0.2,
      squint: 0.3,
      'brow-down': 1.15,
    },
    'angry',
  ),
  mood('shouting', 'Shouting', {
    'jaw-open': 1,
    stretch: 0.6,
    'lip-up': 0.9,
    sneer: 0.5,
    blink: 0.1,
    squint: 0.35,
    'brow-down': 1,
  }),
  face('say-aa', 'Says “ah”', { 'jaw-open': jaw(13), 'lip-up': 0.4 }, 'aa'),
  face('say-ih', 'Says “ih”', { 'jaw-open': jaw(6), stretch: 0.4, 'lip-up': 0.4 }, 'ih'),
  face('say-ou', 'Says “oo”', { 'jaw-open': jaw(4), pucker: 0.92 }, 'ou'),
  face('say-ee', 'Says “ee”', { 'jaw-open': jaw(4), stretch: 1, 'lip-up': 0.5, smile: 0.15 }, 'ee'),
  face('say-oh', 'Says “oh”', { 'jaw-open': jaw(10), pucker: 0.65 }, 'oh'),
  face('blink-both', 'Blink', { blink: 1 }, 'blink'),
  face('blink-left', 'Blink, left', { blink: [1, 0] }, 'blinkLeft'),
  face('blink-right', 'Blink, right', { blink: [0, 1] }, 'blinkRight'),
  face('look-up', 'Look up', { 'gaze-up': 1 }, 'lookUp'),
  face('look-down', 'Look down', { 'gaze-up': -1 }, 'lookDown'),
  face('look-left', 'Look left', { 'gaze-side': 1 }, 'lookLeft'),
  face('look-right', 'Look right', { 'gaze-side': -1 }, 'lookRight'),
]
