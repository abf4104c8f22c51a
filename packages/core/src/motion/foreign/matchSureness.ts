import { withoutSide, wordsOf } from '../../base/words.ts'
import type { BodyPlan, Limb } from '../../kit/plan.ts'
import { isHelper, skeletonOf, type ForeignSkeleton } from '../../rig/foreignSkeleton.ts'
import { limbsOf, scoreOf } from '../../rig/matchBones.ts'
import { scoreLeg } from '../../rig/matchFourLegs.ts'
import type { ForeignMotion } from './ForeignMotion.ts'
import { placedJoints, turnToOurs, type MotionMatch } from './matchMotion.ts'

/** By how much another joint must score less for this one to be 73 % sure: set so that numbers are as often right as they say. */
const SHARP = 0.3
/** How sure a bone of no limb is by what its joint is called, and by its place alone. */
const SURE = { named: 0.96, placed: 0.75, only: 0.9, astray: 0.2 }
/** What else bones of the trunk are called. */
const ALSO: Record<string, readonly string[]> = {
  hips: ['hip', 'pelvis', 'root', 'rump'],
  spine: ['waist', 'back', 'abdomen'],
  chest: ['spine', 'thorax', 'ribs', 'ribcage', 'torso'],
  head: ['skull'],
  shoulder: ['clavicle', 'collar', 'scapula'],
}

/**
 * How sure it is that each bone follows the right joint, 0 to 1, whoever said so: of limbs by how much worse any other
 * joint would do in its place, of the rest by what the joint is called.
 */
export function matchSureness(
  motion: Pick<ForeignMotion, 'joints'>,
  match: Pick<MotionMatch, 'up' | 'front' | 'bones'>,
  plan: BodyPlan,
): Map<string, number> {
  const skeleton = skeletonOf(placedJoints(motion, turnToOurs(match)))
  const byName = new Map(skeleton.joints.map(({ name }, i) => [name, i]))
  const sure = new Map<string, number>()
  const four = limbsOf(plan).legs === 4
  for (const limb of plan.limbs) {
    if (limb.kind !== 'leg' && limb.kind !== 'arm') continue
    const chain = limb.bones.map((bone) => byName.get(match.bones[bone] ?? '') ?? -1)
    for (const [bone, share] of sureOfLimb(skeleton, limb, chain, four)) sure.set(bone, share)
  }
  for (const [bone, joint] of Object.entries(match.bones)) {
    const at = byName.get(joint)
    if (sure.has(bone) || at === undefined) continue
    sure.set(bone, isCalled(skeleton.words[at]!, bone) ? SURE.named : SURE.placed)
  }
  return sure
}

function isCalled(words: readonly string[], bone: string): boolean {
  const own = wordsOf(withoutSide(bone))
  return own.some((w) => words.includes(w) || ALSO[w]?.some((other) => words.includes(other)))
}

function sureOfLimb(
  skeleton: ForeignSkeleton,
  limb: Limb,
  chain: readonly number[],
  four: boolean,
): [bone: string, sure: number][] {
  const out: [string, number][] = []
  const [upper, lower, end, toes] = chain
  if (upper === undefined || lower === undefined || end === undefined || upper < 0 || lower < 0 || end < 0) return out
  const kind = limb.kind === 'arm' ? 'arm' : 'leg'
  const score = (three: readonly number[]) =>
    four
      ? scoreLeg(skeleton, toes !== undefined && toes >= 0 ? [...three, toes] : three)
      : scoreOf(skeleton, kind, three as [number, number, number])
  const own = score(chain.slice(0, 3))
  const side = Math.sign(skeleton.joints[end]!.at[0])
  for (let k = 0; k < 3; k++) {
    let best = -Infinity
    for (const j of skeleton.joints.keys()) {
      // another joint of the same limb, one of the other side, or one that is no link of this chain is no rival
      if (chain.includes(j) || isHelper(skeleton, j)) continue
      const three = chain.slice(0, 3).map((joint, i) => (i === k ? j : joint)) as [number, number, number]
      if (!isChain(skeleton, three) || Math.sign(skeleton.joints[j]!.at[0]) === -side) continue
      best = Math.max(best, score(three))
    }
    out.push([limb.bones[k]!, 1 / (1 + Math.exp(-Math.min(20, (own - best) / SHARP)))])
  }
  if (toes !== undefined && toes >= 0) {
    const rivals = skeleton.below(end).filter((j) => !isHelper(skeleton, j)).length
    const known = isCalled(skeleton.words[toes]!, limb.bones[3]!)
    out.push([
      limb.bones[3]!,
      skeleton.below(end).includes(toes) ? (known || rivals === 1 ? SURE.only : SURE.placed) : SURE.astray,
    ])
  }
  return out
}

/** Whether each hangs, straight or over others, on the one before. */
const isChain = (skeleton: ForeignSkeleton, joints: readonly number[]): boolean =>
  joints.every((j, i) => i === 0 || (j !== joints[i - 1] && skeleton.pathTo(j).includes(joints[i - 1]!)))
