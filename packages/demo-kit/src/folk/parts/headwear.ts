import { headShell, slab, stud, thickBand, type Dummy } from '../../model/garment.ts'
import { lathe, Sculpt } from '../../model/Sculpt.ts'
import { add, along, curve, scale, unit, type V3 } from '../../model/vector.ts'
import { fromHead } from '../proportions.ts'
import { SKULL } from './hairCut.ts'
import { onHead, type PartSpec } from './spec.ts'

/** A level ring around the skull at a height in head units. */
export function headRing(d: Dummy, y: number, lift: number, n: number): V3[] {
  const center = fromHead([0, y, -0.3])
  return Array.from({ length: n }, (_, k) => {
    const a = (2 * Math.PI * k) / n
    return d.from(center, [Math.sin(a), 0, Math.cos(a)], lift)
  })
}

export interface HatSpec {
  region: string
  band: string
  /** Height of the brim on the head, head units, and how the hat tips back, body units a body unit. */
  y: number
  tip: number
  /** Rings of the crown above the brim: height, scale. */
  crown: readonly (readonly [number, number])[]
  /** Reach and drop of the brim at an azimuth (degrees, 0 front). */
  brim: (azimuth: number) => readonly [reach: number, drop: number]
  bandHeight: number
  lift?: number
  dent?: number
}

export function hat(d: Dummy, spec: HatSpec): Sculpt {
  const s = new Sculpt()
  s.region = spec.region
  s.tag = 'hat'
  s.limb = 'headwear'
  const n = 12
  const lift = spec.lift ?? 0.8
  const base = headRing(d, spec.y, lift, n)
  const center = fromHead([0, spec.y, -0.3])
  const tipped = (p: V3): V3 => [p[0], p[1] + (p[2] - center[2]) * spec.tip, p[2]]
  const ring = (points: readonly V3[]) => points.map((p) => s.add(tipped(p)))
  const scaled = (h: number, k: number) =>
    base.map((p) => add(add(center, scale([p[0] - center[0], 0, p[2] - center[2]], k)), [0, h, 0]))
  const rings = [
    ring(base),
    ring(scaled(spec.bandHeight, spec.crown[0]?.[1] ?? 1)),
    ...spec.crown.map(([h, k]) => ring(scaled(h, k))),
  ]
  rings.slice(0, -1).forEach((r, i) => s.loft(r, rings[i + 1]!, true, { region: i === 0 ? spec.band : spec.region }))
  s.cap(rings[rings.length - 1]!, [0, spec.dent ?? 0, 0])
  const brimAt = (drop: number) =>
    base.map((p, k) => {
      const [reach, fall] = spec.brim((360 * k) / n)
      return add(along(p, unit([p[0] - center[0], 0, p[2] - center[2]]), reach), [0, -fall - drop, 0])
    })
  const edge = ring(brimAt(0))
  const under = ring(brimAt(0.55))
  const inner = ring(headRing(d, spec.y, -0.3, n).map((p) => add(p, [0, -0.55, 0])))
  s.loft(edge, rings[0]!, true)
  s.loft(under, edge, true)
  s.loft(inner, under, true)
  return s
}

/** Hair goes beneath it. */
export const PRESS = { presses: ['hair'] }

const HATS: PartSpec[] = [
  onHead(
    'hat-souwester',
    'Sou’wester',
    'hat',
    9,
    (d) =>
      hat(d, {
        region: 'oilskin',
        band: 'oilskin',
        y: 6.3,
        tip: 0.12,
        lift: 1.5,
        bandHeight: 1.2,
        crown: [
          [3.2, 0.93],
          [5.6, 0.72],
          [6.9, 0.38],
        ],
        brim: (az) => {
          const a = az > 180 ? 360 - az : az
          return [
            curve(
              [
                [0, 2.0],
                [60, 1.6],
                [110, 4.2],
                [180, 8.0],
              ],
              a,
            ),
            curve(
              [
                [0, -0.9],
                [60, 0.3],
                [120, 2.4],
                [180, 5.2],
              ],
              a,
            ),
          ]
        },
      }),
    { ...PRESS, tags: ['distinctive'] },
  ),
  onHead(
    'hat-brimmed',
    'Quay hat',
    'hat',
    9,
    (d) =>
      hat(d, {
        region: 'felt',
        band: 'hat-band',
        y: 6.5,
        tip: 0.06,
        bandHeight: 1.7,
        dent: -1.0,
        crown: [
          [1.71, 0.98],
          [6.0, 0.91],
          [7.4, 0.77],
        ],
        brim: (az) => {
          const a = az > 180 ? 360 - az : az
          return [
            curve(
              [
                [0, 5.2],
                [90, 5.8],
                [180, 4.8],
              ],
              a,
            ),
            curve(
              [
                [0, 0.9],
                [90, -1.5],
                [180, 0.5],
              ],
              a,
            ),
          ]
        },
      }),
    { ...PRESS, tags: ['distinctive'] },
  ),
  onHead(
    'hat-tall',
    'Lamplighter’s hat',
    'hat',
    9,
    (d) =>
      hat(d, {
        region: 'felt',
        band: 'hat-band',
        y: 6.8,
        tip: 0.05,
        bandHeight: 2.0,
        dent: 0.3,
        crown: [
          [2.01, 0.95],
          [6.5, 0.88],
          [10.6, 0.96],
          [11.2, 0.9],
        ],
        brim: (az) => {
          const a = az > 180 ? 360 - az : az
          return [
            2.6,
            curve(
              [
                [0, 0.5],
                [90, -0.8],
                [180, 0.4],
              ],
              a,
            ),
          ]
        },
      }),
    { ...PRESS, tags: ['distinctive', 'rare'] },
  ),
  onHead(
    'cap-flat',
    'Flat cap',
    'hat',
    9,
    (d) => {
      const s = hat(d, {
        region: 'felt',
        band: 'felt',
        y: 6.6,
        tip: 0.1,
        bandHeight: 1.0,
        dent: 0.5,
        crown: [
          [2.9, 1.22],
          [4.9, 1.12],
          [6.1, 0.7],
        ],
        brim: (az) => {
          const a = az > 180 ? 360 - az : az
          return [
            a < 66
              ? curve(
                  [
                    [0, 4.2],
                    [40, 3.4],
                    [66, 0.4],
                  ],
                  a,
                )
              : 0.15,
            a < 66
              ? curve(
                  [
                    [0, 1.3],
                    [66, 0.1],
                  ],
                  a,
                )
              : 0,
          ]
        },
      })
      s.merge(stud(fromHead([0, 10.4, -0.3]), [0, 1, 0], 0.8, 0.6, 'felt'))
      return s
    },
    PRESS,
  ),
  onHead(
    'cap-knit',
    'Knit cap',
    'hat',
    9,
    (d) => {
      const s = headShell(d, SKULL, {
        region: 'knit',
        tag: 'hat',
        columns: 14,
        rows: 4,
        edge: (az) =>
          curve(
            [
              [0, 33],
              [90, 14],
              [180, -6],
              [270, 14],
              [360, 33],
            ],
            az,
          ),
        thick: (_, t) => 1.0 + 0.5 * (1 - t),
      })
      const rim = (lift: number, up: number) =>
        Array.from({ length: 14 }, (_, k): V3 => {
          const az = (360 * k) / 14
          const [a, e] = [
            (az * Math.PI) / 180,
            ((curve(
              [
                [0, 33],
                [90, 14],
                [180, -6],
                [270, 14],
                [360, 33],
              ],
              az,
            ) +
              up) *
              Math.PI) /
              180,
          ]
          return d.fromHead(SKULL, [Math.sin(a) * Math.cos(e), Math.sin(e), Math.cos(a) * Math.cos(e)], lift)
        })
      s.merge(thickBand(rim(0.6, -3), rim(0.6, 13), 1.0, 'knit-trim'))
      s.merge(
        lathe(
          [
            [-0.9, 0.9],
            [0.2, 1.6],
            [1.2, 0.9],
          ],
          6,
          'knit-trim',
          fromHead([0, 10.6, -0.6]),
        ),
      )
      return s
    },
    PRESS,
  ),
  onHead(
    'headscarf',
    'Headscarf',
    'hat',
    9,
    (d) => {
      const s = headShell(d, SKULL, {
        region: 'scarf',
        tag: 'hat',
        columns: 16,
        rows: 4,
        edge: (az) =>
          curve(
            [
              [0, 40],
              [50, 22],
              [86, -20],
              [120, -40],
              [180, -46],
              [240, -40],
              [274, -20],
              [310, 22],
              [360, 40],
            ],
            az,
          ),
        thick: (az, t) => 1.0 + 0.5 * Math.sin(t * 3) + (az > 120 && az < 240 ? 0.6 * t : 0),
      })
      const knot = fromHead([0, 1.9, -4.9])
      s.merge(
        lathe(
          [
            [-1.2, 0.8],
            [0, 1.5],
            [1.2, 0.8],
          ],
          6,
          'scarf',
          knot,
        ),
      )
      for (const side of [1, -1])
        s.merge(
          slab(
            [
              [add(knot, [side * 2.6, -5.6, -1.6]), add(knot, [side * 0.3, -6.4, -1.4])]
                .slice()
                [side > 0 ? 'reverse' : 'slice'](),
              [add(knot, [side * 0.9, 0, -0.5]), add(knot, [side * -0.3, 0, -0.4])]
                .slice()
                [side > 0 ? 'reverse' : 'slice'](),
            ],
            0.4,
            'scarf',
          ),
        )
      return s
    },
    PRESS,
  ),
]

export default HATS
