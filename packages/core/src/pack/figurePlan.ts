import { boneWords, withoutSide } from '../base/words.ts'
import type { RiggedChain } from '../autorig/drawnChains.ts'
import type { BodyModel } from '../kit/Kit.ts'
import { DETAIL_LEVELS, type BodyPlan, type DetailLevel, type Limb, type PlannedBone } from '../kit/plan.ts'
import { BIPED } from '../kit/plans/biped.ts'
import { QUADRUPED } from '../kit/plans/quadruped.ts'
import type { BodyDef } from '../kit/schema.ts'
import { boundsOf } from '../mesh/Mesh.ts'
import type { ForeignJoint } from '../rig/foreignSkeleton.ts'
import { matchBones } from '../rig/matchBones.ts'

/* What the body of a new kit has by its bones: a plan, limbs, regions, sockets. */

/** A place as kits have it, to the hundredth of a millimetre. */
export const rounded = (at: readonly number[]) => at.map((v) => Math.round(v * 1e5) / 1e5) as [number, number, number]

/** A bone of the new body: where its joint stands, metres, and which joint of the file it is; -1 where it has none of its own. */
export interface NewBone extends PlannedBone {
  at: [number, number, number]
  joint: number
}

/** What a limb is called without its side. */
function stemOf(id: string): string {
  const stem = withoutSide(id)
  return stem[0]!.toLowerCase() + stem.slice(1)
}

/** How much later each bone of a drawn chain does what the one before it did, in loops; set by eye. */
const LAG = 0.08

/** Chains of joints as limbs of the bones that those have become. */
export function limbsBy(chains: readonly RiggedChain[], bones: readonly NewBone[]): Limb[] {
  const nameOf = new Map(bones.map((b) => [b.joint, b.name]))
  return chains.map(({ id, kind, side, pole, phase, bones: own }): Limb => ({
    ...{ id, kind, bones: own.map((j) => nameOf.get(j)!) },
    channels: kind === 'leg' ? own.map((_, i) => `${stemOf(id)}-${i + 1}`) : [id],
    ...(side && { side }),
    ...(pole && { pole: rounded(pole) }),
    ...(phase !== undefined && { phase }),
    ...(kind !== 'leg' && { lag: LAG }),
  }))
}

/** A bone is of a detail if what hangs on it reaches so far from its joint, as a share of the figure's longest side. */
const REACHES: readonly (readonly [DetailLevel, number])[] = [
  ['far', 0.22],
  ['crowd', 0.12],
  ['standard', 0.06],
  ['near', 0.025],
]

/**
 * How fine a skeleton has to be to have each bone: the less hangs on it the finer, and no coarser than what it hangs from.
 *
 * @param positions of what hangs on the bones, xyz a point
 * @param skin      its bones by their numbers, four a point, the strongest first
 */
export function levelsByReach(
  bones: readonly NewBone[],
  positions: ArrayLike<number>,
  { joints }: { joints: ArrayLike<number> },
): DetailLevel[] {
  const index = new Map(bones.map((b, i) => [b.name, i]))
  const parents = bones.map((b) => index.get(b.parent ?? '') ?? -1)
  const { min, max } = boundsOf(positions)
  const long = Math.max(...max.map((v, k) => v - min[k]!))
  const reach = bones.map(() => 0)
  for (let p = 0; p * 3 < positions.length; p++)
    for (let b = joints[p * 4]!; b >= 0; b = parents[b]!) {
      const off = Math.hypot(...bones[b]!.at.map((v, k) => v - positions[p * 3 + k]!))
      reach[b] = Math.max(reach[b]!, off)
    }
  const levels: DetailLevel[] = []
  const rank = (level: DetailLevel) => DETAIL_LEVELS.indexOf(level)
  for (const [i, parent] of parents.entries()) {
    const own = REACHES.find(([, share]) => reach[i]! >= share * long)?.[0] ?? 'full'
    const above = parent < 0 ? 'far' : levels[parent]!
    levels.push(parent < 0 ? 'far' : rank(own) > rank(above) ? own : above)
  }
  return levels
}

/** A plan of bones that none is known for, with what limbs are known; feet stand on the ground, or what is lowest. */
export function planOf(bones: readonly NewBone[], limbs: readonly Limb[], id: string, name: string): BodyPlan {
  const lowest = [...bones].sort((a, b) => a.at[1] - b.at[1])[0]!
  const feet = limbs.flatMap((l) => (l.kind === 'leg' ? l.bones.slice(2) : []))
  // of two chains that are each other's mirror image the bones are pairs
  const pairs = limbs.flatMap((left) => {
    const other = left.side === 'left' && limbs.find((l) => l.id === left.id.replace(/^left/, 'right'))
    return other
      ? left.bones.map((bone, i) => ({ id: `${stemOf(left.id)}-${i + 1}`, left: bone, right: other.bones[i]! }))
      : []
  })
  return {
    id,
    name,
    bones: bones.map(({ name: bone, parent, level }) => ({ name: bone, parent, level })),
    pairs,
    limbs: [...limbs],
    ground: feet.length ? feet : [lowest.name],
    poses: [],
  }
}

/**
 * The regions of the body whose slots it has, with the bones that are here, where that has the same plan; else one for each
 * pair of limbs and one for what bears them. Bones of its own belong where they hang.
 */
export function regionsOf(bones: readonly NewBone[], plan: BodyPlan | null, like: BodyModel): BodyDef['regions'] {
  const there = (b: string) => bones.some((one) => one.name === b)
  if (!plan) return [{ id: 'body', name: 'Body', bones: bones.map((b) => b.name) }]
  const regions = (plan.id === like.plan.id ? like.def.regions : regionsByLimbs(plan)).map((r) => ({
    ...r,
    bones: r.bones.filter(there),
  }))
  for (const bone of bones) {
    if (regions.some((r) => r.bones.includes(bone.name))) continue
    const home = regions.find((r) => bone.parent !== null && r.bones.includes(bone.parent))
    home?.bones.push(bone.name)
  }
  return regions.filter((r) => r.bones.length)
}

/** A region for each limb, both sides in one, one for the head, and one for the trunk that bears them. */
function regionsByLimbs({ bones, limbs }: BodyPlan): BodyDef['regions'] {
  const regions: BodyDef['regions'] = []
  const taken = new Set<string>()
  for (const limb of limbs) {
    const stem = withoutSide(limb.id)
    const words = limb.kind === 'leg' ? `${boneWords(stem)} legs` : boneWords(stem)
    const id = (limb.kind === 'leg' ? `${stem}-legs` : stem).toLowerCase()
    const region = regions.find((r) => r.id === id)
    if (region) region.bones.push(...limb.bones)
    else regions.push({ id, name: words, bones: [...limb.bones] })
    for (const b of limb.bones) taken.add(b)
  }
  const rest = bones.filter((b) => !taken.has(b.name))
  // what hangs beyond a limb in the middle is not of the trunk
  const beyond = (name: string | null): boolean =>
    name !== null && (taken.has(name) || beyond(bones.find((b) => b.name === name)!.parent))
  const [ends, trunk] = [rest.filter((b) => beyond(b.parent)), rest.filter((b) => !beyond(b.parent))]
  return [
    { id: 'trunk', name: 'Trunk', bones: trunk.map((b) => b.name) },
    ...(ends.length ? [{ id: 'head', name: 'Head', bones: ends.map((b) => b.name) }] : []),
    ...regions,
  ]
}

/** Which joints are the bones of a plan that comes with the workshop; null where they are of none. */
export function planned(joints: readonly ForeignJoint[]): { plan: BodyPlan; bones: Map<string, number> } | null {
  // what stands on four legs is not upright, though its bones be called arms and legs
  for (const plan of [QUADRUPED, BIPED]) {
    const bones = matchBones(joints, plan)
    if (bones) return { plan, bones }
  }
  return null
}

/** The sockets of the body whose slots it has, as far from their bones as there, by how tall it is. */
export function socketsOf(bones: readonly NewBone[], like: BodyDef): BodyDef['sockets'] {
  const tall = (list: readonly { at: readonly number[] }[]) => {
    const ys = list.map((b) => b.at[1]!)
    return Math.max(...ys) - Math.min(...ys) || 1
  }
  const k = tall(bones) / tall(like.landmarks)
  return like.sockets.flatMap((socket) => {
    const [own, there] = [bones.find((b) => b.name === socket.bone), like.landmarks.find((l) => l.id === socket.bone)]
    if (!own || !there) return []
    return [{ ...socket, at: rounded(own.at.map((v, i) => v + (socket.at[i]! - there.at[i]!) * k)) }]
  })
}
