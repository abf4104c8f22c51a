import type { BodyEntry, Look, RuleEntry, Told } from './manifest.ts'

/** Which flags of the game are set. */
export type Earned = (flag: string) => boolean
export const nothingEarned: Earned = () => false

/** A look that can be worn: everything in it is there and within its limits, and every rule is met. */
export interface Settled {
  /** Whole: every slot, slider and color a player has is in it. */
  look: Look
  /** By slot the option that is chosen. */
  chosen: (number | null)[]
  /** Options that are worn, by their slots' order: those chosen, less what others take the place of. */
  worn: number[]
  told: Told[]
}

/** The look everybody begins with. */
export const startLook = (body: BodyEntry): Look => ({
  body: body.id,
  parts: {},
  sliders: {},
  colors: {},
  expression: null,
})

/**
 * Makes any look one that can be worn. What is not here, not earned yet or beyond its limits falls back to what its slot
 * begins with; of what does not go together one is taken off. All of that is told. Never throws, whatever it is given.
 *
 * @param prefer a slot that stays as it is, if it can: the one a player has just changed
 */
export function settle(body: BodyEntry, wanted: unknown, earned: Earned = nothingEarned, prefer?: string): Settled {
  const told: Told[] = []
  const tell = (code: string, where: string, message: string) => void told.push({ code, where, message })
  const given = partsOf(wanted)
  const locked = (option: number) => {
    const flag = body.options[option]!.earned
    return flag !== undefined && !earned(flag)
  }
  const asked = recordOf(given.parts)
  const chosen = body.slots.map((slot): number | null => {
    if (!slot.chosen || !Object.hasOwn(asked, slot.id)) return slot.start
    const id = asked[slot.id]
    if (id === null) {
      if (!slot.needed) return null
      tell('needed', slot.id, `Something has to be on in “${slot.name}”.`)
      return slot.start
    }
    const option = slot.options.find((o) => body.options[o]!.id === id)
    if (option === undefined) tell('unknown-part', slot.id, `“${String(id)}” is not in “${slot.name}”.`)
    else if (locked(option)) tell('locked', slot.id, `“${body.options[option]!.name}” has to be earned first.`)
    else return option
    return slot.start
  })
  for (const id of Object.keys(asked))
    if (!body.slots.some((s) => s.id === id && s.chosen)) tell('unknown-slot', id, `There is no slot “${id}”.`)
  meetRules(body, chosen, locked, prefer, tell)
  const covered = new Set(body.rules.flatMap((r) => (r.kind === 'covers' && chosen.includes(r.one) ? r.others : [])))
  const look: Look = {
    body: body.id,
    parts: Object.fromEntries(
      body.slots.flatMap((s, i) =>
        s.chosen ? [[s.id, chosen[i] === null ? null : body.options[chosen[i]!]!.id]] : [],
      ),
    ),
    sliders: slidersOf(body, recordOf(given.sliders), tell),
    colors: colorsOf(body, recordOf(given.colors), tell),
    expression: null,
  }
  const face = given.expression
  if (typeof face === 'string' && body.expressions.some((e) => e.id === face)) look.expression = face
  else if (face !== null && face !== undefined) tell('unknown-expression', 'expression', 'There is no such expression.')
  return { look, chosen, worn: chosen.filter((o): o is number => o !== null && !covered.has(o)), told }
}

type Tell = (code: string, where: string, message: string) => void
const recordOf = (v: unknown): Record<string, unknown> =>
  typeof v === 'object' && v !== null && !Array.isArray(v) ? (v as Record<string, unknown>) : {}
const partsOf = (v: unknown) => recordOf(v) as { [K in keyof Look]?: unknown }

function slidersOf(body: BodyEntry, asked: Record<string, unknown>, tell: Tell): Look['sliders'] {
  for (const id of Object.keys(asked))
    if (!body.sliders.some((s) => s.id === id)) tell('unknown-slider', id, `There is no slider “${id}”.`)
  return Object.fromEntries(
    body.sliders.map(({ id, name, min, max, start }) => {
      const value = Object.hasOwn(asked, id) ? asked[id] : start
      if (typeof value !== 'number' || !Number.isFinite(value)) {
        tell('not-a-number', id, `“${name}” wants a number.`)
        return [id, start]
      }
      if (value < min || value > max) tell('beyond-limits', id, `“${name}” goes from ${min} to ${max}.`)
      return [id, Math.min(max, Math.max(min, value))]
    }),
  )
}

function colorsOf(body: BodyEntry, asked: Record<string, unknown>, tell: Tell): Look['colors'] {
  for (const id of Object.keys(asked))
    if (!body.colors.some((c) => c.id === id)) tell('unknown-color', id, `“${id}” cannot be given a color.`)
  return Object.fromEntries(
    body.colors.map(({ id, name, start, swatches }) => {
      const color = Object.hasOwn(asked, id) ? asked[id] : swatches[start]!.color
      if (swatches.some((s) => s.color === color)) return [id, color as string]
      tell('unknown-swatch', id, `“${name}” has no such swatch.`)
      return [id, swatches[start]!.color]
    }),
  )
}

/** The first rule a choice breaks. */
export function brokenRule(body: BodyEntry, chosen: readonly (number | null)[]): RuleEntry | null {
  const on = new Set(chosen)
  return (
    body.rules.find((rule) => {
      if (rule.kind === 'covers') return false
      if (rule.kind === 'needs') return on.has(rule.one) && !rule.oneOf.some((o) => on.has(o))
      const [one, other] = [on.has(rule.one), on.has(rule.other)]
      return rule.kind === 'excludes' ? one && other : one !== other
    }) ?? null
  )
}

/** Changes a choice until it breaks no rule: each option is taken off at most once; at the worst it is the start. */
function meetRules(
  body: BodyEntry,
  chosen: (number | null)[],
  locked: (option: number) => boolean,
  prefer: string | undefined,
  tell: Tell,
): void {
  const off = new Set<number>()
  const held = body.slots.findIndex((s) => s.id === prefer)
  const nameOf = (option: number) => body.options[option]!.name
  const slotOf = (option: number) => body.options[option]!.slot
  /** What a slot has instead of something it cannot have. */
  const instead = (slot: number): number | null => {
    const { needed, start, options } = body.slots[slot]!
    if (!needed) return null
    return [start, ...options].find((o) => o !== null && !off.has(o) && !locked(o)) ?? start
  }
  const takeOff = (option: number, why: string) => {
    off.add(option)
    chosen[slotOf(option)] = instead(slotOf(option))
    tell('taken-off', body.slots[slotOf(option)]!.id, `“${nameOf(option)}” is not worn: ${why}.`)
  }
  const canPutOn = (option: number) => !off.has(option) && !locked(option) && slotOf(option) !== held
  for (let step = 0; step < body.options.length * 2 + 8; step++) {
    const rule = brokenRule(body, chosen)
    if (!rule) return
    if (rule.kind === 'excludes') {
      const [stays, goes] = slotOf(rule.other) === held ? [rule.other, rule.one] : [rule.one, rule.other]
      // what cannot go makes the other one go
      const free = instead(slotOf(goes)) !== goes && !off.has(goes)
      const [one, other] = free ? [goes, stays] : [stays, goes]
      takeOff(one, `it does not go with “${nameOf(other)}”`)
    } else if (rule.kind === 'together') {
      const [on, missing] = chosen.includes(rule.one) ? [rule.one, rule.other] : [rule.other, rule.one]
      if (canPutOn(missing)) {
        chosen[slotOf(missing)] = missing
        tell('put-on', body.slots[slotOf(missing)]!.id, `“${nameOf(missing)}” goes with “${nameOf(on)}”.`)
        off.add(missing)
      } else takeOff(on, `it goes only with “${nameOf(missing)}”`)
    } else if (rule.kind === 'needs') {
      const wanted = rule.oneOf.find((o) => canPutOn(o) && chosen[slotOf(o)] === null)
      if (wanted === undefined) takeOff(rule.one, 'what it needs is not worn')
      else {
        chosen[slotOf(wanted)] = wanted
        tell('put-on', body.slots[slotOf(wanted)]!.id, `“${nameOf(rule.one)}” needs “${nameOf(wanted)}”.`)
        off.add(wanted)
      }
    }
  }
  body.slots.forEach((slot, i) => (chosen[i] = slot.start))
  tell('start-over', '', 'That cannot be worn together; this is what everybody begins with.')
}

/** What putting an option on, or null for taking off, would change elsewhere; what a player's screen shows beforehand. */
export function tryOn(body: BodyEntry, look: Look, slot: string, option: string | null, earned?: Earned): Settled {
  return settle(body, { ...look, parts: { ...look.parts, [slot]: option } }, earned, slot)
}

/** A slot that may be empty is so this often, when drawn. */
const EMPTY = 0.4

/**
 * A look drawn by chance within all rules; the same for the same seed. Colors and sliders keep to the middle more often
 * than to the ends.
 *
 * @param keep slots that stay as in a look
 */
export function shuffleLook(
  body: BodyEntry,
  seed: number,
  { earned = nothingEarned, look, keep = [] }: { earned?: Earned; look?: Look; keep?: readonly string[] } = {},
): Look {
  const random = mulberry32(seed)
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!
  const parts: Look['parts'] = {}
  for (const { id, needed, chosen, options } of body.slots) {
    if (!chosen) continue
    const free = options.filter((o) => body.options[o]!.earned === undefined || earned(body.options[o]!.earned!))
    const empty = !needed && random() < EMPTY
    parts[id] = empty || free.length === 0 ? null : body.options[pick(free)]!.id
    if (keep.includes(id) && look && Object.hasOwn(look.parts, id)) parts[id] = look.parts[id]!
  }
  const sliders = Object.fromEntries(
    body.sliders.map(({ id, min, max }) => [id, min + ((random() + random()) / 2) * (max - min)]),
  )
  const colors = Object.fromEntries(body.colors.map(({ id, swatches }) => [id, pick(swatches).color]))
  return settle(body, { body: body.id, parts, sliders, colors, expression: null }, earned).look
}

/** Numbers from 0 to 1 by a seed (T. Ettinger's mulberry32, public domain). */
function mulberry32(seed: number): () => number {
  // seeds that follow each other would begin alike
  let a = Math.imul((seed ^ (seed >>> 16)) + 0x9e3779b9, 0x85ebca6b) >>> 0
  a = Math.imul(a ^ (a >>> 13), 0xc2b2ae35) >>> 0
  return () => {
    a = (a + 0x6d2b79f5) | 0
    let t = Math.imul(a ^ (a >>> 15), 1 | a)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296
  }
}
