import { foldBones, type DetailLevel, type Limb, type PlannedBone } from '../kit/plan.ts'

export interface Bone {
  name: string
  /** Index of the parent, -1 for the root; parents come first. */
  parent: number
  /** Joint in the rest pose, metres, in the figure's space. */
  at: [number, number, number]
  /** Where the bone ends: the joint of its first child, or beyond its own as far again as it is from its parent. */
  tail: [number, number, number]
  /**
   * How the bone itself is turned at rest, xyzw, in the figure's space. Poses are told apart from
   * it (see `Pose`); it matters to files that want bones to lie along their limbs.
   */
  turn: [number, number, number, number]
  /** It takes part in the twist of another bone about the length of the one it hangs from; see `Twist`. */
  twist?: { of: number; share: number }
  /** Planned bones left out between it and its parent, from the parent on: what turns them turns this one. */
  through?: Through[]
}

/** A bone that is not there, as clips speak of it. */
export interface Through {
  name: string
  /** The channel by which clips turn both of its pair, and which of them it is. */
  pair?: string
  side: 1 | -1
}

/** By how much of another bone's twist a bone turns: what lies between is twisted evenly, not at one joint. */
export interface Twist {
  of: string
  /** Below zero against it. */
  share: number
}

/** A bone as a skeleton is made from it. */
export type RigBone = PlannedBone & { twist?: Twist }

/** A limb; of one whose number of bones is not the plan's, also what each bone plays. */
export type RigLimb = Limb & {
  /** The planned bone whose curves each bone plays, how much of its turn, and the how manieth of them it counts as when the chain lags. */
  plays?: { bone: string; share: number; place: number }[]
  /** Where the first of its bones that is left out has its joint, metres: feet roll over their ball with toes or without. */
  beyond?: Bone['at']
}

/** The bones of one figure, and the limbs they make. */
export interface Skeleton {
  detail: DetailLevel
  bones: Bone[]
  /** Index of a planned bone to index in `bones`. */
  fold: Uint16Array
  limbs: RigLimb[]
  /** Bones that mirror each other, by the channel that turns both; indices, left before right. */
  pairs: { id: string; left: number; right: number }[]
}

/** What a skeleton is made from: the bones of body and parts, and what the plan says of them. */
export interface RigPlan {
  bones: readonly RigBone[]
  limbs: readonly RigLimb[]
  pairs: readonly { id: string; left: string; right: string }[]
}

/**
 * The skeleton of a figure at a level of detail.
 *
 * @param joints where each planned bone's joint stands, xyz, metres
 */
export function buildSkeleton(plan: RigPlan, joints: Float32Array, detail: DetailLevel): Skeleton {
  const { kept, bones: parts, fold, limbs, pairs } = structureOf(plan, detail)
  const atOf = (i: number): Bone['at'] => [joints[i * 3]!, joints[i * 3 + 1]!, joints[i * 3 + 2]!]
  const bones = parts.map(({ name, parent, twist, through }, k): Bone => {
    const at = atOf(kept[k]!)
    // put together by hand: a hand that draws waits for it
    const bone: Bone = { name, parent, at, tail: at, turn: [0, 0, 0, 1] }
    if (twist) bone.twist = twist
    if (through) bone.through = through
    return bone
  })
  setTails(bones)
  return {
    detail,
    bones,
    fold,
    limbs: limbs.map(({ limb, beyond }) => (beyond === undefined ? limb : { ...limb, beyond: atOf(beyond) })),
    pairs,
  }
}

/** What of a skeleton is the same wherever its joints stand. */
interface Structure {
  /** The planned bone that each bone is. */
  kept: readonly number[]
  bones: readonly Omit<Bone, 'at' | 'tail' | 'turn'>[]
  fold: Uint16Array
  /** With the planned bone whose joint is `beyond`, where there is one. */
  limbs: readonly { limb: RigLimb; beyond?: number }[]
  pairs: Skeleton['pairs']
}

const structures = new WeakMap<RigPlan, Map<DetailLevel, Structure>>()

/** Found once a plan and level: a slider that is drawn moves joints and nothing else. */
function structureOf(plan: RigPlan, detail: DetailLevel): Structure {
  let known = structures.get(plan)
  if (!known) structures.set(plan, (known = new Map()))
  let structure = known.get(detail)
  if (!structure) known.set(detail, (structure = findStructure(plan, detail)))
  return structure
}

function findStructure(plan: RigPlan, detail: DetailLevel): Structure {
  const onto = foldBones(plan.bones, detail)
  const kept = plan.bones.map((_, i) => i).filter((i) => onto[i] === i)
  const place = new Map(kept.map((i, k) => [i, k]))
  const planned = new Map(plan.bones.map((b, i) => [b.name, i]))
  const bones = kept.map((i): Structure['bones'][number] => {
    const { name, parent, twist } = plan.bones[i]!
    const from = parent === null ? -1 : planned.get(parent)!
    const through = leftOut(plan, planned, onto, from)
    return {
      name,
      parent: from < 0 ? -1 : place.get(onto[from]!)!,
      ...(twist && { twist: { of: place.get(onto[planned.get(twist.of)!]!)!, share: twist.share } }),
      ...(through.length > 0 && { through }),
    }
  })
  const index = new Map(bones.map((b, i) => [b.name, i]))
  return {
    kept,
    bones,
    fold: Uint16Array.from(onto, (i) => place.get(i)!),
    limbs: plan.limbs.flatMap((limb) => keptLimb(limb, index, planned)),
    pairs: plan.pairs.flatMap(({ id, left, right }) => {
      const [l, r] = [index.get(left), index.get(right)]
      return l === undefined || r === undefined ? [] : [{ id, left: l, right: r }]
    }),
  }
}

/** The bones that are not there, from a planned one up to the first that is; those nearest the root first. */
function leftOut(
  { bones, pairs }: RigPlan,
  planned: ReadonlyMap<string, number>,
  onto: Uint16Array,
  from: number,
): Through[] {
  const gone: Through[] = []
  for (let i = from; i >= 0 && onto[i] !== i; i = planned.get(bones[i]!.parent ?? '') ?? -1) {
    const { name } = bones[i]!
    const pair = pairs.find(({ left, right }) => left === name || right === name)
    gone.unshift({ name, ...(pair && { pair: pair.id }), side: pair?.right === name ? -1 : 1 })
  }
  return gone
}

function setTails(bones: Bone[]): void {
  const first = new Map<number, Bone>()
  // what only twists ends no bone
  for (const bone of bones) if (!bone.twist && !first.has(bone.parent)) first.set(bone.parent, bone)
  bones.forEach((bone, i) => {
    const child = first.get(i)
    const from = bone.parent >= 0 ? bones[bone.parent]!.at : bone.at
    bone.tail = child ? [...child.at] : (bone.at.map((v, k) => v + (v - from[k]!) * 0.6) as [number, number, number])
  })
}

/** A bone and all that hang from it; parents come before their children. */
export function bonesBelow(parents: readonly number[], top: number): Set<number> {
  const found = new Set([top])
  parents.forEach((parent, bone) => found.has(parent) && found.add(bone))
  return found
}

/** A limb at this detail: a leg or arm as long as its first bones are there, a chain with those that are. */
function keptLimb(
  limb: RigLimb,
  index: ReadonlyMap<string, number>,
  planned: ReadonlyMap<string, number>,
): Structure['limbs'][number][] {
  const kept = limb.bones.filter((b) => index.has(b))
  const jointed = limb.kind === 'leg' || limb.kind === 'arm'
  const whole = limb.bones.slice(0, limb.kind === 'leg' ? 3 : 2).every((b) => index.has(b))
  const beyond = kept.length < limb.bones.length ? planned.get(limb.bones[kept.length]!) : undefined
  if (kept.length === 0 || (jointed && !whole)) return []
  return [{ limb: { ...limb, bones: kept }, ...(beyond !== undefined && { beyond }) }]
}

/**
 * Rewrites skin onto a skeleton: weights of bones that are not there fold onto those that carry
 * them, then only the strongest `influences` stay, scaled to sum to one.
 *
 * @param joints  four planned bones a point; or as many as `stride` says
 * @param weights as many weights a point
 */
export function foldSkin(
  joints: Uint16Array,
  weights: Float32Array,
  fold: Uint16Array,
  influences: number,
  stride = 4,
): { joints: Uint16Array; weights: Float32Array } {
  const points = joints.length / stride
  const outJoints = new Uint16Array(points * 4)
  const outWeights = new Float32Array(points * 4)
  const bones = new Array<number>(stride).fill(0)
  const sums = new Array<number>(stride).fill(0)
  for (let p = 0; p < points; p++) {
    const from = p * stride
    const to = p * 4
    let n = 0
    for (let k = 0; k < stride; k++) {
      const w = weights[from + k]!
      if (w <= 0) continue
      const bone = fold[joints[from + k]!]!
      let at = 0
      while (at < n && bones[at] !== bone) at++
      if (at === n) {
        bones[n] = bone
        sums[n++] = 0
      }
      sums[at]! += w
    }
    let total = 0
    const keep = Math.min(n, influences)
    for (let k = 0; k < keep; k++) {
      let best = k
      for (let i = k + 1; i < n; i++) if (sums[i]! > sums[best]!) best = i
      ;[bones[k], bones[best]] = [bones[best]!, bones[k]!]
      ;[sums[k], sums[best]] = [sums[best]!, sums[k]!]
      total += sums[k]!
    }
    if (total === 0) {
      outWeights[to] = 1
      continue
    }
    for (let k = 0; k < keep; k++) {
      outJoints[to + k] = bones[k]!
      outWeights[to + k] = sums[k]! / total
    }
  }
  return { joints: outJoints, weights: outWeights }
}
