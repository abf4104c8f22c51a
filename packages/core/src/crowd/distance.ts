import { converter } from 'culori'
import { colorRegionsOf, fullName, palettesFor, slotsFor, type KitRef } from '../kit/library.ts'
import type { Kits } from '../recipe/resolve.ts'
import { sides } from '../recipe/instances.ts'
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

/** A figure as a point: what it wears by number, sliders and colors as coordinates. Compare only points of one portraitist. */
export interface Portrait {
  /** For each slot a number for what is in it, from 0, that no other slot uses. */
  parts: Int32Array
  /** Already weighted. */
  coordinates: Float32Array
}

export interface Portraitist {
  portrait(recipe: Recipe): Portrait
  /** What a figure that wears something else in a slot is told apart by, squared: one for each slot. */
  weights: readonly number[]
}

/**
 * Paints figures of one body, so that a `Gallery` can say how far apart they are, as documented in docs/architecture.md:
 * the root of the summed squares of (slot weight where parts differ) and of weighted differences of sliders and of the
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
  /** What has been seen in each slot, numbered through all of them. */
  const numbers = slots.map(() => new Map<string, number>())
  let count = 0
  const numberOf = (slot: number, worn: string) => {
    let number = numbers[slot]!.get(worn)
    if (number === undefined) numbers[slot]!.set(worn, (number = count++))
    return number
  }
  return {
    weights,
    portrait({ parts, sliders: values, colors }) {
      const visible = new Uint8Array(regions.length)
      for (const region of bodyRegions) visible[region] = 1
      const worn = new Map<string, string[]>()
      for (const { slot, part } of parts) {
        const name = fullName(part)
        for (const region of shownBy.get(name) ?? []) visible[region] = 1
        worn.set(slot, [...(worn.get(slot) ?? []), name])
      }
      const coordinates = new Float32Array(sliders.length * 2 + regions.length * 3)
      sliders.forEach((s, i) => {
        const w = SLIDER_WEIGHT * (s.group === 'whole' ? 1 : 1 / 3)
        // each side counts for half, so that both together count for one
        const [left, right] = sides(Object.hasOwn(values, s.id) ? values[s.id]! : s.default)
        coordinates[i * 2] = (w * Math.SQRT1_2 * left) / (s.max - s.min || 1)
        coordinates[i * 2 + 1] = (w * Math.SQRT1_2 * right) / (s.max - s.min || 1)
      })
      regions.forEach((region, i) => {
        if (!visible[i]) return
        const v = lab(colors[region] ?? own.get(region)?.color ?? '#808080')
        for (let k = 0; k < 3; k++) coordinates[sliders.length * 2 + i * 3 + k] = COLOR_WEIGHT * 0.5 * v[k]!
      })
      // several in a slot are one thing of their own, whatever their order; what is not there is nothing
      const thing = (names: string[] = []) =>
        names.length > 1 ? names.sort().join(' ') : shownBy.has(names[0]!) ? names[0]! : ''
      return { parts: Int32Array.from(slots, (slot, i) => numberOf(i, thing(worn.get(slot)))), coordinates }
    },
  }
}
