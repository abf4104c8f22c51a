import { bentPath, lock } from '../model/garment.ts'
import { lathe, Sculpt, tube, type Point } from '../model/Sculpt.ts'
import { chain, type Skinning } from '../model/skinning.ts'
import { add, scale, type V3 } from '../model/vector.ts'
import { carried, type PartSpec } from '../folk/parts/spec.ts'
import { lengthAlong, placeAlong } from '../folk/parts/strands.ts'

/*
 * Lures: a light on a stalk that has bones of its own and sways by itself. Modeled about its root, in the
 * lampstrider's units.
 */

/** The way of the stalk and where its joints are, by length along it. */
const WAY = bentPath(
  [
    [0, -1.2, 0],
    [0, 5, -1.2],
    [0, 11.5, 1.4],
    [0, 14.6, 7.6],
    [0, 13.4, 14],
  ],
  9,
)
const JOINTS = [1.2, 7.5, 14]
const BONES = JOINTS.map((_, i) => `lure${i + 1}`)

const ROOT = 'lureRoot'
const skin: NonNullable<PartSpec['skin']> = {
  bones: [
    { name: ROOT, parent: null, at: [0, 0, 0] },
    ...BONES.map((name, i) => ({
      name,
      parent: i === 0 ? ROOT : BONES[i - 1]!,
      at: i === 0 ? ([0, 0, 0] as V3) : placeAlong(WAY, JOINTS[i]!),
    })),
  ],
  of: (p: Point): Skinning =>
    chain(
      lengthAlong(WAY, p.at),
      ROOT,
      JOINTS.map((at, i) => [at, i === 0 ? 1 : 2.2, BONES[i]!]),
    ),
}

const stalk = (thick: number) =>
  tube(
    WAY,
    WAY.map((_, i) => thick * (1.25 - (0.6 * i) / WAY.length)),
    6,
    'stalk',
    'lure',
  )

/** A bulb under a cap, hung from the stalk's end. */
function lantern(): Sculpt {
  const s = stalk(0.85)
  const end = WAY.at(-1)!
  const at = add(end, [0, -1.2, 0.4])
  s.merge(
    lathe(
      [
        [-6.2, 0],
        [-5.2, 1.5],
        [-2.6, 2.7],
        [-0.4, 2.3],
        [0.4, 1.4],
      ],
      7,
      'lamp',
      at,
    ),
  )
  s.merge(
    lathe(
      [
        [-1.0, 3.0],
        [0.5, 2.3],
        [1.6, 0.8],
      ],
      7,
      'spike',
      at,
    ),
  )
  return s
}

/** A bunch of beads. */
function beads(): Sculpt {
  const s = stalk(0.75)
  const end = WAY.at(-1)!
  for (const [x, y, z, r] of [
    [0, -1.4, 0.6, 1.9],
    [1.9, -3.2, 0, 1.35],
    [-1.8, -3.5, 0.8, 1.25],
    [0.3, -4.8, 1.4, 1.05],
  ] as const)
    s.merge(
      lathe(
        [
          [-r, r * 0.35],
          [-r * 0.35, r],
          [r * 0.45, r * 0.9],
          [r, r * 0.3],
        ],
        6,
        'lamp',
        add(end, [x, y, z]),
      ),
    )
  return s
}

/** A leaf that glows along its edge: looks like something to eat. */
function leaf(): Sculpt {
  const s = stalk(0.7)
  const end = WAY.at(-1)!
  const blade = (tip: V3, width: number, region: string) =>
    s.merge(lock(bentPath([add(end, [0, 0.4, -0.6]), add(end, scale(tip, 0.5)), add(end, tip)], 5), width, region))
  blade([0, -6.4, 2.8], 2.1, 'frill')
  blade([2.8, -4.6, 1.6], 1.3, 'lamp')
  blade([-2.8, -4.6, 1.6], 1.3, 'lamp')
  return s
}

const bonesOf = (names: readonly string[]): PartSpec['bones'] =>
  names.map((name, i) => ({
    name,
    parent: i === 0 ? 'head' : names[i - 1]!,
    level: i === 0 ? ('crowd' as const) : ('standard' as const),
  }))
const limbOf = (bones: string[]): PartSpec['limbs'] => [
  { id: 'stalk', kind: 'stalk', bones, channels: ['stalk'], lag: 0.08 },
]

const lure = (id: string, name: string, make: () => Sculpt, tags: string[] = []): PartSpec => ({
  ...carried(id, name, 'lure', 'lure', make, { tags: ['lure', ...tags] }),
  bones: bonesOf(BONES),
  limbs: limbOf(BONES),
  skin,
  alsoOn: ['gulper'],
})

/** How much smaller the lure is that hands put anywhere. */
const SMALL = 0.9
/** Laid so that it stands out of the skin and bows over to the figure's front. */
const outOfSkin = ([x, y, z]: V3): V3 => [x * SMALL, -z * SMALL, y * SMALL]
const backUpright = ([x, y, z]: V3): V3 => [x / SMALL, z / SMALL, -y / SMALL]

/** A lure to be put on any spot: its bones hang from what is there. */
export const SMALL_LURE: Pick<PartSpec, 'make' | 'bones' | 'limbs' | 'skin'> = {
  make: () => beads().move(outOfSkin),
  bones: bonesOf(BONES),
  limbs: limbOf(BONES),
  skin: {
    bones: skin.bones.map((b) => ({ ...b, at: outOfSkin(b.at) })),
    of: (p) => skin.of({ ...p, at: backUpright(p.at) }),
  },
}

export const LURES: PartSpec[] = [
  lure('lure-lantern', 'Lantern lure', lantern, ['distinctive']),
  lure('lure-beads', 'Bead lure', beads),
  lure('lure-leaf', 'Leaf lure', leaf),
]
