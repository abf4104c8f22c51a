import { hasErrors, problem, type Problem } from '../base/problem.ts'
import type { Kits } from '../recipe/resolve.ts'
import type { Recipe } from '../recipe/schema.ts'
import { checkMix } from './checkMix.ts'
import { chooseKind, type ChosenKind, type KindCrowd } from './chooseKind.ts'
import { compareVariants } from './compareVariants.ts'
import type { Mix } from './mix.ts'
import { inShares } from './shares.ts'

export interface Variant {
  recipe: Recipe
  /** The variant of its kind most like it, and how far away that is; itself where it is alone. */
  nearest: { index: number; distance: number }
  pinned: boolean
}

export interface Crowd {
  variants: Variant[]
  /** Pairs that look too much alike, nearest first. */
  twins: { a: number; b: number; distance: number }[]
  problems: Problem[]
}

/**
 * Makes a mix into variants. Of each kind, by its share: seeded sampling, then farthest-point selection
 * (Gonzalez 1985): each next variant is the candidate farthest from all chosen so far whose parts still
 * have a quota. Quotas come from the shares by largest remainder, so that shares are met to within one
 * figure; parts marked at-most-once have a quota of one. Pins stand first and use up their share of the
 * quotas; places made anew are drawn by the shares, farthest from all the others. Kinds stand evenly
 * among each other. Same mix, same kits, same crowd: pinning a variant where it stands changes nothing else.
 */
export function selectCrowd(mix: Mix, kits: Kits): Crowd {
  const steps = selectCrowdSteps(mix, kits)
  for (;;) {
    const step = steps.next()
    if (step.done) return step.value
  }
}

/** The same in steps of some milliseconds, for whoever wants to tell how far it is, or may stop: gives the share that is done, 0 to 1. */
export function* selectCrowdSteps(mix: Mix, kits: Kits): Generator<number, Crowd> {
  const problems = checkMix(mix, kits)
  if (hasErrors(problems)) return { variants: [], twins: [], problems }
  const places = placesOf(mix)
  const variants: (Variant | undefined)[] = []
  const twins: Crowd['twins'] = []
  let before = 0
  for (const [k, own] of places.entries()) {
    if (own.length === 0) continue
    const crowd = crowdOf(mix, k, own)
    let made: ChosenKind | undefined
    for (const steps = chooseKind(crowd, kits); !made;) {
      const step = steps.next()
      if (step.done) made = step.value
      else yield (before + step.value * own.length) / mix.count
    }
    before += own.length
    problems.push(...made.problems)
    const { nearest, twins: alike } = compareVariants(
      made.chosen.map((c) => c.portrait),
      made.painter.weights,
    )
    made.chosen.forEach(({ recipe, pinned }, i) => {
      const { index, distance } = nearest[i]!
      const place = own[i]!
      variants[place] = {
        recipe,
        pinned,
        nearest: index < 0 ? { index: place, distance: 0 } : { index: own[index]!, distance },
      }
    })
    twins.push(...alike.map(({ a, b, distance }) => ({ a: own[a]!, b: own[b]!, distance })))
  }
  if (twins.length)
    problems.push(
      problem(
        'twins',
        'mix',
        `${twins.length} pairs of variants look alike.`,
        'Widen the ranges, add parts or palettes, or make fewer variants.',
        'warning',
      ),
    )
  return {
    variants: named(mix.name, variants as Variant[]),
    twins: twins.sort((x, y) => x.distance - y.distance || x.a - y.a),
    problems,
  }
}

function named(name: string, variants: readonly Variant[]): Variant[] {
  const digits = String(Math.max(1, variants.length)).length
  return variants.map((v, i) =>
    v.pinned ? v : { ...v, recipe: { ...v.recipe, name: `${name} ${String(i + 1).padStart(digits, '0')}` } },
  )
}

/** How many figures there are of each kind of a mix; none where no kind has a share. */
export function kindCounts({ kinds, count }: Pick<Mix, 'kinds' | 'count'>): number[] {
  if (!kinds.some((k) => k.share > 0)) return kinds.map(() => 0)
  return inShares(
    kinds.map((k) => k.share),
    count,
  )
}

/** The places of each kind in the crowd: evenly among each other; a pinned figure keeps its place, whatever its kind. */
function placesOf(mix: Mix): number[][] {
  const counts = kindCounts(mix)
  const filled = counts.map(() => 0)
  // at every place the kind that is farthest behind its share (Bresenham's lines, one a kind)
  const kindAt = Array.from({ length: mix.count }, (_, place) => {
    const late = counts.map((count, k) =>
      filled[k]! < count ? (count * (place + 1)) / mix.count - filled[k]! : -Infinity,
    )
    const next = late.indexOf(Math.max(...late))
    filled[next]!++
    return next
  })
  const kindOf = (recipe: Recipe) =>
    mix.kinds.findIndex(({ body }) => body.kit === recipe.body.kit && body.id === recipe.body.id)
  const pins = Object.entries(mix.pins ?? {}).map(([place, recipe]) => [Number(place), kindOf(recipe)] as const)
  const fixed = new Set(pins.map(([place]) => place))
  for (const [place, kind] of pins) {
    if (place >= mix.count || kind < 0 || kindAt[place] === kind) continue
    // it changes places with the next of its kind that is free
    const free = kindAt.map((_, i) => (place + i) % mix.count).find((i) => kindAt[i] === kind && !fixed.has(i))
    if (free !== undefined) kindAt[free] = kindAt[place]!
    kindAt[place] = kind
  }
  return mix.kinds.map((_, k) => kindAt.flatMap((kind, place) => (kind === k ? [place] : [])))
}

/** Keeps the draws of one kind apart from those of the next. */
const APART = 15_485_863

/** One kind of a mix with its places in the crowd as a crowd of its own. */
function crowdOf(mix: Mix, k: number, own: readonly number[]): KindCrowd {
  const index = new Map(own.map((place, i) => [place, i]))
  const pins = Object.entries(mix.pins ?? {}).flatMap(([place, recipe]): [string, Recipe][] => {
    const i = index.get(Number(place))
    return i === undefined ? [] : [[String(i), recipe]]
  })
  return {
    ...mix.kinds[k]!,
    name: mix.name,
    count: own.length,
    seed: (mix.seed + k * APART) % 2_147_483_648,
    ...(pins.length && { pins: Object.fromEntries(pins) }),
    rerolls: (mix.rerolls ?? []).flatMap((place) => index.get(place) ?? []),
  }
}
