import { Sculpt } from '../../model/Sculpt.ts'
import { bentPath, headShell, lock } from '../../model/garment.ts'
import { add } from '../../model/vector.ts'
import { fromHead } from '../proportions.ts'
import { curl, hair, hairline, hang, SKULL, templeLocks, tubeOf, wobble } from './hairCut.ts'
import { onHead, type PartSpec } from './spec.ts'
import { hung, strandsOf, type Strand } from './strands.ts'

const BRAID = {
  ...{ id: 'braid', kind: 'hair' as const, parent: 'head' },
  way: bentPath(
    [
      fromHead([0, 3.4, -4.6]),
      fromHead([0.4, 0.4, -5.6]),
      fromHead([1.8, -3.2, -5.4]),
      fromHead([3.0, -7.0, -3.8]),
      fromHead([3.2, -9.2, -3.2]),
    ],
    7,
  ),
  joints: [
    [3, 1.2],
    [7, 1.6],
    [11, 1.6],
  ],
} satisfies Strand

const HAIR: PartSpec[] = [
  onHead('hair-cropped', 'Cropped', 'hair', 1, hair({ edge: hairline(34, 8, -3, -22, -38), thick: 0.7, zigzag: 4 })),
  onHead(
    'hair-tousled',
    'Tousled',
    'hair',
    1,
    hair(
      { edge: hairline(33, 4, -8, -26, -42), thick: 1.4, more: (az, t) => wobble(az, t, 0.7), zigzag: 9 },
      (s, d) => {
        s.merge(
          hang(
            d,
            [
              [-20, 62, 1.2],
              [8, 42, 2.4],
              [26, 22, 1.5],
            ],
            1.7,
          ),
        )
        s.merge(
          hang(
            d,
            [
              [10, 66, 1.3],
              [-16, 44, 2.5],
              [-34, 24, 1.4],
            ],
            1.6,
          ),
        )
        s.merge(
          hang(
            d,
            [
              [40, 58, 1.4],
              [52, 36, 2.5],
              [58, 10, 1.6],
            ],
            1.5,
          ),
        )
        s.merge(
          hang(
            d,
            [
              [-50, 60, 1.4],
              [-60, 32, 2.4],
              [-64, 6, 1.5],
            ],
            1.5,
          ),
        )
        s.merge(
          hang(
            d,
            [
              [120, 50, 1.4],
              [135, 15, 2.7],
              [140, -28, 2.2],
            ],
            1.7,
          ),
        )
        s.merge(
          hang(
            d,
            [
              [205, 52, 1.4],
              [200, 10, 2.8],
              [196, -36, 2.3],
            ],
            1.8,
          ),
        )
      },
    ),
  ),
  onHead(
    'hair-bob',
    'Bob',
    'hair',
    1,
    hair(
      {
        edge: hairline(30, -10, -40, -48, -46),
        thick: 1.5,
        more: (az, t) => 0.9 * t * t + wobble(az, t, 0.2),
        zigzag: 4,
        rows: 5,
      },
      (s, d) => {
        s.merge(
          hang(
            d,
            [
              [-12, 60, 1.4],
              [6, 42, 2.2],
              [24, 24, 1.5],
            ],
            1.9,
          ),
        )
        s.merge(
          hang(
            d,
            [
              [14, 62, 1.4],
              [36, 42, 2.3],
              [52, 14, 1.7],
            ],
            1.9,
          ),
        )
        s.merge(
          hang(
            d,
            [
              [-30, 60, 1.4],
              [-44, 36, 2.2],
              [-56, 8, 1.7],
            ],
            1.9,
          ),
        )
      },
    ),
  ),
  onHead(
    'hair-bun',
    'Bun',
    'hair',
    1,
    hair({ edge: hairline(36, 12, 2, -22, -40), thick: 0.8, zigzag: 2 }, (s) => {
      const c = fromHead([0, 8.1, -4.6])
      const knot = new Sculpt()
      knot.region = 'hair'
      knot.tag = 'hair'
      knot.limb = 'headwear'
      const ring = (r: number, z: number) =>
        Array.from({ length: 8 }, (_, k) =>
          knot.add(add(c, [r * Math.cos((k * Math.PI) / 4), r * Math.sin((k * Math.PI) / 4), z])),
        )
      const rings = [ring(1.6, 2.6), ring(3.2, 0.9), ring(3.1, -1.2), ring(1.6, -2.6)]
      for (let i = 0; i < 3; i++) knot.loft(rings[i]!, rings[i + 1]!, true)
      knot.cap([...rings[0]!].reverse())
      knot.cap(rings[3]!, [0, 0, -0.3])
      s.merge(knot.outward())
      s.merge(
        lock(
          bentPath([fromHead([3.1, 6.5, 1.9]), fromHead([3.75, 4.8, 1.15]), fromHead([3.62, 2.9, 1.3])], 4),
          0.7,
          'hair',
        ).both(),
      )
    }),
  ),
  {
    ...onHead(
      'hair-braid',
      'Braid',
      'hair',
      1,
      hair(
        { edge: hairline(34, 6, -12, -34, -46), thick: 1.1, more: (az, t) => wobble(az, t, 0.25), zigzag: 3 },
        (s) => {
          const radii = BRAID.way.map((_, i) => (i === 6 ? 0 : i === 5 ? 1.25 : i === 4 ? 0.62 : i % 2 ? 1.1 : 1.6))
          s.merge(hung(tubeOf(BRAID.way, radii), BRAID))
          s.merge(templeLocks())
        },
      ),
    ),
    ...strandsOf([BRAID]),
  },
  onHead(
    'hair-curls',
    'Curls',
    'hair',
    1,
    hair({ edge: hairline(30, 0, -24, -36, -42), thick: 1.5, zigzag: 5, columns: 14 }, (s, d) => {
      for (const [az, el, r] of [
        [8, 44, 2.6],
        [-38, 40, 2.5],
        [48, 36, 2.6],
        [92, 22, 2.8],
        [-88, 26, 2.8],
        [20, 76, 2.9],
        [-60, 68, 2.7],
        [118, -10, 2.7],
        [-116, -8, 2.7],
        [160, 34, 3.0],
        [-158, 30, 3.0],
        [178, -14, 2.9],
        [110, 58, 2.9],
      ] as const)
        s.merge(curl(d, az, el, r * 1.65))
    }),
  ),
  onHead(
    'hair-swept',
    'Swept back',
    'hair',
    1,
    hair(
      {
        edge: hairline(38, 14, -2, -30, -50),
        thick: 1.0,
        more: (az, t) => (az < 60 || az > 300 ? 1.5 * Math.sin(t * Math.PI) : 0.4 * t),
        zigzag: 3,
        rows: 5,
      },
      (s, d) => {
        s.merge(
          hang(
            d,
            [
              [0, 44, 1.6],
              [-24, 66, 3.0],
              [180, 60, 1.8],
            ],
            2.2,
          ),
        )
        // tied at the nape
        s.merge(
          hang(
            d,
            [
              [180, -2, 1.0],
              [180, -30, 3.4],
              [180, -56, 4.2],
            ],
            4.6,
          ),
        )
      },
    ),
  ),
  onHead(
    'hair-fringe',
    'Bald with a fringe',
    'hair',
    1,
    (d) =>
      headShell(d, SKULL, {
        region: 'hair',
        columns: 12,
        rows: 2,
        span: [64, 296],
        from: (az) => 22 - 6 * Math.sin(((az - 64) / 232) * Math.PI),
        edge: hairline(20, 0, -6, -26, -40),
        thick: (_, t) => 0.35 + 0.9 * Math.sin(t * Math.PI),
        zigzag: 4,
      }),
    { tags: ['old'] },
  ),
]

export default HAIR
