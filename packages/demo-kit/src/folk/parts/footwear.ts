import { flare, rimAt, type Dummy } from '../../model/garment.ts'
import { box, Sculpt } from '../../model/Sculpt.ts'
import { lerp, smoothstep, type V3 } from '../../model/vector.ts'
import { isLeg, onLeft } from './cut.ts'
import { garment, type PartSpec } from './spec.ts'

interface ShoeSpec {
  region: string
  sole: string
  /** First leg band covered; 8 for none. */
  from: number
  fit: number
  cuff?: readonly (readonly [number, number])[]
  cuffRegion?: string
  soleHeight: number
  toe: number
}

/** Foot and shaft with a rounded toe, on a separate slab of a sole that sticks out. */
export function shoe(d: Dummy, spec: ShoeSpec): Sculpt {
  const s = new Sculpt()
  const feet = d.wear(
    (f) => (/Leg$/.test(f.tag) && f.row >= spec.from) || (/Foot$/.test(f.tag) && f.row >= 0 && f.row <= 3),
    spec.region,
    (p) => (p.limb.endsWith('Foot') ? spec.fit : spec.fit * 0.9 + 0.4 * smoothstep(8, 20, p.u)),
  )
  // the toe rows end flat: pull the front out to a rounded cap
  for (const side of ['left', 'right'])
    for (const rim of feet.rims().filter((r) => r.every((i) => feet.points[i]!.limb === `${side}Foot`))) {
      for (const i of rim) {
        const p = feet.points[i]!
        p.at = [p.at[0], p.at[1] < 0.9 ? 0 : p.at[1] + 0.9, p.at[2]]
      }
      const tip = rim.map((i) => {
        const p = feet.points[i]!
        const center: V3 = [side === 'left' ? 9.9 : -9.9, 1.2, p.at[2]]
        const near = lerp(p.at, center, 0.16)
        return feet.add([near[0], p.at[1] < 0.9 ? 0 : Math.max(0.9, near[1]), p.at[2] + spec.toe], {
          limb: p.limb,
          row: 5,
          u: p.u,
          out: p.out,
        })
      })
      rim.forEach((p, i) => {
        const j = (i + 1) % rim.length
        feet.face([rim[j]!, p, tip[i]!, tip[j]!], { region: spec.region, tag: `${side}Foot` })
      })
      feet.cap([...tip].reverse(), [0, 0, 0.9], { region: spec.region, tag: `${side}Foot` })
    }
  for (const p of feet.points) if (p.at[1] < 0.75) p.at = [p.at[0], 0, p.at[2]]
  if (spec.cuff) {
    const up: V3 = [0, 1, 0]
    for (const left of [true, false])
      flare(
        feet,
        rimAt(feet, (p) => isLeg(p) && onLeft(p) === left),
        up,
        spec.cuff,
        spec.cuffRegion ?? spec.region,
      )
  }
  feet.thicken(0.4, spec.region, (f) => f.tag === 'cuff')
  s.merge(feet)
  s.merge(soles(spec.sole, spec.soleHeight, spec.toe))
  return s
}

/** A pair of slabs under the feet, the outline of their lowest points pushed out. */
export function soles(region: string, height: number, toe: number): Sculpt {
  const s = new Sculpt()
  // soles: the outline of the foot's lowest points, pushed out
  for (const side of [1, -1]) {
    const outline: V3[] = [
      [-2.9, 0, 15.6],
      [0.2, 0, 17.2],
      [3.4, 0, 15.2],
      [4.7, 0, 9.5],
      [3.9, 0, 2],
      [3.6, 0, -5],
      [0, 0, -7.4],
      [-3.4, 0, -5],
      [-3.3, 0, 2],
      [-4.5, 0, 9.5],
    ].map(([x, y, z]) => [side * (7.3 + x! + (z! + 0.9) * 0.2), y!, z! + (toe - 2.9)] as V3)
    const sole = new Sculpt()
    sole.region = region
    sole.limb = side > 0 ? 'leftFoot' : 'rightFoot'
    const low = outline.map((p) => sole.add([p[0], -height, p[2]]))
    const high = outline.map((p) => sole.add([p[0], 0.35, p[2]]))
    sole.loft(low, high, true)
    sole.cap(high)
    sole.cap([...low].reverse())
    if (side < 0) sole.flip()
    s.merge(sole)
  }
  return s
}

export const FOOT_BINDS = ['leftShin', 'rightShin']
const FEET: PartSpec[] = [
  garment(
    'boots-sea',
    'Sea boots',
    'feet',
    5,
    5,
    FOOT_BINDS,
    (d) =>
      shoe(d, {
        region: 'leather',
        sole: 'sole',
        from: 5,
        fit: 1.5,
        toe: 3.5,
        soleHeight: 1.5,
        cuff: [
          [0.7, 0.8],
          [0.5, -2.6],
        ],
      }),
    { presses: ['legs'] },
  ),
  garment(
    'boots-ankle',
    'Ankle boots',
    'feet',
    5,
    5,
    FOOT_BINDS,
    (d) =>
      shoe(d, {
        region: 'leather',
        sole: 'sole',
        from: 7,
        fit: 1.05,
        toe: 3.3,
        soleHeight: 1.3,
        cuff: [
          [0.4, 0.4],
          [0, 0.8],
          [-0.7, 0],
        ],
      }),
    { presses: ['legs'] },
  ),
  garment('clogs', 'Clogs', 'feet', 5, 3, FOOT_BINDS, (d) =>
    shoe(d, { region: 'wood', sole: 'wood', from: 9, fit: 1.35, toe: 4.3, soleHeight: 2.4, cuff: undefined }),
  ),
  garment('shoes-buckled', 'Buckled shoes', 'feet', 5, 3, FOOT_BINDS, (d) => {
    const s = shoe(d, { region: 'leather', sole: 'sole', from: 9, fit: 0.95, toe: 3.3, soleHeight: 1.1 })
    for (const side of [1, -1])
      s.merge(
        box([side * 9.4, 5.3, 7.4], [1.5, 0.5, 1.2], 'metal', 0.8, [
          [1, 0, 0],
          [0, 0.8, 0.6],
          [0, -0.6, 0.8],
        ]),
      )
    return s
  }),
  garment(
    'boots-thigh',
    'Long boots',
    'feet',
    5,
    5,
    [...FOOT_BINDS, 'thighs'],
    (d) =>
      shoe(d, {
        region: 'leather',
        sole: 'sole',
        from: 4,
        fit: 1.35,
        toe: 3.5,
        soleHeight: 1.5,
        cuff: [
          [0.3, 0.5],
          [0.5, -0.3],
          [0.3, -2.8],
        ],
        cuffRegion: 'coat-lining',
      }),
    { presses: ['legs'] },
  ),
  garment('slippers', 'Deck slippers', 'feet', 5, 2, FOOT_BINDS, (d) =>
    shoe(d, { region: 'felt', sole: 'rope', from: 9, fit: 0.75, toe: 2.7, soleHeight: 0.7 }),
  ),
  garment('sandals', 'Sandals', 'feet', 5, 2, FOOT_BINDS, (d) => {
    const s = soles('leather', 1.0, 2.7)
    const straps = d.wear(
      (f) => (/Foot$/.test(f.tag) && f.row === 2) || (/Leg$/.test(f.tag) && f.row === 8),
      'leather',
      () => 0.4,
    )
    s.merge(straps)
    return s
  }),
]

export default FEET
