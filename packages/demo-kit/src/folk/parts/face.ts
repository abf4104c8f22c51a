import { lathe, Sculpt } from '../../model/Sculpt.ts'
import { bentPath, headShell, lock, type Dummy } from '../../model/garment.ts'
import { add, cross, curve, scale, unit, type V3 } from '../../model/vector.ts'
import { fromHead } from '../proportions.ts'
import { onFace } from './eyes.ts'
import { onHead, type PartSpec } from './spec.ts'

/** Middle of the skull, from where hair is seen. */
export const SKULL: V3 = fromHead([0, 5.2, -0.2])

/** Where hair ends: front, temple, over the ear, behind the ear, nape. */
export const hairline = (front: number, temple: number, ear: number, behind: number, nape: number) => (az: number) => {
  const a = az > 180 ? 360 - az : az
  return curve(
    [
      [0, front],
      [40, front - 3],
      [62, temple],
      [88, ear],
      [118, behind],
      [180, nape],
    ],
    a,
  )
}

export const wobble = (az: number, share: number, amount: number) =>
  amount * (0.5 * Math.sin(az * 0.087 + 1.3 + share * 2) + 0.5 * Math.sin(az * 0.157 + share * 5))

export interface HairSpec {
  edge: (az: number) => number
  thick: number
  more?: (az: number, share: number) => number
  zigzag?: number
  rows?: number
  columns?: number
}

export function hair(spec: HairSpec, details?: (s: Sculpt, d: Dummy) => void): (d: Dummy) => Sculpt {
  return (d) => {
    const s = headShell(d, SKULL, {
      region: 'hair',
      columns: spec.columns ?? 16,
      rows: spec.rows ?? 4,
      edge: spec.edge,
      zigzag: spec.zigzag ?? 5,
      thick: (az, share) =>
        spec.thick * (0.75 + 0.35 * Math.sin(Math.min(1, share) * Math.PI)) + (spec.more?.(az, share) ?? 0),
    })
    details?.(s, d)
    return s
  }
}

/** A round curl on the scalp at an azimuth and elevation, half sunk into the hair. */
function curl(d: Dummy, azimuth: number, elevation: number, radius: number): Sculpt {
  const [a, e] = [(azimuth * Math.PI) / 180, (elevation * Math.PI) / 180]
  const out: V3 = [Math.sin(a) * Math.cos(e), Math.sin(e), Math.cos(a) * Math.cos(e)]
  const at = d.fromHead(SKULL, out, 0.5)
  const s = lathe(
    [
      [-radius * 0.6, radius * 0.75],
      [radius * 0.25, radius],
      [radius * 0.72, radius * 0.5],
    ],
    5,
    'hair',
  )
  s.tag = 'hair'
  const side = unit(cross([0.2, 1, 0.1], out))
  const up = cross(out, side)
  s.move((p) => add(at, add(add(scale(side, p[0]), scale(out, p[1])), scale(up, p[2]))))
  for (const p of s.points) p.limb = 'headwear'
  for (const f of s.faces) f.tag = 'hair'
  return s.outward()
}

/** A lock from a place on the scalp (azimuth, elevation) hanging through further ones, each with its lift. */
export function hang(
  d: Dummy,
  places: readonly (readonly [az: number, elevation: number, lift: number])[],
  width: number,
  stops = 4,
): Sculpt {
  const path = places.map(([az, el, lift]) => {
    const [a, e] = [(az * Math.PI) / 180, (el * Math.PI) / 180]
    return d.fromHead(SKULL, [Math.sin(a) * Math.cos(e), Math.sin(e), Math.cos(a) * Math.cos(e)], lift)
  })
  return lock(bentPath(path, stops), width, 'hair')
}

const FACE_PARTS: PartSpec[] = [
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
  onHead(
    'hair-braid',
    'Braid',
    'hair',
    1,
    hair({ edge: hairline(34, 6, -12, -34, -46), thick: 1.1, more: (az, t) => wobble(az, t, 0.25), zigzag: 3 }, (s) => {
      const path = bentPath(
        [
          fromHead([0, 3.4, -4.6]),
          fromHead([0.4, 0.4, -5.6]),
          fromHead([1.8, -3.2, -5.4]),
          fromHead([3.0, -7.0, -3.8]),
          fromHead([3.2, -9.2, -3.2]),
        ],
        8,
      )
      const radii = path.map((_, i) => (i === 7 ? 0 : i === 6 ? 1.25 : i === 5 ? 0.62 : i % 2 ? 1.1 : 1.6))
      const braid = tubeOf(path, radii)
      s.merge(braid)
      s.merge(templeLocks())
    }),
  ),
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

export function tubeOf(path: V3[], radii: number[]): Sculpt {
  const s = new Sculpt()
  s.region = 'hair'
  s.tag = 'hair'
  let last: number[] | null = null
  path.forEach((at, i) => {
    const r = radii[i]!
    if (r === 0) {
      s.fan(last!, s.add(at))
      return
    }
    const ring = Array.from({ length: 5 }, (_, k) =>
      s.add(
        add(at, [
          r * Math.cos((k * 2 * Math.PI) / 5),
          r * 0.25 * Math.sin(k * 2.3),
          r * Math.sin((k * 2 * Math.PI) / 5),
        ]),
      ),
    )
    if (last) s.loft(last, ring, true)
    else s.cap([...ring].reverse())
    last = ring
  })
  return s.outward()
}

export function templeLocks(): Sculpt {
  return lock(
    bentPath([fromHead([3.0, 6.7, 1.9]), fromHead([3.75, 5.0, 1.1]), fromHead([3.65, 3.2, 1.25])], 4),
    0.8,
    'hair',
  ).both()
}

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

export default FACE_PARTS
