import { bentPath, lock } from '../../model/garment.ts'
import { lathe } from '../../model/Sculpt.ts'
import { add, type V3 } from '../../model/vector.ts'
import { fromHead } from '../proportions.ts'
import { beard } from './beards.ts'
import { onFace } from './eyes.ts'
import { hair, hairline, hang, templeLocks, tubeOf, wobble } from './hairCut.ts'
import { onHead, type PartSpec } from './spec.ts'
import { hung, mirroredStrand, strandsOf, type Strand } from './strands.ts'

/* Hair that hangs or is bound up, and beards that are worn long or in part. */

/** Knotted strands: thick and thin by turns, loose at the end. */
const plaited = (stops: number, thick: number) =>
  Array.from({ length: stops }, (_, i) => {
    if (i === stops - 1) return 0
    if (i === stops - 2) return thick * 0.8
    if (i === stops - 3) return thick * 0.42
    return thick * (i % 2 ? 0.7 : 1)
  })

const PLAIT = {
  ...{ id: 'leftPlait', kind: 'hair' as const, parent: 'head' },
  way: bentPath(
    [
      fromHead([2.7, 2.4, -2.8]),
      fromHead([3.8, 0.6, -1.4]),
      fromHead([3.8, -1.6, 1.0]),
      fromHead([3.4, -4.0, 3.4]),
      fromHead([3.0, -7.4, 4.5]),
    ],
    9,
  ),
  joints: [
    [4.5, 1.4],
    [8.5, 1.6],
  ],
} satisfies Strand

const PARTS: PartSpec[] = [
  {
    ...onHead(
      'hair-plaits',
      'Two plaits',
      'hair',
      1,
      hair(
        { edge: hairline(33, 4, -16, -36, -44), thick: 1.0, more: (az, t) => wobble(az, t, 0.2), zigzag: 3 },
        (s) => {
          s.merge(hung(tubeOf(PLAIT.way, plaited(9, 1.45)), PLAIT).both())
          s.merge(templeLocks())
        },
      ),
    ),
    ...strandsOf([PLAIT, mirroredStrand(PLAIT)]),
  },
  onHead(
    'hair-topknot',
    'Topknot',
    'hair',
    1,
    hair({ edge: hairline(37, 16, 6, -12, -30), thick: 0.65, zigzag: 2 }, (s) => {
      s.merge(
        lathe(
          [
            [-0.8, 1.9],
            [0.3, 1.5],
            [1.2, 2.7],
            [2.8, 2.9],
            [4.1, 1.7],
            [4.5, 0],
          ],
          7,
          'hair',
          fromHead([0, 9.2, -1.9]),
        ).move(([x, y, z]): V3 => [x, y, z - (y - fromHead([0, 9.2, 0])[1]) * 0.3]),
      )
    }),
  ),
  onHead(
    'hair-loose',
    'Long and loose',
    'hair',
    1,
    hair(
      {
        edge: hairline(32, -6, -36, -46, -46),
        thick: 1.4,
        more: (az, t) => 0.5 * t * t + wobble(az, t, 0.25),
        zigzag: 4,
        rows: 5,
      },
      (s, d) => {
        for (const [x, length] of [
          [1.15, 1],
          [3.1, 0.9],
        ] as const)
          s.merge(
            lock(
              bentPath(
                [
                  fromHead([x * 0.75, 4.4, -3.9 + x * 0.2]),
                  fromHead([x, 1.0, -5.3 + x * 0.3]),
                  fromHead([x * 1.12, -3.2 * length, -5.5 + x * 0.25]),
                  fromHead([x * 1.15, -7.8 * length, -5.4 + x * 0.2]),
                ],
                5,
              ),
              4.2,
              'hair',
            ).both(),
          )
        s.merge(
          lock(
            bentPath(
              [
                fromHead([4.0, 4.2, -1.2]),
                fromHead([4.4, 2.0, -1.8]),
                fromHead([4.5, -0.4, -2.3]),
                fromHead([4.3, -2.6, -3.2]),
              ],
              5,
            ),
            2.9,
            'hair',
          ).both(),
        )
        s.merge(
          hang(
            d,
            [
              [12, 62, 1.4],
              [34, 42, 2.4],
              [54, 12, 1.9],
            ],
            1.9,
          ),
        )
      },
    ),
  ),
  onHead(
    'hair-ropes',
    'Rope locks',
    'hair',
    1,
    hair({ edge: hairline(34, 8, -4, -26, -40), thick: 1.3, zigzag: 6, more: (az, t) => wobble(az, t, 0.5) }, (s) => {
      for (const [x, z, down] of [
        [3.7, 0.4, 0.2],
        [4.1, -1.3, -1.2],
        [3.4, -3.2, -2.8],
        [1.5, -4.5, -4.6],
      ] as const)
        s.merge(
          lock(
            bentPath(
              [
                fromHead([x * 0.85, 6.4, z * 0.8]),
                fromHead([x * 1.08, 4.2, z * 1.12]),
                fromHead([x * 1.18, 1.2, z * 1.2]),
                fromHead([x * 1.2, down, z * 1.22]),
              ],
              5,
            ),
            2.1,
            'hair',
            5,
          ).both(),
        )
    }),
  ),
  onHead('beard-forked', 'Forked beard', 'beard', 2, (d) => {
    const s = beard({ drop: 0.7, thick: 0.45, moustache: true })(d)
    // as a chin beard, twice: from the chin itself, so that it goes with the jaw
    const root = [onFace(d, 0.5, 1.2, -0.2), onFace(d, 0.55, 0.6, 0.35)]
    s.merge(lock(bentPath([...root, add(onFace(d, 0.6, 0.6, 0.2), [0.9, -3.4, 0.6])], 4), 1.3, 'hair').both())
    return s
  }),
  onHead('beard-plaited', 'Plaited beard', 'beard', 2, (d) => {
    const s = beard({ drop: 0.7, thick: 0.45, moustache: true })(d)
    const tip = add(onFace(d, 0, 0.6, 0.2), [0, -3.9, 0.7])
    s.merge(tubeOf(bentPath([onFace(d, 0, 1.2, 0.1), onFace(d, 0, 0.6, 0.6), tip], 6), plaited(6, 1.1)))
    s.merge(
      lathe(
        [
          [-0.45, 0.5],
          [0, 0.8],
          [0.45, 0.5],
        ],
        6,
        'metal',
        add(tip, [0, 1.2, 0]),
      ),
    )
    return s
  }),
  onHead('beard-sides', 'Side whiskers', 'beard', 2, beard({ drop: 0.4, thick: 1.05, moustache: true, bare: 2 })),
]

export default PARTS
