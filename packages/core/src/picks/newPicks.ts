import {
  bodyOf,
  colorRegionsOf,
  fullName,
  holdsSeveral,
  palettesFor,
  partsFor,
  slotsFor,
  type KitRef,
  type Manifests,
} from '../kit/library.ts'
import { shapeSlidersOf } from '../kit/movements.ts'
import { referenceTo } from '../recipe/defaults.ts'
import { withCodes } from './codes.ts'
import { PICKS_FORMAT, type PickBody, type Picks, type PickSlot } from './picks.ts'

/** So many sliders a player is offered to begin with, and so far they go of their ways. */
const SLIDERS = 6
const REACH = 0.7
/** So many swatches of a color. */
const SWATCHES = 12

/** The names of parts, as picks of a body write them: of its own kit without the kit. */
export const pickName = (body: KitRef, part: KitRef): string => (part.kit === body.kit ? part.id : fullName(part))

/** A slot of a body with everything that fits it; null where nothing does. Throws if the body is not there. */
export function newPickSlot(kits: Manifests, body: KitRef, slot: string): PickSlot | null {
  const def = bodyOf(kits, body)
  if (!def) throw new RangeError(`no body ${fullName(body)}`)
  const parts = partsFor(kits, body, slot).slice(0, 200)
  if (parts.length === 0) return null
  const needed = Object.hasOwn(def.defaults, slot)
  return {
    slot,
    parts: parts.map((p) => ({ part: pickName(body, { kit: p.kit, id: p.def.id }) })),
    ...{ start: needed ? def.defaults[slot]! : null, needed },
  }
}

/** The swatches that palettes have for a color region, its own first. */
export function newPickColor(kits: Manifests, body: KitRef, region: string): PickBody['colors'][string] {
  const start = colorRegionsOf(kits, body.kit).get(region)?.color ?? '#808080'
  const all = palettesFor(kits, body).flatMap((p) => p.swatches[region] ?? [])
  return { swatches: [...new Set([start, ...all])].slice(0, SWATCHES), start }
}

/** A body with everything there is for it: what a kit always has on is needed, and nothing else is on at first. */
export function newPickBody(kits: Manifests, body: KitRef, id = body.id): PickBody {
  const def = bodyOf(kits, body)
  if (!def) throw new RangeError(`no body ${fullName(body)}`)
  const painted = new Set(palettesFor(kits, body).flatMap((p) => Object.keys(p.swatches)))
  const colors = [...colorRegionsOf(kits, body.kit).keys()].filter((region) => painted.has(region))
  return {
    ...{ id, name: def.name, body: referenceTo(kits, body) },
    slots: slotsFor(kits, body)
      .filter((slot) => !holdsSeveral(slot))
      .flatMap((slot) => newPickSlot(kits, body, slot.id) ?? []),
    sliders: shapeSlidersOf(def)
      .slice(0, SLIDERS)
      .map(({ id: slider, min, max, default: start }) => ({
        ...{ slider, start },
        min: start + (min - start) * REACH,
        max: start + (max - start) * REACH,
      })),
    colors: Object.fromEntries(colors.map((region) => [region, newPickColor(kits, body, region)])),
    ...{ expressions: [], rules: [], covered: [] },
  }
}

/** Picks of everything there is for a body. Throws if the body is not there. */
export function newPicks(kits: Manifests, body: KitRef, { id, name }: { id: string; name: string }): Picks {
  return withCodes({ format: PICKS_FORMAT, version: 1, id, name, bodies: [newPickBody(kits, body)] })
}
