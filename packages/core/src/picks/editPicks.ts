import { withCodes } from './codes.ts'
import { refOf } from '../kit/library.ts'
import { pickName } from './newPicks.ts'
import type { PickBody, PickLook, PickPart, Picks, PickSlot } from './picks.ts'

/* Changes of picks: each gives new ones, with a number for all that is new. */

/** Changes one body. */
export function changePickBody(picks: Picks, id: string, change: Partial<PickBody>): Picks {
  return withCodes({ ...picks, bodies: picks.bodies.map((b) => (b.id === id ? { ...b, ...change } : b)) })
}

/** Adds a body; what it is called gets a number behind it where that is taken. */
export function addPickBody(picks: Picks, body: PickBody): Picks {
  const taken = new Set(picks.bodies.map((b) => b.id))
  let { id } = body
  for (let n = 2; taken.has(id); n++) id = `${body.id}-${n}`
  return withCodes({ ...picks, bodies: [...picks.bodies, { ...body, id }] })
}

/** Takes a body out; the last one stays. */
export function removePickBody(picks: Picks, id: string): Picks {
  const bodies = picks.bodies.filter((b) => b.id !== id)
  return bodies.length ? { ...picks, bodies } : picks
}

/** Changes one slot; a slot without parts leaves, and what nobody offers any more nobody begins with. */
export function changePickSlot(picks: Picks, body: string, slot: string, change: Partial<PickSlot>): Picks {
  const own = picks.bodies.find((b) => b.id === body)
  if (!own) return picks
  const slots = own.slots.flatMap((s) => {
    if (s.slot !== slot) return [s]
    const next = { ...s, ...change }
    if (next.parts.length === 0) return []
    const start = next.parts.some((p) => p.part === next.start) ? next.start : null
    return [{ ...next, start: start ?? (next.needed ? next.parts[0]!.part : null) }]
  })
  return changePickBody(picks, body, { slots })
}

const partsIn = (picks: Picks, body: string, slot: string): PickPart[] =>
  picks.bodies.find((b) => b.id === body)?.slots.find((s) => s.slot === slot)?.parts ?? []

/** Offers a part in its slot, or no longer. */
export function offerPart(picks: Picks, body: string, slot: string, part: string, on: boolean): Picks {
  const parts = partsIn(picks, body, slot)
  if (parts.some((p) => p.part === part) === on) return picks
  return changePickSlot(picks, body, slot, {
    parts: on ? [...parts, { part }] : parts.filter((p) => p.part !== part),
  })
}

/** What is said of a part that is offered; '' and [] say nothing. */
export function changePickPart(
  picks: Picks,
  body: string,
  slot: string,
  part: string,
  change: Partial<Omit<PickPart, 'part'>>,
): Picks {
  const parts = partsIn(picks, body, slot)
  return changePickSlot(picks, body, slot, {
    parts: parts.map((p) => {
      if (p.part !== part) return p
      const said = Object.entries({ ...p, ...change }).filter(([, value]) => value !== undefined && value.length > 0)
      return Object.fromEntries(said) as PickPart
    }),
  })
}

/** Moves a part up (-1) or down (1) among those of its slot. */
export function movePart(picks: Picks, body: string, slot: string, part: string, by: -1 | 1): Picks {
  const parts = partsIn(picks, body, slot)
  const moved = swapped(parts, ({ part: own }) => own === part, by)
  return moved ? changePickSlot(picks, body, slot, { parts: moved }) : picks
}

/** Moves a slot up (-1) or down (1) among those of its body. */
export function movePickSlot(picks: Picks, body: string, slot: string, by: -1 | 1): Picks {
  const slots = picks.bodies.find((b) => b.id === body)?.slots ?? []
  const moved = swapped(slots, ({ slot: own }) => own === slot, by)
  return moved ? changePickBody(picks, body, { slots: moved }) : picks
}

/** A list with one of its things and its neighbor exchanged; null where there is none. */
function swapped<T>(list: readonly T[], which: (one: T) => boolean, by: -1 | 1): T[] | null {
  const from = list.findIndex(which)
  const [one, other] = [list[from], list[from + by]]
  if (!one || !other) return null
  return list.map((item, i) => (i === from ? other : i === from + by ? one : item))
}

/** A look of a player, whole: of parts "kit/part". */
export interface PlayerLook {
  body: string
  parts: Readonly<Record<string, string | null>>
  sliders: Readonly<Record<string, number>>
  colors: Readonly<Record<string, string>>
  expression: string | null
}

/** Keeps what a player wears as a look that is ready, under the next free name. */
export function keepLook(picks: Picks, look: PlayerLook): Picks {
  const own = picks.bodies.find((b) => b.id === look.body)
  if (!own) return picks
  const parts = Object.entries(look.parts).map(([slot, part]): [string, string | null] => [
    slot,
    part === null ? null : pickName(own.body, refOf(part, own.body.kit)),
  ])
  return addReadyLook(picks, look.body, {
    ...{ parts: Object.fromEntries(parts), sliders: { ...look.sliders }, colors: { ...look.colors } },
    ...(look.expression !== null && { expression: look.expression }),
  })
}

/** Adds a look that is ready, under the next free id; that is its name as well where it has none. */
export function addReadyLook(
  picks: Picks,
  body: string,
  look: Omit<PickLook, 'id' | 'name'> & { name?: string },
): Picks {
  const looks = picks.bodies.find((b) => b.id === body)?.looks ?? []
  const taken = new Set(looks.map((l) => l.id))
  let n = looks.length + 1
  while (taken.has(`look-${n}`)) n++
  return changePickBody(picks, body, { looks: [...looks, { name: `Look ${n}`, ...look, id: `look-${n}` }] })
}
