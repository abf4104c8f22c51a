import {
  coverTuples,
  layerOfPart,
  partOf,
  refOf,
  type ChoiceModel,
  type Manifests,
  type Prover,
} from '@idle-tinker/core'
import {
  Assembly,
  lookToText,
  settle,
  startLook,
  weightsOf,
  type BodyEntry,
  type Look,
  type Wardrobe,
} from '@idle-tinker/runtime'
import { Uncovered, type LeftOut, type Open } from './showsOpen.ts'
import { GROWN, MOST, showsThrough } from './showsThrough.ts'

/** What came of trying on, for one body. It is measured, not proved: only on the looks that were put on. */
export interface Tried {
  body: string
  /** Looks that were put on, and how many pairs of parts are worn together in them. */
  looks: number
  pairs: number
  /** The worst by pairs of parts, the deepest first. */
  worst: Worse[]
  /** Where something that is left out as it is covered can be seen, the largest first; reports of before it was looked for have none. */
  open?: Hole[]
}

/** Where a figure is open with sliders at their ends, and is not where they begin: one looks into it. */
export interface Hole {
  /** "kit/part" of what is left out there; null for the body itself. */
  inner: string | null
  /** What is to cover it. */
  outer: string
  /** Square metres, and triangles that can be seen. */
  area: number
  places: number
  /** The look it is in. */
  text: string
}

/** Something that comes out through what lies over it with sliders at their ends, and does not where they begin. */
export interface Worse {
  /** "kit/part"; null for the body itself. */
  inner: string | null
  outer: string
  /** How far at the most, metres. */
  depth: number
  /** Places that do. */
  places: number
  /** The look it is in. */
  text: string
}

/** So many pairs are told. */
const TOLD = 12
/** Fewer places than this are a corner that nobody sees. */
const FEW = 3
/** Nobody sees a smaller hole, square metres on a grown person. */
const SMALL = 0.0004

/**
 * Puts on looks in which every two parts that can be worn together are, each with sliders as they begin and at both of
 * their ends, by the runtime alone, and measures what comes through at the ends, and where one can look into the figure,
 * that is not so where they begin. How parts lie where sliders begin is as they were made and fitted, cuffs over sleeves
 * among it.
 */
export async function tryPairs(
  wardrobe: Wardrobe,
  body: BodyEntry,
  kits: Manifests,
  prover: Prover,
  progress: (done: number) => void = () => undefined,
): Promise<Tried & { open: Hole[] }> {
  const opened = await wardrobe.openBody(body)
  const model = modelOf(body)
  const { choices, covered } = coverTuples(
    model,
    2,
    (options) => prover.find({ ...model, pieces: [] }, { with: options })?.chosen ?? null,
  )
  const layers = body.options.map(({ id }) => {
    const part = partOf(kits, refOf(id, ''))
    return part ? layerOfPart(part.def) : null
  })
  const idOf = (option: number | null) => (option === null ? null : body.options[option]!.id)
  const worst = new Map<string, Worse>()
  const seen = new Set<string>()
  const open = new Map<string, Hole>()
  const beneath = new Uncovered(body)
  const lookedAt = new Set<string>()
  /** Whether it is hidden by something that it was not yet looked at beneath; from now on it was. */
  const isFresh = ({ inner, patch, by }: LeftOut) => {
    const pairs = by.map((o) => `${inner} ${patch} ${o}`)
    const fresh = pairs.some((pair) => !lookedAt.has(pair))
    for (const pair of pairs) lookedAt.add(pair)
    return fresh
  }
  const assembly = new Assembly(body)
  for (const [i, chosen] of choices.entries()) {
    progress(i / choices.length)
    const parts = partsOf(body, chosen)
    const { pieces } = await wardrobe.fit(opened, { ...startLook(body), parts }, () => true)
    const all = [opened.piece, ...pieces]
    assembly.dress(all, 0)
    beneath.dress(all)
    const at = (end: 'start' | 'min' | 'max', asked: (inner: number | null, outer: number) => boolean) => {
      const sliders = Object.fromEntries(body.sliders.map((s) => [s.id, s[end]]))
      const { look } = settle(body, { ...startLook(body), parts, sliders }, () => true)
      assembly.shape(weightsOf(body, look))
      // what stands out far where sliders begin may come nearer, and is no worse for it
      const most = end === 'start' ? 4 * MOST : MOST
      return { look, through: showsThrough(assembly, (o) => layers[o]!, heightOf(assembly), asked, most) }
    }
    const closed = beneath.open(weightsOf(body, startLook(body)), isFresh)
    const key = (inner: number | null, outer: number) => `${inner} ${outer}`
    // a pair that has been looked at is not looked at again beside others
    const fresh = new Map(
      at('start', (inner, outer) => !seen.has(key(inner, outer))).through.map((t) => [key(t.inner, t.outer), t.places]),
    )
    for (const pair of fresh.keys()) seen.add(pair)
    for (const end of ['min', 'max'] as const) {
      const { look, through } = at(end, (inner, outer) => fresh.has(key(inner, outer)))
      const text = () => lookToText(wardrobe.manifest, look, () => true)
      for (const hole of holesIn(
        beneath.open(weightsOf(body, look), (_, patch) => closed.has(patch)),
        closed,
      )) {
        const name = key(hole.inner, hole.outer)
        const least = SMALL * (heightOf(assembly) / GROWN) ** 2
        if (hole.places < FEW || hole.area < Math.max(least, open.get(name)?.area ?? 0)) continue
        open.set(name, {
          ...{ inner: idOf(hole.inner), outer: idOf(hole.outer)!, area: hole.area, places: hole.places },
          text: text(),
        })
      }
      for (const { inner, outer, places } of through) {
        const before = fresh.get(key(inner, outer))!
        const worse = [...places].filter(([place]) => !before.has(place)).map(([, rise]) => rise)
        const depth = Math.max(0, ...worse)
        if (worse.length < FEW || (worst.get(key(inner, outer))?.depth ?? 0) >= depth) continue
        worst.set(key(inner, outer), {
          ...{ inner: idOf(inner), outer: idOf(outer)!, depth, places: worse.length, text: text() },
        })
      }
    }
  }
  return {
    ...{ body: body.id, looks: choices.length * 3, pairs: covered },
    worst: [...worst.values()].sort((a, b) => b.depth - a.depth).slice(0, TOLD),
    open: [...open.values()].sort((a, b) => b.area - a.area).slice(0, TOLD),
  }
}

/** By what is left out and what is to cover it, all that is open and was not where sliders begin. */
function holesIn(now: ReadonlyMap<string, Open>, before: ReadonlyMap<string, Open>) {
  const holes = new Map<string, { inner: number | null; outer: number; area: number; places: number }>()
  for (const [patch, { inner, outer, places }] of now) {
    const fresh = [...places].filter(([place]) => !before.get(patch)!.places.has(place))
    const name = `${inner} ${outer}`
    const hole = holes.get(name) ?? { inner, outer, area: 0, places: 0 }
    hole.area += fresh.reduce((sum, [, area]) => sum + area, 0)
    hole.places += fresh.length
    holes.set(name, hole)
  }
  return holes.values()
}

/** The choices of a package's body, as the prover knows them. */
function modelOf(body: BodyEntry): Pick<ChoiceModel, 'groups' | 'rules'> {
  const nameOf = (option: number) => body.options[option]!.id
  return {
    groups: body.slots.map((s) => ({ id: s.id, needed: s.needed, options: s.options.map(nameOf) })),
    rules: body.rules.map((rule) => {
      const one = nameOf(rule.one)
      if (rule.kind === 'needs') return { kind: rule.kind, one, oneOf: rule.oneOf.map(nameOf) }
      if (rule.kind === 'covers') return { kind: rule.kind, one, others: rule.others.map(nameOf) }
      return { kind: rule.kind, one, other: nameOf(rule.other) }
    }),
  }
}

function partsOf(body: BodyEntry, chosen: readonly string[]): Look['parts'] {
  return Object.fromEntries(
    body.slots
      .filter((s) => s.chosen)
      .map((s) => [s.id, s.options.map((o) => body.options[o]!.id).find((id) => chosen.includes(id)) ?? null]),
  )
}

function heightOf({ mesh }: Assembly): number {
  let [low, high] = [Infinity, -Infinity]
  for (let i = 1; i < mesh.corners * 3; i += 3) {
    low = Math.min(low, mesh.position[i]!)
    high = Math.max(high, mesh.position[i]!)
  }
  return Math.max(0.1, high - low)
}
