import { bands, bentPath, flare, rimAt, stud, thickBand, type Dummy } from '../../model/garment.ts'
import { box, Sculpt, tube, type Point } from '../../model/Sculpt.ts'
import { bump, smoothstep, unit } from '../../model/vector.ts'
import { isLeg, turnedOver, legHems, patch, WIDE_SKIRT, skirt, closeToes, flattenSoles } from './cut.ts'
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
  garment(
    'trousers-wide',
    'Bell-bottoms',
    'legs',
    4,
    5,
    ['hips', 'thighs', 'leftShin', 'rightShin', 'torso'],
    (d) => {
      const s = trousers(d, 6, 'trousers', (p) => (isLeg(p) ? 0.9 + 1.3 * smoothstep(26, 6, p.u) : 0.8))
      legHems(
        s,
        [
          [0.5, 1.6],
          [0.2, 1.2],
          [-0.6, 0],
        ],
        'trousers',
      )
      s.merge(thickBand(d.trunkRing(55.2, 0.75, 10), d.trunkRing(57.6, 0.85, 10), 0.35, 'trousers-trim', 'waistband'))
      for (const x of [3.2, -3.2])
        for (const y of [54, 51]) s.merge(stud(d.front(x, y, 0.85), [x / 20, 0, 1], 0.5, 0.3, 'metal'))
      return s
    },
    TUCKED_IN,
  ),
  garment(
    'shorts',
    'Short breeches',
    'legs',
    4,
    5,
    ['hips', 'thighs', 'torso'],
    (d) => {
      const s = trousers(d, 3, 'trousers', (p) => (isLeg(p) ? 1.1 + 0.5 * bump(p.u, 34, 8) : 0.8))
      legHems(
        s,
        [
          [0.6, 0.4],
          [0.2, 1.4],
          [-0.6, 0.1],
        ],
        'trousers-trim',
      )
      s.thicken(0.3, 'trousers', turnedOver)
      s.merge(thickBand(d.trunkRing(55.6, 0.8, 14), d.trunkRing(56.9, 0.8, 14), 0.5, 'rope', 'cord'))
      return s
    },
    TUCKED_IN,
  ),
  garment(
    'overalls',
    'Bib overalls',
    'legs',
    4,
    5,
    ['hips', 'thighs', 'leftShin', 'rightShin', 'torso'],
    (d) => {
      const s = trousers(d, 6, 'waders', (p) => (isLeg(p) ? 1.15 + 0.6 * smoothstep(28, 10, p.u) : 0.95))
      legHems(
        s,
        [
          [0.6, 0.3],
          [0.2, -1.8],
          [-0.5, -0.1],
        ],
        'waders',
      )
      s.thicken(0.3, 'waders', turnedOver)
      s.merge(patch(d, [54.5, 70], [-30, 30], [1.5, 1.5], 0.4, 'waders', 4))
      s.merge(patch(d, [61.5, 66.5], [-15, 15], [2.0, 2.0], 0.35, 'trousers-trim', 2))
      for (const sign of [1, -1]) {
        const strap = bentPath(
          [
            d.front(sign * 4.2, 69.5, 2.0),
            d.front(sign * 5.6, 76, 1.5),
            [sign * 6.0, 80.6, -0.8],
            [sign * 4.2, 74, -9.4],
            [sign * -1.4, 62, -8.6],
            [sign * -3.6, 56.4, -8.3],
          ],
          8,
        )
        s.merge(tube(strap, 0.7, 4, 'waders', 'strap', 0.45))
        s.merge(stud(d.front(sign * 4.2, 69.2, 2.3), [0, 0, 1], 0.7, 0.4, 'metal'))
      }
      return s
    },
    TUCKED_IN,
  ),
  garment(
    'kilt',
    'Pleated kilt',
    'legs',
    5,
    5,
    ['hips', 'thighs', 'torso'],
    (d) => {
      const s = new Sculpt()
      s.region = 'shawl'
      s.limb = 'torso'
      const ring = (y: number, offset: number) =>
        d.trunkRing(y, offset, 20).map((at) => s.add(at, { row: 1, u: y, out: unit([at[0], 0, at[2]]) }))
      const top = ring(57, 0.7)
      const waist = ring(54, 1.0)
      s.loft(waist, top, true, { tag: 'skirt', region: 'leather' })
      const hip = ring(49.5, 1.5)
      s.loft(hip, waist, true, { tag: 'skirt' })
      skirt(
        s,
        hip,
        true,
        [
          { y: 42, w: 13, front: 9.2, back: 11.2, pleat: 0.04 },
          { y: 34, w: 14.4, front: 10.2, back: 12.6, pleat: 0.075 },
          { y: 28.5, w: 15, front: 10.8, back: 13.2, pleat: 0.08 },
        ],
        'shawl',
      )
      for (const f of s.faces) if (f.v.every((p) => s.at(p)[1] <= 34.1)) f.region = 'shawl-trim'
      s.thicken(0.4, 'shawl')
      s.merge(box(d.front(0, 54.8, 1.9), [2.2, 1.4, 0.35], 'metal'))
      return s
    },
    { ...TUCKED_IN, tags: ['bulky-skirt'] },
  ),
]

export default LEGS
