import { problem, type Problem, type Read } from '../base/problem.ts'
import type { Figure } from '../build.ts'
import type { BodyPlan } from '../kit/plan.ts'
import type { Clip } from '../motion/Clip.ts'
import { carryMotion, type Touching } from '../motion/foreign/carryMotion.ts'
import type { ForeignMotion } from '../motion/foreign/ForeignMotion.ts'
import { matchMotion, skeletonHash, type Matched, type MotionMatch } from '../motion/foreign/matchMotion.ts'
import { judgeClip, type ClipNumbers } from '../motion/judgeClip.ts'
import { flanksOf } from '../motion/keepArmsOut.ts'
import { trunkOf } from '../motion/keepTrunkUp.ts'
import { solesOf } from '../motion/soles.ts'

/** A motion from elsewhere as a clip of a figure, and what can be seen of it. */
export interface CarriedClip {
  clip: Clip
  numbers: ClipNumbers
}

/** How the motions of a file are to be carried. */
export interface CarryOrder {
  /** A match that is known; of another skeleton it is passed over, and told. */
  match?: MotionMatch
  loop?: boolean
  from?: number
  to?: number
}

/** What of a figure, as it is dressed, meets the ground and itself. */
export function touchingOf({ mesh, skeleton }: Pick<Figure, 'mesh' | 'skeleton'>): Touching {
  return { soles: solesOf(mesh, skeleton), flanks: flanksOf(mesh, skeleton), belly: trunkOf(mesh, skeleton) }
}

/** Finds the bones of a motion's skeleton, or takes the match that is known of it. */
export function matchFor(motion: ForeignMotion, plan: BodyPlan, known?: MotionMatch): Read<Matched> {
  const problems: Problem[] = []
  if (known?.skeleton === skeletonHash(motion) && known.plan === plan.id)
    return { value: { match: known, doubtful: [] }, problems }
  if (known)
    problems.push(
      problem(
        'match-other',
        motion.name,
        known.plan === plan.id ? 'The match is for another skeleton.' : 'The match is for figures of another kind.',
        'It was matched anew.',
        'warning',
      ),
    )
  const { value, problems: faults } = matchMotion(motion, plan)
  // of a figure that cannot be carried onto, only that is said
  return { value, problems: value ? [...problems, ...faults] : faults }
}

/**
 * Carries motions from elsewhere onto a figure and measures each there.
 *
 * @param plan that of the figure's body
 * @returns those that could be carried, with the match of each
 */
export function carryClips(
  motions: readonly ForeignMotion[],
  figure: Pick<Figure, 'mesh' | 'skeleton'>,
  plan: BodyPlan,
  order: CarryOrder = {},
): Read<(CarriedClip & Matched)[]> {
  const problems: Problem[] = []
  const carried: (CarriedClip & Matched)[] = []
  const touching = touchingOf(figure)
  const { match: known, ...times } = order
  for (const motion of motions) {
    const { value: matched, problems: unmatched } = matchFor(motion, plan, known)
    problems.push(...unmatched)
    if (!matched) continue
    const said = { id: idOf(motion.name), name: motion.name.slice(0, 80), ...times }
    const { value: clip, problems: faults } = carryMotion(motion, matched.match, figure.skeleton, touching, said)
    problems.push(...faults)
    if (clip) carried.push({ clip, numbers: judgeClip(figure.mesh, figure.skeleton, clip), ...matched })
  }
  return { value: carried.length ? carried : null, problems }
}

/** A name as an id: small letters, digits and strokes. */
function idOf(name: string): string {
  const id = name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 60)
  return id || 'clip'
}
