import type { BodyPlan } from '../kit/plan.ts'
import { wordsOf } from '../base/words.ts'
import {
  far,
  fill,
  fillFromEnd,
  HELPERS,
  isHelper,
  skeletonOf,
  type ForeignJoint,
  type ForeignSkeleton as Skeleton,
} from './foreignSkeleton.ts'
import { matchFourLegs } from './matchFourLegs.ts'

/*
 * Which of a foreign skeleton's joints are the bones of an upright plan. By the shape of its chains and by what they
 * are called; neither alone decides. What each cue is worth is from the studies on joints of foreign files.
 */

/** Words for the bones of a leg and of an arm in order, and for a head. */
const WORDS = {
  leg: [
    ['thigh', 'upleg', 'upperleg', 'femur'],
    ['calf', 'shin', 'lowerleg', 'lowleg', 'knee', 'tibia'],
    ['foot', 'ankle'],
  ],
  arm: [
    ['upperarm', 'uparm', 'humerus'],
    ['forearm', 'lowerarm', 'lowarm', 'elbow', 'ulna'],
    ['hand', 'wrist', 'palm'],
  ],
  head: ['head', 'skull'],
} as const
/** “Upper leg” and the like: words of two. */
const UPPER = ['up', 'upper']
const LOWER = ['low', 'lower', 'fore']
const WORTH = { name: 1, other: -0.25, helper: -1.2, ratio: 0.8, place: 0.8, skipped: -0.35 }

/** More joints than any figure has; and so many that only twist may lie between two of a limb. */
const MOST = { joints: 600, skipped: 3 }

type Kind = 'leg' | 'arm'

/** What a name says of a joint as one of a limb's bones. */
function named(words: readonly string[], kind: Kind, bone: number): number {
  if (words.some((w) => HELPERS.has(w))) return WORTH.helper
  const [up, low] = [UPPER, LOWER].map((list) => list.some((w) => words.includes(w)))
  const plain = words.includes(kind)
  // of “leg” alone the first is the upper one if it says so, else the lower one; of “arm” alone it is the upper one
  const said =
    WORDS[kind][bone]!.some((w) => words.includes(w)) ||
    (plain && bone === 0 && (up || (kind === 'arm' && !low))) ||
    (plain && bone === 1 && (low || (kind === 'leg' && !up)))
  return said ? WORTH.name : WORTH.other
}

interface Limb {
  joints: number[]
  score: number
}

/**
 * Finds the bones of an upright plan, two legs and two arms, or of one on four legs, among joints as placed: Y up,
 * facing Z, metres.
 *
 * @returns the plan's bones with the joint that each is; null where legs, arms or head are not there, or the plan is another
 */
export function matchBones(joints: readonly ForeignJoint[], plan: BodyPlan): Map<string, number> | null {
  return scoredMatch(joints, plan)?.bones ?? null
}

/** Joints by the bones that they are, and how well limbs are such: the higher, the better. */
export interface ScoredMatch {
  bones: Map<string, number>
  score: number
}

/** On how many legs and with how many arms the figures of a plan are. */
export function limbsOf({ limbs }: BodyPlan): { legs: number; arms: number } {
  const count = (kind: Kind) => limbs.filter((l) => l.kind === kind).length
  return { legs: count('leg'), arms: count('arm') }
}

/** The same, and how well it matches; also of a plan on four legs. */
export function scoredMatch(joints: readonly ForeignJoint[], plan: BodyPlan): ScoredMatch | null {
  if (joints.length > MOST.joints) return null
  const { legs: stands, arms: reaches } = limbsOf(plan)
  if (stands === 4 && reaches === 0) return matchFourLegs(joints, plan)
  if (stands !== 2 || reaches !== 2) return null
  const skeleton = skeletonOf(joints)
  const legs = bothSides(skeleton, 'leg')
  const arms = legs && bothSides(skeleton, 'arm', new Set([...legs.left, ...legs.right]))
  if (!legs || !arms) return null
  const hips = skeleton.above(legs.left[0]!, legs.right[0]!)
  const chest = skeleton.above(arms.left[0]!, arms.right[0]!)
  if (hips < 0 || chest < 0) return null
  const trunk = skeleton.pathTo(chest)
  if (!trunk.includes(hips)) return null
  const head = headOf(skeleton, chest, new Set([...arms.left, ...arms.right]))
  if (!head) return null

  const out = new Map<string, number>()
  const limbs = (kind: Kind, side: 'left' | 'right') => plan.limbs.find((l) => l.kind === kind && l.side === side)
  for (const [kind, found] of [
    ['leg', legs],
    ['arm', arms],
  ] as const)
    for (const side of ['left', 'right'] as const)
      limbs(kind, side)?.bones.forEach((bone, i) => {
        const joint = found[side][i]
        if (joint !== undefined) out.set(bone, joint)
      })
  const parentOf = new Map(plan.bones.map((b) => [b.name, b.parent]))
  for (const side of ['left', 'right'] as const) {
    const before = skeleton.parent(arms[side][0]!)
    const shoulder = parentOf.get(limbs('arm', side)?.bones[0] ?? '')
    if (shoulder && before !== chest && before >= 0) out.set(shoulder, before)
  }
  for (const side of ['left', 'right'] as const)
    matchFingers(out, skeleton, plan, limbs('arm', side)?.bones.at(-1) ?? '', arms[side].at(-1)!)
  const [spine, neck] = chainsOf(plan)
  fill(out, spine, trunk.slice(trunk.indexOf(hips)))
  fillFromEnd(out, neck, head)
  return { bones: out, score: legs.score + arms.score }
}

/** Fingers by what they are called: without names, they stay what they are. */
function matchFingers(
  out: Map<string, number>,
  { words, below }: Skeleton,
  { bones }: BodyPlan,
  hand: string,
  at: number,
): void {
  const fingerOf = (said: readonly string[]) => FINGERS.findIndex((group) => group.some((w) => said.includes(w)))
  for (const first of bones.filter((b) => b.parent === hand)) {
    const finger = fingerOf(wordsOf(first.name))
    let joint = finger < 0 ? undefined : below(at).find((j) => fingerOf(words[j]!) === finger)
    // a palm's bone is none of the finger's, unless it is the thumb's
    const inPalm = (j: number) => words[j]!.includes('metacarpal') && !wordsOf(first.name).includes('metacarpal')
    if (joint !== undefined && inPalm(joint)) joint = below(joint)[0]
    for (let bone: typeof first | undefined = first; bone && joint !== undefined;) {
      out.set(bone.name, joint)
      const name: string = bone.name
      bone = bones.find((b) => b.parent === name)
      joint = below(joint)[0]
    }
  }
}

const FINGERS = [['thumb'], ['index', 'pointer'], ['middle', 'mid'], ['ring'], ['little', 'pinky', 'pinkie']]

/** The plan's bones from its root to where the arms branch off, and from there to the head. */
function chainsOf({ bones, limbs }: BodyPlan): [spine: string[], neck: string[]] {
  const parentOf = new Map(bones.map((b) => [b.name, b.parent]))
  const pathOf = (name: string | null | undefined): string[] => (name ? [...pathOf(parentOf.get(name)), name] : [])
  const [a, b] = limbs.filter((l) => l.kind === 'arm').map((l) => pathOf(l.bones[0]))
  const spine = (a ?? []).filter((bone) => b?.includes(bone))
  const inLimbs = new Set(limbs.flatMap((l) => l.bones))
  const arms = new Set([...(a ?? []), ...(b ?? [])])
  const neck: string[] = []
  for (let at = spine.at(-1); at;) {
    const next = bones.find((bone) => bone.parent === at && !inLimbs.has(bone.name) && !arms.has(bone.name))
    // the head is where it branches, or ends
    if (!next || bones.filter((bone) => bone.parent === at && !arms.has(bone.name)).length > 1) break
    neck.push(next.name)
    at = next.name
  }
  return [spine, neck]
}

/** The best limb on each side; null where there is none. */
function bothSides(
  skeleton: Skeleton,
  kind: Kind,
  taken: ReadonlySet<number> = new Set(),
): { left: number[]; right: number[]; score: number } | null {
  const best: Record<'left' | 'right', Limb | null> = { left: null, right: null }
  const { joints } = skeleton
  /** A joint and those above it, as far as a limb's next bone may be. */
  const upFrom = (joint: number): number[] => {
    const found: number[] = []
    for (let at = joint; at >= 0 && found.length <= MOST.skipped; at = joints[at]!.parent) found.push(at)
    return found
  }
  for (const c of joints.keys())
    for (const [below, b] of upFrom(joints[c]!.parent).entries())
      for (const [above, a] of upFrom(joints[b]!.parent).entries()) {
        if (a === b || b === c || a === c || [a, b, c].some((j) => taken.has(j))) continue
        const side = sideOf(skeleton, a, c)
        if (!side) continue
        const score = scoreOf(skeleton, kind, [a, b, c]) + (below + above) * WORTH.skipped
        if (score <= (best[side]?.score ?? LEAST)) continue
        const end = kind === 'leg' ? skeleton.below(c).find((j) => !isHelper(skeleton, j)) : undefined
        best[side] = { joints: [a, b, c, ...(end === undefined ? [] : [end])], score }
      }
  if (!best.left || !best.right) return null
  return { left: best.left.joints, right: best.right.joints, score: best.left.score + best.right.score }
}

/** What scores less is no limb. */
const LEAST = 1.2

function sideOf({ joints, words, height }: Skeleton, a: number, c: number): 'left' | 'right' | null {
  const x = joints[c]!.at[0] + joints[a]!.at[0]
  if (Math.abs(x) > 0.02 * height) return x > 0 ? 'left' : 'right'
  const said = (list: readonly string[]) => list.some((w) => words[a]!.includes(w))
  return said(['left', 'l']) ? 'left' : said(['right', 'r']) ? 'right' : null
}

/**
 * How much three joints look like the bones of a limb: the higher, the better.
 *
 * @param kind of the limb; a leg of those on two legs
 */
export function scoreOf(
  { joints, words, height, floor }: Skeleton,
  kind: Kind,
  three: readonly [number, number, number],
): number {
  const [a, b, c] = three.map((j) => joints[j]!.at) as [ForeignJoint['at'], ForeignJoint['at'], ForeignJoint['at']]
  const names = three.reduce((sum, j, i) => sum + named(words[j]!, kind, i), 0)
  const [upper, lower, whole] = [far(a, b), far(b, c), far(a, c)]
  if (upper < 1e-6 || lower < 1e-6) return -Infinity
  const ratio = WORTH.ratio * Math.max(-1, 1 - Math.abs(Math.log(upper / lower)))
  const share = (v: number) => Math.min(1, Math.max(-1, v))
  // both stand off the middle
  const aside = Math.abs(a[0]) > 0.015 * height ? 0 : -1
  const place =
    kind === 'leg'
      ? share(1 - (c[1] - floor) / (0.15 * height)) +
        share((a[1] - c[1]) / whole) +
        share((a[1] - c[1]) / (0.4 * height))
      : share(1 - Math.abs((a[1] - floor) / height - 0.78) / 0.2) +
        share(whole / (0.3 * height)) +
        share((Math.abs(c[0]) - Math.abs(a[0])) / (0.1 * height))
  return names + ratio + aside + WORTH.place * place
}

/** From the first joint above the chest to the head: by its name, or the highest way. */
function headOf({ joints, words, paths }: Skeleton, chest: number, arms: ReadonlySet<number>): number[] | null {
  const ways = paths.filter((p) => p.includes(chest) && !p.some((j) => arms.has(j)))
  const isHead = (j: number) => WORDS.head.some((w) => words[j]!.includes(w))
  const by = ways.find((p) => p.some(isHead))
  if (by) return by.slice(by.indexOf(chest) + 1, by.findIndex(isHead) + 1)
  const top = ways.sort((a, b) => joints[b.at(-1)!]!.at[1] - joints[a.at(-1)!]!.at[1])[0]
  const above = top?.slice(top.indexOf(chest) + 1) ?? []
  // what ends a way is often only a mark of its end
  return above.length ? above.slice(0, Math.max(1, Math.min(2, above.length - 1))) : null
}
