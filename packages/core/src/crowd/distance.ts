import { converter } from 'culori'
import type { Kit } from '../kit/readKit.ts'
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

/** A figure as a point: parts by number, sliders and colors as coordinates. Compare only points of one kit and body. */
export interface Portrait {
  parts: Int16Array // one a slot, -1 empty
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
 */
export function createPortraitist(kit: Kit, bodyId: string): Portraitist {
  const defs = kit.manifest.slots.filter((s) => s.bodies.includes(bodyId))
  const slots = defs.map((s) => s.id)
  const weights = defs.map((s) => (s.weight ?? OTHER_SLOT) ** 2)
  const numbers = new Map(kit.manifest.parts.map((p, i) => [p.id, i]))
  const sliders = kit.bodies.get(bodyId)?.def.sliders ?? []
  const own = new Map(kit.manifest.colorRegions.map((c) => [c.id, c.color]))
  const regions = [...new Set(kit.manifest.palettes.flatMap((p) => Object.keys(p.swatches)))].sort()
  const shownBy = new Map<string, Set<string>>()
  for (const [id, part] of kit.parts)
    for (const r of part.mesh.regionNames) shownBy.set(r, (shownBy.get(r) ?? new Set<string>()).add(id))
  const bodyRegions = new Set(kit.bodies.get(bodyId)?.mesh.regionNames ?? [])
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
      const parts = Int16Array.from(slots, (s) => numbers.get(recipe.parts[s]?.id ?? '') ?? -1)
      const worn = new Set(Object.values(recipe.parts).map((r) => r.id))
      const coordinates = new Float32Array(sliders.length + regions.length * 3)
      sliders.forEach((s, i) => {
        const w = SLIDER_WEIGHT * (s.group === 'whole' ? 1 : 1 / 3)
        coordinates[i] = (w * (recipe.sliders[s.id] ?? s.default)) / (s.max - s.min || 1)
      })
      regions.forEach((region, i) => {
        const shown = bodyRegions.has(region) || [...(shownBy.get(region) ?? [])].some((id) => worn.has(id))
        if (!shown) return
        const v = lab(recipe.colors[region] ?? own.get(region) ?? '#808080')
        for (let k = 0; k < 3; k++) coordinates[sliders.length + i * 3 + k] = COLOR_WEIGHT * 0.5 * v[k]!
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
