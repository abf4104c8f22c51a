import { bentPath, headShell, slab, stud, thickBand, type Dummy } from '../../model/garment.ts'
import { box, lathe, ropeRing, Sculpt, tube } from '../../model/Sculpt.ts'
import { add, along, curve, scale, unit, type V3 } from '../../model/vector.ts'
import { fromHead } from '../proportions.ts'
import { SKULL } from './face.ts'
import { carried, garment, onHead, upright, type PartSpec } from './spec.ts'

/** A level ring around the skull at a height in head units. */
function headRing(d: Dummy, y: number, lift: number, n: number): V3[] {
  const center = fromHead([0, y, -0.3])
  return Array.from({ length: n }, (_, k) => {
    const a = (2 * Math.PI * k) / n
    return d.from(center, [Math.sin(a), 0, Math.cos(a)], lift)
  })
}

interface HatSpec {
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

function hat(d: Dummy, spec: HatSpec): Sculpt {
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

const PRESS = { presses: ['hair'] }

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

/** Rings around the neck at a height in body units, by their distance from it. */
function neckRing(d: Dummy, y: number, lift: number, n: number, lean = 0.28): V3[] {
  return Array.from({ length: n }, (_, k) => {
    const a = (2 * Math.PI * k) / n
    const dir: V3 = [Math.sin(a), 0, Math.cos(a)]
    const at: V3 = [0, y - dir[2] * lean * 6, -1.6]
    return d.from(at, dir, lift)
  })
}

const NECKS: PartSpec[] = [
  garment('scarf', 'Wool scarf', 'neck', 8, 3, ['neck', 'torso'], (d) => {
    const s = ropeRing(neckRing(d, 82.2, 1.2, 14), 1.9, 6, 'scarf', 0.75)
    const at = d.front(-2.4, 76, 1.6)
    s.merge(
      slab(
        [
          [add(at, [-2.4, -13, 0.9]), add(at, [1.4, -13.2, 1.1])],
          [add(at, [-2.0, -5, 0.9]), add(at, [1.5, -5, 1.1])],
          [add(at, [-1.6, 3.2, 0.6]), add(at, [1.7, 3.4, 0.9])],
        ],
        0.8,
        'scarf',
        'scarf',
      ),
    )
    for (let i = 0; i < 3; i++) s.merge(box(add(at, [-1.8 + i * 1.35, -13.9, 0.7]), [0.45, 0.9, 0.3], 'scarf-trim'))
    return s
  }),
  garment('kerchief', 'Kerchief', 'neck', 8, 3, ['neck', 'torso'], (d) => {
    const s = ropeRing(neckRing(d, 81.4, 0.8, 12), 1.05, 5, 'scarf', 0.8)
    const knot = d.front(0, 77.6, 1.4)
    s.merge(
      lathe(
        [
          [-0.9, 0.6],
          [0, 1.2],
          [0.9, 0.6],
        ],
        6,
        'scarf',
        knot,
      ),
    )
    s.merge(
      slab(
        [
          [add(knot, [-3.2, -5.2, 0.4]), add(knot, [-0.8, -5.6, 0.6])],
          [add(knot, [-0.7, -0.2, 0.3]), add(knot, [0.2, -0.2, 0.4])],
        ],
        0.4,
        'scarf',
      ),
    )
    s.merge(
      slab(
        [
          [add(knot, [0.9, -4.9, 0.6]), add(knot, [3.0, -4.2, 0.3])],
          [add(knot, [-0.2, -0.2, 0.4]), add(knot, [0.7, -0.2, 0.3])],
        ],
        0.4,
        'scarf',
      ),
    )
    return s
  }),
  garment(
    'cork-floats',
    'String of cork floats',
    'neck',
    8,
    3,
    ['neck', 'torso'],
    (d) => {
      const ring = Array.from({ length: 16 }, (_, k): V3 => {
        const a = (2 * Math.PI * k) / 16
        // low on the chest, over the shoulders beside the neck, level behind
        const rise = 0.62 * Math.abs(Math.sin(a)) - (Math.cos(a) > 0 ? 0.6 : 0.02) * Math.abs(Math.cos(a))
        return d.from([0, 77, -1.2], [Math.sin(a) * 0.85, rise, Math.cos(a)], 1.3)
      })
      const s = ropeRing(ring, 0.35, 4, 'rope')
      ring.forEach(
        (at, k) =>
          k % 2 === 0 &&
          (k < 4 || k > 12) &&
          s.merge(
            lathe(
              [
                [-1.1, 1.0],
                [0, 1.5],
                [1.1, 1.0],
              ],
              7,
              'cork',
              at,
            ),
          ),
      )
      return s
    },
    { tags: ['distinctive'] },
  ),
]

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
const REPLACING: PartSpec[] = [
  {
    id: 'peg-leg',
    name: 'Peg leg',
    slot: 'left-leg',
    how: 'replaces',
    seam: 'leftKnee',
    tags: ['rare', 'distinctive'],
    excludes: ['whole-leg'],
    make: (d) => {
      const shin = d.sculpt.peel((f) => f.tag === 'leftLeg' && f.row >= 4)
      const s = new Sculpt()
      s.region = 'leather'
      const top = shin.rims().find((r) => r.every((i) => shin.at(i)[1] > 20))!
      const seam = top.map((i) => s.add(shin.at(i)))
      const ring = (y: number, k: number, z: number) =>
        seam.map((p) => {
          const at = s.at(p)
          return s.add([7 + (at[0] - 6.8) * k, y + (at[1] - 26) * 0.2, z + (at[2] - 0.4) * k])
        })
      const cup = [ring(23.4, 1.12, 0.3), ring(17.5, 0.98, 0), ring(16.6, 0.6, 0)]
      const band = (a: number[], b: number[], region: string) =>
        a.forEach((p, i) => s.face([p, a[(i + 1) % a.length]!, b[(i + 1) % a.length]!, b[i]!], { region }))
      band(seam, cup[0]!, 'leather')
      band(cup[0]!, cup[1]!, 'leather')
      band(cup[1]!, cup[2]!, 'metal')
      const peg = [ring(15.8, 0.5, 0), ring(4, 0.36, 0), ring(1.2, 0.42, 0), ring(0, 0.42, 0)]
      band(cup[2]!, peg[0]!, 'wood')
      band(peg[0]!, peg[1]!, 'wood')
      band(peg[1]!, peg[2]!, 'metal')
      band(peg[2]!, peg[3]!, 'metal')
      s.as({ region: 'metal' }, () => s.cap(peg[3]!))
      return s
    },
  },
]

export default [...HATS, ...NECKS, ...HELD, ...BACKS, ...REPLACING]
