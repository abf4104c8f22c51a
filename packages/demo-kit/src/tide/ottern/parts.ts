import { bentPath, lock, slab, stud, type Dummy } from '../../model/garment.ts'
import { box, lathe, ropeRing, Sculpt, tube } from '../../model/Sculpt.ts'
import { add, along, unit, type V3 } from '../../model/vector.ts'
import { barnacles } from '../barnacles.ts'
import { eyesPart, type Eye } from '../eyes.ts'
import { carried, garment, onHead, upright, type PartSpec } from '../../folk/parts/spec.ts'

/** A pair of eyes, measured on the face. */
const eyePart = (id: string, name: string, eye: Pick<Eye, 'r' | 'lid' | 'tilt' | 'iris'>): PartSpec =>
  eyesPart(id, name, { region: 'fur' }, (d) => [
    { ...eye, at: d.front(6.4, 90.9, 0), out: unit([0.42, 0.12, 0.9]), paired: true },
  ])

function whiskers(length: number, droop: number): (d: Dummy) => Sculpt {
  return () => {
    const s = new Sculpt()
    for (const [y, lift] of [
      [82.2, -0.25],
      [83.4, 0],
      [84.6, 0.22],
    ] as const) {
      const root: V3 = [5.2, y, 14.4]
      s.merge(
        tube(
          [root, add(root, [length * 0.5, lift * length * 0.5, 1.2]), add(root, [length, lift * length - droop, -1.4])],
          [0.3, 0.22, 0],
          3,
          'whisker',
        ),
      )
    }
    return s.both()
  }
}

/** A ring around the neck or trunk at a height, by rays to the body. */
const ring = (d: Dummy, y: number, lift: number, n: number) =>
  Array.from({ length: n }, (_, k): V3 => {
    const a = (2 * Math.PI * k) / n
    return d.from([0, y, -0.6], [Math.sin(a), 0, Math.cos(a)], lift)
  })

/** A broad flat tail in place of the round one: it starts on the seam's own points, and is thinner and wider from there. */
function paddle(d: Dummy): Sculpt {
  const tail = d.sculpt.peel((f) => f.tag === 'tail')
  // what counts is how far back a point lies, in shares of the whole
  const share = (p: V3) => Math.min(1, Math.max(0, (-p[2] - 14) / 40))
  return tail.move((p, { row }) => {
    if (row < 0 || -p[2] < 14) return p
    const t = share(p)
    const middle = 27 - 22 * t
    return [p[0] * (1 + 2.8 * t * (1.2 - t)), middle + (p[1] - middle) * (1 - 0.75 * t), p[2]]
  })
}

/** Pieces for the crown are modeled about a skull of 100 and sit on one of 96. */
const ontoCrown = (p: V3): V3 => [p[0], p[1] - 3, p[2]]

const OTTERN_PARTS: PartSpec[] = [
  eyePart('eyes-round', 'Round eyes', { r: 2.1, lid: 0.25, tilt: 0.05, iris: 0.82 }),
  eyePart('eyes-sly', 'Sly eyes', { r: 1.95, lid: 0.75, tilt: 0.28, iris: 0.8 }),
  eyePart('eyes-mild', 'Mild eyes', { r: 2.25, lid: 0.55, tilt: -0.18, iris: 0.84 }),
  onHead('whiskers-long', 'Long whiskers', 'whiskers', 0, whiskers(15, 2.5)),
  onHead('whiskers-short', 'Short whiskers', 'whiskers', 0, whiskers(8, 0.4)),
  onHead(
    'horns-coral',
    'Coral horns',
    'horns',
    2,
    () => {
      const s = tube(
        bentPath(
          [
            [5.2, 96, -2],
            [7.2, 102, -3.4],
            [8.2, 107, -6],
            [7.4, 111.5, -8.5],
          ],
          6,
        ),
        [1.9, 1.7, 1.4, 1.1, 0.8, 0],
        5,
        'coral',
      )
      s.merge(
        tube(
          [
            [7.3, 102.4, -3.6],
            [10.4, 104.6, -2.6],
            [11.6, 107.6, -2.4],
          ],
          [1.0, 0.8, 0],
          5,
          'coral',
        ),
      )
      s.merge(
        tube(
          [
            [8.1, 106.6, -5.8],
            [10, 109.6, -6.6],
            [10, 112.4, -6.4],
          ],
          [0.9, 0.7, 0],
          5,
          'coral',
        ),
      )
      return s.both().move(ontoCrown)
    },
    { tags: ['distinctive'] },
  ),
  onHead('tufts', 'Brow tufts', 'horns', 2, () => {
    const s = lock(
      bentPath(
        [
          [5.6, 95.4, 6.4],
          [7.4, 98.4, 5.4],
          [11.2, 100.4, 2.4],
        ],
        4,
      ),
      1.1,
      'belly',
    )
    s.merge(
      lock(
        bentPath(
          [
            [7.6, 94.6, 5.4],
            [10.2, 96.8, 4.2],
            [13.4, 97.4, 1.6],
          ],
          4,
        ),
        0.9,
        'belly',
      ),
    )
    return s.both().move(ontoCrown)
  }),
  onHead(
    'cap-shell',
    'Scallop cap',
    'horns',
    3,
    () => {
      const s = new Sculpt()
      s.region = 'shell'
      const n = 14
      const at = (r: number, h: number, k: number): V3 => {
        const a = (2 * Math.PI * k) / n
        const rib = 1 + (k % 2 ? 0.07 : -0.05) * (r > 3 ? 1 : 0)
        return [r * rib * Math.sin(a), 96.2 + h, -0.5 + r * rib * 0.95 * Math.cos(a)]
      }
      const rings = [
        [9.9, -0.6],
        [9.6, 1.4],
        [6.6, 4.8],
        [3, 6.6],
      ].map(([r, h]) => Array.from({ length: n }, (_, k) => s.add(at(r!, h!, k))))
      for (let i = 0; i < 3; i++) s.loft(rings[i]!, rings[i + 1]!, true, { region: i === 1 ? 'shell' : 'shell-edge' })
      s.cap(rings[3]!, [0, 0.9, 0])
      s.cap([...rings[0]!].reverse(), [0, 2, 0])
      return s.outward().move(ontoCrown)
    },
    { tags: ['distinctive'] },
  ),
  garment('scarf-striped', 'Striped scarf', 'neck', 5, 4, ['neck', 'torso'], (d) => {
    const s = ropeRing(ring(d, 74.4, 1.2, 14), 2.1, 6, 'scarf', 0.8)
    for (const f of s.faces) f.region = f.v.every((i) => s.at(i)[1] > 74.3) ? 'scarf-stripe' : 'scarf'
    const at = d.front(4.2, 69.5, 1.6)
    const rows: V3[][] = [
      [-19, 0.2],
      [-16, 0.1],
      [-9, 0],
      [-6, 0],
      [2, -0.2],
    ].map(([y, x]) => [add(at, [-1.9 + x!, y!, y! < -8 ? 3.0 : 1.2]), add(at, [1.9 + x!, y!, y! < -8 ? 2.6 : 0.9])])
    const end = slab(rows, 0.9, 'scarf')
    for (const f of end.faces) if (f.row === 0 || f.row === 2) f.region = 'scarf-stripe'
    s.merge(end)
    return s
  }),
  garment(
    'frill',
    'Sea-fern frill',
    'neck',
    5,
    3,
    ['neck', 'torso'],
    (d) => {
      const s = ropeRing(ring(d, 73.8, 0.7, 14), 0.9, 4, 'frill')
      ring(d, 73.8, 0.8, 14).forEach((at, k) => {
        const out = unit([at[0], 0, at[2]])
        s.merge(
          lock(
            [
              at,
              add(along(at, out, 4), [0, k % 2 ? 1.6 : -1.4, 0]),
              add(along(at, out, 8), [0, k % 2 ? 4.2 : -0.6, 0]),
            ],
            1.5,
            'frill',
            4,
            'fin',
          ),
        )
      })
      return s
    },
    { tags: ['distinctive'] },
  ),
  garment(
    'vest-trader',
    'Trader’s vest',
    'vest',
    3,
    5,
    ['torso'],
    (d) => {
      const s = d.wear(
        (f) => f.tag === 'torso' && f.row >= 3 && f.row <= 6 && f.col >= 1,
        'vest',
        () => 1.1,
      )
      s.thicken(0.6, 'vest-lining', (f) => f.col === 1 || f.row === 3)
      for (const y of [63, 57, 51]) s.merge(stud(d.front(8.6, y, 1.7), [0.5, 0, 0.9], 0.9, 0.5, 'metal').both())
      return s
    },
    { presses: ['back'] },
  ),
  garment('satchel', 'Satchel', 'bag', 6, 5, ['torso', 'hips'], (d) => {
    const strap = Array.from({ length: 16 }, (_, k): V3 => {
      const a = (2 * Math.PI * k) / 16
      return d.from([0, 52, -0.5], [Math.cos(a) * 0.62, -Math.cos(a) * 0.78, Math.sin(a)], 1.6)
    })
    const s = ropeRing(strap, 0.9, 4, 'leather', 0.6)
    const at = d.from([0, 33, 0], [0.92, 0, 0.4], 2.6)
    const turn: [V3, V3, V3] = [unit([0.4, 0, -0.92]), [0, 1, 0], unit([0.92, 0, 0.4])]
    s.merge(box(at, [5, 4.4, 2.0], 'leather', 0.92, turn))
    s.merge(box(add(at, [1.2, 1.6, 0.5]), [5.3, 3.0, 1.5], 'leather-dark', 0.9, turn))
    s.merge(stud(add(at, [2.6, -0.6, 1.1]), turn[2], 0.9, 0.7, 'metal'))
    return s
  }),
  garment('belt-floats', 'Belt of floats', 'bag', 6, 4, ['torso', 'hips'], (d) => {
    const path = ring(d, 30, 1.6, 18)
    const s = ropeRing(path, 0.8, 4, 'rope')
    path.forEach(
      (at, k) =>
        k % 3 === 0 &&
        (k < 6 || k > 12) &&
        s.merge(
          lathe(
            [
              [-2.6, 0.9],
              [-1.4, 1.9],
              [1.4, 1.9],
              [2.6, 0.9],
            ],
            7,
            'cork',
            along(at, unit([at[0], 0, at[2]]), 1.2),
          ),
        ),
    )
    return s
  }),
  garment('tail-fin', 'Tail fin', 'tail', 2, 2, ['tail'], () => {
    const fin = (x: number) =>
      slab(
        [
          [
            [x, 9, -44],
            [x, 7.6, -60],
          ],
          [
            [x * 1.2, 15, -47.5],
            [x * 1.2, 12.4, -66],
          ],
          [
            [x * 0.6, 19, -55],
            [x * 0.6, 17, -68],
          ],
        ],
        0.9,
        'frill',
        'frill',
        'fin',
      )
    return fin(0.45)
  }),
  garment('tail-rings', 'Tail rings', 'tail', 2, 2, ['tail'], () => {
    const s = new Sculpt()
    for (const [y, z, w, h] of [
      [14.6, -32, 7.2, 6.4],
      [10, -40.5, 6.0, 5.0],
      [7, -49, 4.7, 3.9],
    ] as const) {
      const loop = Array.from({ length: 10 }, (_, k): V3 => {
        const a = (2 * Math.PI * k) / 10
        return [(w + 0.7) * Math.sin(a), y + (h + 0.7) * Math.cos(a), z - h * Math.cos(a) * 0.3]
      })
      s.merge(ropeRing(loop, 0.8, 5, 'metal'))
    }
    return s
  }),
  garment('barnacles', 'Barnacles', 'back', 2, 0, ['torso', 'hips'], (d) =>
    barnacles(
      [
        [[5, 62, 0], 1.9],
        [[-3.6, 57, 0], 2.3],
        [[2, 51, 0], 1.6],
        [[8, 54, 0], 1.4],
        [[-7.6, 63, 0], 1.5],
        [[-1, 65.5, 0], 1.3],
        [[6.6, 46, 0], 1.9],
      ],
      ([x, y]) => ({ at: d.from([x, y, -1], [0, 0.05, -1], -0.4), out: [0, 0, -1] }),
    ),
  ),
  carried(
    'spear',
    'Fishing spear',
    'right-hand',
    'rightGrip',
    () => {
      const s = tube(
        [
          [0, -38, 0],
          [0, 46, 0],
        ],
        0.85,
        6,
        'wood',
      )
      for (const x of [-2.2, 0, 2.2])
        s.merge(
          tube(
            [
              [x * 0.2, 44, 0],
              [x, 49, 0],
              [x, x === 0 ? 60 : 56, 0],
            ],
            [0.6, 0.55, 0],
            4,
            'metal',
          ),
        )
      s.merge(
        ropeRing(
          Array.from({ length: 7 }, (_, k): V3 => [1.1 * Math.sin(k * 0.898), 43, 1.1 * Math.cos(k * 0.898)]),
          0.5,
          4,
          'rope',
        ),
      )
      return upright(s, 'right', [0.3, 0.95, 0.09])
    },
    { tags: ['long-pole'] },
  ),
  carried(
    'pearl',
    'Glow pearl',
    'left-hand',
    'leftGrip',
    () =>
      lathe(
        [
          [-3.2, 0],
          [-2.2, 2.3],
          [0, 3.3],
          [2.2, 2.3],
          [3.2, 0],
        ],
        8,
        'glow',
        [0, -1.5, 2.4],
      ),
    { tags: ['distinctive'] },
  ),
  {
    id: 'tail-paddle',
    name: 'Paddle tail',
    slot: 'other-tail',
    how: 'replaces',
    seam: 'tailRoot',
    tags: ['distinctive'],
    make: paddle,
  },
]

export default OTTERN_PARTS
