import { bentPath, lock, slab, stud, type Dummy } from '../../model/garment.ts'
import { box, lathe, ropeRing, Sculpt, tube } from '../../model/Sculpt.ts'
import { add, along, unit, type V3 } from '../../model/vector.ts'
import { garment, onHead, type PartSpec } from '../../folk/parts/spec.ts'
import { barnacles } from '../barnacles.ts'
import { eyesPart, type Eye } from '../eyes.ts'
import { FORE, HIND } from './body.ts'

/** A pair of eyes on the sides of the head. */
const eyePart = (id: string, name: string, eye: Pick<Eye, 'r' | 'lid' | 'tilt' | 'iris'>): PartSpec =>
  eyesPart(id, name, { region: 'plume' }, (d) => {
    const out = unit([0.9, 0.14, 0.42])
    return [{ ...eye, at: d.fromHead([0, 95, 31.4], out, -0.1), out, hooded: true, paired: true }]
  })

/** A ring about the neck at a height, square to it. */
const neckRing = (d: Dummy, y: number, z: number, lift: number, n: number, lean = 0) =>
  Array.from({ length: n }, (_, k): V3 => {
    const a = (2 * Math.PI * k) / n
    return d.from([0, y, z], [Math.sin(a), lean * Math.cos(a), Math.cos(a)], lift)
  })

/** The height of the trunk's middle, from which its skin is sought. */
const MIDDLE = 60

/** A ring about the trunk across its length, at a place along it. */
const girthRing = (d: Dummy, z: number, lift: number, n: number) =>
  Array.from({ length: n }, (_, k): V3 => {
    const a = (2 * Math.PI * k) / n
    return d.fromTrunk([0, MIDDLE, z], [Math.sin(a), Math.cos(a), 0], lift)
  })

/** An arc over the back, from side to side. */
const overBack = (d: Dummy, z: number, reach: number, lift: number, n: number) =>
  Array.from({ length: n }, (_, k): V3 => {
    const a = (-1 + (2 * k) / (n - 1)) * reach
    return d.fromTrunk([0, MIDDLE, z], [Math.sin(a), Math.cos(a), 0], lift)
  })

/** A strap laid flat. */
const strap = (path: readonly V3[], region = 'leather', width = 0.9) => ropeRing(path, width, 4, region, 0.5)

function scarf(d: Dummy): Sculpt {
  const s = ropeRing(neckRing(d, 74.2, 23.6, 0.9, 12, -0.4), 1.7, 6, 'scarf', 0.8)
  s.merge(ropeRing(neckRing(d, 76.6, 24, 0.5, 12, -0.25), 1.1, 5, 'scarf-stripe', 0.8))
  const at = d.front(2.6, 72, 0.6)
  const end = slab(
    [0, -3.2, -6.4, -8.4, -11].map((y, i): V3[] => [
      add(at, [-1.5 - i * 0.2, y, 0.7 + i * 0.1]),
      add(at, [1.5 + i * 0.1, y, 0.3 + i * 0.1]),
    ]),
    0.6,
    'scarf',
  )
  for (const f of end.faces) if (f.row === 2) f.region = 'scarf-stripe'
  s.merge(end)
  return s
}

function saddle(d: Dummy): Sculpt {
  const s = new Sculpt()
  const cloth = d.wear(
    (f) => f.tag === 'torso' && f.row >= 2 && f.row <= 5 && f.col <= 1,
    'saddle-cloth',
    () => 0.55,
  )
  s.merge(cloth.thicken(0.4, 'leather', () => false))
  const seat = [-9.5, -7, -3.5, 0.5, 3.5, 5.5].map((z) => {
    const rise = 0.7 + 2.4 * (Math.max(0, Math.abs(z + 2) - 2.4) / 5.4) ** 1.6
    return overBack(d, z, 0.52, rise, 5)
  })
  s.merge(slab(seat, 1, 'leather', 'leather-dark'))
  for (const z of [-5, 2]) s.merge(strap(girthRing(d, z, 0.35, 16)))
  for (const side of [1, -1]) {
    const at = d.fromTrunk([0, MIDDLE, -1], [side, -0.42, 0], 1.2)
    s.merge(
      ropeRing(
        Array.from({ length: 7 }, (_, k): V3 => {
          const a = (2 * Math.PI * k) / 7
          return add(at, [side * 0.2, 1.9 * Math.cos(a) - 1.5, 1.6 * Math.sin(a)])
        }),
        0.35,
        4,
        'metal',
      ),
    )
  }
  return s
}

function net(d: Dummy): Sculpt {
  const s = new Sculpt()
  const lines = [-18, -12.5, -7, -1.5].map((z) => overBack(d, z, 1.5, 0.6, 9))
  for (const line of lines) s.merge(tube(line, 0.34, 4, 'rope'))
  for (const k of [0, 2, 4, 6, 8])
    s.merge(
      tube(
        lines.map((line) => line[k]!),
        0.34,
        4,
        'rope',
      ),
    )
  for (const line of lines)
    for (const end of [line[0]!, line.at(-1)!])
      s.merge(
        lathe(
          [
            [-1.5, 0.6],
            [-0.8, 1.3],
            [0.8, 1.3],
            [1.5, 0.6],
          ],
          6,
          'cork',
          along(end, unit([end[0], 0, 0]), 0.7),
        ),
      )
  return s
}

/** Plates that overlap from the withers to the rump, each with a pale edge. */
function plates(d: Dummy): Sculpt {
  const s = new Sculpt()
  for (const [front, back, reach] of [
    [9, 0.5, 0.8],
    [2.5, -7, 0.95],
    [-5, -14.5, 0.98],
    [-12.5, -21.5, 0.86],
  ] as const) {
    const rows = [0, 0.6, 1].map((t) => {
      const z = front + (back - front) * t
      return overBack(d, z, reach * (1 - 0.12 * t), 0.5 + 1.5 * t, 7).map((p, k): V3 => [
        p[0],
        p[1],
        p[2] - (t === 1 ? 1.8 * (1 - Math.abs(k - 3) / 3) : 0),
      ])
    })
    const plate = slab(rows, 0.7, 'shell', 'shell-edge')
    for (const f of plate.faces) if (f.row === 1 && f.region === 'shell') f.region = 'shell-edge'
    s.merge(plate)
  }
  return s
}

/** Places along the back: how far back, how far to the side, how large. */
const BARNACLES = [
  [-16, 0.4, 2.2],
  [-11, -0.5, 2.8],
  [-7, 0.2, 2],
  [-3, 0.75, 2.1],
  [-13, 0.95, 1.8],
  [1, -0.3, 2.2],
  [4, 0.4, 1.7],
  [-18, -0.3, 1.8],
] as const

function panniers(d: Dummy): Sculpt {
  const s = new Sculpt()
  for (const z of [-8, -2]) s.merge(strap(girthRing(d, z, 0.4, 16)))
  for (const side of [1, -1]) {
    const at = d.fromTrunk([0, 63, -5], [side, 0.1, 0], 2.2)
    const turn: [V3, V3, V3] = [
      [0, 0, -side],
      [0, 1, 0],
      [side, 0, 0],
    ]
    s.merge(box(at, [5.4, 4.6, 2.2], 'leather', 0.92, turn))
    s.merge(box(add(at, [side * 0.5, 2.6, 0]), [5.7, 2.6, 2.1], 'leather-dark', 0.9, turn))
    for (const dz of [-2.4, 2.4]) s.merge(stud(add(at, [side * 2.5, 0.3, dz]), [side, 0, 0], 0.7, 0.5, 'metal'))
  }
  return s
}

function floats(d: Dummy): Sculpt {
  const path = girthRing(d, 4, 1, 18)
  const s = ropeRing(path, 0.6, 4, 'rope')
  path.forEach((at, k) => {
    if (k % 3 || k === 9) return
    const cork = lathe(
      [
        [-2.2, 0.8],
        [-1.2, 1.7],
        [1.2, 1.7],
        [2.2, 0.8],
      ],
      7,
      'cork',
    )
    const out = unit([at[0], at[1] - MIDDLE, 0])
    s.merge(cork.move((p) => add(along(at, out, 1), [p[0], p[2], p[1]])).outward())
  })
  return s
}

/** Three lobes at the end of the tail. */
const tailFan = () => {
  const s = new Sculpt()
  for (const x of [-1, 0, 1])
    s.merge(
      slab(
        [
          [
            [x * 0.7, 65, -33],
            [x * 1.6, 65.2, -37.5],
          ],
          [
            [x * 2.6 - (x ? 0 : 1.3), 66, -38],
            [x * 6.4, 67.4, -46.5],
          ],
          [
            [x * 4.2 + (x ? 0 : 1.3), 64.6, -37],
            [x * 8.6 + (x ? 0 : 1.6), 66, -43.5],
          ],
        ],
        0.6,
        x ? 'frill' : 'coral',
        'frill',
        'fin',
      ),
    )
  return s
}

const tailRings = () => {
  const s = new Sculpt()
  for (const [y, z, r] of [
    [63.7, -29.6, 3.2],
    [64.3, -33.4, 2.6],
    [64.6, -36.6, 2.1],
  ] as const)
    s.merge(
      ropeRing(
        Array.from({ length: 9 }, (_, k): V3 => {
          const a = (2 * Math.PI * k) / 9
          return [r * Math.sin(a), y + r * Math.cos(a), z + 0.2 * r * Math.cos(a)]
        }),
        0.5,
        4,
        'metal',
      ),
    )
  return s
}

const legWraps = (d: Dummy) => {
  const s = d.wear(
    (f) => f.tag.endsWith('Leg') && f.row >= 5 && f.row <= 6,
    'scarf',
    () => 0.45,
  )
  s.thicken(0.4, 'scarf', () => false)
  for (const [leg, y, z] of [
    [HIND, 32.8, -8.4],
    [FORE, 30.8, 6.7],
  ] as const)
    for (const side of [1, -1])
      s.merge(
        ropeRing(
          Array.from({ length: 8 }, (_, k): V3 => {
            const a = (2 * Math.PI * k) / 8
            return [side * (leg.knee[0] - 0.05) + 2.5 * Math.sin(a), y, z + 2.7 * Math.cos(a)]
          }),
          0.45,
          4,
          'scarf-stripe',
        ),
      )
  return s
}

/** Fins that stand off the shanks behind. */
const legFins = () => {
  const s = new Sculpt()
  for (const [y, z, x] of [
    [27, -10.4, 9.1],
    [24, 7.4, 8.5],
  ] as const)
    s.merge(
      slab(
        [
          [
            [x, y + 6, z - 0.6],
            [x, y + 5, z - 2.6],
          ],
          [
            [x, y + 1, z - 1.4],
            [x, y + 2.5, z - 6.4],
          ],
          [
            [x, y - 4, z - 2.2],
            [x, y - 5.5, z - 6],
          ],
        ],
        0.5,
        'frill',
        'frill',
        'fin',
      ),
    )
  return s.both()
}

const crest = () => {
  const s = new Sculpt()
  for (const [y, z, l, lean] of [
    [97.6, 25.4, 5.4, -0.75],
    [93.4, 21.4, 6.2, -0.9],
    [87.6, 19.8, 5.8, -1],
    [81.4, 19.6, 5.2, -1],
    [75.6, 18.4, 4.6, -0.9],
  ] as const)
    s.merge(
      lock(
        bentPath(
          [
            [0, y, z + 1.6],
            [0, y + l * 0.5, z + lean * l * 0.35],
            [0, y + l * 0.72, z + lean * l],
          ],
          4,
        ),
        2.4,
        'frill',
        4,
        'fin',
      ),
    )
  return s
}

const antlers = () => {
  const s = tube(
    bentPath(
      [
        [2.8, 97, 25.6],
        [5, 101.4, 23.4],
        [6.8, 104.4, 22.6],
        [7.4, 108, 23.6],
      ],
      6,
    ),
    [1.3, 1.15, 1, 0.85, 0.6, 0],
    5,
    'coral',
  )
  for (const [from, to] of [
    [
      [5.6, 102.4, 23],
      [9.6, 104, 20.4],
    ],
    [
      [6.9, 104.6, 22.7],
      [10, 107.4, 25],
    ],
  ] as const)
    s.merge(
      tube([from, [(from[0] + to[0]) / 2, from[1] + 1.4, (from[2] + to[2]) / 2], to], [0.85, 0.65, 0], 5, 'coral'),
    )
  return s.both()
}

/** A drover's hat, held by a cord. */
const hat = (d: Dummy) => {
  const s = lathe(
    [
      [0, 8.6],
      [0.9, 8.4],
      [1.2, 5.0],
      [2.5, 4.7],
      [5.8, 3.6],
      [6.6, 1.6],
    ],
    10,
    'felt',
    [0, 0, 0],
    1.15,
  )
  const heights = (f: (typeof s.faces)[number]) => f.v.map((i) => s.at(i)[1])
  for (const f of s.faces) if (Math.min(...heights(f)) > 1 && Math.max(...heights(f)) < 2.6) f.region = 'scarf'
  // the brim dips at the sides
  s.move(([x, y, z]) => [x, y - (Math.hypot(x, z) > 6 ? 0.02 * x * x : 0), z])
  s.move(([x, y, z]) => [x, 97.2 + y + z * -0.08, 27.4 + z + y * 0.1])
  const cord = [
    d.fromHead([0, 95, 28], [1, 0.25, 0], 0.3),
    d.fromHead([0, 93, 28], [1, -0.5, 0], 0.3),
    d.fromHead([0, 93, 28], [0, -1, 0.1], 0.3),
  ]
  s.merge(
    tube(
      [
        ...cord,
        ...cord
          .slice(0, 2)
          .reverse()
          .map((p): V3 => [-p[0], p[1], p[2]]),
      ],
      0.28,
      4,
      'leather',
    ),
  )
  return s
}

const frill = (d: Dummy) => {
  const s = ropeRing(neckRing(d, 86, 23.4, 0.4, 12), 0.6, 4, 'frill')
  neckRing(d, 86, 23.4, 0.3, 12).forEach((at, k) => {
    const out = unit([at[0], 0, at[2] - 23.4])
    s.merge(
      lock(
        [at, add(along(at, out, 3), [0, -1.2, 0]), add(along(at, out, 5.6), [0, k % 2 ? -4.4 : -2, 0])],
        2.3,
        'frill',
        4,
        'fin',
      ),
    )
  })
  return s
}

const BELL: V3 = [0, 66.2, 33]

/** A collar with a bell; the clapper swings by itself. */
const bellCollar = (d: Dummy) => {
  const s = strap(neckRing(d, 72.4, 23, 0.6, 14, -0.5), 'leather', 1.2)
  const top = d.from([0, 72.4, 23], [0, -0.5, 1], 1)
  s.merge(tube([top, add(BELL, [0, 2.6, 0])], 0.4, 4, 'metal'))
  s.merge(
    lathe(
      [
        [-2.6, 2.5],
        [-1.4, 2.0],
        [1, 1.6],
        [2.4, 0.7],
      ],
      8,
      'metal',
      BELL,
    ),
  )
  const clapper = lathe(
    [
      [-4, 0.3],
      [-3.4, 0.7],
      [-2.3, 0.5],
    ],
    5,
    'metal',
    BELL,
  )
  for (const p of clapper.points) p.spot = 'clapper'
  s.merge(clapper)
  return s
}

export const LAMPSTRIDER_PARTS: PartSpec[] = [
  eyePart('eyes-wader-round', 'Round eyes, wader’s', { r: 1.9, lid: 0.25, tilt: 0.06, iris: 0.74 }),
  eyePart('eyes-wader-keen', 'Keen eyes', { r: 1.75, lid: 0.72, tilt: -0.22, iris: 0.72 }),
  eyePart('eyes-wader-mild', 'Mild eyes, wader’s', { r: 2.1, lid: 0.6, tilt: 0.16, iris: 0.78 }),
  onHead('crest-blades', 'Crest of blades', 'horns', 2, crest, { tags: ['distinctive'] }),
  onHead('antlers-coral', 'Coral antlers', 'horns', 2, antlers, { tags: ['distinctive'] }),
  onHead('hat-drover', 'Drover’s hat', 'horns', 3, hat, { excludes: ['lure'] }),
  garment('scarf-wader', 'Long scarf', 'neck', 5, 3, ['neck', 'torso'], scarf),
  garment('frill-wader', 'Throat frill', 'neck', 5, 3, ['neck'], frill, { tags: ['distinctive'] }),
  {
    ...garment('collar-bell', 'Collar with a bell', 'neck', 5, 3, ['neck', 'torso'], bellCollar),
    bones: [{ name: 'clapper', parent: 'neckBase', level: 'standard' }],
    limbs: [{ id: 'clapper', kind: 'stalk', bones: ['clapper'], channels: ['stalk'] }],
    skin: {
      bones: [
        { name: 'collar', parent: null, at: [0, 0, 0] },
        { name: 'clapper', parent: 'collar', at: add(BELL, [0, 2, 0]) },
      ],
      of: (p) => [[p.spot === 'clapper' ? 'clapper' : 'collar', 1]],
    },
  } as PartSpec,
  garment('saddle', 'Saddle', 'back', 4, 3, ['torso', 'hips'], saddle),
  garment('net-wader', 'Net with corks', 'back', 4, 2, ['torso', 'hips'], net),
  garment('plates', 'Back plates', 'back', 3, 2, ['torso', 'hips'], plates, { tags: ['distinctive'] }),
  garment('barnacles-wader', 'Barnacled back', 'back', 2, 0, ['torso', 'hips'], (d) =>
    barnacles(
      BARNACLES.map(([z, a, r]) => [[Math.sin(a), Math.cos(a), z], r]),
      ([x, y, z]) => ({ at: d.fromTrunk([0, MIDDLE, z], [x, y, 0], 0), out: [x, y, 0] }),
    ),
  ),
  garment('panniers', 'Panniers', 'bag', 6, 3, ['torso', 'hips'], panniers, { presses: ['back'] }),
  garment('floats-wader', 'Girdle of floats', 'bag', 6, 3, ['torso', 'hips'], floats),
  garment('tail-fan', 'Tail fan', 'tail', 2, 0, ['tail'], tailFan),
  garment('tail-rings-wader', 'Tail rings, wader’s', 'tail', 2, 1, ['tail'], tailRings),
  garment('leg-wraps', 'Leg wraps', 'legs', 3, 2, ['legs'], legWraps),
  garment('leg-fins', 'Leg fins', 'legs', 2, 0, ['legs'], legFins),
]
