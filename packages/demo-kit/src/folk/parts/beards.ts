import { Sculpt } from '../../model/Sculpt.ts'
import { bentPath, lock, type Dummy } from '../../model/garment.ts'
import { add, type V3 } from '../../model/vector.ts'
import { fromHead } from '../proportions.ts'
import { onFace } from './eyes.ts'
import { onHead, type PartSpec } from './spec.ts'

const BEARDS: PartSpec[] = [
  onHead('beard-full', 'Full beard', 'beard', 2, beard({ drop: 2.6, thick: 1.0, moustache: true })),
  onHead('beard-short', 'Short beard', 'beard', 2, beard({ drop: 0.7, thick: 0.45, moustache: true })),
  onHead('beard-moustache', 'Moustache', 'beard', 2, (d) => moustache(d, 1.5, -0.45)),
  onHead('beard-chin', 'Chin beard', 'beard', 2, (d) => {
    const s = lock(
      bentPath([onFace(d, 0, 1.2, -0.2), onFace(d, 0, 0.6, 0.35), add(onFace(d, 0, 0.6, 0.2), [0, -3.4, 0.6])], 4),
      1.5,
      'hair',
    )
    s.limb = 'headwear'
    return s
  }),
]

export function moustache(d: Dummy, half: number, droop: number): Sculpt {
  const s = new Sculpt()
  s.region = 'hair'
  s.tag = 'hair'
  s.limb = 'headwear'
  const stops: readonly (readonly [number, number, number])[] = [
    [0, 2.5, 0.26],
    [half * 0.5, 2.42, 0.34],
    [half, 2.2 + droop * 0.6, 0.22],
    [half * 1.25, 2.1 + droop, 0.05],
  ]
  const row = (up: number, lift: number) => stops.map(([x, y, t]) => s.add(onFace(d, x, y + up * t, lift)))
  const low = row(-1, 0.04)
  const mid = row(-0.2, 0.38)
  const high = row(0.9, 0.06)
  s.loft(low, mid, false)
  s.loft(mid, high, false)
  return s.mirror()
}

/** A beard from ear to ear: a sheet on the jaw, thick at its lower edge, closed below. */
export function beard(spec: {
  drop: number
  thick: number
  moustache: boolean
  /** Columns in front that are left bare; 0 if not said. */
  bare?: number
}): (d: Dummy) => Sculpt {
  return (d) => {
    const s = new Sculpt()
    s.region = 'hair'
    s.tag = 'hair'
    s.limb = 'headwear'
    const chinCenter = fromHead([0, 1.9, 0.2])
    const place = (az: number, el: number, lift: number): V3 => {
      const [a, e] = [(az * Math.PI) / 180, (el * Math.PI) / 180]
      return d.from(chinCenter, [Math.sin(a) * Math.cos(e), Math.sin(e), Math.cos(a) * Math.cos(e)], lift)
    }
    const all = [0, 16, 32, 50, 70, 86].map((a, i) => ({ a, i })).slice(spec.bare ?? 0)
    const top = all.map(({ a, i }) => s.add(place(a, [-10, -6, 10, 22, 36, 52][i]!, 0.05)))
    const upper = all.map(({ a, i }) =>
      s.add(place(a, [-16, -14, 0, 8, 16, 36][i]!, spec.thick * [0.75, 0.8, 0.7, 0.6, 0.5, 0.3][i]!)),
    )
    const lower = all.map(({ a, i }) => {
      const p = place(a, [-34, -32, -24, -18, -8, 6][i]!, spec.thick * 1.1)
      return s.add(add(p, [0, -spec.drop * [1, 0.85, 0.55, 0.3, 0.15, 0][i]!, 0]))
    })
    const under = all.map(({ a, i }) => {
      const p = place(a, [-48, -46, -40, -34, -22, -4][i]!, -0.2)
      return s.add(add(p, [0, -spec.drop * [0.5, 0.4, 0.2, 0.1, 0, 0][i]!, 0]))
    })
    s.loft(under, lower, false)
    s.loft(lower, upper, false)
    s.loft(upper, top, false)
    s.mirror()
    if (spec.moustache) s.merge(moustache(d, 1.25, -0.3))
    return s
  }
}

export default BEARDS
