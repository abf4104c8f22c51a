import { bentPath, lock, stud } from '../model/garment.ts'
import { lathe, ropeRing, Sculpt, tube } from '../model/Sculpt.ts'
import { unit, type V3 } from '../model/vector.ts'
import { SMALL_LURE } from './lures.ts'
import { buildEyes, eyeMorphs, type Eye } from './eyes.ts'
import { carried, type PartSpec } from '../folk/parts/spec.ts'

/*
 * What grows on tide creatures wherever a hand puts it: each stands on its origin, its front (+z) away from the skin, its
 * top up.
 */

const growth = (id: string, name: string, make: PartSpec['make'], more: Partial<PartSpec> = {}): PartSpec =>
  ({
    ...carried(id, name, 'growths', 'brow', make, { tags: [] }),
    alsoOn: ['lampstrider', 'gulper'],
    ...more,
  }) as PartSpec

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
export function web(ribs: readonly V3[], root: readonly [V3, V3], region: string, edge: string): Sculpt {
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

/** An eye that looks out of the skin wherever it is put. */
const PLACED_EYE: Eye[] = [{ at: [0, 0, 0.1], out: [0, 0, 1], r: 2.3, lid: 0.4, iris: 0.66 }]
/** An eye on a pod, which looks a little to the figure's front from wherever it rises. */
const POD_EYE: Eye[] = [
  {
    at: [0, -1.6, 7.4],
    out: unit([0, -0.5, 0.87]),
    r: 3.6,
    lid: 0.5,
    iris: 0.66,
    hooded: true,
    pod: { root: [0, 0.6, -1.2], radii: [4.8, 4.4, 4.4, 4.2] },
  },
]
const eyeGrowth = (id: string, name: string, eye: Eye[], region: string, socket?: string): PartSpec =>
  growth(id, name, () => buildEyes(eye, { region }), {
    morphs: () => eyeMorphs(eye),
    alsoOn: [],
    ...(socket ? { socket } : {}),
  } as Partial<PartSpec>)

/** What fits every creature. */
const GROWTHS: PartSpec[] = [
  growth('growth-horn', 'Curved horn', horn),
  growth('growth-ear-fin', 'Ear fin', earFin),
  growth('growth-back-fin', 'Back fin', backFin),
  growth('growth-barnacle', 'Three barnacles', barnacle),
  growth('growth-limpet', 'Limpet', limpet),
  growth('growth-coral', 'Tuft of coral', coralTuft),
  growth('growth-bead', 'Glowing spot', glowBead),
  growth('growth-lure', 'Small lure', SMALL_LURE.make, SMALL_LURE as Partial<PartSpec>),
  growth('growth-fringe', 'Fringe', fringe),
]
export default GROWTHS

/** Eyes to be put anywhere: their lids have the color of the skin they sit in. */
export const FUR_EYE = eyeGrowth('eye-more', 'One more eye', PLACED_EYE, 'fur')
export const PLUME_EYE = eyeGrowth('eye-wader', 'One more eye, wader’s', PLACED_EYE, 'plume')
export const HIDE_EYE = eyeGrowth('eye-hide', 'One more eye, gulper’s', PLACED_EYE, 'hide')
export const POD = eyeGrowth('eye-pod', 'Eye on a pod', POD_EYE, 'hide')
