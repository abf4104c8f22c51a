import { converter } from 'culori'
import { colorRegionsOf, fullName, palettesFor, slotsFor, type KitRef } from '../kit/library.ts'
import type { Kits } from '../recipe/resolve.ts'
import { partIn, partsIn, sides } from '../recipe/instances.ts'
import type { Recipe } from '../recipe/schema.ts'

const toOklab = converter('oklab')

/** A slot whose kit does not say how much it tells figures apart. */
const OTHER_SLOT = 0.4
/** A full swing of a whole-body slider counts like this; of any other a third of it. */
const SLIDER_WEIGHT = 0.75
/** One unit of OKLab distance (black to white is 1) on a region that shows. */
const COLOR_WEIGHT = 1.6
/** Two variants nearer than this look alike in one street. */
export const TWIN_DISTANCE = 0.45

/** A figure as a point: parts by number, sliders and colors as coordinates. Compare only points of one body. */
export interface Portrait {
  parts: Int32Array // one a slot, -1 empty
  coordinates: Float32Array // already weighted
}

export interface Portraitist {
  portrait(recipe: Recipe): Portrait
  /** Infinity as soon as it is known to be more than `limit`. */
  distance(a: Portrait, b: Portrait, limit?: number): number
}

/**
 * The distance between two figures, documented in docs/architecture.md: the root of the summed
 * squares of (slot weight where parts differ) and of weighted differences of sliders and of the
 * colors of regions both could show, in OKLab (Ottosson 2020).
 *
 * @param varied ids of the sliders that may differ between the figures; all of the body's where nothing is said
 */
export function createPortraitist(kits: Kits, bodyRef: KitRef, varied?: ReadonlySet<string>): Portraitist {
  const body = kits.get(bodyRef.kit)?.bodies.get(bodyRef.id)
  const defs = slotsFor(kits, bodyRef)
  const slots = defs.map((s) => s.id)
  const weights = defs.map((s) => (s.weight ?? OTHER_SLOT) ** 2)
  const parts = [...kits.values()].flatMap((kit) => [...kit.parts.values()])
  const numbers = new Map(parts.map((p, i) => [fullName({ kit: p.kit, id: p.def.id }), i]))
  const sliders = (body?.def.sliders ?? []).filter((s) => !varied || varied.has(s.id))
  const own = colorRegionsOf(kits, bodyRef.kit)
  const regions = [...new Set(palettesFor(kits, bodyRef).flatMap((p) => Object.keys(p.swatches)))].sort()
  const place = new Map(regions.map((region, i) => [region, i]))
  const placesOf = (names: readonly string[]) => names.flatMap((region) => place.get(region) ?? [])
  /** The regions that each part shows, and the body itself. */
  const shownBy = new Map(parts.map((p) => [fullName({ kit: p.kit, id: p.def.id }), placesOf(p.mesh.regionNames)]))
  const bodyRegions = placesOf(body?.mesh.regionNames ?? [])
  const labs = new Map<string, readonly [number, number, number]>()
  const lab = (color: string) => {
    let v = labs.get(color)
    if (!v) {
      const c = toOklab(color)!
      labs.set(color, (v = [c.l, c.a, c.b]))
    }
    return v
  }
  return {
    portrait(recipe) {
      const shown = (slot: string) => {
        const part = partIn(recipe, slot)
        return part ? (numbers.get(fullName(part)) ?? -1) : -1
      }
      const parts = Int32Array.from(slots, (s) => {
        // several in one slot count as one thing of their own
        const many = manyOf(recipe, s)
        return many === null ? shown(s) : many
      })
      const visible = new Uint8Array(regions.length)
      for (const region of bodyRegions) visible[region] = 1
      for (const { part } of recipe.parts) for (const region of shownBy.get(fullName(part)) ?? []) visible[region] = 1
      const coordinates = new Float32Array(sliders.length * 2 + regions.length * 3)
      sliders.forEach((s, i) => {
        const w = SLIDER_WEIGHT * (s.group === 'whole' ? 1 : 1 / 3)
        // each side counts for half, so that both together count for one
        const [left, right] = sides(Object.hasOwn(recipe.sliders, s.id) ? recipe.sliders[s.id]! : s.default)
        coordinates[i * 2] = (w * Math.SQRT1_2 * left) / (s.max - s.min || 1)
        coordinates[i * 2 + 1] = (w * Math.SQRT1_2 * right) / (s.max - s.min || 1)
      })
      regions.forEach((region, i) => {
        if (!visible[i]) return
        const v = lab(recipe.colors[region] ?? own.get(region)?.color ?? '#808080')
        for (let k = 0; k < 3; k++) coordinates[sliders.length * 2 + i * 3 + k] = COLOR_WEIGHT * 0.5 * v[k]!
      })
      return { parts, coordinates }
    },
    distance(a, b, limit = Infinity) {
      const most = limit * limit
      let sum = 0
      for (let i = 0; i < weights.length; i++) if (a.parts[i] !== b.parts[i]) sum += weights[i]!
      if (sum > most) return Infinity
      for (let i = 0; i < a.coordinates.length; i++) {
        const d = a.coordinates[i]! - b.coordinates[i]!
        sum += d * d
        if (sum > most) return Infinity
      }
      return Math.sqrt(sum)
    },
  }
}

/** A number for a slot that holds several parts, from all of them; null where it holds one or none. */
function manyOf(recipe: Recipe, slot: string): number | null {
  const parts = partsIn(recipe, slot)
  if (parts.length < 2) return null
  let hash = 7
  for (const name of parts.map((p) => fullName(p.part)).sort())
    for (let i = 0; i < name.length; i++) hash = (Math.imul(hash, 31) + name.charCodeAt(i)) | 0
  // below -1, where no single part is
  return -2 - (hash >>> 2)
}
