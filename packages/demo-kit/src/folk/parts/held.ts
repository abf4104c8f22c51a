import { bentPath, slab, thickBand } from '../../model/garment.ts'
import { box, lathe, ropeRing, tube, type Sculpt } from '../../model/Sculpt.ts'
import type { V3 } from '../../model/vector.ts'
import { carried, upright, type PartSpec } from './spec.ts'

/** What is upright in a hand that hangs at the side, seen from the rest pose. */
const UPRIGHT: V3 = [0.47, 0.82, 0.33]
const inHand = (s: Sculpt, side: 'left' | 'right'): Sculpt => upright(s, side, UPRIGHT)

function lantern(): Sculpt {
  const s = ropeRing(
    Array.from({ length: 8 }, (_, k): V3 => [
      0,
      -1.9 + 1.9 * Math.cos((k * Math.PI) / 4),
      2.1 * Math.sin((k * Math.PI) / 4),
    ]),
    0.3,
    4,
    'metal',
  )
  s.merge(
    lathe(
      [
        [-5.6, 0.5],
        [-4.2, 1.1],
        [-5.0, 2.7],
      ].reverse() as [number, number][],
      6,
      'metal',
    ).outward(),
  )
  s.merge(
    lathe(
      [
        [-5.2, 2.9],
        [-4.1, 0.9],
        [-3.7, 0.5],
      ],
      6,
      'metal',
    ),
  )
  s.merge(
    lathe(
      [
        [-10.2, 1.7],
        [-8.6, 2.25],
        [-5.4, 1.9],
      ],
      6,
      'glow',
    ),
  )
  s.merge(
    lathe(
      [
        [-11.8, 2.6],
        [-10.9, 2.9],
        [-10.0, 2.3],
      ],
      6,
      'metal',
    ),
  )
  for (let k = 0; k < 3; k++) {
    const a = (k * 2 * Math.PI) / 3 + 0.5
    s.merge(
      tube(
        [
          [2.5 * Math.sin(a), -10.4, 2.5 * Math.cos(a)],
          [2.7 * Math.sin(a), -5.0, 2.7 * Math.cos(a)],
        ],
        0.26,
        4,
        'metal',
      ),
    )
  }
  return s
}

const HELD: PartSpec[] = [
  carried('lantern', 'Lantern', 'right-hand', 'rightGrip', () => inHand(lantern(), 'right'), { tags: ['distinctive'] }),
  carried(
    'boathook',
    'Boathook',
    'right-hand',
    'rightGrip',
    () => {
      const s = tube(
        [
          [0, -44, 0.6],
          [0, 0, 0],
          [0, 52, -0.6],
        ],
        [0.72, 0.8, 0.66],
        6,
        'wood',
      )
      s.merge(
        tube(
          bentPath(
            [
              [0, 50, -0.5],
              [0, 58, -0.4],
              [0, 60, 1.6],
              [0, 57.4, 3.2],
              [0, 55.6, 2.8],
            ],
            7,
          ),
          [0.75, 0.65, 0.6, 0.55, 0.5, 0.4, 0],
          5,
          'metal',
        ),
      )
      return inHand(s, 'right')
    },
    { tags: ['long-pole'] },
  ),
  carried(
    'oar',
    'Oar',
    'right-hand',
    'rightGrip',
    () => {
      const s = tube(
        [
          [0, -40, 0],
          [0, 30, 0],
        ],
        0.85,
        6,
        'wood',
      )
      s.merge(
        slab(
          [
            [
              [-1.1, 28, 0.35],
              [1.1, 28, 0.35],
            ],
            [
              [-2.6, 34, 0.45],
              [2.6, 34, 0.45],
            ],
            [
              [-3.1, 52, 0.35],
              [3.1, 52, 0.35],
            ],
            [
              [-2.4, 56, 0.3],
              [2.4, 56, 0.3],
            ],
          ],
          0.8,
          'wood',
          'wood',
        ),
      )
      s.merge(
        thickBand(
          [
            [-2.9, 47, 0.2],
            [0, 47, 0.7],
            [2.9, 47, 0.2],
            [0, 47, -0.8],
          ],
          [
            [-3, 50, 0.2],
            [0, 50, 0.7],
            [3, 50, 0.2],
            [0, 50, -0.8],
          ],
          0.25,
          'paint',
        ),
      )
      return inHand(s, 'right')
    },
    { tags: ['long-pole', 'distinctive'] },
  ),
  carried('ledger', 'Ledger', 'left-hand', 'leftGrip', () => {
    const s = box([0, -1.6, 0], [1.0, 4.6, 3.4], 'paper')
    s.merge(box([-1.15, -1.6, 0.1], [0.22, 5.0, 3.8], 'leather'))
    s.merge(box([1.15, -1.6, 0.1], [0.22, 5.0, 3.8], 'leather'))
    s.merge(box([0, -1.6, -3.6], [1.35, 5.0, 0.28], 'leather'))
    for (const y of [-4.6, 1.4]) s.merge(box([0, y, 0.1], [1.45, 0.35, 3.9], 'metal'))
    return inHand(s, 'left')
  }),
  carried('mug', 'Tin mug', 'left-hand', 'leftGrip', () => {
    const s = lathe(
      [
        [-2.2, 1.7],
        [2.2, 1.9],
        [1.6, 1.5],
      ],
      8,
      'metal',
      [0, 0, 1.2],
    )
    return inHand(s, 'left')
  }),
  carried(
    'fish',
    'Catch of the day',
    'left-hand',
    'leftGrip',
    () => {
      const s = lathe(
        [
          [-11, 0],
          [-9.6, 1.3],
          [-6.5, 2.3],
          [-3, 1.9],
          [0.5, 0.7],
          [1.4, 0.55],
        ],
        6,
        'fish',
        [0, 0, 0],
        0.5,
      )
      s.merge(
        slab(
          [
            [
              [-0.6, 0.8, 0.2],
              [0.6, 0.8, 0.2],
            ],
            [
              [-2.3, 4.4, 0.15],
              [2.3, 4.6, 0.15],
            ],
          ],
          0.4,
          'fish-fin',
        ),
      )
      s.merge(
        slab(
          [
            [
              [0.9, -7.5, 0.15],
              [3.2, -6.6, 0.15],
            ],
            [
              [0.9, -4.2, 0.15],
              [2.6, -3.6, 0.15],
            ],
          ],
          0.35,
          'fish-fin',
        ),
      )
      return inHand(s, 'left')
    },
    { tags: ['distinctive'] },
  ),
]

export default HELD
