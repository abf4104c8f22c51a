import { brokenBy, costOf, wornOf, type ChoiceModel } from './ChoiceModel.ts'
import type { Limit, Prover } from './Prover.ts'

/** What to leave out of an offer. */
export interface LeftOut {
  /** Options without which every choice is within the limit; null where that cannot be had by leaving out. */
  options: string[] | null
  /** No fewer would do: as many as the options, where that was found in time. */
  atLeast: number
}

/** After so many choices over the limit the fewest are looked for no more, only few. */
const ROUNDS = 30
/** So many of them are asked for; the others are found beside those that are known. */
const ASKED = 10
/** Known choices that a round begins at. */
const FROM = 12
const MANY = 8

/**
 * The fewest options that have to be left out so that every choice left is within a limit. Every choice over the limit has
 * to lose one of its options: those seen so far are hit with as few as can be, until the dearest choice left is within it.
 * That is a hitting set whose sets are found as they are needed (Moreno-Centeno and Karp, The implicit hitting set approach
 * to solve combinatorial optimization problems, 2013), so what is found so is the least there is. Where that takes too long
 * the rest is left out one by one, what saves most first, and what is not needed for it put back: few, perhaps not the
 * fewest. Something is always left to choose.
 */
export function fewestToLeaveOut(prover: Prover, given: ChoiceModel, limit: Limit, rounds = ROUNDS): LeftOut {
  const model = { ...given, pieces: given.pieces.filter(({ cost }) => cost[limit.measure]) }
  const sets = new Map<string, string[]>()
  const seen: string[][] = []
  let out: string[] = []
  for (let [round, asked] = [0, 0]; ; round++) {
    const left = without(model, out)
    let dear = nearby(left, seen, limit)
    if (dear.length === 0) {
      const dearest = prover.extreme(left, limit.measure, 'most')!
      if (dearest.cost <= limit.most) return { options: out, atLeast: out.length }
      dear = [dearest.chosen]
      asked++
    }
    for (const chosen of dear) {
      seen.push(chosen)
      const set = core(model, chosen, limit)
      sets.set([...set].sort().join('\n'), set)
    }
    const next = prover.fewest(model, [...sets.values()], out.length)
    if (!next) return { options: null, atLeast: 0 }
    out = next
    if (round >= rounds || asked >= ASKED) return { options: few(prover, model, limit, out, seen), atLeast: out.length }
  }
}

function without(model: ChoiceModel, out: readonly string[]): ChoiceModel {
  return { ...model, groups: model.groups.map((g) => ({ ...g, options: g.options.filter((o) => !out.includes(o)) })) }
}

function isChoice(model: ChoiceModel, chosen: ReadonlySet<string>): boolean {
  const { groups, rules } = brokenBy(model, chosen)
  return groups.length === 0 && rules.length === 0
}

/** Choices over a limit near those seen last. */
const nearby = (model: ChoiceModel, seen: readonly string[][], limit: Limit) =>
  seen.slice(-FROM).flatMap((from) => {
    const found = climb(model, from, limit)
    return found ? [found] : []
  })

/** A choice over the limit near another, changed group by group while that makes it dearer; null where that ends below it. */
function climb(model: ChoiceModel, from: readonly string[], { measure, most }: Limit): string[] | null {
  const there = new Set(model.groups.flatMap((g) => g.options))
  let now = new Set(from.filter((o) => there.has(o)))
  let cost = isChoice(model, now) ? costOf(model, now, measure) : -1
  for (let better = true; better;) {
    better = false
    for (const { options, needed } of model.groups) {
      const others = [...now].filter((o) => !options.includes(o))
      for (const own of [...options.map((o) => [o]), ...(needed ? [] : [[]])]) {
        const next = new Set([...others, ...own])
        if (!isChoice(model, next)) continue
        const dearer = costOf(model, next, measure)
        if (dearer <= cost) continue
        ;[now, cost, better] = [next, dearer, true]
      }
    }
  }
  return cost > most ? [...now] : null
}

/** As little of a choice as can be that still goes over a limit. */
function core(model: ChoiceModel, chosen: readonly string[], { measure, most }: Limit): string[] {
  let now = new Set(chosen)
  const worn = wornOf(model, now)
  // what is not worn goes first: it costs nothing
  for (const option of [...chosen].sort((a, b) => Number(worn.has(a)) - Number(worn.has(b)))) {
    const next = new Set([...now].filter((o) => o !== option))
    if (isChoice(model, next) && costOf(model, next, measure) > most) now = next
  }
  return [...now]
}

/** Some options to leave out besides others; of a few none could be put back. null where there are none. */
function few(
  prover: Prover,
  model: ChoiceModel,
  limit: Limit,
  begun: readonly string[],
  seen: string[][],
): string[] | null {
  const { measure, most } = limit
  let out = [...begun]
  for (;;) {
    const left = without(model, out)
    let dear = nearby(left, seen, limit)[0] ?? null
    if (!dear) {
      const dearest = prover.extreme(left, measure, 'most')
      if (!dearest) return null
      if (dearest.cost <= most) break
      dear = dearest.chosen
    }
    seen.push(dear)
    const chosen = dear
    const costs = new Map(chosen.map((o) => [o, costOf(model, new Set(chosen.filter((c) => c !== o)), measure)]))
    const by = [...costs].sort(([, a], [, b]) => a - b).map(([o]) => o)
    const gone = by.find((o) => prover.find(without(model, [...out, o]), {}))
    if (gone === undefined) return null
    out.push(gone)
  }
  // of many it would take long to ask for each
  for (const option of out.length > MANY ? [] : [...out]) {
    const next = out.filter((o) => o !== option)
    if (prover.extreme(without(model, next), measure, 'most')!.cost <= most) out = next
  }
  return out
}
