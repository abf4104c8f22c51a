import { problem, type Problem, type Read } from '../base/problem.ts'
import type { Builder, Figure } from '../build.ts'
import type { BodyPlan } from '../kit/plan.ts'
import type { Clip } from '../motion/Clip.ts'
import type { KeptClip } from '../motion/keys/keptClip.ts'
import { carryMotion, type Touching } from '../motion/foreign/carryMotion.ts'
import type { ForeignMotion } from '../motion/foreign/ForeignMotion.ts'
import { openMotion, type Motion } from '../motion/foreign/motionDocument.ts'
import { matchSureness } from '../motion/foreign/matchSureness.ts'
import { matchMotion, skeletonHash, type Matched, type MotionMatch } from '../motion/foreign/matchMotion.ts'
import { flanksOf } from '../motion/keepArmsOut.ts'
import { trunkOf } from '../motion/keepTrunkUp.ts'
import { onTheSpot } from '../motion/onTheSpot.ts'
import { solesOf } from '../motion/soles.ts'
import { wantedBy } from '../recipe/clips.ts'
import type { Kits } from '../recipe/resolve.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Target } from '../recipe/target.ts'
import { clipsOf } from './clips.ts'
import { keysOnto } from './keyedClips.ts'
import { sprungClips } from './sprungClips.ts'
import { shipFigure, type Shipped } from './shipFigure.ts'

/** A motion from elsewhere as a clip of a figure, and which bone follows which joint. */
export interface CarriedClip extends Matched {
  clip: Clip
  /** How sure each bone of the match is, 0 to 1. */
  sure: Record<string, number>
}

/** How a motion is to be carried. */
export interface CarryOrder {
  /** A match that is known; of another skeleton it is passed over, and told. */
  match?: MotionMatch
  loop?: boolean
  from?: number
  to?: number
  /** Whether one that is played once takes the figure along in the file; it does where nothing is said. */
  travels?: boolean
}

/** A motion and how it is to be carried. */
export interface MotionToCarry {
  motion: ForeignMotion
  order: CarryOrder
}

/** A motion as it was kept, with how it was said it is to be carried. */
export function keptToCarry(kept: Motion): MotionToCarry {
  const { match, loop, travels } = kept
  const order = { ...(match ? { match } : {}), ...(loop === 'ends' ? {} : { loop: loop === 'round' }), travels }
  return { motion: openMotion(kept), order }
}

/** What of a figure, as it is dressed, meets the ground and itself. */
export function touchingOf({ mesh, skeleton }: Pick<Figure, 'mesh' | 'skeleton'>): Touching {
  return { soles: solesOf(mesh, skeleton), flanks: flanksOf(mesh, skeleton), belly: trunkOf(mesh, skeleton) }
}

/** Bones of a match that are less sure are told of. */
export const UNSURE_BONE = 0.5

/** Whether a match is of such a skeleton and for such figures. */
export const isMatchOf = (match: MotionMatch, motion: Pick<ForeignMotion, 'joints'>, plan: BodyPlan): boolean =>
  match.skeleton === skeletonHash(motion) && match.plan === plan.id

/** Finds the bones of a motion's skeleton, or takes the match that is known of it. */
function matchFor(motion: ForeignMotion, plan: BodyPlan, known?: MotionMatch): Read<Matched> {
  if (known && isMatchOf(known, motion, plan)) return { value: { match: known, doubtful: [] }, problems: [] }
  const { value, problems } = matchMotion(motion, plan)
  // of a figure that cannot be carried onto, only that is said
  if (!known || !value) return { value, problems }
  const message =
    known.plan === plan.id ? 'The match is for another skeleton.' : 'The match is for figures of another kind.'
  return { value, problems: [problem('match-other', motion.name, message, 'It was matched anew.', 'warning')] }
}

/** Bones of a match that is not sure, and of which nothing else is said. */
export const unsureOf = ({ match, doubtful }: Matched, sure: ReadonlyMap<string, number>): Matched['doubtful'] =>
  [...sure].flatMap(([bone, share]) =>
    share < UNSURE_BONE && !doubtful.some((d) => d.bone === bone)
      ? [{ bone, why: `It follows “${match.bones[bone]!}”; another joint would do as well.` }]
      : [],
  )

/**
 * Carries a motion from elsewhere onto a figure.
 *
 * @param plan     that of the figure's body
 * @param touching of the figure; see `touchingOf`
 */
export function carryOnto(
  motion: ForeignMotion,
  figure: Pick<Figure, 'mesh' | 'skeleton'>,
  plan: BodyPlan,
  { travels: _, ...order }: CarryOrder = {},
  touching: Touching = touchingOf(figure),
): Read<CarriedClip> {
  const { match: said, ...times } = order
  const { value: matched, problems } = matchFor(motion, plan, said)
  if (!matched) return { value: null, problems }
  const clipped = { id: motion.name, name: motion.name.slice(0, 80), ...times }
  const { value: clip, problems: faults } = carryMotion(motion, matched.match, figure.skeleton, touching, clipped)
  const sure = matchSureness(motion, matched.match, plan)
  // what a person has said is doubted by nobody
  const known = order.match === matched.match
  const doubtful = known ? [] : [...matched.doubtful, ...unsureOf(matched, sure)]
  return {
    value: clip && { clip, match: matched.match, doubtful, sure: Object.fromEntries(sure) },
    problems: [...problems, ...faults],
  }
}

/** What a figure plays besides, or instead of, the clips of its kit. */
export interface Along {
  motions: readonly MotionToCarry[]
  /** Clips made of keys. */
  keyed?: readonly KeptClip[]
  /** Whether the clips of its kit come first; a name that is taken gets a number. */
  own?: boolean
}

/** Makes a figure's clips of motions from elsewhere and of keys; those that cannot be are told in `problems` and left out. */
export function clipsAlong(kits: Kits, recipe: Recipe, { motions, keyed = [], own = false }: Along) {
  const body = kits.get(recipe.body.kit)?.bodies.get(recipe.body.id)
  const plan = body?.plan
  const problems: Problem[] = []
  const carried: CarriedClip[] = []
  const clips = (figure: Figure, target: Target): Clip[] => {
    const ours = own ? clipsOf(figure, kits, recipe, wantedBy(target)) : []
    if (!plan) return ours
    // worked out for all of them at once, and not where there is none: thousands of a crowd carry nothing
    const touching = motions.length > 0 ? touchingOf(figure) : undefined
    const theirs = motions.flatMap(({ motion, order }) => {
      const { value, problems: told } = carryOnto(motion, figure, plan, order, touching)
      problems.push(...told)
      if (!value) return []
      carried.push(value)
      return [order.travels === false ? onTheSpot(value.clip) : value.clip]
    })
    const made = keyed.flatMap((kept) => {
      const { value, problems: told } = keysOnto(kept, figure.skeleton, body!, target)
      problems.push(...told)
      return value ? [value] : []
    })
    return namedApart([...ours, ...sprungClips([...made, ...theirs], figure, recipe)])
  }
  return { clips, problems, carried }
}

/** A figure within its target as binary glTF, with motions from elsewhere as its clips. */
export async function shipCarried(
  builder: Builder,
  kits: Kits,
  recipe: Recipe,
  target: Target,
  motions: readonly MotionToCarry[],
  { lods, ...along }: { lods: boolean } & Omit<Along, 'motions'>,
): Promise<Shipped & { carried: CarriedClip[] }> {
  const { clips, problems, carried } = clipsAlong(kits, recipe, { motions, ...along })
  const shipped = await shipFigure(builder, kits, recipe, target, { lods, clips: (figure) => clips(figure, target) })
  return { ...shipped, carried, problems: [...problems, ...shipped.problems] }
}

/** Clips by names of their own: of two that are called alike, as a game calls for them, the second gets a number. */
function namedApart(clips: readonly Clip[]): Clip[] {
  const taken = new Set<string>()
  return clips.map((clip) => {
    let { name } = clip
    for (let n = 2; taken.has(name); n++) name = `${clip.name} ${n}`
    taken.add(name)
    return name === clip.name ? clip : { ...clip, name }
  })
}
