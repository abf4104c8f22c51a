import type { Highs } from 'highs'
import {
  brokenBy,
  costOf,
  wornOf,
  type ChoiceGroup,
  type ChoiceModel,
  type ChoiceRule,
  type CostPiece,
} from './ChoiceModel.ts'

/** A choice that meets all rules. */
export interface Choice {
  chosen: string[]
  /** What of it is worn. */
  worn: string[]
}

/** What a choice is to have besides meeting the rules. */
export interface Wish {
  /** Options that are worn. */
  with?: readonly string[]
  /** Options that are not worn. */
  without?: readonly string[]
}

/** Why something cannot be worn. */
export interface Contradiction {
  /** Rules, none of which could be left out of the reason. */
  rules: ChoiceRule[]
  /** Groups that have to be filled, the same. */
  groups: string[]
}

/** The most there may be of a measure. */
export interface Limit {
  measure: string
  most: number
}

/** A program is solved to the last one: what is found is the most there is, or there is none. */
const EXACT = { mip_rel_gap: 0, mip_abs_gap: 0.5, output_flag: false, threads: 1 } as const

/**
 * Proves what holds for every choice there is, without looking at them one by one: choices, rules and costs are written as
 * an integer program, which HiGHS solves exactly. Costs are whole numbers.
 *
 * An option is two numbers, 0 or 1: whether it is chosen and whether it is worn; a piece is one, whether it is drawn.
 */
export class Prover {
  constructor(private readonly highs: Highs) {}

  /** The choice that costs the most of a measure, or the least, among those a wish allows; null where there is none. */
  extreme(
    model: ChoiceModel,
    measure: string,
    which: 'most' | 'least',
    wish: Wish = {},
  ): (Choice & { cost: number }) | null {
    const program = new Program(model, wish, measure)
    // simplifying a program with so many sums takes longer than it saves
    const found = this.solve(program.text(which), 'off')
    if (!found) return null
    const choice = program.choiceIn(found)
    return { ...choice, cost: costOf(model, new Set(choice.chosen), measure) }
  }

  /** A choice that a wish allows; null where there is none. */
  find(model: ChoiceModel, wish: Wish): Choice | null {
    const program = new Program(model, wish, null)
    const found = this.solve(program.text('least'))
    return found && program.choiceIn(found)
  }

  /** The options that no choice wears. */
  unreachable(model: ChoiceModel): string[] {
    return this.neverWorn(model, new Set(model.groups.flatMap((g) => g.options)))
  }

  /** The options among some that no choice within a limit wears. */
  tooMuch(model: ChoiceModel, options: Iterable<string>, limit: Limit): string[] {
    const left = new Set(options)
    const lightest = this.extreme(model, limit.measure, 'least')
    // what can be put on over the lightest choice need not be asked for
    for (const option of lightest ? options : []) {
      const choice = withOption(model, lightest!.chosen, option)
      if (choice && costOf(model, choice, limit.measure) <= limit.most) left.delete(option)
    }
    return this.neverWorn(model, left, limit)
  }

  /** One choice after another that wears as many as it can of those not seen yet, until there is none that wears any. */
  private neverWorn(model: ChoiceModel, left: Set<string>, within?: Limit): string[] {
    while (left.size) {
      const program = new Program(model, {}, within?.measure ?? null, { count: [...left], within })
      const found = this.solve(program.text('most'))
      const worn = found ? program.choiceIn(found).worn.filter((option) => left.has(option)) : []
      if (worn.length === 0) break
      for (const option of worn) left.delete(option)
    }
    return [...left]
  }

  /**
   * Why no choice is as wished: rules and filled groups that contradict it together, and none of which could be missing
   * (each is left out in turn and stays out where the contradiction stands without it). Null where there is a choice.
   */
  contradiction(model: ChoiceModel, wish: Wish): Contradiction | null {
    if (this.find(model, wish)) return null
    let now = model
    const fails = (next: ChoiceModel) => this.find(next, wish) === null
    for (const rule of model.rules) {
      const next = { ...now, rules: now.rules.filter((r) => r !== rule) }
      if (fails(next)) now = next
    }
    for (const { id, needed } of model.groups) {
      if (!needed) continue
      const next = { ...now, groups: now.groups.map((g) => (g.id === id ? { ...g, needed: false } : g)) }
      if (fails(next)) now = next
    }
    return { rules: [...now.rules], groups: now.groups.filter((g) => g.needed).map((g) => g.id) }
  }

  /**
   * As few options as hit every one of some sets, and leave a choice that has none of them; null where that cannot be.
   *
   * @param atLeast so many there are known to be: it is looked for no further where they are found
   */
  fewest(model: ChoiceModel, sets: readonly (readonly string[])[], atLeast: number): string[] | null {
    if (sets.some((set) => set.length === 0)) return null
    const found = this.solve(new Program(model, {}, null).hitting(sets, atLeast))
    return found && [...new Set(sets.flat())].filter((_, i) => found(`o${i}`) === 1)
  }

  /** HiGHS gives up on one program in some ten thousand while it simplifies it, and solves that as it stands. */
  private solution(text: string, presolve: 'on' | 'off'): ReturnType<Highs['solve']> {
    try {
      return this.highs.solve(text, { ...EXACT, presolve })
    } catch (error) {
      if (presolve === 'off') throw error
      return this.highs.solve(text, { ...EXACT, presolve: 'off' })
    }
  }

  private solve(text: string, presolve: 'on' | 'off' = 'on'): Values | null {
    const { Status, Columns } = this.solution(text, presolve)
    if (Status === 'Infeasible') return null
    if (Status !== 'Optimal') throw new Error(`the program was not solved: ${Status}`)
    return (name) => Math.round((Columns[name] as { Primal?: number } | undefined)?.Primal ?? 0)
  }
}

/** A choice with another option in its group's place; null where that breaks a rule, or is not worn. */
function withOption(model: ChoiceModel, chosen: readonly string[], option: string): Set<string> | null {
  const group = model.groups.find((g) => g.options.includes(option))
  const choice = new Set([...chosen.filter((o) => !group?.options.includes(o)), option])
  const { groups, rules } = brokenBy(model, choice)
  return group && !groups.length && !rules.length && wornOf(model, choice).has(option) ? choice : null
}

type Values = (name: string) => number

/** Loads the solver. */
export async function loadProver(): Promise<Prover> {
  const { default: load } = await import('highs')
  return new Prover(await load())
}

/** A term of a sum: how often a number counts. */
type Term = readonly [times: number, name: string]

class Program {
  private readonly options: readonly string[]
  private readonly number: ReadonlyMap<string, number>
  private readonly lines: string[] = []
  /** By the number that says whether an option is worn. */
  private readonly groupOf: ReadonlyMap<string, ChoiceGroup>
  /** The pieces that count, and how much. */
  private readonly pieces: readonly (readonly [piece: CostPiece, cost: number])[]

  /**
   * @param measure what is asked for; what costs nothing of it need not be known
   * @param instead options that are counted in place of the measure, which then is only kept within a limit
   */
  constructor(
    private readonly model: ChoiceModel,
    wish: Wish,
    measure: string | null,
    private readonly instead: { count: readonly string[]; within: Limit | undefined } | null = null,
  ) {
    this.pieces = model.pieces.flatMap((piece) => {
      const cost = measure === null ? 0 : (piece.cost[measure] ?? 0)
      return cost === 0 ? [] : [[piece, cost] as const]
    })
    this.options = model.groups.flatMap((g) => g.options)
    this.number = new Map(this.options.map((o, i) => [o, i]))
    this.groupOf = new Map(model.groups.flatMap((g) => g.options.map((o) => [this.worn(o), g] as const)))
    for (const { options, needed } of model.groups) {
      const all = options.map((o): Term => [1, this.chosen(o)])
      if (all.length) this.line(all, needed ? '=' : '<=', 1)
      else if (needed) this.impossible()
    }
    for (const rule of model.rules) this.rule(rule)
    this.wornWhereChosen()
    for (const option of wish.with ?? []) {
      if (this.number.has(option)) this.line([[1, this.worn(option)]], '=', 1)
      else this.impossible()
    }
    for (const option of wish.without ?? []) if (this.number.has(option)) this.line([[1, this.worn(option)]], '=', 0)
  }

  choiceIn(values: Values): Choice {
    const chosen = this.options.filter((o) => values(this.chosen(o)) === 1)
    const worn = wornOf(this.model, new Set(chosen))
    return { chosen, worn: this.options.filter((o) => worn.has(o)) }
  }

  /** In the LP format. */
  text(which: 'most' | 'least'): string {
    const cost = this.pieces.map(([, cost], i): Term => [cost, `y${i}`])
    const goal = this.instead?.count.map((o): Term => [1, this.worn(o)]) ?? cost
    const within = this.instead?.within && cost.length ? [row(cost, '<=', this.instead.within.most)] : []
    // a cost that has to stay small is to be known from below, as one that is wanted small
    const drawn = this.drawn(within.length ? 'least' : which)
    const ints = this.options.flatMap((o) => [this.chosen(o), this.worn(o)])
    const parts = this.pieces.map((_, i) => `0 <= y${i} <= 1`)
    return [
      which === 'most' ? 'Maximize' : 'Minimize',
      ` goal: ${sum(goal.length ? goal : [[0, 'none']])}`,
      'Subject To',
      ...[...this.lines, ...drawn, ...within].map((line, i) => ` r${i}: ${line}`),
      ' last: none = 0',
      'Bounds',
      ...parts.map((p) => ` ${p}`),
      ...(ints.length ? ['Binary', ...ints.map((n) => ` ${n}`)] : []),
      'End',
      '',
    ].join('\n')
  }

  /** As few numbers `o` as hit sets of options, by their places among all that are in any, while a choice has none of them. */
  hitting(sets: readonly (readonly string[])[], atLeast: number): string {
    const names = new Map([...new Set(sets.flat())].map((option, i) => [option, `o${i}`]))
    const out = (option: string): Term => [1, names.get(option)!]
    const hit = sets.map((set) => row(set.map(out), '>=', 1))
    const none = [...names.keys()].map((option) => row([[1, this.chosen(option)], out(option)], '<=', 1))
    const ints = [...this.options.flatMap((o) => [this.chosen(o), this.worn(o)]), ...names.values()]
    const all = [...names.keys()].map(out)
    return [
      ...['Minimize', ` goal: ${sum(all)}`, 'Subject To'],
      ...[...this.lines, ...hit, ...none, row(all, '>=', atLeast)].map((line, i) => ` r${i}: ${line}`),
      ...[' last: none = 0', 'Binary', ...ints.map((n) => ` ${n}`), 'End', ''],
    ].join('\n')
  }

  private chosen(option: string): string {
    return `x${this.number.get(option)!}`
  }

  private worn(option: string): string {
    return `w${this.number.get(option)!}`
  }

  private line(terms: readonly Term[], relation: '<=' | '>=' | '=', value: number): void {
    this.lines.push(row(terms, relation, value))
  }

  private impossible(): void {
    this.lines.push('none = 1')
  }

  private rule(rule: ChoiceRule): void {
    const known = (option: string) => this.number.has(option)
    if (rule.kind === 'covers' || !known(rule.one)) {
      // of two that go together one that is not there leaves the other out
      if (rule.kind === 'together' && known(rule.other)) this.line([[1, this.chosen(rule.other)]], '=', 0)
      return
    }
    const one: Term = [1, this.chosen(rule.one)]
    if (rule.kind === 'needs') {
      this.line([one, ...rule.oneOf.filter(known).map((o): Term => [-1, this.chosen(o)])], '<=', 0)
      return
    }
    if (!known(rule.other)) {
      if (rule.kind === 'together') this.line([one], '=', 0)
      return
    }
    if (rule.kind === 'excludes') this.line([one, [1, this.chosen(rule.other)]], '<=', 1)
    else this.line([one, [-1, this.chosen(rule.other)]], '=', 0)
  }

  /** What is chosen is worn unless something that is chosen covers it. */
  private wornWhereChosen(): void {
    const covers = new Map<string, Set<string>>(this.options.map((o) => [o, new Set()]))
    for (const rule of this.model.rules)
      if (rule.kind === 'covers' && this.number.has(rule.one))
        for (const other of rule.others) covers.get(other)?.add(rule.one)
    for (const [option, by] of covers) {
      const [w, x]: Term[] = [
        [1, this.worn(option)],
        [-1, this.chosen(option)],
      ]
      this.line([w!, x!], '<=', 0)
      this.line([w!, x!, ...[...by].map((o): Term => [1, this.chosen(o)])], '>=', 0)
      for (const o of by) this.line([w!, [1, this.chosen(o)]], '<=', 1)
    }
  }

  /**
   * A piece is drawn where what it is of is worn, and nothing that hides it. Where little is wanted it is enough to say when it
   * has to be drawn, where much is wanted when it cannot be: the sum pulls it to the other side by itself.
   */
  private drawn(which: 'most' | 'least'): string[] {
    return this.pieces.flatMap(([{ of, hiddenBy }], i): string[] => {
      const y: Term = [1, `y${i}`]
      if (of !== null && !this.number.has(of)) return [row([y], '=', 0)]
      const hiders = [...new Set(hiddenBy)].filter((h) => this.number.has(h)).map((h): Term => [1, this.worn(h)])
      const own: Term[] = of === null ? [] : [[-1, this.worn(of)]]
      if (which === 'least') return [row([y, ...own, ...hiders], '>=', of === null ? 1 : 0)]
      // of one group one is worn at most: said of all of them at once the solver sees more
      const byGroup = new Map<ChoiceGroup | undefined, Term[]>()
      for (const h of hiders) {
        const group = this.groupOf.get(h[1])
        byGroup.set(group, [...(byGroup.get(group) ?? []), h])
      }
      return [
        ...(own.length ? [row([y, ...own], '<=', 0)] : []),
        ...[...byGroup.values()].map((some) => row([y, ...some], '<=', 1)),
      ]
    })
  }
}

const row = (terms: readonly Term[], relation: '<=' | '>=' | '=', value: number): string =>
  `${sum(terms)} ${relation} ${value}`

/** Terms as a sum; each number once, as the format wants it. */
function sum(terms: readonly Term[]): string {
  const times = new Map<string, number>()
  for (const [k, name] of terms) times.set(name, (times.get(name) ?? 0) + k)
  return [...times].map(([name, k], i) => `${k < 0 ? '-' : i ? '+' : ''} ${Math.abs(k)} ${name}`.trim()).join(' ')
}
