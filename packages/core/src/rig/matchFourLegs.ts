import type { BodyPlan } from '../kit/plan.ts'
import {
  far,
  fill,
  fillEnds,
  isHelper,
  skeletonOf,
  type ForeignJoint,
  type ForeignSkeleton,
} from './foreignSkeleton.ts'
import type { ScoredMatch } from './matchBones.ts'

/*
 * Which of a foreign skeleton's joints are the bones of a plan on four legs. Legs are the ways off the trunk that end low,
 * two a side, one ahead of the other; what is between their roots is the trunk, what goes on ahead neck and head, what goes
 * on behind the tail. What each cue is worth was set by eye.
 */

/** Words for the bones of a hind and of a fore leg in order. */
const WORDS = [
  ['thigh', 'upleg', 'upperleg', 'femur', 'upperarm', 'uparm', 'humerus', 'hip'],
  ['calf', 'shin', 'lowerleg', 'lowleg', 'knee', 'tibia', 'forearm', 'lowerarm', 'lowarm', 'radius', 'elbow'],
  ['foot', 'ankle', 'hock', 'metatarsus', 'metacarpus', 'hand', 'wrist', 'pastern', 'cannon', 'paw'],
  ['toe', 'toes', 'ball', 'fingers', 'finger', 'hoof', 'digit'],
] as const
/** What bears a fore leg is no bone of it. */
const BEARS = new Set(['scapula', 'clavicle', 'shoulder', 'shoulderblade', 'collar', 'pelvis'])
const HEAD = ['head', 'skull']
const TAIL = 'tail'

const WORTH = { name: 0.5, bears: -1, ratio: 0.5, low: 0.8, high: 0.4, late: -0.25 }
/** Legs end under this share of the height; a fore leg stands so far ahead of the hind one, as a share of it. */
const LOW = 0.25
const AHEAD = 0.2
/** From its root to its end a leg leads down by so much of its length. */
const DOWN = 0.3
/** A trunk on four legs leads ahead by this much of its length at least. */
const LEVEL = 0.5

/** From the trunk to its end, one joint after another. */
interface Leg {
  joints: number[]
  score: number
}

/**
 * Finds the bones of a plan on four legs among joints as placed: Y up, facing Z.
 *
 * @returns null where four legs are not there, or bear no level trunk
 */
export function matchFourLegs(joints: readonly ForeignJoint[], plan: BodyPlan): ScoredMatch | null {
  const skeleton = skeletonOf(joints)
  const [left, right] = ([1, -1] as const).map((side) => legsOn(skeleton, side))
  if (!left || !right) return null
  const ends = (['hind', 'fore'] as const).map((end) => ({ left: left[end], right: right[end] }))
  const [hind, fore] = ends as [{ left: Leg; right: Leg }, { left: Leg; right: Leg }]
  const hips = skeleton.above(hind.left.joints[0]!, hind.right.joints[0]!)
  const chest = skeleton.above(fore.left.joints[0]!, fore.right.joints[0]!)
  if (hips < 0 || chest < 0) return null
  const way = joints[chest]!.at.map((v, k) => v - joints[hips]!.at[k]!)
  const [rump, shoulders] = [hind, fore].map(({ left: l, right: r }) => middleOf(joints, l.joints[0]!, r.joints[0]!))
  const lead = hips === chest ? shoulders!.map((v, k) => v - rump![k]!) : way
  if (lead[2]! < LEVEL * Math.hypot(...lead)) return null

  const bones = new Map<string, number>()
  const parentOf = new Map(plan.bones.map((b) => [b.name, b.parent]))
  const root = plan.bones[0]!.name
  let chestBone: string | null = null
  for (const limb of plan.limbs) {
    if (limb.kind !== 'leg' || !limb.side) continue
    const isHind = parentOf.get(limb.bones[0]!) === root
    if (!isHind) chestBone = parentOf.get(limb.bones[0]!) ?? null
    const leg = (isHind ? hind : fore)[limb.side]
    limb.bones.forEach((bone, i) => leg.joints[i] !== undefined && bones.set(bone, leg.joints[i]))
  }
  const trunk = skeleton.pathTo(chest)
  const spine = pathDown(plan, root, chestBone)
  // a root at the chest has its hips behind it
  if (trunk.includes(hips)) fillEnds(bones, spine, trunk.slice(trunk.indexOf(hips)))
  else bones.set(root, hips)
  const legs = new Set(ends.flatMap(({ left: l, right: r }) => [...l.joints, ...r.joints]))
  const head = headOf(skeleton, chest, legs)
  const neck = pathDown(plan, chestBone, plan.bones.find((b) => b.name === 'head')?.name ?? null).slice(1)
  if (head) fillEnds(bones, neck, head)
  const tail = plan.limbs.find((l) => l.kind === 'tail' && !l.side)
  const own = tailOf(skeleton, hips, new Set([...legs, chest, ...(head ?? [])]))
  if (tail && own) fill(bones, tail.bones, own)
  const score = ends.reduce((sum, { left: l, right: r }) => sum + l.score + r.score, 0) / 2 + (head ? 1 : 0)
  return { bones, score }
}

const middleOf = (joints: readonly ForeignJoint[], a: number, b: number) =>
  joints[a]!.at.map((v, k) => (v + joints[b]!.at[k]!) / 2)

/** A plan's bones from one down to another; none where the one does not bear the other. */
function pathDown({ bones }: BodyPlan, from: string | null, to: string | null): string[] {
  const parentOf = new Map(bones.map((b) => [b.name, b.parent]))
  const path: string[] = []
  for (let at = to; at; at = parentOf.get(at) ?? null) {
    path.unshift(at)
    if (at === from) return path
  }
  return []
}

/** The two legs of a side: of the ways that end low the best ahead, and the best behind. */
function legsOn(skeleton: ForeignSkeleton, side: 1 | -1): { hind: Leg; fore: Leg } | null {
  const { joints, paths, height, floor } = skeleton
  const found: Leg[] = []
  for (const path of paths) {
    const real = path.filter((j) => !isHelper(skeleton, j))
    const end = joints[real.at(-1) ?? -1]
    if (!end || end.at[1] - floor > LOW * height || end.at[0] * side < 0.01 * height) continue
    // off the trunk: what lies on this side
    let first = real.length
    while (first > 0 && joints[real[first - 1]!]!.at[0] * side > 0.005 * height) first--
    const own = real.slice(first)
    if (own.length < 3) continue
    const leg = bestOf(skeleton, own)
    if (!leadsDown(skeleton, leg.joints)) continue
    // several toes end in ways of their own: of those with one root the best
    const same = found.findIndex((other) => other.joints[0] === leg.joints[0])
    if (same < 0) found.push(leg)
    else if (leg.score > found[same]!.score) found[same] = leg
  }
  const placed = found.sort((a, b) => joints[a.joints[0]!]!.at[2] - joints[b.joints[0]!]!.at[2])
  let best: { hind: Leg; fore: Leg } | null = null
  for (const [i, hind] of placed.entries())
    for (const fore of placed.slice(i + 1)) {
      const feet = [hind, fore].map((leg) => joints[leg.joints.at(-1)!]!.at[2]) as [number, number]
      if (feet[1] - feet[0] < AHEAD * height || hind.joints.some((j) => fore.joints.includes(j))) continue
      if (!best || hind.score + fore.score > best.hind.score + best.fore.score) best = { hind, fore }
    }
  return best
}

/** Whether a leg leads down rather than out, as those of somebody who lies do. */
function leadsDown({ joints }: ForeignSkeleton, leg: readonly number[]): boolean {
  const places = leg.map((j) => joints[j]!.at)
  const long = places.slice(1).reduce((sum, at, i) => sum + far(at, places[i]!), 0)
  return places[0]![1] - places.at(-1)![1] > DOWN * long
}

/** Of the joints of a leg those that are upper, lower, foot and toes. */
function bestOf(skeleton: ForeignSkeleton, own: readonly number[]): Leg {
  let best: Leg = { joints: own.slice(0, 4), score: -Infinity }
  for (let from = 0; from + 3 <= own.length; from++) {
    const chain = own.slice(from, from + 4)
    const score = scoreLeg(skeleton, chain) + from * WORTH.late
    if (score > best.score) best = { joints: chain, score }
  }
  return best
}

/** How much three or four joints look like a leg of four: the higher, the better. */
export function scoreLeg({ joints, words, height, floor }: ForeignSkeleton, chain: readonly number[]): number {
  const [a, b, c, d] = chain.map((j) => joints[j]!.at)
  const said = chain.reduce((sum, j, i) => sum + (WORDS[i]!.some((w) => words[j]!.includes(w)) ? WORTH.name : 0), 0)
  const bears = words[chain[0]!]!.some((w) => BEARS.has(w)) ? WORTH.bears : 0
  const [upper, lower] = [far(a!, b!), far(b!, c!)]
  if (upper < 1e-6 || lower < 1e-6) return -Infinity
  const ratio = WORTH.ratio * Math.max(-1, 1 - Math.abs(Math.log(upper / lower)))
  const low = WORTH.low * Math.max(-1, 1 - ((d ?? c!)[1] - floor) / (0.15 * height))
  const high = WORTH.high * Math.min(1, (a![1] - floor) / (0.5 * height))
  return said + bears + ratio + low + high
}

/** From the first joint beyond the chest to the head: by its name, or by the way that leads farthest ahead. */
function headOf({ joints, words, paths }: ForeignSkeleton, chest: number, legs: ReadonlySet<number>): number[] | null {
  const ways = paths
    .filter((p) => p.includes(chest))
    .map((p) => p.slice(p.indexOf(chest) + 1))
    .filter((p) => p.length && !p.some((j) => legs.has(j)))
  const isHead = (j: number) => HEAD.some((w) => words[j]!.includes(w))
  const by = ways.find((p) => p.some(isHead))
  if (by) return by.slice(0, by.findIndex(isHead) + 1)
  const ahead = (p: readonly number[]) => joints[p.at(-1)!]!.at[2]
  const way = ways.filter((p) => ahead(p) > joints[chest]!.at[2]).sort((a, b) => ahead(b) - ahead(a))[0]
  // what ends a way is often only a mark of its end
  return way ? way.slice(0, Math.max(1, way.length - 1)) : null
}

/** What hangs on the hips and leads behind: by its name, or by where it leads. */
function tailOf({ joints, words, paths }: ForeignSkeleton, hips: number, taken: ReadonlySet<number>): number[] | null {
  const ways = paths.flatMap((p) => {
    const from = p.includes(hips) ? p.indexOf(hips) + 1 : 0
    const way = p.slice(from)
    return way.length && !way.some((j) => taken.has(j)) ? [way] : []
  })
  const named = ways.find((p) => p.some((j) => words[j]!.includes(TAIL)))
  if (named) return named.slice(named.findIndex((j) => words[j]!.includes(TAIL)))
  const behind = (p: readonly number[]) => joints[hips]!.at[2] - joints[p.at(-1)!]!.at[2]
  const middle = (p: readonly number[]) => p.every((j) => Math.abs(joints[j]!.at[0]) < Math.abs(behind(p)) * 0.5)
  return ways.filter((p) => p.length > 1 && behind(p) > 0 && middle(p)).sort((a, b) => behind(b) - behind(a))[0] ?? null
}
