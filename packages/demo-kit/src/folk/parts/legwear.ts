import { bands, bentPath, flare, rimAt, stud, thickBand, type Dummy } from '../../model/garment.ts'
import { Sculpt, tube, type Point } from '../../model/Sculpt.ts'
import { bump, smoothstep, unit } from '../../model/vector.ts'
import { isLeg, turnedOver, legHems, WIDE_SKIRT, skirt, closeToes, flattenSoles } from './cut.ts'
import { garment, type PartSpec } from './spec.ts'

function trousers(d: Dummy, to: number, region: string, fit: (p: Point) => number): Sculpt {
  return d.wear(bands({ torso: [0, 1], leg: [0, to] }), region, fit)
}

/** Shirts go beneath it. */
const TUCKED_IN = { presses: ['top'] }

const LEGS: PartSpec[] = [
  garment(
    'trousers',
    'Trousers',
    'legs',
    4,
    5,
    ['hips', 'thighs', 'leftShin', 'rightShin', 'torso'],
    (d) => {
      const s = trousers(d, 6, 'trousers', (p) => (isLeg(p) ? 1.0 + 0.55 * smoothstep(28, 12, p.u) : 0.8))
      legHems(
        s,
        [
          [0.5, 0.2],
          [0.1, 2.0],
          [-0.7, 0.1],
        ],
        'trousers',
      )
      s.merge(thickBand(d.trunkRing(55.2, 0.75, 10), d.trunkRing(57.6, 0.85, 10), 0.35, 'trousers', 'waistband'))
      return s
    },
    TUCKED_IN,
  ),
  garment(
    'breeches',
    'Breeches',
    'legs',
    4,
    5,
    ['hips', 'thighs', 'leftShin', 'rightShin', 'torso'],
    (d) => {
      const s = trousers(d, 4, 'trousers', (p) => (isLeg(p) ? 1.2 + 0.7 * bump(p.u, 33, 8) : 0.85))
      legHems(
        s,
        [
          [-0.4, 0.5],
          [0.5, 0.2],
          [0, 1.4],
          [-0.5, 0.1],
        ],
        'trousers-trim',
      )
      const socks = d.wear(
        (f) => f.tag.endsWith('Leg') && f.row >= 5,
        'socks',
        () => 0.35,
      )
      s.merge(socks)
      return s
    },
    TUCKED_IN,
  ),
  garment(
    'trousers-rolled',
    'Rolled trousers',
    'legs',
    4,
    5,
    ['hips', 'thighs', 'leftShin', 'rightShin', 'torso'],
    (d) => {
      const s = trousers(d, 5, 'trousers', (p) => (isLeg(p) ? 1.1 + 0.4 * smoothstep(30, 18, p.u) : 0.8))
      legHems(
        s,
        [
          [0.7, 0.1],
          [0.2, -2.4],
          [0.5, 0.3],
          [0.1, -0.6],
        ],
        'trousers-trim',
      )
      return s.thicken(0.35, 'trousers-trim', turnedOver)
    },
    TUCKED_IN,
  ),
  garment(
    'waders',
    'Waders',
    'legs',
    5,
    6,
    undefined,
    (d) => {
      const s = d.wear(bands({ torso: [0, 4], leg: [0, 7], foot: [0, 3] }), 'waders', (p) => {
        if (isLeg(p)) return 1.5 + 0.8 * smoothstep(30, 8, p.u)
        if (p.limb.endsWith('Foot')) return 1.5
        return 1.35
      })
      closeToes(s, 'waders')
      flattenSoles(s, 'sole')
      const top = rimAt(s, (p) => p.limb === 'torso')
      flare(
        s,
        top,
        [0, 1, 0],
        [
          [0.4, 0.4],
          [0, 1.2],
          [-1.0, 0.1],
        ],
        'waders',
      )
      s.thicken(0.4, 'waders', turnedOver)
      for (const sign of [1, -1]) {
        const strap = bentPath(
          [
            d.front(sign * 5.2, 68.5, 1.9),
            d.front(sign * 6.2, 76, 1.6),
            [sign * 6.6, 80.6, -0.8],
            [sign * 5.2, 74, -9.6],
            [sign * 4, 67.5, -9.2],
          ],
          7,
        )
        s.merge(tube(strap, 0.75, 4, 'leather', 'strap', 0.45))
        s.merge(stud(d.front(sign * 5.2, 68.6, 2.2), [0, 0, 1], 0.8, 0.5, 'metal'))
      }
      return s
    },
    { ...TUCKED_IN, tags: ['whole-leg'], covers: ['feet'] },
  ),
  garment(
    'skirt-work',
    'Work skirt',
    'legs',
    5,
    5,
    ['hips', 'thighs', 'torso', 'leftShin', 'rightShin'],
    (d) => {
      const s = new Sculpt()
      s.region = 'skirt'
      s.limb = 'torso'
      const ring = (y: number, offset: number) =>
        d.trunkRing(y, offset, 20).map((at) => s.add(at, { row: 1, u: y, out: unit([at[0], 0, at[2]]) }))
      const top = ring(58, 0.7)
      const waist = ring(54, 1.0)
      s.loft(waist, top, true, { tag: 'skirt', region: 'skirt-trim' })
      const hip = ring(49.5, 1.5)
      s.loft(hip, waist, true, { tag: 'skirt' })
      skirt(s, hip, true, WIDE_SKIRT, 'skirt')
      for (const f of s.faces) if (f.v.every((p) => s.at(p)[1] <= 20.1)) f.region = 'skirt-trim'
      return s.thicken(0.45, 'skirt')
    },
    { ...TUCKED_IN, tags: ['bulky-skirt'] },
  ),
]

export default LEGS
