import { bands, flare, rimAt } from '../../model/garment.ts'
import type { Sculpt } from '../../model/Sculpt.ts'
import { scale } from '../../model/vector.ts'
import { isArm, onLeft, turnedOver, sideAxis } from './cut.ts'
import { garment, type PartSpec } from './spec.ts'

/** Sleeves go beneath it. */
const SLEEVES_IN = { presses: ['top'] }

const SHORT_CUFF = [
  [0.5, 0.2],
  [0.7, 1.6],
  [-0.5, 0.2],
] as const

const HANDS: PartSpec[] = [
  garment(
    'gloves',
    'Work gloves',
    'hands',
    4,
    2,
    ['hands', 'arms'],
    (d) => {
      const s = d.wear(bands({ arm: [7, 7], hand: [-1, 9] }), 'leather', (p) => (p.limb.endsWith('Hand') ? 0.32 : 0.7))
      cuffsBack(s)
      return s.thicken(0.3, 'leather', turnedOver)
    },
    SLEEVES_IN,
  ),
  garment(
    'wristwraps',
    'Wrist wraps',
    'hands',
    4,
    2,
    ['hands', 'arms'],
    (d) => {
      const s = d.wear(bands({ arm: [6, 7], hand: [0, 1] }), 'wraps', (p) => 0.42 + 0.12 * (p.row % 2))
      return s
    },
    SLEEVES_IN,
  ),
  garment(
    'gauntlets',
    'Gauntlets',
    'hands',
    4,
    3,
    ['hands', 'arms'],
    (d) => {
      const s = d.wear(bands({ arm: [7, 7], hand: [-1, 9] }), 'leather', (p) => (p.limb.endsWith('Hand') ? 0.36 : 0.8))
      cuffsBack(
        s,
        [
          [0.5, 0.2],
          [1.0, 2.6],
          [1.1, 3.0],
          [-0.5, 0.3],
        ],
        'coat-trim',
      )
      return s.thicken(0.3, 'leather', turnedOver)
    },
    SLEEVES_IN,
  ),
  garment(
    'mitts',
    'Fingerless mitts',
    'hands',
    4,
    2,
    ['hands', 'arms'],
    (d) => {
      const s = d.wear(bands({ arm: [6, 7], hand: [0, 2] }), 'knit', (p) => (isArm(p) ? 0.55 : 0.34))
      for (const f of s.faces) if (f.tag.endsWith('Arm') && f.row === 6) f.region = 'knit-trim'
      return s
    },
    SLEEVES_IN,
  ),
]

function cuffsBack(s: Sculpt, steps: readonly (readonly [number, number])[] = SHORT_CUFF, region = 'leather'): void {
  for (const left of [true, false]) {
    const rim = rimAt(s, (p) => isArm(p) && onLeft(p) === left)
    flare(s, rim, scale(sideAxis(left), -1), steps, region)
  }
}

export default HANDS
