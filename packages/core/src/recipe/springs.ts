import { withoutSide } from '../base/words.ts'
import { canSwing, SPRING_RANGES, type Spring } from '../motion/springs.ts'
import { limbIdOn, type Resolved } from './resolve.ts'
import type { Recipe } from './schema.ts'

/** Chains that swing as one: one, or the two of a pair. */
export interface SwingingChain {
  /** Its limb's id, without a side if it is a pair. */
  id: string
  /** The ids of its limbs. */
  limbs: string[]
}

/** The chains among limbs that can swing, pairs as one. */
export function swingingChains(limbs: Iterable<{ id: string; kind: string }>): SwingingChain[] {
  const byStem = new Map<string, string[]>()
  for (const { id } of [...limbs].filter(canSwing)) {
    const stem = withoutSide(id)
    byStem.set(stem, [...(byStem.get(stem) ?? []), id])
  }
  return [...byStem].map(([id, limbs]) => ({ id, limbs }))
}

/** The limbs of a figure that is still to be built: its body's and those its parts bring. */
export const limbsWorn = ({ body, parts }: Pick<Resolved, 'body' | 'parts'>): { id: string; kind: string }[] => [
  ...body.limbs,
  ...parts.flatMap(({ instance, part }) =>
    (part.def.limbs ?? []).map(({ id, kind }) => ({ id: limbIdOn(instance, id), kind })),
  ),
]

/** How a chain of the figure swings, by its limb's id; null where it goes as its clips have it. */
export function springOf({ springs }: Pick<Recipe, 'springs'>, limb: string): Spring | null {
  return springs && Object.hasOwn(springs, limb) ? springs[limb]! : null
}

/** Lets chains swing, within what is of use, or go as their clips have them. */
export function setSprings<T extends Pick<Recipe, 'springs'>>(
  recipe: T,
  limbs: readonly string[],
  spring: Spring | null,
): T {
  const value = spring && within(spring)
  const same = (a: Spring | null) => JSON.stringify(a && within(a)) === JSON.stringify(value)
  if (limbs.every((limb) => same(springOf(recipe, limb)))) return recipe
  const { springs: before = {} } = recipe
  const others = Object.entries(before).filter(([limb]) => !limbs.includes(limb))
  const all = value ? [...others, ...limbs.map((limb) => [limb, value] as const)] : others
  const next = { ...recipe }
  if (all.length) next.springs = Object.fromEntries(all)
  else delete next.springs
  return next
}

function within(spring: Spring): Spring {
  const of = (key: keyof Spring) => {
    const [least, , most] = SPRING_RANGES[key]
    return Math.round(Math.min(most, Math.max(least, spring[key])) * 100) / 100
  }
  return { stiffness: of('stiffness'), drag: of('drag'), gravity: of('gravity') }
}
