import { problem, type Problem, type Read } from '../base/problem.ts'
import { expressionName } from '../kit/movements.ts'
import type { BodyModel } from '../kit/Kit.ts'
import type { Clip } from '../motion/Clip.ts'
import type { KeptClip } from '../motion/keys/keptClip.ts'
import { playKeys } from '../motion/keys/playKeys.ts'
import type { Target } from '../recipe/target.ts'
import type { Skeleton } from '../rig/Skeleton.ts'

/**
 * A clip made of keys on a figure; one for another kind of figures is told. So are expressions that its body has not, or
 * that the target does not keep: these are left out of what ships.
 */
export function keysOnto(
  kept: KeptClip,
  skeleton: Skeleton,
  { plan, def }: Pick<BodyModel, 'plan' | 'def'>,
  { keepExpressions: keeps = [] }: Pick<Target, 'keepExpressions'> = { keepExpressions: 'all' },
): Read<Clip> {
  const { name } = kept
  if (kept.plan !== plan.id)
    return {
      value: null,
      problems: [problem('clip-other-plan', name, 'It is for figures of another kind.', 'It was left out.', 'warning')],
    }
  const all = def.expressions ?? []
  const kind = all.filter((e) => keeps === 'all' || keeps.includes(e.id))
  const clip = playKeys(kept, skeleton, plan, kind, name)
  return { value: clip, problems: leftOut(kept, all, kind) }
}

type Expressions = NonNullable<BodyModel['def']['expressions']>

function leftOut({ faces, name }: KeptClip, all: Expressions, kept: Expressions): Problem[] {
  const asked = new Set(faces.flatMap(({ shares }) => Object.keys(shares).filter((id) => shares[id]! > 0)))
  const known = new Map(all.flatMap((e) => [[expressionName(e), e] as const, [e.id, e] as const]))
  const unknown = [...asked].filter((id) => !known.has(id))
  const dropped = [...asked].flatMap((id) => known.get(id) ?? []).filter((e) => !kept.includes(e))
  const words = (names: readonly string[]) => [...new Set(names)].map((n) => `“${n}”`).join(', ')
  return [
    ...(unknown.length
      ? [problem('face-unknown', name, `This body has no ${words(unknown)}.`, 'It was left out.', 'warning')]
      : []),
    ...(dropped.length
      ? [
          problem(
            'face-not-kept',
            name,
            `The target does not keep ${words(dropped.map((e) => e.name))}.`,
            'Let it keep these expressions, or the face stays as it is.',
            'warning',
          ),
        ]
      : []),
  ]
}
