import { headShell, thickBand, type Dummy } from '../../model/garment.ts'
import { lathe, Sculpt, tube } from '../../model/Sculpt.ts'
import { add, along, curve, unit, type V3 } from '../../model/vector.ts'
import { fromHead } from '../proportions.ts'
import { SKULL } from './hairCut.ts'
import { hat, headRing, PRESS } from './headwear.ts'
import { onHead, type PartSpec } from './spec.ts'

/* A hood, a straw hat, a cap with a peak, and a wreath. */

/** The lower edge of a hood: over the brow, before the ears, down to the nape. */
const HOOD_EDGE = (az: number) =>
  curve(
    [
      [0, 46],
      [46, 34],
      [74, 2],
      [96, -30],
      [130, -52],
      [180, -58],
    ],
    az > 180 ? 360 - az : az,
  )

function wreath(d: Dummy): Sculpt {
  const ring = headRing(d, 7.2, 1.7, 16)
  const s = new Sculpt()
  s.region = 'rope'
  s.limb = 'headwear'
  const middle = fromHead([0, 7.2, -0.3])
  // a withe bent to a ring: its ends meet
  const around = ring.map((at) => {
    const out = unit([at[0] - middle[0], 0, at[2] - middle[2]])
    return [0, 1, 2, 3, 4].map((k) => {
      const a = (2 * Math.PI * k) / 5
      return s.add(add(along(at, out, 0.75 * Math.cos(a)), [0, 0.75 * Math.sin(a), 0]))
    })
  })
  around.forEach((from, i) => s.loft(from, around[(i + 1) % around.length]!, true))
  s.outward()
  ring.forEach((at, i) => {
    if (i % 2) return
    const out: V3 = [at[0] - SKULL[0], 0, at[2] - SKULL[2]]
    const far = Math.hypot(...out)
    const place = add(at, [(out[0] / far) * 0.5, 0.3, (out[2] / far) * 0.5])
    s.merge(
      lathe(
        [
          [-0.9, 0.5],
          [0.1, i % 4 ? 1.15 : 1.5],
          [1.1, 0.5],
        ],
        6,
        i % 4 ? 'paper' : 'paint',
        place,
      ),
    )
  })
  return s
}

const HOODS: PartSpec[] = [
  onHead(
    'hood',
    'Hood',
    'hat',
    9,
    (d) => {
      const s = headShell(d, SKULL, {
        region: 'smock',
        tag: 'hat',
        columns: 16,
        rows: 5,
        edge: HOOD_EDGE,
        thick: (az, t) => 1.5 + 0.9 * Math.sin(t * 3) + (az > 110 && az < 250 ? 1.2 * t : 0),
      })
      // its edge is turned back around the face
      for (const f of s.faces) if (f.row <= 1 && f.v.every((p) => s.at(p)[1] < SKULL[1] + 6)) f.region = 'smock-trim'
      return s
    },
    PRESS,
  ),
  onHead(
    'hat-straw',
    'Straw hat',
    'hat',
    9,
    (d) =>
      hat(d, {
        region: 'basket',
        band: 'hat-band',
        y: 6.9,
        tip: 0.08,
        bandHeight: 1.5,
        dent: 0.3,
        crown: [
          [1.51, 0.97],
          [4.2, 0.88],
          [5.4, 0.62],
        ],
        brim: (az) => {
          const a = az > 180 ? 360 - az : az
          return [
            7.2,
            curve(
              [
                [0, 1.4],
                [90, 0.6],
                [180, 1.8],
              ],
              a,
            ),
          ]
        },
      }),
    { ...PRESS, tags: ['distinctive'] },
  ),
  onHead(
    'cap-mate',
    'Mate’s cap',
    'hat',
    9,
    (d) => {
      const s = hat(d, {
        region: 'coat',
        band: 'coat-trim',
        y: 6.9,
        tip: 0.06,
        bandHeight: 2.2,
        dent: 0.2,
        crown: [
          [2.21, 1.02],
          [4.4, 1.3],
          [5.3, 1.18],
        ],
        brim: (az) => {
          const a = az > 180 ? 360 - az : az
          const out = a < 62
          return [out ? 3.4 * Math.cos((a * Math.PI) / 140) : 0.15, out ? 1.5 : 0]
        },
      })
      s.merge(
        lathe(
          [
            [-0.8, 0.4],
            [0, 0.95],
            [0.8, 0.4],
          ],
          6,
          'metal',
          add(headRing(d, 7.6, 1.6, 12)[0]!, [0, 0.2, 0]),
        ),
      )
      return s
    },
    PRESS,
  ),
  onHead('wreath', 'Shell wreath', 'hat', 9, wreath, { tags: ['distinctive'] }),
  onHead(
    'bandana',
    'Bandana',
    'hat',
    9,
    (d) => {
      const edge = (az: number) => {
        const a = az > 180 ? 360 - az : az
        return curve(
          [
            [0, 37],
            [90, 14],
            [180, -8],
          ],
          a,
        )
      }
      const s = headShell(d, SKULL, { region: 'scarf', tag: 'hat', columns: 14, rows: 4, edge, thick: () => 1.05 })
      const rim = (lift: number, up: number) =>
        Array.from({ length: 14 }, (_, k): V3 => {
          const az = (360 * k) / 14
          const [a, e] = [(az * Math.PI) / 180, ((edge(az) + up) * Math.PI) / 180]
          return d.fromHead(SKULL, [Math.sin(a) * Math.cos(e), Math.sin(e), Math.cos(a) * Math.cos(e)], lift)
        })
      s.merge(thickBand(rim(0.6, -2), rim(0.6, 7), 0.75, 'scarf-trim'))
      const knot = fromHead([0, 4.4, -5.0])
      s.merge(
        lathe(
          [
            [-1.0, 0.7],
            [0, 1.3],
            [1.0, 0.7],
          ],
          6,
          'scarf',
          knot,
        ),
      )
      for (const x of [1.3, -1.3])
        s.merge(tube([knot, add(knot, [x, -2.4, -0.9]), add(knot, [x * 1.6, -4.6, -0.6])], [0.5, 0.95, 0], 4, 'scarf'))
      return s
    },
    PRESS,
  ),
]

export default HOODS
