import { problem, type Problem } from '../base/problem.ts'
import { checkPartOnBody, colorRegionsOf, namesBody, slotsFor } from '../kit/library.ts'
import type { BodyModel, Kit, PartModel } from '../kit/Kit.ts'
import type { BodyDef, SlotDef } from '../kit/schema.ts'
import { meanValue, sides } from './instances.ts'
import { nudgeFault } from './nudges.ts'
import { placePartModel } from './placePart.ts'
import type { Nudge, PartInstance, Recipe, SliderValue } from './schema.ts'
import { areExclusive } from './shuffle.ts'

export type Kits = ReadonlyMap<string, Kit>

/** A part that is on the figure. */
export interface ResolvedPart {
  /** The instance's id in the recipe; of a default that the recipe does not name, its slot. */
  instance: string
  slot: string
  /** The kit's part, moved, turned and layered as the instance says. */
  part: PartModel
}

/** A recipe with every name looked up, faults dropped and told. */
export interface Resolved {
  body: BodyModel
  /** The body's slots, from head to foot. */
  slots: SlotDef[]
  /** In the order of the slots, then of the instances' ids. */
  parts: ResolvedPart[]
  /** Every slider of the body, within its range: one value, or left and right. */
  sliders: Record<string, SliderValue>
  /** What was nudged: on the body under null, on what is worn under its instance. */
  nudges: ReadonlyMap<string | null, Nudge>
  /** Joint to its softness; of those on parts that are not on it counts for nothing. */
  joints: Readonly<Record<string, number>>
  /** Color region to "#rrggbb": the recipe's, else the kit's own; white for a picture that is left as it is. */
  colorOf: (region: string, isPicture?: boolean) => string
}

/** What a limb that a part brings is called on the figure that wears it. */
export const limbIdOn = (instance: string, limb: string): string => `${instance}-${limb}`

/** What of a recipe says who it is and what is worn: all that no slider, brush or color changes. */
export type Outfitting = Pick<Recipe, 'body' | 'parts'>

/** The body of a recipe and what is on it. */
export type Worn = Pick<Resolved, 'body' | 'slots' | 'parts'>

/**
 * Looks up everything a recipe names. Neither the order of its parts nor that of its keys matters:
 * slots that may not be empty come first, then the others as the kit lists them; of two parts that
 * rule each other out the one that comes first stays.
 *
 * @param worn what its body and parts come to, where that is known: it is all the same while a hand draws
 */
export function resolveRecipe(
  recipe: Recipe,
  kits: Kits,
  worn: Told<Worn> = resolveWorn(recipe, kits),
): Told<Resolved> {
  if (!worn.value) return { value: null, problems: worn.problems }
  const { body, parts } = worn.value
  const problems = [...worn.problems]
  const colors = colorRegionsOf(kits, recipe.body.kit)
  const colorOf = (region: string, isPicture = false) => {
    if (Object.hasOwn(recipe.colors, region)) return recipe.colors[region]!
    return isPicture ? '#ffffff' : (colors.get(region)?.color ?? '#9a9a9a')
  }
  const sliders = sliderValues(recipe, body.def, problems)
  const nudges = usableNudges(recipe, body, parts, problems)
  return { value: { ...worn.value, sliders, nudges, joints: recipe.joints ?? {}, colorOf }, problems }
}

/** A value, null if there is none, and what was wrong on the way. */
interface Told<T> {
  value: T | null
  problems: Problem[]
}

/** Looks up the body and the parts of a recipe; see `resolveRecipe`. */
export function resolveWorn(recipe: Outfitting, kits: Kits): Told<Worn> {
  const refuse = (code: string, where: string, message: string, remedy: string) => ({
    value: null,
    problems: [problem(code, where, message, remedy)],
  })
  const bodyKit = kits.get(recipe.body.kit)
  if (!bodyKit)
    return refuse(
      'kit-unknown',
      'recipe/body/kit',
      `The kit “${recipe.body.kit}” is not here.`,
      'Add the kit to the project.',
    )
  const body = bodyKit.bodies.get(recipe.body.id)
  if (!body)
    return refuse(
      'body-unknown',
      'recipe/body/id',
      `The kit has no body “${recipe.body.id}”.`,
      'Choose one of its bodies.',
    )
  const problems = otherVersions(recipe, kits)
  const slots = slotsFor(kits, recipe.body)
  const found = lookUp(recipe, kits, body, slots, problems)
  const filled = fillDefaults(found, body, kits, recipe)
  const worn = inPlay(filled, body.def, slots, problems)
  requireNeeds(worn, problems)
  const covered = new Set(worn.flatMap(({ part }) => part.def.covers ?? []))
  const parts = withHosts(
    worn.filter(({ slot }) => !covered.has(slot)),
    problems,
  ).sort(bySlot(slots))
  return { value: { body, slots, parts }, problems }
}

/** The nudges made on the very meshes that are here. */
function usableNudges(recipe: Recipe, body: BodyModel, parts: readonly ResolvedPart[], problems: Problem[]) {
  const usable = new Map<string | null, Nudge>()
  for (const [i, nudge] of (recipe.nudges ?? []).entries()) {
    const part = nudge.on === undefined ? null : parts.find((p) => p.instance === nudge.on)?.part
    const mesh = part === null ? body.mesh : part?.mesh
    // of something that is covered now, or not here: it counts again when that is
    if (!mesh) continue
    const fault = nudgeFault(nudge, mesh)
    const name = part ? part.def.name : body.def.name
    if (!fault && !usable.has(nudge.on ?? null)) usable.set(nudge.on ?? null, nudge)
    else
      problems.push(
        problem(
          'nudge-unusable',
          `recipe/nudges/${i}`,
          fault === 'topology'
            ? `What was nudged on “${name}” is left out: its mesh has become another since.`
            : `What was nudged on “${name}” is left out: it names points as they cannot be.`,
          'Nudge it again, or take the nudge back.',
          'warning',
        ),
      )
  }
  return usable
}

type Found = ResolvedPart & { where: string }

/** Without those that sit on something which is not there, or has become something else. */
function withHosts(worn: readonly Found[], problems: Problem[]): Found[] {
  return worn.filter(({ part, where }) => {
    const on = part.spot?.on
    if (!on) return true
    const host = worn.find((w) => w.instance === on.instance)?.part
    if (host?.def.how === 'worn' && host.def.id === on.part && part.spot!.triangle < host.mesh.indices.length / 3)
      return true
    problems.push(
      problem(
        'host-gone',
        `${where}/place`,
        `“${part.def.name}” is left off: what it sat on is not worn.`,
        'Place it again, or put that on.',
        'warning',
      ),
    )
    return false
  })
}

const bySlot = (slots: readonly SlotDef[]) => {
  const order = new Map(slots.map((s, i) => [s.id, i]))
  return (a: ResolvedPart, b: ResolvedPart) =>
    (order.get(a.slot) ?? slots.length) - (order.get(b.slot) ?? slots.length) || (a.instance < b.instance ? -1 : 1)
}

/** The parts that exist, stand in their slot and fit the body. */
function lookUp(
  recipe: Outfitting,
  kits: Kits,
  body: BodyModel,
  slots: readonly SlotDef[],
  problems: Problem[],
): Found[] {
  const found: Found[] = []
  const count = new Map<string, number>()
  for (const instance of [...recipe.parts].sort((a, b) => (a.id < b.id ? -1 : 1))) {
    const where = `recipe/parts/${instance.id}`
    const part = lookUpOne(instance, recipe, kits, body, slots, where, problems)
    if (!part) continue
    const most = slots.find((s) => s.id === instance.slot)?.most ?? 1
    const there = (count.get(instance.slot) ?? 0) + 1
    count.set(instance.slot, there)
    if (there > most) {
      problems.push(
        problem(
          'slot-full',
          where,
          `“${part.def.name}” is left off: the slot holds ${most === 1 ? 'one part' : `${most} parts`}.`,
          'Take off another one there.',
          'warning',
        ),
      )
      continue
    }
    const alike = found.filter((f) => f.part.kit === part.kit && f.part.def.id === part.def.id).length
    if (part.def.how === 'attached' && alike >= (part.def.most ?? Infinity)) {
      problems.push(
        problem(
          'part-most',
          where,
          `“${part.def.name}” is left off: a figure has at most ${part.def.most} of it.`,
          'Take off another one.',
          'warning',
        ),
      )
      continue
    }
    found.push({ instance: instance.id, slot: instance.slot, part, where })
  }
  return found
}

function lookUpOne(
  instance: PartInstance,
  recipe: Outfitting,
  kits: Kits,
  body: BodyModel,
  slots: readonly SlotDef[],
  where: string,
  problems: Problem[],
): PartModel | null {
  const tell = (code: string, place: string, message: string, remedy: string) => {
    problems.push(problem(code, `${where}${place}`, message, remedy))
    return null
  }
  const { kit: kitId, id } = instance.part
  const kit = kits.get(kitId)
  if (!kit) return tell('kit-unknown', '/part/kit', `The kit “${kitId}” is not here.`, 'Add it or choose another part.')
  const part = kit.parts.get(id)
  if (!part) return tell('part-unknown', '/part/id', `The kit “${kitId}” has no part “${id}”.`, 'Choose another part.')
  const { def } = part
  if (def.slot !== instance.slot)
    return tell(
      'part-other-slot',
      '',
      `“${def.name}” belongs in the slot “${def.slot}”.`,
      'Put it there or choose another part.',
    )
  if (!namesBody(def.bodies, kitId, recipe.body))
    return tell(
      'part-other-body',
      '',
      `“${def.name}” is made for another body (${def.bodies.join(', ')}).`,
      `Choose a part made for “${body.def.name}”.`,
    )
  const faults = kitId === body.kit ? [] : checkPartOnBody({ kit: kitId, def }, body.def, slots, where)
  problems.push(...faults)
  return faults.length ? null : placePartModel(part, instance, body, where, problems)
}

/** Slots that are never empty and have nothing get the part the body names for them. */
function fillDefaults(found: readonly Found[], body: BodyModel, kits: Kits, recipe: Outfitting): Found[] {
  const kit = kits.get(recipe.body.kit)!
  const filled = [...found]
  for (const [slot, id] of Object.entries(body.def.defaults)) {
    const part = kit.parts.get(id)
    if (part && !found.some((p) => p.slot === slot))
      filled.push({ instance: slot, slot, part, where: `recipe/parts/${slot}` })
  }
  return filled
}

/** Leaves off what is ruled out by something that comes before it. */
function inPlay(parts: readonly Found[], body: BodyDef, slots: readonly SlotDef[], problems: Problem[]): Found[] {
  const needed = ({ slot }: Found) => Object.hasOwn(body.defaults, slot)
  const order = [...parts].sort((a, b) => Number(needed(b)) - Number(needed(a)) || bySlot(slots)(a, b))
  const kept: Found[] = []
  for (const next of order) {
    const rival = kept.find((p) => areExclusive(p.part.def, next.part.def))
    if (!rival) kept.push(next)
    else
      problems.push(
        problem(
          'part-excluded',
          next.where,
          `“${next.part.def.name}” does not go with “${rival.part.def.name}”; it is left off.`,
          'Clear one of the two.',
          'warning',
        ),
      )
  }
  return kept
}

function requireNeeds(parts: readonly Found[], problems: Problem[]): void {
  const names = new Set(parts.flatMap(({ part }) => [part.def.id, ...part.def.tags]))
  for (const { part, where } of parts)
    for (const need of part.def.requires ?? [])
      if (!names.has(need))
        problems.push(
          problem('part-requires', where, `“${part.def.name}” wants “${need}” as well.`, 'Add it.', 'warning'),
        )
}

function sliderValues(recipe: Recipe, body: BodyDef, problems: Problem[]): Record<string, SliderValue> {
  const sliders: Record<string, SliderValue> = {}
  for (const def of body.sliders) {
    const value = Object.hasOwn(recipe.sliders, def.id) ? recipe.sliders[def.id]! : def.default
    // most are, and with every step of a hand all of them are gone through
    if (typeof value === 'number' && value >= def.min && value <= def.max) {
      sliders[def.id] = value
      continue
    }
    const [left, right] = sides(value)
    const where = `recipe/sliders/${def.id}`
    if (!Number.isFinite(left) || !Number.isFinite(right)) {
      problems.push(
        problem('slider-nan', where, `“${def.name}” is not a number.`, `Set it between ${def.min} and ${def.max}.`),
      )
      sliders[def.id] = def.default
      continue
    }
    const held = [left, right].map((v) => Math.min(def.max, Math.max(def.min, v))) as [number, number]
    if (held[0] !== left || held[1] !== right)
      problems.push(
        problem(
          'slider-range',
          where,
          `“${def.name}” is ${meanValue(value)}; it was held at its limit.`,
          `Set it between ${def.min} and ${def.max}.`,
          'warning',
        ),
      )
    sliders[def.id] = held[0] === held[1] ? held[0] : held
  }
  for (const id of Object.keys(recipe.sliders))
    if (!Object.hasOwn(sliders, id))
      problems.push(
        problem(
          'slider-unknown',
          `recipe/sliders/${id}`,
          `“${body.name}” has no slider “${id}”; it was left out.`,
          'Remove it.',
          'warning',
        ),
      )
  return sliders
}

/** Tells once a kit when a recipe was made with another version of it than is here. */
function otherVersions(recipe: Outfitting, kits: Kits): Problem[] {
  const told = new Map<string, Problem>()
  const references = [
    ['recipe/body', recipe.body] as const,
    ...recipe.parts.map(({ id, part }) => [`recipe/parts/${id}/part`, part] as const),
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
