import { hasErrors, problem, type Problem } from '../base/problem.ts'
import type { Kit } from '../kit/readKit.ts'
import type { PartDef } from '../kit/schema.ts'
import { newRecipe } from '../recipe/defaults.ts'
import { setColors, setSlider } from '../recipe/edits.ts'
import { createRandom, type Random } from '../recipe/random.ts'
import type { Recipe } from '../recipe/schema.ts'
import { areExclusive, drawColors, partReference } from '../recipe/shuffle.ts'
import { createPortraitist, TWIN_DISTANCE, type Portrait } from './distance.ts'
import type { Mix } from './mix.ts'

export interface Variant {
  recipe: Recipe
  /** The variant most like it, and how far away that is. */
  nearest: { index: number; distance: number }
  pinned: boolean
}

export interface Crowd {
  variants: Variant[]
  /** Pairs that look too much alike, nearest first. */
  twins: { a: number; b: number; distance: number }[]
  problems: Problem[]
}

export interface SelectOptions {
  /** Variants to keep as they are, by index. */
  pinned?: ReadonlyMap<number, Recipe>
  /** Called now and then with how many variants stand; return false to stop. */
  progress?: (done: number, total: number) => boolean
}

/** Candidates drawn for every variant wanted. */
const OVERSAMPLING = 8
const TRIES = 40

/**
 * Makes a mix into variants: seeded sampling, then farthest-point selection (Gonzalez 1985): each
 * next variant is the candidate farthest from all chosen so far whose parts still have a quota.
 * Quotas come from the shares by largest remainder, so that shares are met to within one figure;
 * parts marked at-most-once have a quota of one. Same mix, same kit, same crowd.
 */
export function selectCrowd(mix: Mix, kit: Kit, options: SelectOptions = {}): Crowd {
  const problems = checkMix(mix, kit)
  const body = kit.bodies.get(mix.body.id)
  if (!body || hasErrors(problems)) return { variants: [], twins: [], problems }
  const random = createRandom(mix.seed)
  const pinned = options.pinned ?? new Map<number, Recipe>()
  const quotas = new Map<string, Map<string | null, number>>()
  for (const slot of slotsOf(mix, kit)) quotas.set(slot, slotQuotas(mix, kit, slot, pinned))
  const painter = createPortraitist(kit, mix.body.id)
  const chosen: { recipe: Recipe; portrait: Portrait; pinned: boolean }[] = []
  for (const [, recipe] of [...pinned].sort(([a], [b]) => a - b)) {
    chosen.push({ recipe, portrait: painter.portrait(recipe), pinned: true })
    for (const [slot, quota] of quotas) use(quota, recipe.parts[slot]?.id ?? null)
  }
  const wanted = Math.max(0, mix.count - chosen.length)

  const total = wanted * OVERSAMPLING
  const candidates = Array.from({ length: total }, () => drawVariant(mix, kit, quotas, random))
  const portraits = candidates.map((c) => painter.portrait(c))
  const reach = new Float32Array(total).fill(1e6)
  const taken = new Uint8Array(total)
  const near = (portrait: Portrait) => {
    for (let c = 0; c < total; c++) {
      if (taken[c]) continue
      const d = painter.distance(portraits[c]!, portrait, reach[c])
      if (d < reach[c]!) reach[c] = d
    }
  }
  for (const c of chosen) near(c.portrait)
  // candidates by what they wear, so that a used-up quota strikes them out at once
  const wearers = new Map<string, number[]>()
  const wearing = (slot: string, part: string | null) => `${slot} ${part ?? ''}`
  candidates.forEach((recipe, c) => {
    for (const slot of quotas.keys()) {
      const key = wearing(slot, recipe.parts[slot]?.id ?? null)
      const list = wearers.get(key)
      if (list) list.push(c)
      else wearers.set(key, [c])
    }
  })
  const strikeOut = () => {
    for (const [slot, quota] of quotas)
      for (const [part, left] of quota) {
        const key = wearing(slot, part)
        if (left > 0 || !wearers.has(key)) continue
        for (const c of wearers.get(key)!) taken[c] = 1
        wearers.delete(key)
      }
  }
  strikeOut()
  for (let n = 0; n < wanted; n++) {
    let best = -1
    for (let c = 0; c < total; c++) if (!taken[c] && (best < 0 || reach[c]! > reach[best]!)) best = c
    let recipe: Recipe
    if (best >= 0) {
      recipe = candidates[best]!
      taken[best] = 1
    } else recipe = drawFromRest(mix, kit, quotas, random, chosen.map((c) => c.portrait), painter)
    const portrait = best >= 0 ? portraits[best]! : painter.portrait(recipe)
    for (const [slot, quota] of quotas) use(quota, recipe.parts[slot]?.id ?? null)
    chosen.push({ recipe, portrait, pinned: false })
    strikeOut()
    near(portrait)
    if (n % 16 === 0 && options.progress?.(n + 1, wanted) === false) break
  }
  return arrange(mix, chosen, pinned, painter, problems)
}

function use(quota: Map<string | null, number>, part: string | null): void {
  quota.set(part, (quota.get(part) ?? 0) - 1)
}

function slotsOf(mix: Mix, kit: Kit): string[] {
  return kit.manifest.slots.map((s) => s.id).filter((id) => (mix.slots[id] ?? []).some((c) => c.share > 0))
}

function checkMix(mix: Mix, kit: Kit): Problem[] {
  const problems: Problem[] = []
  const body = kit.bodies.get(mix.body.id)
  if (!body) problems.push(problem('body-unknown', 'mix/body', `The kit has no body “${mix.body.id}”.`, 'Choose one of its bodies.'))
  for (const [slot, choices] of Object.entries(mix.slots)) {
    if (!kit.manifest.slots.some((s) => s.id === slot)) problems.push(problem('slot-unknown', `mix/slots/${slot}`, `There is no slot “${slot}”.`, 'Remove it.'))
    choices.forEach((c, i) => {
      const part = c.part === null ? null : kit.parts.get(c.part)
      if (part === undefined || (part && (part.def.slot !== slot || !part.def.bodies.includes(mix.body.id))))
        problems.push(problem('part-unknown', `mix/slots/${slot}/${i}`, `“${c.part}” is no part for this slot and body.`, 'Choose another part.'))
    })
  }
  for (const [id, [low, high]] of Object.entries(mix.sliders)) {
    if (body && !body.def.sliders.some((s) => s.id === id)) problems.push(problem('slider-unknown', `mix/sliders/${id}`, `There is no slider “${id}”.`, 'Remove it.'))
    if (low > high) problems.push(problem('slider-range', `mix/sliders/${id}`, 'The range runs backwards.', 'Put the smaller value first.'))
  }
  for (const { id } of mix.palettes)
    if (!kit.manifest.palettes.some((p) => p.id === id)) problems.push(problem('palette-unknown', 'mix/palettes', `There is no palette “${id}”.`, 'Choose one of the kit’s.'))
  return problems
}

/** Whole numbers for the choices of a slot that add up to the count (Hamilton's method). */
function slotQuotas(mix: Mix, kit: Kit, slot: string, pinned: ReadonlyMap<number, Recipe>): Map<string | null, number> {
  const once = new Set(mix.atMostOnce)
  const choices = (mix.slots[slot] ?? []).filter((c) => c.share > 0 && (c.part === null || kit.parts.has(c.part)))
  const sum = choices.reduce((s, c) => s + c.share, 0)
  const exact = choices.map((c) => (c.share / sum) * mix.count)
  const quota = exact.map(Math.floor)
  const order = exact.map((e, i) => ({ i, rest: e - quota[i]! })).sort((a, b) => b.rest - a.rest || a.i - b.i)
  let left = mix.count - quota.reduce((s, q) => s + q, 0)
  for (const { i } of order) if (left-- > 0) quota[i]!++
  // what at-most-once parts cannot take goes to the others, the commonest first
  let spare = 0
  choices.forEach((c, i) => {
    if (c.part !== null && once.has(c.part) && quota[i]! > 1) {
      spare += quota[i]! - 1
      quota[i] = 1
    }
  })
  const open = choices.map((c, i) => ({ c, i })).filter(({ c }) => c.part === null || !once.has(c.part)).sort((a, b) => b.c.share - a.c.share || a.i - b.i)
  for (let k = 0; spare > 0 && open.length > 0; k++, spare--) quota[open[k % open.length]!.i]!++
  const map = new Map<string | null, number>(choices.map((c, i) => [c.part, quota[i]!]))
  // pinned variants may hold parts the mix does not name: make room for them
  for (const recipe of pinned.values()) {
    const part = recipe.parts[slot]?.id ?? null
    if (!map.has(part)) map.set(part, 1)
  }
  if (spare > 0) map.set(null, (map.get(null) ?? 0) + spare)
  return map
}

/** One figure drawn by the shares (here: the quotas as they stand), its parts free of conflicts. */
function drawVariant(mix: Mix, kit: Kit, quotas: ReadonlyMap<string, ReadonlyMap<string | null, number>>, random: Random): Recipe {
  const body = kit.bodies.get(mix.body.id)!
  let recipe = newRecipe(kit, mix.body.id, mix.name)
  for (let attempt = 0; attempt < TRIES; attempt++) {
    const parts: Recipe['parts'] = { ...recipe.parts }
    const defs: PartDef[] = []
    let clash = false
    for (const [slot, quota] of quotas) {
      const part = drawWeighted([...quota], random)
      if (part === null) {
        delete parts[slot]
        continue
      }
      const def = kit.parts.get(part)!.def
      if (defs.some((d) => areExclusive(d, def))) clash = true
      defs.push(def)
      parts[slot] = partReference(kit, part)
    }
    if (!clash || attempt === TRIES - 1) {
      recipe = { ...recipe, parts }
      break
    }
  }
  for (const slider of body.def.sliders) {
    const range = mix.sliders[slider.id]
    if (range) recipe = setSlider(recipe, slider.id, random.between(range[0], range[1]), slider)
  }
  const palettes = mix.palettes.filter((p) => p.share > 0)
  if (palettes.length) {
    const id = drawWeighted(palettes.map((p) => [p.id, p.share] as const), random)
    const palette = kit.manifest.palettes.find((p) => p.id === id)
    if (palette) recipe = setColors(recipe, drawColors(palette, random))
  }
  return recipe
}

function drawWeighted<T>(choices: readonly (readonly [T, number])[], random: Random): T {
  const sum = choices.reduce((s, [, w]) => s + Math.max(0, w), 0)
  let at = random.next() * sum
  for (const [value, w] of choices) {
    at -= Math.max(0, w)
    if (at < 0) return value
  }
  return choices[choices.length - 1]![0]
}

/** When no candidate suits the quotas that are left: draws from those, and takes the one farthest from the others. */
function drawFromRest(
  mix: Mix,
  kit: Kit,
  quotas: ReadonlyMap<string, ReadonlyMap<string | null, number>>,
  random: Random,
  others: readonly Portrait[],
  painter: ReturnType<typeof createPortraitist>,
): Recipe {
  const draws = Array.from({ length: OVERSAMPLING }, () => drawVariant(mix, kit, quotas, random))
  const distance = (r: Recipe) => {
    const p = painter.portrait(r)
    return others.reduce((m, o) => Math.min(m, painter.distance(p, o)), Infinity)
  }
  return draws.map((recipe) => ({ recipe, d: distance(recipe) })).reduce((a, b) => (b.d > a.d ? b : a)).recipe
}

function arrange(
  mix: Mix,
  chosen: readonly { recipe: Recipe; portrait: Portrait; pinned: boolean }[],
  pinned: ReadonlyMap<number, Recipe>,
  painter: ReturnType<typeof createPortraitist>,
  problems: Problem[],
): Crowd {
  // pinned variants keep their places, the others fill the rest in order
  const fixed = [...pinned.keys()].sort((a, b) => a - b)
  const free = chosen.slice(fixed.length)
  const placed: (typeof chosen)[number][] = []
  for (let i = 0; placed.length < chosen.length; i++) {
    const at = fixed.indexOf(i)
    const next = at >= 0 ? chosen[at] : (free.shift() ?? chosen[fixed.findIndex((f) => f >= i)])
    if (!next) break
    placed.push(next)
  }
  const twins: Crowd['twins'] = []
  const nearest = placed.map(() => ({ index: -1, distance: Infinity }))
  for (let a = 0; a < placed.length; a++)
    for (let b = a + 1; b < placed.length; b++) {
      const distance = painter.distance(placed[a]!.portrait, placed[b]!.portrait)
      if (distance < nearest[a]!.distance) nearest[a] = { index: b, distance }
      if (distance < nearest[b]!.distance) nearest[b] = { index: a, distance }
      if (distance < TWIN_DISTANCE) twins.push({ a, b, distance })
    }
  twins.sort((x, y) => x.distance - y.distance || x.a - y.a)
  if (twins.length)
    problems.push(problem('twins', 'mix', `${twins.length} pairs of variants look alike.`, 'Widen the ranges, add parts or palettes, or make fewer variants.', 'warning'))
  const digits = String(Math.max(1, placed.length)).length
  return {
    variants: placed.map((c, i) => ({
      recipe: c.pinned ? c.recipe : { ...c.recipe, name: `${mix.name} ${String(i + 1).padStart(digits, '0')}` },
      nearest: nearest[i]!.index < 0 ? { index: i, distance: 0 } : nearest[i]!,
      pinned: c.pinned,
    })),
    twins,
    problems,
  }
}
