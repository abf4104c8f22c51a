import { bentPath, lock, stud } from '../model/garment.ts'
import { lathe, ropeRing, Sculpt, tube, type Point } from '../model/Sculpt.ts'
import { smoothstep, type V3 } from '../model/vector.ts'
import { carried, type PartSpec } from '../folk/parts/spec.ts'

/*
 * What grows on an ottern wherever a hand puts it: each stands on its origin, its front (+z) away from the skin, its
 * top up.
 */

const growth = (id: string, name: string, make: PartSpec['make'], more: Partial<PartSpec> = {}): PartSpec =>
  ({ ...carried(id, name, 'growths', 'brow', make, { tags: [] }), ...more }) as PartSpec

/** What stands upright, laid so that it stands out, and grown. */
const outwards = (s: Sculpt, grown: number) => s.move(([x, y, z]) => [x * grown, -z * grown, y * grown])

function barnacle(): Sculpt {
  const cup = (at: V3, r: number, h: number, sides: number) =>
    lathe(
      [
        [-0.6, r * 1.1],
        [h * 0.55, r * 0.74],
        [h, r * 0.46],
        [h * 0.7, r * 0.26],
      ],
      sides,
      'barnacle',
      at,
    )
  const s = cup([0, 0, 0], 1.9, 2.1, 7)
  s.merge(cup([2.1, 0, 0.8], 1.15, 1.3, 6))
  s.merge(cup([-0.5, 0, -2], 0.95, 1.0, 5))
  return outwards(s, 1.5)
}

function limpet(): Sculpt {
  const n = 10
  const s = new Sculpt()
  const ring = (h: number, r: number, region: string) => {
    s.region = region
    return Array.from({ length: n }, (_, k) => {
      const a = (2 * Math.PI * k) / n
      const wave = k % 2 ? 1 : 0.9
      return s.add([r * wave * Math.sin(a), h, r * wave * 1.15 * Math.cos(a)])
    })
  }
  const rim = ring(-0.3, 2.6, 'shell-edge')
  const low = ring(0.5, 2.5, 'shell-edge')
  const high = ring(1.6, 1.3, 'shell')
  s.loft(rim, low, true)
  s.region = 'shell'
  s.loft(low, high, true)
  s.cap(high, [0, 0.55, -0.3])
  return outwards(s.outward(), 1.6)
}

/** A horn that rises and bends back, ringed at its foot. */
function horn(): Sculpt {
  const s = tube(
    bentPath(
      [
        [0, -0.4, -0.8],
        [0, 0.6, 2.4],
        [0, 3, 5],
        [0, 6.4, 6.2],
      ],
      6,
    ),
    [1.5, 1.25, 1.0, 0.75, 0.42, 0],
    6,
    'claw',
    'horn',
  )
  s.merge(
    ropeRing(
      Array.from({ length: 8 }, (_, k): V3 => {
        const a = (2 * Math.PI * k) / 8
        return [1.5 * Math.cos(a), 1.5 * Math.sin(a), 0.25]
      }),
      0.34,
      4,
      'paw',
    ),
  )
  return s
}

/** A web between ribs, thick enough to be seen from both sides. */
function web(ribs: readonly V3[], root: readonly [V3, V3], region: string, edge: string): Sculpt {
  const s = new Sculpt()
  s.region = region
  const n = ribs.length
  const side = (shift: number) => ({
    root: ribs.map((_, i) => {
      const t = i / (n - 1)
      return s.add(
        [0, 1, 2].map((k) => root[0][k]! * (1 - t) + root[1][k]! * t + (k === 0 ? shift : 0)) as unknown as V3,
      )
    }),
    tips: ribs.map((p) => s.add([p[0] + shift * 0.4, p[1], p[2]])),
  })
  const [a, b] = [side(0.22), side(-0.22)]
  s.loft(a.root, a.tips, false)
  s.loft(b.tips, b.root, false)
  s.as({ region: edge }, () => s.loft(a.tips, b.tips, false))
  s.face([a.root[0]!, a.tips[0]!, b.tips[0]!, b.root[0]!])
  s.face([b.root[n - 1]!, b.tips[n - 1]!, a.tips[n - 1]!, a.root[n - 1]!])
  return s.outward()
}

const earFin = () =>
  web(
    [
      [0.6, 5.2, 1.4],
      [0.8, 3.2, 4.2],
      [0.9, 2.6, 4.0],
      [0.9, 0.6, 5.6],
      [0.8, -0.2, 4.8],
      [0.6, -2.4, 4.6],
    ],
    [
      [0, 2, -0.6],
      [0, -2, -0.6],
    ],
    'frill',
    'coral',
  )

const backFin = () =>
  web(
    [
      [0, 6.6, 0.8],
      [0, 6.2, 3.4],
      [0, 3.6, 5.6],
      [0, 0.4, 4.6],
      [0, -2.6, 2.9],
      [0, -5.4, 0.6],
    ],
    [
      [0, 4.6, -0.7],
      [0, -5.2, -0.7],
    ],
    'frill',
    'paw',
  )

function coralTuft(): Sculpt {
  const s = new Sculpt()
  const branch = (places: V3[], r: number) =>
    s.merge(tube(bentPath(places, 4), [r, r * 0.85, r * 0.8, r * 0.5], 5, 'coral', 'coral'))
  branch(
    [
      [0, 0, -0.6],
      [0.3, 0.5, 2.2],
      [0, 1.4, 5.2],
    ],
    0.72,
  )
  branch(
    [
      [0.1, 0.4, 1.2],
      [1.5, 0.6, 2.8],
      [2.2, 1.4, 4.2],
    ],
    0.5,
  )
  branch(
    [
      [0, 0.6, 1.8],
      [-1.3, 1.0, 3.2],
      [-1.6, 2.2, 4.4],
    ],
    0.48,
  )
  return s
}

function glowBead(): Sculpt {
  const s = stud([0, 0, -0.2], [0, 0, 1], 1.6, 1.3, 'glow', 7)
  s.merge(
    ropeRing(
      Array.from({ length: 8 }, (_, k): V3 => {
        const a = (2 * Math.PI * k) / 8
        return [1.7 * Math.cos(a), 1.7 * Math.sin(a), 0.1]
      }),
      0.36,
      4,
      'paw',
    ),
  )
  return s
}

const fringe = () => {
  const s = new Sculpt()
  for (const [x, tip] of [
    [-1.3, [-2.6, -3.2, 1.6]],
    [0, [0, -4.4, 2.2]],
    [1.3, [2.6, -3.2, 1.6]],
  ] as const)
    s.merge(lock(bentPath([[x, 0.4, -0.6], [x * 1.2, -0.6, 1.4], tip as unknown as V3], 4), 0.85, 'hair'))
  return s
}

/** How a placed eye's ball, ring and lid move with the face: in its own plane, as far as its own size allows. */
const EYE = 2.3
const LID_OPEN = 0.62 * EYE
const LID_SHUT = -0.8 * EYE

function placedEye(): Sculpt {
  const s = new Sculpt()
  const plate = (radius: number, z: number, region: string, n: number) => {
    s.region = region
    const ring = Array.from({ length: n }, (_, k) =>
      s.add([radius * Math.cos((2 * Math.PI * k) / n), radius * Math.sin((2 * Math.PI * k) / n), z], { spot: region }),
    )
    const root = ring.map((p) => s.add([s.at(p)[0], s.at(p)[1], -0.9], { spot: region }))
    s.loft(root, ring, true)
    s.points[s.cap(ring, [0, 0, 0.14])]!.spot = region
  }
  plate(EYE, 0.35, 'eye-white', 8)
  plate(EYE * 0.62, 0.68, 'iris', 7)
  plate(EYE * 0.34, 0.95, 'pupil', 6)
  s.region = 'glint'
  s.face(
    (
      [
        [0.25, 0.35],
        [0.8, 0.35],
        [0.8, 0.85],
        [0.25, 0.85],
      ] as const
    ).map(([x, y]) => s.add([x, y, 1.16], { spot: 'glint' })),
  )
  // the lid: a wedge over the upper rim, its edge is what shuts
  const lid = new Sculpt()
  lid.region = 'fur'
  const xs = [-1.25, -0.6, 0, 0.6, 1.25]
  const row = (y: (x: number) => number, z: readonly number[], spot: string) =>
    xs.map((x, i) => lid.add([x * EYE, y(x), z[i]!], { spot }))
  const low = row((x) => LID_OPEN - 0.35 * x * x, [0.1, 1.2, 1.5, 1.2, 0.1], 'lid-edge')
  const high = row((x) => EYE * (1.32 - 0.22 * x * x), [-0.7, 0.3, 0.5, 0.3, -0.7], 'lid')
  const back = row(() => EYE * 0.5, [-0.9, -0.9, -0.9, -0.9, -0.9], 'lid')
  lid.loft(low, high, false)
  lid.loft(back, low, false)
  s.merge(lid)
  return s
}

function eyeMorphs(): { name: string; move: (p: Point) => V3 }[] {
  const seeing = (p: Point) => /^(iris|pupil|glint)$/.test(p.spot ?? '')
  const ball = (p: Point) => seeing(p) || p.spot === 'eye-white'
  const edge = (p: Point) => p.spot === 'lid-edge'
  const still: V3 = [0, 0, 0]
  const shut = (p: Point): V3 => {
    const [, y] = p.at
    if (edge(p)) return [0, LID_SHUT - y, 0]
    return ball(p) ? [0, Math.min(y, LID_SHUT - 0.1) - y, 0] : still
  }
  const toward = (x: number, y: number) => (p: Point) => (seeing(p) ? ([x, y, 0] as V3) : still)
  return [
    { name: 'blink+', move: shut },
    { name: 'wide+', move: (p) => (edge(p) ? [0, 0.28 * EYE, 0] : still) },
    { name: 'squint+', move: (p) => (ball(p) ? [0, Math.max(p.at[1], -0.42 * EYE) - p.at[1], 0] : still) },
    { name: 'lid-frown+', move: (p) => (edge(p) ? [0, -0.6 * EYE * smoothstep(1, -1, p.at[0] / EYE), 0] : still) },
    { name: 'lid-sorrow+', move: (p) => (edge(p) ? [0, -0.6 * EYE * smoothstep(-1, 1, p.at[0] / EYE), 0] : still) },
    { name: 'gaze-side+', move: toward(0.24 * EYE, 0) },
    { name: 'gaze-side-', move: toward(-0.24 * EYE, 0) },
    { name: 'gaze-up+', move: toward(0, 0.2 * EYE) },
    { name: 'gaze-up-', move: toward(0, -0.2 * EYE) },
  ]
}

const GROWTHS: PartSpec[] = [
  growth('eye-more', 'One more eye', placedEye, { morphs: eyeMorphs }),
  growth('growth-horn', 'Curved horn', horn),
  growth('growth-ear-fin', 'Ear fin', earFin),
  growth('growth-back-fin', 'Back fin', backFin),
  growth('growth-barnacle', 'Three barnacles', barnacle),
  growth('growth-limpet', 'Limpet', limpet),
  growth('growth-coral', 'Tuft of coral', coralTuft),
  growth('growth-bead', 'Glowing spot', glowBead),
  growth('growth-fringe', 'Fringe', fringe),
]
export default GROWTHS
