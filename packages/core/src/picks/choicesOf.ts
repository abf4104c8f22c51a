import { problem, type Problem } from '../base/problem.ts'
import { bodyOf, fullName, namesBody, partOf, refOf, slotsFor, type KitPart, type Manifests } from '../kit/library.ts'
import { clipsFor } from '../recipe/clips.ts'
import { areExclusive } from '../recipe/shuffle.ts'
import type { ChoiceGroup, ChoiceModel, ChoiceRule } from './ChoiceModel.ts'
import type { PickBody } from './picks.ts'

/** The choices of one body of a package: options are full names of parts, groups are slots. */
export interface BodyChoices extends Pick<ChoiceModel, 'groups' | 'rules'> {
  parts: ReadonlyMap<string, KitPart>
}

/**
 * The choices a player has with one body, by what the package says and by what the kits say: what excludes, wants or covers
 * what. What is named and not there is left out and told; so is what contradicts itself.
 */
export function choicesOf(
  pick: PickBody,
  kits: Manifests,
  where = 'picks',
): { choices: BodyChoices; problems: Problem[] } {
  const problems: Problem[] = []
  const tell = (code: string, place: string, message: string, remedy: string, severity?: 'warning') =>
    problems.push(problem(code, `${where}/${place}`, message, remedy, severity))
  const kit = pick.body.kit
  const body = bodyOf(kits, pick.body)
  const parts = new Map<string, KitPart>()
  if (!body) {
    tell('body-unknown', 'body', `The body “${fullName(pick.body)}” is not here.`, 'Add its kit, or choose another.')
    return { choices: { groups: [], rules: [], parts }, problems }
  }
  const nameOf = (text: string) => fullName(refOf(text, kit))
  const known = new Set(slotsFor(kits, pick.body).map((s) => s.id))
  const groups: ChoiceGroup[] = pick.slots.map(({ slot, parts: offered, needed, start }, i) => {
    const at = `slots/${i}`
    if (!known.has(slot))
      tell('slot-unknown', `${at}/slot`, `“${body.name}” has no slot “${slot}”.`, 'Name one it has.')
    if (pick.slots.findIndex((s) => s.slot === slot) < i)
      tell('slot-twice', `${at}/slot`, `The slot “${slot}” is there twice.`, 'Put its parts together.')
    const options: string[] = []
    offered.forEach(({ part: text }, p) => {
      const name = nameOf(text)
      const part = partOf(kits, refOf(text, kit))
      if (!part || part.def.slot !== slot || !namesBody(part.def.bodies, part.kit, pick.body))
        tell(
          'part-unknown',
          `${at}/parts/${p}`,
          `There is no part “${text}” for the slot “${slot}”.`,
          'Take it out, or bring its kit back.',
          'warning',
        )
      else if (parts.has(name))
        tell('part-twice', `${at}/parts/${p}`, `“${text}” is there twice.`, 'Keep one.', 'warning')
      else {
        parts.set(name, part)
        options.push(name)
      }
    })
    const free = offered.filter(({ part, earned }) => earned === undefined && options.includes(nameOf(part)))
    if (needed && free.length === 0)
      tell('slot-locked', at, `Every part of “${slot}” has to be earned, and one has to be on.`, 'Leave one free.')
    if (!needed && Object.hasOwn(body.defaults, slot))
      tell('slot-needed', at, `“${body.name}” always has something in “${slot}”.`, 'Say that something has to be on.')
    const begins = start === null ? null : nameOf(start)
    if (begins === null ? needed : !options.includes(begins))
      tell(
        'start-unknown',
        `${at}/start`,
        `“${slot}” cannot begin with “${start ?? 'nothing'}”.`,
        'Choose one of its parts.',
      )
    else if (begins !== null && !free.some(({ part }) => nameOf(part) === begins))
      tell('start-locked', `${at}/start`, `“${start}” has to be earned first.`, 'Begin with one that is free.')
    return { id: slot, options, needed: needed || Object.hasOwn(body.defaults, slot) }
  })
  pick.sliders.forEach(({ slider, min, max, start }, i) => {
    const def = body.sliders.find((s) => s.id === slider)
    const at = `sliders/${i}`
    if (pick.sliders.findIndex((s) => s.slider === slider) < i)
      tell('slider-twice', at, `The slider “${slider}” is there twice.`, 'Keep one.')
    if (!def) tell('slider-unknown', at, `“${body.name}” has no slider “${slider}”.`, 'Take it out.', 'warning')
    else if (!(min <= start && start <= max && def.min <= min && max <= def.max))
      tell(
        'slider-limits',
        at,
        `“${def.name}” goes from ${def.min} to ${def.max}.`,
        'Put least, start and most in order within that.',
      )
  })
  for (const id of pick.expressions.filter((e, i, all) => all.indexOf(e) < i))
    tell('expression-twice', `expressions/${id}`, `The expression “${id}” is there twice.`, 'Keep one.')
  for (const id of pick.expressions)
    if (!body.expressions?.some((e) => e.id === id))
      tell(
        'expression-unknown',
        `expressions/${id}`,
        `“${body.name}” has no expression “${id}”.`,
        'Take it out.',
        'warning',
      )
  const clips = new Set(clipsFor(kits, pick.body).map((c) => c.id))
  for (const id of Array.isArray(pick.clips) ? pick.clips : [])
    if (!clips.has(id))
      tell('clip-unknown', `clips/${id}`, `“${body.name}” has no clip “${id}”.`, 'Take it out.', 'warning')
  for (const id of pick.covered)
    if (!body.regions.some((r) => r.id === id))
      tell('region-unknown', `covered/${id}`, `“${body.name}” has no region “${id}”.`, 'Take it out.', 'warning')
  for (const [region, { swatches, start }] of Object.entries(pick.colors))
    if (!swatches.includes(start))
      tell(
        'color-start',
        `colors/${region}`,
        `“${region}” begins with ${start}, which is none of its swatches.`,
        'Begin with one of them.',
      )

  groups.push(...alwaysWorn())
  const rules = [...kitRules(parts, groups), ...ownRules()]
  return { choices: { groups, rules, parts }, problems }

  /** What a body always has on, where nobody may choose it: it counts, and hides what it hides. */
  function alwaysWorn(): BodyChoices['groups'] {
    return Object.entries(body!.defaults).flatMap(([slot, id]) => {
      const part = partOf(kits, { kit, id })
      if (!part || pick.slots.some((s) => s.slot === slot)) return []
      const name = fullName({ kit, id })
      parts.set(name, part)
      return [{ id: slot, options: [name], needed: true }]
    })
  }
  function ownRules(): ChoiceRule[] {
    return pick.rules.flatMap((rule, i): ChoiceRule[] => {
      const named = (rule.kind === 'replaces' ? [rule.part] : rule.parts).map(nameOf)
      const gone = named.find((name) => !parts.has(name))
      if (gone !== undefined) {
        tell('part-unknown', `rules/${i}`, `“${gone}” is no choice here.`, 'Take the rule out.', 'warning')
        return []
      }
      const [one, other] = named as [string, string]
      if (rule.kind === 'replaces')
        return [{ kind: 'covers', one, others: inSlots(groups, rule.slots).filter((o) => o !== one) }]
      return one === other ? [] : [{ kind: rule.kind, one, other }]
    })
  }
}

const inSlots = (groups: BodyChoices['groups'], slots: readonly string[]) =>
  groups.filter((g) => slots.includes(g.id)).flatMap((g) => g.options)

/** What the kits say of parts that are choices. */
function kitRules(parts: ReadonlyMap<string, KitPart>, groups: BodyChoices['groups']): ChoiceRule[] {
  const all = [...parts]
  return all.flatMap(([one, { def }], i): ChoiceRule[] => [
    ...all
      .slice(i + 1)
      // of two in one slot one is on anyhow
      .filter(([, other]) => other.def.slot !== def.slot && areExclusive(def, other.def))
      .map(([other]): ChoiceRule => ({ kind: 'excludes', one, other })),
    ...(def.requires ?? []).map((need): ChoiceRule => ({
      kind: 'needs',
      one,
      oneOf: all.flatMap(([name, other]) => (other.def.id === need || other.def.tags.includes(need) ? [name] : [])),
    })),
    ...(def.covers?.length
      ? [{ kind: 'covers' as const, one, others: inSlots(groups, def.covers).filter((o) => o !== one) }]
      : []),
  ])
}
