import {
  growLimb,
  loftTrunk,
  markLegs,
  openingOf,
  thorn,
  type LimbRing,
  type TrunkRing,
} from '../../model/loftBeast.ts'
import type { BodySculpt } from '../../model/loftBiped.ts'
import { Sculpt, type Chain, type Point } from '../../model/Sculpt.ts'
import { chain, mix, type Skinning } from '../../model/skinning.ts'
import { add, flipX, smoothstep, sub, unit, type V3 } from '../../model/vector.ts'

/*
 * The lampstrider: a wader on four long legs, with a keel of a chest, a neck that rises in a curve and a beak. What it
 * lights its way with is a part of its own. The crown of its head is at 100.
 */

/** Points of a half ring: six columns a side. */
const N = 7
/** The columns out of which legs grow. */
const LEG_COLUMN = 3
const HIND_ROW = 2
const FORE_ROW = 5

/** From the root of the tail to the root of the neck. */
const TRUNK: readonly TrunkRing[] = [
  [63.0, -27.5, 14, 3.2, 2.8, 3.2, 2.3],
  [63.2, -23.5, 18, 7.0, 5.8, 7.6, 2.5],
  [63.4, -18, 12, 9.6, 8.4, 10.4, 2.7],
  [63.8, -11.5, 4, 10.4, 10.0, 12.2, 2.7],
  [63.4, -4.5, -3, 9.4, 10.4, 11.8, 2.7],
  [62.6, 3, -4, 9.2, 9.9, 13.0, 2.7],
  [62.4, 10, 4, 9.8, 9.8, 15.0, 2.6],
  [63.8, 16.4, 18, 8.2, 9.2, 14.6, 2.5],
]
const NECK: readonly TrunkRing[] = [
  [67.8, 21.2, 40, 6.0, 6.4, 10.2, 2.4],
  [73.4, 23.4, 66, 4.4, 4.8, 6.2, 2.4],
  [79.8, 23.8, 88, 3.5, 3.8, 4.2, 2.4],
  [85.0, 23.4, 94, 3.2, 3.3, 3.4, 2.4],
  [88.6, 23.4, 82, 3.7, 3.6, 3.5, 2.4],
]
const HEAD: readonly TrunkRing[] = [
  [91.8, 25.0, 46, 5.2, 5.2, 4.2, 2.7],
  [93.8, 29.2, 8, 6.2, 5.7, 4.4, 3.0],
  [93.6, 34.0, -6, 5.6, 5.2, 4.0, 3.0],
  [92.2, 38.0, -16, 3.9, 3.3, 3.2, 2.8],
]
const BEAK: readonly TrunkRing[] = [
  [91.9, 39.4, -16, 3.1, 2.6, 2.6, 2.8],
  [90.7, 44.2, -13, 2.1, 1.8, 1.8, 2.6],
  [89.4, 49.0, -14, 1.1, 1.0, 1.0, 2.4],
]

/** Joints of the legs, left side. */
export const HIND = {
  hip: [7.4, 57.5, -11.5] as V3,
  knee: [9.4, 38.5, -6.0] as V3,
  ankle: [9.0, 17.6, -15.6] as V3,
  toes: [9.0, 3.2, -10.6] as V3,
}
export const FORE = {
  hip: [7.2, 55.5, 9.8] as V3,
  knee: [8.4, 36.0, 6.4] as V3,
  ankle: [8.6, 12.2, 8.4] as V3,
  toes: [8.6, 3.2, 11.4] as V3,
}

const HIND_LEG: readonly LimbRing[] = [
  { at: [8.4, 53.4, -10.8], r: [5.4, 4.6, 6.6, 7.6], way: [0.1, -1, 0.1] },
  { at: [9.2, 46.6, -8.0], r: [4.2, 3.8, 5.0, 5.6] },
  { at: [9.4, 41.2, -6.6], r: [2.7, 2.6, 3.4, 3.2] },
  { at: [9.4, 38.6, -6.0], r: [2.7, 2.6, 3.3, 2.9], e: 2.8 },
  { at: [9.3, 35.6, -6.9], r: [2.3, 2.2, 2.4, 2.8] },
  { at: [9.1, 27, -11.2], r: [1.7, 1.6, 1.8, 2.0] },
  { at: [9.0, 20, -14.6], r: [1.7, 1.6, 1.9, 2.1] },
  { at: [9.0, 17.4, -15.4], r: [2.1, 2.0, 2.1, 2.4], e: 2.8, way: [0, -1, 0.05] },
  { at: [9.0, 14.8, -14.9], r: [1.8, 1.7, 1.9, 1.9], way: [0, -1, 0.3] },
  { at: [9.0, 6.4, -12.2], r: [1.5, 1.4, 1.7, 1.7] },
  { at: [9.0, 3.0, -11.0], r: [2.2, 2.1, 2.6, 2.6], way: [0, -1, 0.1] },
  { at: [9.0, 0.9, -10.6], r: [2.7, 2.6, 3.0, 3.2], way: [0, -1, 0] },
  { at: [9.0, 0, -10.6], r: [2.6, 2.5, 2.9, 3.1], way: [0, -1, 0] },
]
const FORE_LEG: readonly LimbRing[] = [
  { at: [8.0, 51.0, 9.6], r: [4.6, 4.0, 5.8, 5.8], way: [0.05, -1, -0.1] },
  { at: [8.3, 44.4, 8.0], r: [3.5, 3.2, 4.2, 4.4] },
  { at: [8.4, 38.8, 6.8], r: [2.4, 2.3, 2.8, 2.8] },
  { at: [8.4, 36.2, 6.4], r: [2.5, 2.4, 2.9, 2.7], e: 2.8 },
  { at: [8.4, 33.4, 6.5], r: [2.1, 2.0, 2.4, 2.2] },
  { at: [8.5, 24, 7.4], r: [1.6, 1.5, 1.7, 1.7] },
  { at: [8.6, 15, 8.2], r: [1.6, 1.5, 1.7, 1.8] },
  { at: [8.6, 12.2, 8.6], r: [2.0, 1.9, 2.1, 2.1], e: 2.8 },
  { at: [8.6, 9.4, 9.4], r: [1.6, 1.5, 1.7, 1.6] },
  { at: [8.6, 5.2, 10.6], r: [1.5, 1.4, 1.7, 1.7] },
  { at: [8.6, 2.8, 11.2], r: [2.1, 2.0, 2.6, 2.5], way: [0, -1, 0.1] },
  { at: [8.6, 0.9, 11.6], r: [2.6, 2.5, 3.0, 3.1], way: [0, -1, 0] },
  { at: [8.6, 0, 11.6], r: [2.5, 2.4, 2.9, 3.0], way: [0, -1, 0] },
]
/** Rings of a leg below which it is bare skin. */
const BARE = 4

export function buildLampstrider(): BodySculpt {
  const s = new Sculpt()
  s.region = 'plume'
  const skip = (row: number) =>
    [HIND_ROW, HIND_ROW + 1, FORE_ROW, FORE_ROW + 1].includes(row) ? [LEG_COLUMN, LEG_COLUMN + 1] : []
  const trunk = loftTrunk(s, TRUNK, N, { limb: 'torso', tag: 'torso', first: 0 }, skip)
  const neck = loftTrunk(s, NECK, N, { limb: 'neck', tag: 'neck', first: 0 })
  const head = loftTrunk(s, HEAD, N, { limb: 'head', tag: 'head', first: 0 })
  const beak = s.as({ region: 'beak' }, () => loftTrunk(s, BEAK, N, { limb: 'head', tag: 'head', first: 5 }))
  const join = (back: Chain, front: Chain, tag: string, row: number, region = 'plume') =>
    s.as({ tag, limb: tag, region }, () => s.loft(front, back, false, { row }))
  join(trunk.at(-1)!, neck[0]!, 'neck', -1)
  join(neck.at(-1)!, head[0]!, 'head', -1)
  join(head.at(-1)!, beak[0]!, 'head', 4, 'beak')
  const tip = s.add([0, 88.5, 52.4], { limb: 'head', row: 9, out: [0, 0, 1] })
  s.as({ tag: 'head', region: 'beak' }, () => capHalf(s, beak.at(-1)!, tip, 9))
  // the keel and throat are pale
  for (const f of s.faces) {
    if (f.tag === 'torso' && f.col >= (f.row < 4 ? 5 : 4)) f.region = 'belly'
    if (f.tag === 'neck' && f.col >= (f.row < 1 ? 4 : 5)) f.region = 'belly'
    if (f.tag === 'head' && f.row <= 3 && f.col >= 5) f.region = 'belly'
    if (f.region === 'beak' && f.col >= 4) f.region = 'beak-under'
  }
  buildTail(s, trunk[0]!)
  for (const [name, rings, row] of [
    ['leftHind', HIND_LEG, HIND_ROW],
    ['leftFore', FORE_LEG, FORE_ROW],
  ] as const) {
    const rim = openingOf([trunk[row]!, trunk[row + 1]!, trunk[row + 2]!], LEG_COLUMN)
    const foot = rings.length - 3
    const last = growLimb(s, rim, rings.slice(0, foot), [0, 0, 1], {
      limb: `${name}Leg`,
      region: (r) => (r < BARE ? 'plume' : 'shank'),
    })
    const sole = growLimb(s, last, rings.slice(foot), [0, 0, 1], { limb: `${name}Foot`, region: 'shank' })
    s.as({ limb: `${name}Foot`, tag: `${name}Foot`, region: 'shank' }, () => s.cap(sole, [0, 0, 0]))
    addToes(s, `${name}Foot`, rings.at(-1)!.at)
  }
  s.tidy().mirror()
  for (const f of s.faces) if (f.tag.endsWith('Leg') || f.tag.endsWith('Foot')) f.col = f.col < 0 ? 0 : f.col
  return { sculpt: s, landmarks: lampstriderLandmarks() }
}

/** Closes a half ring with a fan to a point on the middle, to the front. */
function capHalf(s: Sculpt, ring: Chain, tip: number, row: number): void {
  for (let i = 0; i + 1 < ring.length; i++) s.face([ring[i]!, tip, ring[i + 1]!], { row, col: i })
}

/** A short tail that ends in a fan of three blades. */
function buildTail(s: Sculpt, root: Chain): void {
  const rings: TrunkRing[] = [
    [64.2, -32, -14, 2.3, 2.0, 2.2, 2.3],
    [64.6, -37, -8, 1.7, 1.3, 1.4, 2.3],
  ]
  let last = root
  const rows = s.as({ limb: 'tail', tag: 'tail' }, () => {
    return rings.map((ring, r) => {
      const row = loftTrunk(s, [ring], N, { limb: 'tail', tag: 'tail', first: r })[0]!
      for (const i of row) s.points[i]!.u = -ring[1]
      s.loft(last, row, false, { row: r, region: 'plume' })
      last = row
      return row
    })
  })
  const end = s.add([0, 64.8, -40.5], { limb: 'tail', row: 3, u: 40.5, out: [0, 0, -1] })
  const ring = rows.at(-1)!
  for (let i = 0; i + 1 < ring.length; i++)
    s.face([ring[i + 1]!, end, ring[i]!], { row: 3, col: i, tag: 'tail', region: 'plume' })
}

/** Three toes in front and one behind, each with a claw. */
function addToes(s: Sculpt, limb: string, sole: V3): void {
  const toe = (dx: number, dz: number, length: number) => {
    const way = unit([dx, 0, dz])
    const at = (l: number, y: number): V3 => add(sole, [way[0] * l, y, way[2] * l])
    s.as({ limb, tag: limb }, () => {
      const from = s.points.length
      thorn(s, [at(0.6, 1.1), at(length * 0.6, 0.95), at(length * 1.08, 0.4)], 1.2, 4, { region: 'shank' })
      thorn(s, [at(length * 0.8, 0.72), at(length * 1.42, 0.1)], 0.72, 4, { region: 'beak' })
      for (const p of s.points.slice(from)) {
        p.at = [p.at[0], Math.max(0, p.at[1]), p.at[2]]
        Object.assign(p, { limb, row: 20, u: 100, out: unit(sub(p.at, sole)) })
      }
    })
  }
  toe(0, 1, 6.4)
  toe(0.62, 0.8, 5.6)
  toe(-0.62, 0.8, 5.6)
  toe(0, -1, 4.4)
}

function lampstriderLandmarks(): Map<string, V3> {
  const marks = new Map<string, V3>([
    ['hips', [0, 62, -14]],
    ['spine', [0, 62, -3]],
    ['chest', [0, 62, 8]],
    ['neckBase', [0, 66, 18.5]],
    ['neckMiddle', [0, 77, 24.2]],
    ['head', [0, 90, 24.8]],
    ['tail1', [0, 63.4, -26]],
    ['tail2', [0, 64.2, -33]],
    ['crown', [0, 99, 28.5]],
    ['beakTip', [0, 88.5, 52.4]],
    ['keel', [0, 48.5, 12]],
    ['rump', [0, 69, -22]],
    ['flank', [10, 61, -4]],
  ])
  const pair = (name: string, at: V3) => marks.set(`left${name}`, at).set(`right${name}`, flipX(at))
  pair('Eye', [5, 95, 31])
  markLegs(marks, { Hind: HIND, Fore: FORE })
  return marks
}

/** Skin weights of the lampstrider, from where each point belongs. */
export function lampstriderSkin(p: Point): Skinning {
  const side = p.at[0] >= 0 ? 'left' : 'right'
  const [x, y, z] = [Math.abs(p.at[0]), p.at[1], p.at[2]]
  if (p.limb === 'head') return [['head', 1]]
  if (p.limb === 'neck')
    return chain(y, 'chest', [
      [67.5, 4, 'neckBase'],
      [77, 4, 'neckMiddle'],
      [89.6, 2.2, 'head'],
    ])
  if (p.limb === 'tail')
    return chain(-z, 'hips', [
      [26.5, 3, 'tail1'],
      [33.5, 2, 'tail2'],
    ])
  for (const [name, leg] of [
    ['Hind', HIND],
    ['Fore', FORE],
  ] as const) {
    if (!p.limb.includes(name)) continue
    if (p.limb.endsWith('Foot')) return [[`${side}${name}Toes`, 1]]
    return chain(-y, name === 'Hind' ? 'hips' : 'chest', [
      [-leg.hip[1] + 2, 5, `${side}${name}UpperLeg`],
      [-leg.knee[1], 2.6, `${side}${name}LowerLeg`],
      [-leg.ankle[1], 2.4, `${side}${name}Foot`],
      [-leg.toes[1] - 0.4, 1, `${side}${name}Toes`],
    ])
  }
  const trunk = mix(
    chain(z, 'tail1', [
      [-26, 2.5, 'hips'],
      [-4, 6, 'spine'],
      [6, 5, 'chest'],
    ]),
    // the breast under the neck stays with the trunk
    [['neckBase', 1]],
    smoothstep(16.5, 22.5, z) * smoothstep(55, 63, y),
  )
  // around the openings the trunk goes a little with the legs
  const near = (at: number, reach: number) =>
    smoothstep(reach, 3, Math.abs(z - at)) * smoothstep(62, 54, y) * smoothstep(2, 7, x)
  const withHind = mix(trunk, [[`${side}HindUpperLeg`, 1]], 0.5 * near(HIND.hip[2], 10))
  return mix(withHind, [[`${side}ForeUpperLeg`, 1]], 0.5 * near(FORE.hip[2], 9))
}
