import { bentPath, thickBand } from '../../model/garment.ts'
import { lathe, ropeRing, Sculpt, tube } from '../../model/Sculpt.ts'
import { add, type V3 } from '../../model/vector.ts'
import { garment, type PartSpec } from './spec.ts'

function basketOf(region: string): Sculpt {
  const s = lathe(
    [
      [-9, 4.6],
      [-7.5, 5.6],
      [0, 6.6],
      [6.2, 7.6],
      [7.4, 7.9],
      [7.4, 7.0],
      [3.2, 6.2],
    ],
    10,
    region,
    [0, 0, -5.2],
    0.72,
  )
  for (const y of [-5.2, 0.6])
    s.merge(
      thickBand(
        ...([y, y + 1.3].map((h) =>
          Array.from({ length: 10 }, (_, k): V3 => {
            const a = (2 * Math.PI * k) / 10
            const r = 5.9 + (h + 9) * 0.12
            return [r * Math.sin(a), h, -5.2 + r * 0.72 * Math.cos(a)]
          }),
        ) as [V3[], V3[]]),
        0.35,
        'rope',
      ),
    )
  return s
}

const BACKS: PartSpec[] = [
  {
    id: 'basket',
    name: 'Back basket',
    slot: 'back',
    how: 'attached',
    socket: 'back',
    fit: 'shape',
    tags: [],
    make: (d) => {
      const s = basketOf('basket')
      for (const x of [-2.2, 0.4, 2.6])
        s.merge(
          lathe(
            [
              [3.2, 0.4],
              [6.5, 1.4],
              [9.6, 0.9],
              [11.2, 0],
            ],
            5,
            'fish',
            [x, 0, -5 + x * 0.3],
            0.6,
          ),
        )
      const back: V3 = [0, 70, -8.6]
      for (const side of [1, -1])
        s.merge(
          tube(
            bentPath(
              [
                [side * 5, 6.6, -2.4],
                [side * 6.6, 81.6 - back[1], -3 - back[2]],
                add(d.front(side * 6.6, 75, 2.6), [0, -back[1], -back[2]]),
                [side * 11.2, 66 - back[1], 3 - back[2]],
                [side * 8.6, 61 - back[1], -6 - back[2]],
                [side * 4.6, -7.5, -3.4],
              ],
              9,
            ),
            0.7,
            4,
            'leather',
            'strap',
            0.5,
          ),
        )
      return s
    },
  },
  garment(
    'rope-coil',
    'Coil of rope',
    'back',
    9,
    5,
    ['torso'],
    (d) => {
      const s = new Sculpt()
      for (const [lift, shift] of [
        [2.9, 0],
        [3.3, 1.7],
        [2.8, 3.2],
      ] as const) {
        const path = Array.from({ length: 18 }, (_, k): V3 => {
          const a = (2 * Math.PI * k) / 18
          // a slanting plane from the right shoulder to the left hip
          const dir: V3 = [Math.cos(a) * 0.62, -Math.cos(a) * 0.78, Math.sin(a)]
          return add(d.from([-0.5, 67.5 + shift * 0.35, -0.6], dir, lift - (Math.cos(a) < -0.8 ? 1.1 : 0)), [
            shift * 0.5,
            shift * 0.4,
            0,
          ])
        })
        s.merge(ropeRing(path, 0.95, 5, 'rope'))
      }
      return s
    },
    { presses: ['top', 'over'] },
  ),
  {
    id: 'net-bundle',
    name: 'Net bundle',
    slot: 'back',
    how: 'attached',
    socket: 'back',
    fit: 'shape',
    tags: [],
    make: () => {
      const s = lathe(
        [
          [-8, 1.4],
          [-6.4, 4.4],
          [-1, 6.6],
          [4, 5.4],
          [7, 2.6],
          [8.2, 0.9],
        ],
        8,
        'net',
        [0, 0, -4.6],
        0.7,
      )
      for (let k = 0; k < 6; k++) {
        const a = (k * Math.PI) / 3 + 0.4
        s.merge(
          lathe(
            [
              [-0.9, 0.7],
              [0, 1.2],
              [0.9, 0.7],
            ],
            6,
            'cork',
            [6.3 * Math.sin(a), -1.5 + 2.4 * Math.cos(k * 2.4), -4.6 + 4.3 * Math.cos(a)],
          ),
        )
      }
      s.merge(
        ropeRing(
          Array.from({ length: 8 }, (_, k): V3 => [
            3.9 * Math.sin((k * Math.PI) / 4),
            6.0,
            -4.6 + 2.8 * Math.cos((k * Math.PI) / 4),
          ]),
          0.6,
          4,
          'rope',
        ),
      )
      return s
    },
  },
]

/** A wooden leg in place of the left shin: it starts on the seam's own points. */

export default BACKS
