/**
 * What a player may choose, as far as it decides what is worn and what that costs. Nothing of meshes: options are names, and
 * costs are sums with conditions, so that all combinations can be reasoned about at once.
 */
export interface ChoiceModel {
  groups: readonly ChoiceGroup[]
  rules: readonly ChoiceRule[]
  pieces: readonly CostPiece[]
}

/** A slot: one of its options is chosen, or none where none need be. No option is in two groups. */
export interface ChoiceGroup {
  id: string
  options: readonly string[]
  needed: boolean
}

export type ChoiceRule =
  /** Never both. */
  | { kind: 'excludes'; one: string; other: string }
  /** Both or neither. */
  | { kind: 'together'; one: string; other: string }
  /** Only beside one of others. */
  | { kind: 'needs'; one: string; oneOf: readonly string[] }
  /** While one is chosen the others are not worn, chosen or not. */
  | { kind: 'covers'; one: string; others: readonly string[] }

/** Something that is drawn while what it is of is worn, and none of what hides it. */
export interface CostPiece {
  /** An option; null for what is always there. */
  of: string | null
  hiddenBy: readonly string[]
  /** Measure to how much of it, whole and not below 0: triangles, bytes … 0 where not said. */
  cost: Readonly<Record<string, number>>
}

/** What is worn of what was chosen. */
export function wornOf({ rules }: Pick<ChoiceModel, 'rules'>, chosen: ReadonlySet<string>): Set<string> {
  const covered = new Set(rules.flatMap((r) => (r.kind === 'covers' && chosen.has(r.one) ? r.others : [])))
  return new Set([...chosen].filter((option) => !covered.has(option)))
}

/** For each option those that a rule alone keeps from being worn beside it. */
export function apartOf({ rules }: Pick<ChoiceModel, 'rules'>): Map<string, Set<string>> {
  const apart = new Map<string, Set<string>>()
  const keep = (one: string, other: string) => {
    if (one === other) return
    for (const [a, b] of [
      [one, other],
      [other, one],
    ] as const)
      apart.set(a, (apart.get(a) ?? new Set()).add(b))
  }
  for (const rule of rules) {
    if (rule.kind === 'excludes') keep(rule.one, rule.other)
    if (rule.kind === 'covers') for (const other of rule.others) keep(rule.one, other)
  }
  return apart
}

/** How much of a measure a choice costs. */
export function costOf(model: ChoiceModel, chosen: ReadonlySet<string>, measure: string): number {
  const worn = wornOf(model, chosen)
  return model.pieces.reduce((sum, { of, hiddenBy, cost }) => {
    const drawn = (of === null || worn.has(of)) && !hiddenBy.some((h) => worn.has(h))
    return drawn ? sum + (cost[measure] ?? 0) : sum
  }, 0)
}

/** The rules a choice breaks, and the groups that it leaves empty or fills twice. */
export function brokenBy(
  { groups, rules }: Pick<ChoiceModel, 'groups' | 'rules'>,
  chosen: ReadonlySet<string>,
): { groups: ChoiceGroup[]; rules: ChoiceRule[] } {
  return {
    groups: groups.filter(({ options, needed }) => {
      const count = options.filter((o) => chosen.has(o)).length
      return count > 1 || (needed && count === 0)
    }),
    rules: rules.filter((rule) => {
      if (rule.kind === 'excludes') return chosen.has(rule.one) && chosen.has(rule.other)
      if (rule.kind === 'together') return chosen.has(rule.one) !== chosen.has(rule.other)
      if (rule.kind === 'needs') return chosen.has(rule.one) && !rule.oneOf.some((o) => chosen.has(o))
      return false
    }),
  }
}
