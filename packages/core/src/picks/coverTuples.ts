import { apartOf, brokenBy, wornOf, type ChoiceModel } from './ChoiceModel.ts'

/** Choices in which, between them, all options that can be worn together are. */
export interface Covering {
  /** Each meets all rules; options of it that are worn. */
  choices: string[][]
  /** How many pairs, or triples, there are that can be worn. */
  covered: number
  /** How many no choice wears. */
  impossible: number
}

type Choices = Pick<ChoiceModel, 'groups' | 'rules'>

/**
 * A covering array over choices with rules: few of them, in which every pair of options of two groups, or every triple of
 * three, is worn at least once. One row after the other is filled greedily, group by group, with what is new beside most of
 * what it holds (after the AETG method of Cohen, Dalal, Fredman & Patton 1997); where rules leave no way to go on so,
 * a choice that has the tuple in it is asked for.
 *
 * @param strength how many options are looked at together
 * @param isAsked  which tuples have to be worn; all if not said
 * @param findWith a choice that wears some options, all it chooses; null if there is none
 */
export function coverTuples(
  model: Choices,
  strength: 2 | 3,
  findWith: (options: readonly string[]) => readonly string[] | null,
  isAsked: (options: readonly string[]) => boolean = () => true,
): Covering {
  const names = model.groups.flatMap((g) => g.options)
  const numberOf = new Map(names.map((o, i) => [o, i]))
  const groups = model.groups.map((g) => g.options.map((o) => numberOf.get(o)!))
  const keyOf = (tuple: readonly number[]) =>
    [...tuple].sort((a, b) => a - b).reduce((key, n) => key * names.length + n, 0)
  const apart = new Set(
    [...apartOf(model)].flatMap(([one, others]) =>
      [...others].map((other) => numberOf.get(one)! * names.length + numberOf.get(other)!),
    ),
  )
  const out: Covering = { choices: [], covered: 0, impossible: 0 }
  const open = new Map<number, number[]>()
  for (const tuple of tuplesOf(groups, strength)) {
    if (!isAsked(tuple.map((o) => names[o]!))) continue
    // rules that say so of two by themselves need not be asked about
    if (subsetsOf(tuple, 2).some(([a, b]) => apart.has(a! * names.length + b!))) out.impossible++
    else open.set(keyOf(tuple), tuple)
  }
  const wornIn = (chosen: readonly string[]) => {
    const worn = wornOf(model, new Set(chosen))
    return [...worn].map((o) => numberOf.get(o)!)
  }
  const add = (chosen: readonly string[] | null, seed: readonly number[]): boolean => {
    if (!chosen) return false
    const worn = wornIn(chosen)
    if (!seed.every((o) => worn.includes(o))) return false
    for (const tuple of subsetsOf(worn, strength)) if (open.delete(keyOf(tuple))) out.covered++
    out.choices.push([...chosen])
    return true
  }
  while (open.size) {
    const [[key, seed]] = open as unknown as [[number, number[]]]
    const filled = fill(model, groups, names, seed, apart, (tuple) => open.has(keyOf(tuple)), strength)
    if (add(filled, seed) || add(findWith(seed.map((o) => names[o]!)), seed)) continue
    open.delete(key)
    out.impossible++
  }
  return out
}

/** A choice around a tuple, with as much that is new as can be found by going on from the best; null where rules forbid it. */
function fill(
  { groups, rules }: Choices,
  numbers: readonly (readonly number[])[],
  names: readonly string[],
  seed: readonly number[],
  apart: ReadonlySet<number>,
  isNew: (tuple: readonly number[]) => boolean,
  strength: number,
): string[] | null {
  const chosen = [...seed]
  numbers.forEach((options, g) => {
    if (options.some((o) => chosen.includes(o))) return
    const beside = subsetsOf(chosen, strength - 1)
    let [best, most] = [-1, groups[g]!.needed ? -1 : 0]
    for (const option of options) {
      if (chosen.some((o) => apart.has(o * names.length + option))) continue
      let news = 0
      for (const some of beside) if (isNew([...some, option])) news++
      if (news <= most) continue
      most = news
      best = option
    }
    if (best >= 0) chosen.push(best)
  })
  const all = chosen.map((o) => names[o]!)
  const broken = brokenBy({ groups, rules }, new Set(all))
  return broken.groups.length || broken.rules.length ? null : all
}

function* tuplesOf(groups: readonly (readonly number[])[], strength: number): Generator<number[]> {
  for (const some of subsetsOf(groups, strength)) yield* product(some)
}

function* product(lists: readonly (readonly number[])[]): Generator<number[]> {
  const [first, ...rest] = lists
  if (!first) return yield []
  for (const one of first) for (const others of product(rest)) yield [one, ...others]
}

/** All subsets of a size, in order. */
function subsetsOf<T>(list: readonly T[], size: number): T[][] {
  if (size === 0) return [[]]
  return list.flatMap((one, i) => subsetsOf(list.slice(i + 1), size - 1).map((others) => [one, ...others]))
}
