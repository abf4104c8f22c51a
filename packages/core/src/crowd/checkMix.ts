import { problem, type Problem } from '../base/problem.ts'
import { bodyOf, namesBody, palettesFor, partOf, refOf, slotsFor } from '../kit/library.ts'
import type { Kits } from '../recipe/resolve.ts'
import type { Mix, MixKind } from './mix.ts'

/** What of a mix its kits do not know. */
export function checkMix(mix: Mix, kits: Kits): Problem[] {
  const ids = mix.kinds.map((k) => k.id)
  const twice = ids.filter((id, i) => ids.indexOf(id) !== i)
  return [
    ...twice.map((id) =>
      problem('id-twice', `mix/kinds/${id}`, `Two kinds have the id “${id}”.`, 'Give each its own id.'),
    ),
    ...(mix.kinds.some((k) => k.share > 0)
      ? []
      : [problem('shares-empty', 'mix/kinds', 'No kind has a share of the crowd.', 'Give one a share.')]),
    ...mix.kinds.flatMap((kind) => checkKind(kind, kits)),
  ]
}

function checkKind(mix: MixKind, kits: Kits): Problem[] {
  const problems: Problem[] = []
  const at = `mix/kinds/${mix.id}`
  const body = bodyOf(kits, mix.body)
  const slots = slotsFor(kits, mix.body)
  if (!body)
    problems.push(
      problem('body-unknown', `${at}/body`, `The kit has no body “${mix.body.id}”.`, 'Choose one of its bodies.'),
    )
  for (const [slot, choices] of Object.entries(mix.slots)) {
    if (!slots.some((s) => s.id === slot))
      problems.push(problem('slot-unknown', `${at}/slots/${slot}`, `There is no slot “${slot}”.`, 'Remove it.'))
    choices.forEach((c, i) => {
      if (c.part === null) return
      const part = partOf(kits, refOf(c.part, mix.body.kit))
      const readable = part && kits.get(part.kit)?.parts.has(part.def.id)
      if (!readable || part.def.slot !== slot || !namesBody(part.def.bodies, part.kit, mix.body))
        problems.push(
          problem(
            'part-unknown',
            `${at}/slots/${slot}/${i}`,
            `“${c.part}” is no part for this slot and body.`,
            'Choose another part.',
          ),
        )
    })
  }
  for (const [id, [low, high]] of Object.entries(mix.sliders)) {
    if (body && !body.sliders.some((s) => s.id === id))
      problems.push(problem('slider-unknown', `${at}/sliders/${id}`, `There is no slider “${id}”.`, 'Remove it.'))
    if (low > high)
      problems.push(
        problem('slider-range', `${at}/sliders/${id}`, 'The range runs backwards.', 'Put the smaller value first.'),
      )
  }
  for (const { id } of mix.expressions ?? [])
    if (id !== null && body && !body.expressions?.some((e) => e.id === id))
      problems.push(
        problem(
          'expression-unknown',
          `${at}/expressions`,
          `“${body.name}” has no expression “${id}”.`,
          'Choose one of the body’s.',
        ),
      )
  for (const { id } of mix.palettes)
    if (!palettesFor(kits, mix.body).some((p) => p.id === id))
      problems.push(
        problem('palette-unknown', `${at}/palettes`, `There is no palette “${id}”.`, 'Choose one of the kits’.'),
      )
  return problems
}
