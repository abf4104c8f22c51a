import {
  carryOnto,
  isMatchOf,
  judgeClip,
  keepMotion,
  keptToCarry,
  matchMotion,
  readMotion,
  shipCarried,
  sprungClips,
  type Builder,
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
  beside: ReadonlyMap<string, Uint8Array>,
  recipe: Recipe,
  known: readonly MotionMatch[],
): Promise<BroughtMotions> {
  const { value, problems } = await readMotion(bytes, file, (uri) => beside.get(uri.replace(/^.*\//, '')))
  const plan = planOf(kits, recipe)
  const all: Problem[] = [...problems]
  const motions: Motion[] = []
  for (const motion of value ?? []) {
    const { value: kept, problems: unkept } = keepMotion(motion, null)
    all.push(...unkept)
    if (!kept) continue
    // by the names it is kept with
    const named = { ...motion, joints: kept.joints }
    const match = plan && (known.find((m) => isMatchOf(m, named, plan)) ?? matchMotion(named, plan).value?.match)
    motions.push({ ...kept, match: match ?? null })
  }
  return { motions, problems: all }
}

/** A kept motion as a clip of a figure, and what is measured of it there. */
export function carryKept(
  builder: Builder,
  kits: ReadonlyMap<string, Kit>,
  recipe: Recipe,
  target: Target,
  motion: Motion,
): CarriedMotion {
  const { figure, problems } = builder.build(recipe, target)
  const plan = planOf(kits, recipe)
  if (!figure || !plan) return { carried: null, problems }
  const { motion: opened, order } = keptToCarry(motion)
  const { value, problems: told } = carryOnto(opened, figure, plan, order)
  const clip = value && sprungClips([value.clip], figure, recipe)[0]!
  return {
    carried: value && clip && { ...value, clip, numbers: judgeClip(figure.mesh, figure.skeleton, clip, plan) },
    problems: told,
  }
}

/** The figure with some motions as its clips, as a GLB. */
export async function shipMotions(
  builder: Builder,
  kits: ReadonlyMap<string, Kit>,
  recipe: Recipe,
  target: Target,
  motions: readonly Motion[],
): Promise<{ bytes: Uint8Array | null; problems: Problem[] }> {
  const { bytes, problems } = await shipCarried(builder, kits, recipe, target, motions.map(keptToCarry), { lods: true })
  return { bytes, problems }
}
