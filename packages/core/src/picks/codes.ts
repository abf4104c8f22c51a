import { problem, type Problem } from '../base/problem.ts'
import { fullName, refOf } from '../kit/library.ts'
import { MOST_CODES, type BodyCodes, type PickBody, type Picks, type PicksCodes } from './picks.ts'

/*
 * A look that a player has saved names what is worn by short numbers. A number is a place in a list that only ever
 * grows: what is taken out keeps its place, what comes back finds it, what is new goes to the end.
 */

/** A package in which everything has its number: those it had, and new ones for what is new. */
export function withCodes(picks: Picks): Picks {
  const { bodies = [], ofBody = {} } = picks.codes ?? {}
  const codes: PicksCodes = {
    bodies: grown(
      bodies,
      picks.bodies.map((b) => b.id),
    ),
    ofBody: { ...ofBody, ...Object.fromEntries(picks.bodies.map((b) => [b.id, codesOfBody(b, ofBody[b.id])])) },
  }
  return { ...picks, codes }
}

function codesOfBody(pick: PickBody, before: BodyCodes | undefined): BodyCodes {
  const nameOf = (text: string) => fullName(refOf(text, pick.body.kit))
  const lists = (had: Record<string, string[]>, now: readonly (readonly [string, readonly string[]])[]) => ({
    ...had,
    ...Object.fromEntries(now.map(([key, ids]) => [key, grown(Object.hasOwn(had, key) ? had[key]! : [], ids)])),
  })
  const had = before ?? { slots: [], parts: {}, sliders: [], colors: [], swatches: {}, expressions: [] }
  return {
    slots: grown(
      had.slots,
      pick.slots.map((s) => s.slot),
    ),
    parts: lists(
      had.parts,
      pick.slots.map((s) => [s.slot, s.parts.map((p) => nameOf(p.part))] as const),
    ),
    sliders: grown(
      had.sliders,
      pick.sliders.map((s) => s.slider),
    ),
    colors: grown(had.colors, Object.keys(pick.colors)),
    swatches: lists(
      had.swatches,
      Object.entries(pick.colors).map(([region, { swatches }]) => [region, swatches] as const),
    ),
    expressions: grown(had.expressions, pick.expressions),
  }
}

const grown = (had: readonly string[], now: readonly string[]) => [...new Set([...had, ...now])]

/** Lists that have grown longer than looks can tell apart. */
export function codeProblems({ codes }: Picks): Problem[] {
  const lists = Object.entries(codes?.ofBody ?? {}).flatMap(([body, of]) => [
    ...(['slots', 'sliders', 'colors', 'expressions'] as const).map((key) => [`${body}/${key}`, of[key]] as const),
    ...(['parts', 'swatches'] as const).flatMap((key) =>
      Object.entries(of[key]).map(([id, list]) => [`${body}/${key}/${id}`, list] as const),
    ),
  ])
  return lists
    .filter(([, list]) => list.length > MOST_CODES)
    .map(([where, list]) =>
      problem(
        'codes-full',
        `picks/codes/ofBody/${where}`,
        `${list.length} different ones have been here, and looks tell ${MOST_CODES} apart.`,
        'Begin a new package; looks that players have saved are not of it.',
      ),
    )
}
