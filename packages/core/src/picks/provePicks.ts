import { costOf, type ChoiceModel } from './ChoiceModel.ts'
import { fewestToLeaveOut, type LeftOut } from './leaveOut.ts'
import { bareOf } from './patches.ts'
import type { Choice, Contradiction, Prover } from './Prover.ts'

/** A region of which more than this share is seen is bare. */
const BARE = 0.4

/** What holds for every choice of a body. */
export interface Proof {
  /** By measure: the most any choice costs, and the least. */
  costs: Record<string, { most: Choice & { cost: number }; least: number }>
  /** Measures whose limit some choice goes over. */
  over: string[]
  /** Options that take every choice with them over a limit. */
  tooMuch: { option: string; measure: string; least: number }[]
  /** By measure that goes over its limit though some choice is within it: the least change of the offer that makes all fit. */
  leaveOut: Record<string, LeftOut>
  /** Options that are never worn, and why; nobody where nothing can be chosen at all. */
  unreachable: { option: string; why: Contradiction }[]
  /** Regions that some choice leaves bare, and how much of them is seen then, 0 to 1. */
  bare: { region: string; share: number; choice: Choice }[]
}

/**
 * Proves a body's choices: nothing here is tried out or estimated.
 *
 * @param limits  measure to the most there may be
 * @param covered regions that nothing may leave bare
 * @returns why there is no choice at all, where there is none
 */
export function provePicks(
  prover: Prover,
  model: ChoiceModel,
  limits: Readonly<Record<string, number>>,
  covered: readonly string[],
): Proof | Contradiction {
  const nothing = prover.contradiction(model, {})
  if (nothing) return nothing
  const proof: Proof = { costs: {}, over: [], tooMuch: [], leaveOut: {}, unreachable: [], bare: [] }
  const never = prover.unreachable(model)
  for (const option of never) proof.unreachable.push({ option, why: prover.contradiction(model, { with: [option] })! })
  const options = model.groups.flatMap((g) => g.options).filter((o) => !never.includes(o))
  for (const [measure, limit] of Object.entries(limits)) {
    const most = prover.extreme(model, measure, 'most')!
    const least = prover.extreme(model, measure, 'least')!.cost
    proof.costs[measure] = { most, least }
    if (most.cost <= limit) continue
    proof.over.push(measure)
    // where nothing fits no option is to blame
    if (least > limit) continue
    proof.leaveOut[measure] = fewestToLeaveOut(prover, model, { measure, most: limit })
    for (const option of prover.tooMuch(model, options, { measure, most: limit }))
      proof.tooMuch.push({
        ...{ option, measure },
        least: prover.extreme(model, measure, 'least', { with: [option] })!.cost,
      })
  }
  for (const region of covered) {
    const measure = bareOf(region)
    const whole = model.pieces.reduce((sum, { cost }) => sum + (cost[measure] ?? 0), 0)
    const choice = whole > 0 ? prover.extreme(model, measure, 'most') : null
    if (!choice) continue
    const share = costOf(model, new Set(choice.chosen), measure) / whole
    if (share > BARE) proof.bare.push({ region, share, choice: { chosen: choice.chosen, worn: choice.worn } })
  }
  return proof
}
