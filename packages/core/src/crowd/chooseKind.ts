import { problem, type Problem } from '../base/problem.ts'
import { canonicalJson } from '../base/canonical.ts'
import { bodyOf, fullName, palettesFor, partOf, refOf, slotsFor } from '../kit/library.ts'
import type { BodyDef, PaletteDef, PartDef } from '../kit/schema.ts'
import { newRecipe, referenceTo } from '../recipe/defaults.ts'
import { setColors, setSliders } from '../recipe/edits.ts'
import { createRandom, type Random } from '../recipe/random.ts'
import type { Kits } from '../recipe/resolve.ts'
import type { PartInstance, Recipe, Reference } from '../recipe/schema.ts'
import { areExclusive, drawColors } from '../recipe/shuffle.ts'
import { FarthestFirst } from './FarthestFirst.ts'
import { createPortraitist, type Portrait } from './distance.ts'
import { withFaces } from './faces.ts'
import { Gallery } from './Gallery.ts'
import type { Mix, MixKind } from './mix.ts'
import { inShares } from './shares.ts'

/** The figures of one kind in a crowd: how many, and which of them stay or are made anew, by their places among them. */
export interface KindCrowd extends MixKind, Pick<Mix, 'name' | 'count' | 'seed' | 'pins' | 'rerolls'> {}

/** Candidates drawn for every variant wanted. */
const OVERSAMPLING = 8
/** Candidates drawn for a place that is made anew. */
const REROLL_DRAWS = 24
const TRIES = 40

/** How much of the work it is to draw the candidates; the rest is to choose among them. */
const DRAWING = 0.5
/** Candidates drawn, and variants chosen, between two steps. */
const STRIDE = 16

export interface Chosen {
  recipe: Recipe
  portrait: Portrait
  pinned: boolean
}

export interface ChosenKind {
  chosen: Chosen[]
  painter: Painter
  problems: Problem[]
}

/**
 * Chooses the figures of one kind; see `selectCrowd`. Its body must be there. Gives the share that is done.
 */
export function* chooseKind(mix: KindCrowd, kits: Kits): Generator<number, ChosenKind> {
  const body: BodyDef = bodyOf(kits, mix.body)!
  const pool = poolOf(mix, kits)
  const pins = new Map(
    Object.entries(mix.pins ?? {})
      .map(([place, recipe]): [number, Recipe] => [Number(place), recipe])
      .filter(([place]) => place < mix.count),
  )
  // what no figure of them sets is the same for all
  const set = [mix, pool.bare, ...pins.values()].flatMap(({ sliders }) => Object.keys(sliders))
  const painter = createPortraitist(kits, mix.body, new Set(set))
  // pins that are no longer what would stand there want a second pass
  const passes = pins.size ? 2 : 1
  function* make(pinned: ReadonlyMap<number, Recipe>, pass: number): Generator<number, Chosen[]> {
    for (const steps = chooseVariants(mix, kits, pool, painter, pinned); ;) {
      const step = steps.next()
      if (step.done) return withFaces(mix, body, rerollPlaces(mix, kits, pool, painter, step.value))
      yield (pass + step.value) / passes
    }
  }
  let chosen = yield* make(new Map(), 0)
  const asShown = [...pins].every(([place, pin]) => chosen[place] && looksOf(chosen[place].recipe) === looksOf(pin))
  if (pins.size && !asShown) chosen = yield* make(pins, 1)
  for (const [place, recipe] of pins) if (chosen[place]) chosen[place] = { ...chosen[place], recipe, pinned: true }
  return { chosen, painter, problems: conflictsIn(mix.id, chosen, pool) }
}

type Painter = ReturnType<typeof createPortraitist>

const looksOf = (recipe: Recipe) => canonicalJson({ ...recipe, name: '' })

/** Draws candidates and chooses among them; gives the share that is done. */
function* chooseVariants(
  mix: KindCrowd,
  kits: Kits,
  pool: Pool,
  painter: Painter,
  pinned: ReadonlyMap<number, Recipe>,
): Generator<number, Chosen[]> {
  const random = createRandom(mix.seed)
  const quotas = new Map<string, Map<string | null, number>>()
  for (const slot of slotsOf(mix, kits)) quotas.set(slot, slotQuotas(mix, slot, pinned))
  const chosen: Chosen[] = []
  for (const [, recipe] of [...pinned].sort(([a], [b]) => a - b)) {
    chosen.push({ recipe, portrait: painter.portrait(recipe), pinned: true })
    use(quotas, recipe)
  }
  const wanted = Math.max(0, mix.count - chosen.length)

  const total = wanted * OVERSAMPLING
  const candidates: Recipe[] = []
  const portraits: Portrait[] = []
  for (let n = 0; n < total; n++) {
    const candidate = drawVariant(mix, pool, quotas, random)
    candidates.push(candidate)
    portraits.push(painter.portrait(candidate))
    if (n % STRIDE === 0) yield (DRAWING * n) / total
  }
  const hung = new Gallery(painter.weights)
  for (const c of chosen) hung.hang(c.portrait)
  const running = new FarthestFirst(portraits, hung)
  // candidates by what they wear, so that a used-up quota strikes them out at once
  const wearers = new Map<string, number[]>()
  const wearing = (slot: string, part: string | null) => `${slot} ${part ?? ''}`
  candidates.forEach((recipe, c) => {
    const worn = wornBy(recipe)
    for (const slot of quotas.keys()) {
      const key = wearing(slot, worn.get(slot) ?? null)
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
        for (const c of wearers.get(key)!) running.strikeOut(c)
        wearers.delete(key)
      }
  }
  strikeOut()
  for (let n = 0; n < wanted; n++) {
    const best = running.next()
    // where no candidate suits the quotas that are left, one is drawn from those
    const recipe =
      best >= 0
        ? candidates[best]!
        : farthest(
            Array.from({ length: OVERSAMPLING }, () => drawVariant(mix, pool, quotas, random)),
            hung,
            painter,
          )
    const portrait = best >= 0 ? portraits[best]! : painter.portrait(recipe)
    use(quotas, recipe)
    chosen.push({ recipe, portrait, pinned: false })
    strikeOut()
    hung.hang(portrait)
    if (n % STRIDE === 0) yield DRAWING + ((1 - DRAWING) * n) / wanted
  }
  return inPlaces(chosen, pinned)
}

/** Makes single places anew, in the order they were asked for; pinned ones stay. */
function rerollPlaces(mix: KindCrowd, kits: Kits, pool: Pool, painter: Painter, chosen: readonly Chosen[]): Chosen[] {
  const next = [...chosen]
  const once = onceOf(mix)
  mix.rerolls?.forEach((place, nth) => {
    if (!next[place] || next[place].pinned) return
    const random = createRandom((mix.seed + 7919 * (place + 1) + 104_729 * (nth + 1)) % 2_147_483_647)
    const others = next.filter((_, i) => i !== place)
    const taken = new Set(others.flatMap(({ recipe }) => recipe.parts.map((p) => fullName(p.part))))
    const shares = new Map(
      slotsOf(mix, kits).map((slot) => [
        slot,
        new Map(
          choicesOf(mix, slot).map(({ part, share }): [string | null, number] => [
            part,
            part !== null && once.has(part) && taken.has(part) ? 0 : share,
          ]),
        ),
      ]),
    )
    const hung = new Gallery(painter.weights)
    for (const { portrait } of next) hung.hang(portrait)
    const draws = Array.from({ length: REROLL_DRAWS }, () => drawVariant(mix, pool, shares, random))
    const recipe = farthest(draws, hung, painter)
    next[place] = { recipe, portrait: painter.portrait(recipe), pinned: false }
  })
  return next
}

/** Takes what a figure wears off what is left of it. */
function use(quotas: ReadonlyMap<string, Map<string | null, number>>, recipe: Recipe): void {
  const worn = wornBy(recipe)
  for (const [slot, quota] of quotas) {
    const part = worn.get(slot) ?? null
    quota.set(part, (quota.get(part) ?? 0) - 1)
  }
}

function slotsOf(mix: KindCrowd, kits: Kits): string[] {
  return slotsFor(kits, mix.body)
    .map((s) => s.id)
    .filter((id) => choicesOf(mix, id).some((c) => c.share > 0))
}

/** What may fill a slot, parts by their full names. */
function choicesOf(mix: KindCrowd, slot: string): { part: string | null; share: number }[] {
  const choices = Object.hasOwn(mix.slots, slot) ? mix.slots[slot]! : []
  return choices.map(({ part, share }) => ({ part: part === null ? null : fullName(refOf(part, mix.body.kit)), share }))
}

/** The full names of parts too striking to be seen twice. */
const onceOf = (mix: KindCrowd) => new Set(mix.atMostOnce.map((name) => fullName(refOf(name, mix.body.kit))))

/** The full name of what each slot holds that is not empty, the first where there are several. */
function wornBy({ parts }: Recipe): Map<string, string> {
  const first = new Map<string, PartInstance>()
  for (const part of parts) if (!(part.id > (first.get(part.slot)?.id ?? part.id))) first.set(part.slot, part)
  return new Map([...first].map(([slot, { part }]) => [slot, fullName(part)]))
}

/** How often each choice of a slot is to be seen. */
function slotQuotas(mix: KindCrowd, slot: string, pinned: ReadonlyMap<number, Recipe>): Map<string | null, number> {
  const once = onceOf(mix)
  const choices = choicesOf(mix, slot).filter((c) => c.share > 0)
  const quota = inShares(
    choices.map((c) => c.share),
    mix.count,
  )
  // what at-most-once parts cannot take goes to the others, the commonest first
  let spare = 0
  choices.forEach((c, i) => {
    if (c.part !== null && once.has(c.part) && quota[i]! > 1) {
      spare += quota[i]! - 1
      quota[i] = 1
    }
  })
  const open = choices
    .map((c, i) => ({ c, i }))
    .filter(({ c }) => c.part === null || !once.has(c.part))
    .sort((a, b) => b.c.share - a.c.share || a.i - b.i)
  for (let k = 0; spare > 0 && open.length > 0; k++, spare--) quota[open[k % open.length]!.i]!++
  const map = new Map<string | null, number>(choices.map((c, i) => [c.part, quota[i]!]))
  // pinned variants may hold parts the mix does not name: make room for them
  for (const recipe of pinned.values()) {
    const part = wornBy(recipe).get(slot) ?? null
    if (!map.has(part)) map.set(part, 1)
  }
  if (spare > 0) map.set(null, (map.get(null) ?? 0) + spare)
  return map
}

/** What figures of a mix are drawn from, looked up once. */
interface Pool {
  bare: Recipe
  /** Those the mix has a range for. */
  sliders: BodyDef['sliders']
  parts: Map<string, { def: PartDef; reference: Reference }>
  palettes: Map<string, PaletteDef>
}

function poolOf(mix: KindCrowd, kits: Kits): Pool {
  const parts: Pool['parts'] = new Map()
  for (const slot of Object.keys(mix.slots))
    for (const { part } of choicesOf(mix, slot)) {
      const ref = part === null ? null : refOf(part, mix.body.kit)
      const found = ref && partOf(kits, ref)
      if (found) parts.set(part!, { def: found.def, reference: referenceTo(kits, ref) })
    }
  return {
    bare: newRecipe(kits.get(mix.body.kit)!, mix.body.id, mix.name),
    sliders: bodyOf(kits, mix.body)!.sliders.filter(({ id }) => Object.hasOwn(mix.sliders, id)),
    parts,
    palettes: new Map(palettesFor(kits, mix.body).map((p) => [p.id, p])),
  }
}

/**
 * One figure drawn by the shares (here: the quotas as they stand). Draws whose parts rule each other
 * out are thrown away; only after many in vain is one kept, and `conflictsIn` tells of it.
 */
function drawVariant(
  mix: KindCrowd,
  pool: Pool,
  quotas: ReadonlyMap<string, ReadonlyMap<string | null, number>>,
  random: Random,
): Recipe {
  let recipe = { ...pool.bare, parts: drawParts(pool, quotas, random) }
  const values: Record<string, number> = {}
  for (const { id } of pool.sliders) {
    const [least, most] = mix.sliders[id]!
    values[id] = random.between(least, most)
  }
  recipe = setSliders(recipe, values, pool.sliders)
  const palettes = mix.palettes.filter((p) => p.share > 0)
  if (palettes.length) {
    const id = drawWeighted(
      palettes.map((p) => [p.id, p.share] as const),
      random,
    )
    const palette = pool.palettes.get(id)
    if (palette) recipe = setColors(recipe, drawColors(palette, random))
  }
  return recipe
}

function drawParts(
  pool: Pool,
  quotas: ReadonlyMap<string, ReadonlyMap<string | null, number>>,
  random: Random,
): Recipe['parts'] {
  const slots = new Map(pool.bare.parts.map((p) => [p.slot, p]))
  for (let attempt = 0; attempt < TRIES; attempt++) {
    const defs: PartDef[] = []
    let clash = false
    for (const [slot, quota] of quotas) {
      const name = drawWeighted(quota, random)
      const drawn = name === null ? undefined : pool.parts.get(name)
      if (!drawn) {
        slots.delete(slot)
        continue
      }
      if (defs.some((d) => areExclusive(d, drawn.def))) clash = true
      defs.push(drawn.def)
      slots.set(slot, { id: slot, slot, part: drawn.reference })
    }
    if (!clash) break
  }
  return [...slots.values()]
}

/** Tells of parts that rule each other out and that the mix gives to the same figures all the same. */
function conflictsIn(kind: string, chosen: readonly Chosen[], { parts }: Pool): Problem[] {
  const counts = new Map<string, { a: PartDef; b: PartDef; count: number }>()
  for (const { recipe } of chosen) {
    const worn = recipe.parts.flatMap(({ part }) => parts.get(fullName(part))?.def ?? [])
    worn.forEach((a, i) => {
      for (const b of worn.slice(i + 1)) {
        if (!areExclusive(a, b)) continue
        const key = [a.id, b.id].sort().join(' ')
        const pair = counts.get(key) ?? { a, b, count: 0 }
        pair.count++
        counts.set(key, pair)
      }
    })
  }
  return [...counts.values()].map(({ a, b, count }) =>
    problem(
      'mix-infeasible',
      `mix/kinds/${kind}/slots`,
      `“${a.name}” and “${b.name}” rule each other out, but the shares leave no other way: ${count} variants go without one of them.`,
      `Let “${a.slot}” or “${b.slot}” be empty or something else more often.`,
      'warning',
    ),
  )
}

function drawWeighted<T>(choices: Iterable<readonly [T, number]>, random: Random): T {
  let sum = 0
  for (const [, w] of choices) sum += Math.max(0, w)
  let at = random.next() * sum
  let last: T
  for (const [value, w] of choices) {
    last = value
    at -= Math.max(0, w)
    if (at < 0) break
  }
  return last!
}

/** The recipe whose nearest among those that hang is farthest away. */
function farthest(recipes: readonly Recipe[], hung: Gallery, painter: Painter): Recipe {
  const distance = (recipe: Recipe) => {
    hung.seat(painter.portrait(recipe))
    return hung.nearest()
  }
  return recipes.map((recipe) => ({ recipe, d: distance(recipe) })).reduce((a, b) => (b.d > a.d ? b : a)).recipe
}

/** Pinned variants keep their places, the others fill the rest in order. */
function inPlaces(chosen: readonly Chosen[], pinned: ReadonlyMap<number, Recipe>): Chosen[] {
  const fixed = [...pinned.keys()].sort((a, b) => a - b)
  const free = chosen.slice(fixed.length)
  const placed: Chosen[] = []
  for (let i = 0; placed.length < chosen.length; i++) {
    const at = fixed.indexOf(i)
    const next = at >= 0 ? chosen[at] : (free.shift() ?? chosen[fixed.findIndex((f) => f >= i)])
    if (!next) break
    placed.push(next)
  }
  return placed
}
