import { problem, type Problem } from '../base/problem.ts'
import type { BodyModel, Kit, PartModel } from '../kit/readKit.ts'
import { areExclusive } from './shuffle.ts'
import type { Recipe } from './schema.ts'

export type Kits = ReadonlyMap<string, Kit>

/** A recipe with every name looked up, faults dropped and told. */
export interface Resolved {
  body: BodyModel
  /** In the order of the kit's slots. */
  parts: { slot: string; part: PartModel }[]
  /** Every slider of the body, within its range. */
  sliders: Record<string, number>
  /** Color region to "#rrggbb": the recipe's, else the kit's own. */
  colorOf: (region: string) => string
}

export function resolveRecipe(recipe: Recipe, kits: Kits): { value: Resolved | null; problems: Problem[] } {
  const problems: Problem[] = []
  const bodyKit = kits.get(recipe.body.kit)
  if (!bodyKit)
    return {
      value: null,
      problems: [
        problem(
          'kit-unknown',
          'recipe/body/kit',
          `The kit “${recipe.body.kit}” is not here.`,
          'Add the kit to the project.',
        ),
      ],
    }
  const body = bodyKit.bodies.get(recipe.body.id)
  if (!body)
    return {
      value: null,
      problems: [
        problem(
          'body-unknown',
          'recipe/body/id',
          `The kit has no body “${recipe.body.id}”.`,
          'Choose one of its bodies.',
        ),
      ],
    }
  problems.push(...otherVersions(recipe, kits))
  const parts: Resolved['parts'] = []
  const names = new Map<string, string>()
  for (const [slot, ref] of Object.entries(recipe.parts)) {
    const where = `recipe/parts/${slot}`
    const kit = kits.get(ref.kit)
    if (!kit) {
      problems.push(
        problem(
          'kit-unknown',
          `${where}/kit`,
          `The kit “${ref.kit}” is not here.`,
          'Add the kit or choose another part.',
        ),
      )
      continue
    }
    const part = kit.parts.get(ref.id)
    if (!part) {
      problems.push(
        problem('part-unknown', `${where}/id`, `The kit “${ref.kit}” has no part “${ref.id}”.`, 'Choose another part.'),
      )
      continue
    }
    if (part.def.slot !== slot) {
      problems.push(
        problem(
          'part-other-slot',
          where,
          `“${part.def.name}” belongs in the slot “${part.def.slot}”.`,
          'Put it there or choose another part.',
        ),
      )
      continue
    }
    if (!part.def.bodies.includes(recipe.body.id) || part.kit !== body.kit) {
      problems.push(
        problem(
          'part-other-body',
          where,
          `“${part.def.name}” is made for another body (${part.def.bodies.join(', ')}).`,
          `Choose a part made for “${body.def.name}”.`,
        ),
      )
      continue
    }
    const rival = parts.find((p) => areExclusive(p.part.def, part.def))
    if (rival) {
      problems.push(
        problem(
          'part-excluded',
          where,
          `“${part.def.name}” does not go with “${rival.part.def.name}”; it is left off.`,
          'Clear one of the two.',
          'warning',
        ),
      )
      continue
    }
    parts.push({ slot, part })
    for (const n of [part.def.id, ...part.def.tags]) names.set(n, slot)
  }
  for (const { slot, part } of parts)
    for (const need of part.def.requires ?? [])
      if (!names.has(need))
        problems.push(
          problem(
            'part-requires',
            `recipe/parts/${slot}`,
            `“${part.def.name}” wants “${need}” as well.`,
            'Add it.',
            'warning',
          ),
        )
  for (const [slot, id] of Object.entries(body.def.defaults)) {
    const fill = bodyKit.parts.get(id)
    if (fill && !parts.some((p) => p.slot === slot)) parts.push({ slot, part: fill })
  }
  const covered = new Set(parts.flatMap(({ part }) => part.def.covers ?? []))
  const order = new Map(bodyKit.manifest.slots.map((s, i) => [s.id, i]))
  const shown = parts
    .filter(({ slot }) => !covered.has(slot))
    .sort((a, b) => (order.get(a.slot) ?? 999) - (order.get(b.slot) ?? 999) || (a.slot < b.slot ? -1 : 1))

  const sliders: Record<string, number> = {}
  for (const def of body.def.sliders) {
    const value = recipe.sliders[def.id] ?? def.default
    if (!Number.isFinite(value)) {
      problems.push(
        problem(
          'slider-nan',
          `recipe/sliders/${def.id}`,
          `“${def.name}” is not a number.`,
          `Set it between ${def.min} and ${def.max}.`,
        ),
      )
      sliders[def.id] = def.default
    } else if (value < def.min || value > def.max) {
      problems.push(
        problem(
          'slider-range',
          `recipe/sliders/${def.id}`,
          `“${def.name}” is ${value}; it was held at its limit.`,
          `Set it between ${def.min} and ${def.max}.`,
          'warning',
        ),
      )
      sliders[def.id] = Math.min(def.max, Math.max(def.min, value))
    } else sliders[def.id] = value
  }
  for (const id of Object.keys(recipe.sliders))
    if (!(id in sliders))
      problems.push(
        problem(
          'slider-unknown',
          `recipe/sliders/${id}`,
          `“${body.def.name}” has no slider “${id}”; it was left out.`,
          'Remove it.',
          'warning',
        ),
      )

  const own = new Map([...kits.values()].flatMap((k) => k.manifest.colorRegions.map((c) => [c.id, c.color] as const)))
  for (const c of bodyKit.manifest.colorRegions) own.set(c.id, c.color)
  const colorOf = (region: string) => recipe.colors[region] ?? own.get(region) ?? '#9a9a9a'
  return { value: { body, parts: shown, sliders, colorOf }, problems }
}

/** Tells once a kit when a recipe was made with another version of it than is here. */
function otherVersions(recipe: Recipe, kits: Kits): Problem[] {
  const told = new Map<string, Problem>()
  const references = [
    ['recipe/body', recipe.body] as const,
    ...Object.entries(recipe.parts).map(([slot, ref]) => [`recipe/parts/${slot}`, ref] as const),
  ]
  for (const [where, { kit, kitVersion }] of references) {
    const here = kits.get(kit)?.manifest.kitVersion
    if (here === undefined || here === kitVersion || told.has(kit)) continue
    told.set(
      kit,
      problem(
        'kit-other-version',
        `${where}/kitVersion`,
        `It was made with version ${kitVersion} of “${kit}”; version ${here} is here, and parts may look different.`,
        'Look it over; with your first edit it takes the version that is here.',
        'warning',
      ),
    )
  }
  return [...told.values()]
}
