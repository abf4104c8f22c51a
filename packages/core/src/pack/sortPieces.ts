import { PairMemory } from '../base/PairMemory.ts'
import { problem, type Problem } from '../base/problem.ts'
import type { BodyModel, Kit, PartModel } from '../kit/Kit.ts'
import { leftToHands, namesBody, slotsFor } from '../kit/library.ts'
import type { SlotDef } from '../kit/schema.ts'
import { boundsOf, pointTriangles } from '../mesh/Mesh.ts'
import { bodySpace, shapeOn, type BodySpace, type Soup } from './bodySpace.ts'
import { sizeOf } from './pieceOf.ts'
import { meaningsOf, wordsOf } from '../base/words.ts'

/** A guess that is less sure than this is for a person to look at. */
export const UNSURE = 0.7

/** One slot that a piece may go to. */
export interface SlotGuess {
  slot: string
  /** Share of such guesses that are right, 0 to 1. */
  confidence: number
}

/** Something that is known to go to a slot, as measured on the body. */
interface Example {
  slot: string
  /** The part it is of: "kit/part". */
  part: string
  shape: Float32Array
  /** Corner to corner, and where its middle is, metres. */
  size: number
  middle: [number, number, number]
  /** Where its socket is, if it was measured where it is held instead of as its file has it; metres. */
  at: readonly [number, number, number] | null
  /** Whether it lies about the origin of its file and nowhere on the body. */
  loose: boolean
}

/** What a slot, or a part in it, is called. */
interface Named {
  slot: string
  part: string | null
  names: string[]
}

/** What lies in the slots of a body, and what that is called. */
interface Seen {
  space: BodySpace
  slots: SlotDef[]
  examples: Example[]
  named: Named[]
}

/** What is known of the slots of a body. */
export interface SlotKnowledge extends Seen {
  /** How much each measure of a shape tells slots apart. */
  tells: Float32Array
  /** Slot to what its own names and those of its parts mean, each word with how much it tells. */
  words: Map<string, Map<string, number>>
}

/** Of examples that are this much farther an e-th part is right: so confidence is as often right as it says. */
const SOFT = 0.055
/** As far as this from every example nothing is known. */
const STRANGE = 1.1
/** What hands set one by one seldom comes in a pack, in logits. */
const BY_HAND = -1.5
/** What a word that only one slot has is worth, in logits. */
const WORD = 5
/** The last word of a name is what a thing is: “rope belt”. */
const LAST = 1.2

// measuring a shelf of parts takes seconds, and the next pack is sorted on the same body
const spaceOf = new PairMemory<BodyModel, BodyModel, BodySpace>()
const shapesOf = new PairMemory<BodyModel, PartModel, Example[]>()

/** A part as it is worn, each of its sides alone, and where it is held. */
function examplesOf(space: BodySpace, { def, mesh }: PartModel, part: string): Example[] {
  const soup = { positions: mesh.positions, triangles: pointTriangles(mesh) }
  const example = (one: Soup, at: Example['at'] = null): Example => ({
    slot: def.slot,
    part,
    shape: shapeOn(space, one),
    ...extentOf(one.positions),
    at,
    loose: def.how === 'attached' && at === null,
  })
  const found = [soup, ...halvesOf(soup)].map((one) => example(one))
  // what is held may also lie where it is held
  const socket = def.how === 'attached' && space.body.def.sockets.find((s) => s.id === def.socket)
  if (socket)
    found.push(example({ ...soup, positions: soup.positions.map((v, i) => v + socket.at[i % 3]!) }, socket.at))
  return found
}

/** Learns from the parts that a body's kits have what goes where: nothing of any kit or slot is known beforehand. */
export function learnSlots(kits: ReadonlyMap<string, Kit>, body: BodyModel): SlotKnowledge {
  const space = spaceOf.get(body, body, () => bodySpace(body))
  const at = { kit: body.kit, id: body.def.id }
  const slots = slotsFor(kits, at)
  const examples: Example[] = []
  const named: Named[] = slots.map(({ id, name, singular }) => ({ slot: id, part: null, names: [id, name, singular] }))
  for (const kit of kits.values())
    for (const model of kit.parts.values()) {
      const { def } = model
      if (!namesBody(def.bodies, kit.manifest.id, at) || !slots.some((s) => s.id === def.slot)) continue
      const part = `${kit.manifest.id}/${def.id}`
      named.push({ slot: def.slot, part, names: [def.id, def.name, ...def.tags] })
      examples.push(...shapesOf.get(body, model, () => examplesOf(space, model, part)))
    }
  return knowledgeOf({ space, slots, examples, named })
}

/** Why nothing can be sorted on a body; empty where it can. */
export function slotFaults({ slots, space: { body } }: SlotKnowledge): Problem[] {
  if (slots.length) return []
  return [problem('slots-none', `${body.kit}/${body.def.id}`, 'This body has no slots.', 'Choose another body.')]
}

/** The same knowledge, as it would be without one part: "kit/part". */
export function withoutPart({ space, slots, examples, named }: SlotKnowledge, part: string): SlotKnowledge {
  return knowledgeOf({
    space,
    slots,
    examples: examples.filter((e) => e.part !== part),
    named: named.filter((n) => n.part !== part),
  })
}

function knowledgeOf(seen: Seen): SlotKnowledge {
  return { ...seen, tells: weighMeasures(seen.examples), words: weighWords(seen.named) }
}

/** How much of a measure's spread within slots is taken for granted, as a share of its spread over all. */
const GRANTED = 0.3

/** What differs little within slots and much between them tells most (the diagonal of Fisher's criterion, 1936). */
function weighMeasures(examples: readonly Example[]): Float32Array {
  const length = examples[0]?.shape.length ?? 0
  const bySlot = new Map<string, Example[]>()
  for (const e of examples) bySlot.set(e.slot, [...(bySlot.get(e.slot) ?? []), e])
  return Float32Array.from({ length }, (_, i) => {
    const spreadOf = (list: readonly Example[]) => {
      const mean = list.reduce((s, e) => s + e.shape[i]!, 0) / list.length
      return list.reduce((s, e) => s + (e.shape[i]! - mean) ** 2, 0)
    }
    const all = spreadOf(examples) / examples.length
    const within = [...bySlot.values()].reduce((s, list) => s + spreadOf(list), 0) / examples.length
    return all > 1e-6 ? 1 / Math.sqrt(within + GRANTED * all) : 0
  })
}

/** How large something is, corner to corner, and where its middle is. */
export function extentOf(positions: Float32Array): Pick<Example, 'size' | 'middle'> {
  const { min, max } = boundsOf(positions)
  return {
    size: sizeOf({ positions }),
    middle: max.map((v, k) => (v + min[k]!) / 2) as [number, number, number],
  }
}

/** The two sides of what has nothing in the middle: gloves often come one by one. */
function halvesOf({ positions, triangles }: Soup): Soup[] {
  const sides: number[][] = [[], []]
  for (let t = 0; t < triangles.length; t += 3) {
    const corners = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!]
    const left = corners.filter((p) => positions[p * 3]! > 0).length
    if (left % 3) return []
    sides[left ? 0 : 1]!.push(...corners)
  }
  if (sides.some((side) => side.length === 0)) return []
  return sides.map((side) => {
    const points = [...new Set(side)]
    const number = new Map(points.map((p, i) => [p, i]))
    return {
      positions: Float32Array.from(points.flatMap((p) => [...positions.subarray(p * 3, p * 3 + 3)])),
      triangles: Uint32Array.from(side, (p) => number.get(p)!),
    }
  })
}

/** A word of a part's name tells less of its slot than the slot's own: a rope is a belt here and a load there. */
const OF_PART = 0.35

/** How much each word speaks for each slot; one that many slots share tells little. */
function weighWords(named: readonly Named[]): SlotKnowledge['words'] {
  const told = new Map<string, Map<string, number>>()
  for (const { slot, part, names } of named) {
    const own = told.get(slot) ?? new Map<string, number>()
    told.set(slot, own)
    for (const word of meaningsOf(names.flatMap(wordsOf)))
      own.set(word, Math.max(own.get(word) ?? 0, part === null ? 1 : OF_PART))
  }
  const sums = new Map<string, number>()
  for (const own of told.values()) for (const [word, w] of own) sums.set(word, (sums.get(word) ?? 0) + w)
  for (const own of told.values()) for (const [word, w] of own) own.set(word, (w * w) / sums.get(word)!)
  return told
}

/** What the names of a piece speak for, by slot, in logits. */
function spokenFor({ words }: SlotKnowledge, names: readonly string[]): Map<string, number> {
  const out = new Map<string, number>()
  for (const [slot, known] of words) {
    let most = 0
    for (const name of names) {
      const list = wordsOf(name)
      list.forEach((word, i) => {
        const told = Math.max(0, ...[...meaningsOf([word])].map((m) => known.get(m) ?? 0))
        most = Math.max(most, told * WORD * (i === list.length - 1 ? LAST : 1))
      })
    }
    if (most > 0) out.set(slot, most)
  }
  return out
}

/** Names speak for a slot from here on, in logits. */
const SPOKEN = 2

/** The slot that a piece is called after; null where its names say little. */
export function namedSlot(knowledge: SlotKnowledge, names: readonly string[]): string | null {
  let best: [slot: string, told: number] | null = null
  for (const entry of spokenFor(knowledge, names)) if (!best || entry[1] > best[1]) best = entry
  return best && best[1] >= SPOKEN ? best[0] : null
}

/**
 * How far two shapes are apart: a mean over the measures, of the power ¾ (Aggarwal, Hinneburg and Keim, On the surprising
 * behavior of distance metrics in high dimensional space, 2001), so that what is far off in one counts little.
 */
function apart(a: Float32Array, b: Float32Array, tells: Float32Array): number {
  let sum = 0
  for (let i = 0; i < a.length; i++) {
    const off = tells[i]! * Math.abs(a[i]! - b[i]!)
    sum += Math.sqrt(off * Math.sqrt(off))
  }
  return (sum / a.length) ** (4 / 3)
}

/**
 * Where a piece may go, by how it lies on the body and by what it is called.
 *
 * @param soup the piece in the body's own metres
 */
export function sortPiece(knowledge: SlotKnowledge, soup: Soup, names: readonly string[]): SlotGuess[] {
  return rank(knowledge, shapeOn(knowledge.space, soup), names)
}

export function rank(knowledge: SlotKnowledge, shape: Float32Array, names: readonly string[]): SlotGuess[] {
  const distances = new Map<string, number[]>(knowledge.slots.map(({ id }) => [id, []]))
  for (const { slot, shape: known } of knowledge.examples)
    distances.get(slot)!.push(apart(known, shape, knowledge.tells))
  const nearest = [...distances].map(([slot, list]): [string, number] => [slot, Math.min(STRANGE, ...list)])
  const spoken = spokenFor(knowledge, names)
  const seldom = new Set(knowledge.slots.filter(leftToHands).map(({ id }) => id))
  const logits = nearest.map(([slot, far]) => ({
    slot,
    logit: -far / SOFT + (spoken.get(slot) ?? 0) + (seldom.has(slot) ? BY_HAND : 0),
  }))
  // what is like nothing and called nothing may be anything
  const unknown = -STRANGE / SOFT
  const most = Math.max(unknown, ...logits.map((l) => l.logit))
  const sum = logits.reduce((s, { logit }) => s + Math.exp(logit - most), Math.exp(unknown - most))
  return logits
    .map(({ slot, logit }) => ({ slot, confidence: Math.exp(logit - most) / sum }))
    .sort((a, b) => b.confidence - a.confidence || (a.slot < b.slot ? -1 : 1))
}

/**
 * How like a shape is to the nearest that is known to lie on the body, 0 for just like it, less for less; only as far
 * as both are measured.
 */
export function likeness({ examples, tells }: SlotKnowledge, shape: Float32Array): number {
  let least = Infinity
  for (const { shape: known, loose } of examples) if (!loose) least = Math.min(least, apart(shape, known, tells))
  return least === Infinity ? 0 : -least
}

/** What is known of a slot that a piece lies most like; null where nothing is. */
export function nearestExample(knowledge: SlotKnowledge, soup: Soup, slot: string): Example | null {
  const shape = shapeOn(knowledge.space, soup)
  const far = (e: Example) => apart(e.shape, shape, knowledge.tells)
  return knowledge.examples
    .filter((e) => e.slot === slot)
    .reduce<Example | null>((best, e) => (best && far(best) <= far(e) ? best : e), null)
}
