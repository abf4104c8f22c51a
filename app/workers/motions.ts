import {
  carryClips,
  keepMotion,
  matchFor,
  onTheSpot,
  openMotion,
  readMotion,
  shipFigure,
  type Builder,
  type CarryOrder,
  type Kit,
  type Motion,
  type MotionMatch,
  type Problem,
  type Recipe,
  type Target,
} from '@idle-tinker/core'
import type { BroughtMotions, CarriedMotion } from './protocol'

const planOf = (kits: ReadonlyMap<string, Kit>, { body }: Recipe) => kits.get(body.kit)?.bodies.get(body.id)?.plan

/** Reads the motions in a file as they are kept; the bones of a skeleton that is known are those that are known. */
export async function bringMotions(
  kits: ReadonlyMap<string, Kit>,
  file: string,
  bytes: Uint8Array,
  recipe: Recipe,
  known: readonly MotionMatch[],
): Promise<BroughtMotions> {
  const { value, problems } = await readMotion(bytes, file)
  const plan = planOf(kits, recipe)
  const all: Problem[] = [...problems]
  const motions: Motion[] = []
  for (const motion of value ?? []) {
    const kept = keepMotion(motion, null)
    all.push(...kept.problems)
    if (!kept.value) continue
    // by the names it is kept with
    const opened = openMotion(kept.value)
    const match = plan && known.map((m) => matchFor(opened, plan, m)).find((m) => m.problems.length === 0)?.value
    const found = match ?? (plan && matchFor(opened, plan).value)
    motions.push({ ...kept.value, match: found?.match ?? null })
  }
  return { motions, problems: all }
}

const orderOf = ({ match, loop }: Motion): CarryOrder => ({
  ...(match ? { match } : {}),
  ...(loop === 'ends' ? {} : { loop: loop === 'round' }),
})

/** A kept motion as a clip of a figure. */
export function carryOnto(
  builder: Builder,
  kits: ReadonlyMap<string, Kit>,
  recipe: Recipe,
  target: Target,
  motion: Motion,
): CarriedMotion {
  const { figure, problems } = builder.build(recipe, target)
  const plan = planOf(kits, recipe)
  if (!figure || !plan) return { carried: null, problems }
  const { value, problems: told } = carryClips([openMotion(motion)], figure, plan, orderOf(motion))
  return { carried: value?.[0] ?? null, problems: told }
}

/** The figure with some motions as its clips, as a GLB. */
export async function shipMotions(
  builder: Builder,
  kits: ReadonlyMap<string, Kit>,
  recipe: Recipe,
  target: Target,
  motions: readonly Motion[],
): Promise<{ bytes: Uint8Array | null; problems: Problem[] }> {
  const plan = planOf(kits, recipe)
  const told: Problem[] = []
  const { bytes, problems } = await shipFigure(builder, kits, recipe, target, {
    lods: true,
    clips: (figure) =>
      motions.flatMap((motion) => {
        const carried = plan ? carryClips([openMotion(motion)], figure, plan, orderOf(motion)) : null
        told.push(...(carried?.problems ?? []))
        return carried?.value?.map(({ clip }) => (motion.travels ? clip : onTheSpot(clip))) ?? []
      }),
  })
  return { bytes, problems: [...told, ...problems] }
}
