import { problem } from '../base/problem.ts'
import type { Builder } from '../build.ts'
import type { MotionMatch } from '../motion/foreign/matchMotion.ts'
import type { Beside } from '../scene/joinGltf.ts'
import { newRecipe } from '../recipe/defaults.ts'
import type { Kits } from '../recipe/resolve.ts'
import type { Target } from '../recipe/target.ts'
import { learnTarget, type LearnRead } from './learnTarget.ts'

/**
 * Learns a target from a game's file by a body of each kind of skeleton that the kits have: the first that the file is like
 * is taken. Where it is like none, what stood in the way of the first is told, or of the first that is half like it.
 */
export async function learnFor(
  builder: Builder,
  kits: Kits,
  bytes: Uint8Array,
  file: string,
  base: Target,
  options: { match?: MotionMatch; beside?: Beside } = {},
): Promise<LearnRead> {
  const tried = new Set<string>()
  let first: LearnRead | null = null
  for (const kit of kits.values())
    for (const [id, { plan }] of kit.bodies) {
      if (tried.has(plan.id) || (options.match && options.match.plan !== plan.id)) continue
      tried.add(plan.id)
      const { figure } = builder.build(newRecipe(kit, id, 'Body'), { ...base, detail: 'full' })
      if (!figure) continue
      const read = await learnTarget(bytes, file, { skeleton: figure.skeleton, plan }, base, options)
      if (read.value) return read
      // one that is nearly like it can be asked about
      if (!first || (read.asked?.match && !first.asked?.match)) first = read
    }
  const none = problem('body-none', file, 'The kits have no body it could be learned for.', 'Add a kit with bodies.')
  return first ?? { value: null, problems: [none], asked: null }
}
