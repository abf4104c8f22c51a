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
  type OpenBody,
  type Wardrobe,
} from '@idle-tinker/runtime'
import { Uncovered, type LeftOut, type Open } from './showsOpen.ts'
import { GROWN, MOST, showsThrough, type Through } from './showsThrough.ts'

/** What came of trying on, for one body. It is measured, not proved: only on the looks that were put on. */
export interface Tried {
  body: string
  /** Looks that were put on, and how many pairs of parts are worn together in them. */
  looks: number
  pairs: number
  /** Of three that lie on each other, where they were asked for. */
  triples?: number
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

export interface TryOnOptions {
  /** Every three that lie on each other as well: some times as many looks. */
  triples?: boolean
  progress?: (done: number) => void
}

/**
 * Puts on looks in which every two parts that can be worn together are, or also every three that lie on each other, each with
 * sliders as they begin and at both of their ends, by the runtime alone, and measures what comes through at the ends, and
 * where one can look into the figure, that is not so where they begin. How parts lie where sliders begin is as they were
 * made and fitted, cuffs over sleeves among it.
 */
export async function tryOnLooks(
  wardrobe: Wardrobe,
  body: BodyEntry,
  kits: Manifests,
  prover: Prover,
  { triples: threes = false, progress = () => undefined }: TryOnOptions = {},
): Promise<Tried & { open: Hole[] }> {
  const opened = await wardrobe.openBody(body)
  const model = modelOf(body)
  const findWith = (options: readonly string[]) =>
    prover.find({ ...model, pieces: [] }, { with: options })?.chosen ?? null
  const touching = threes ? await touchingOf(wardrobe, opened, body) : new Map<number, Set<number>>()
  const placeOf = new Map(body.options.map((o, i) => [o.id, i]))
  const touch = (a: number, b: number) => touching.get(a)?.has(b) ?? false
  const pairs = coverTuples(model, 2, findWith)
  const lieOnEachOther = (names: readonly string[]) => {
    const [a, b, c] = names.map((n) => placeOf.get(n)!) as [number, number, number]
    return touch(a, b) && touch(a, c) && touch(b, c)
  }
  const triples = threes ? coverTuples(model, 3, findWith, lieOnEachOther) : { choices: [], covered: undefined }
  const layers = body.options.map(({ id }) => {
    const part = partOf(kits, refOf(id, ''))
    return part ? layerOfPart(part.def) : null
  })
  const trials = new Trials(wardrobe, opened, body, layers)
  const all = pairs.choices.length + triples.choices.length
  let done = 0
  for (const chosen of pairs.choices) {
    progress(done++ / all)
    // a pair that has been looked at is not looked at again beside others
    await trials.put(chosen, () => (inner, outer) => !trials.seen.has(keyOf(inner, outer)))
  }
  const seen = new Set<string>()
  for (const chosen of triples.choices) {
    progress(done++ / all)
    await trials.put(chosen, (worn) => {
      const asked = new Set<string>()
      for (const [i, a] of worn.entries())
        for (const [j, b] of worn.slice(0, i).entries())
          for (const c of touch(a, b) ? worn.slice(0, j) : []) {
            const three = [a, b, c].sort((x, y) => x - y).join()
            if (!touch(a, c) || !touch(b, c) || seen.has(three)) continue
            seen.add(three)
            for (const x of [a, b, c]) for (const y of [a, b, c]) asked.add(keyOf(x, y))
          }
      return (inner, outer) => asked.has(keyOf(inner, outer))
    })
  }
  const { worst, open } = trials
  return {
    ...{ body: body.id, looks: all * 3, pairs: pairs.covered },
    ...(triples.covered !== undefined && { triples: triples.covered }),
    worst: [...worst.values()].sort((a, b) => b.depth - a.depth).slice(0, TOLD),
    open: [...open.values()].sort((a, b) => b.area - a.area).slice(0, TOLD),
  }
}

/** For each option those whose pieces know of it, or that know of its: they are fitted to each other, or one hides some of the other. */
async function touchingOf(wardrobe: Wardrobe, opened: OpenBody, body: BodyEntry): Promise<Map<number, Set<number>>> {
  const touching = new Map<number, Set<number>>(body.options.map((_, i) => [i, new Set()]))
  const start = startLook(body)
  for (const [option, { id, slot }] of body.options.entries()) {
    const parts = { ...start.parts, [body.slots[slot]!.id]: id }
    const { pieces } = await wardrobe.fit(opened, { ...start, parts }, () => true)
    for (const { option: own, fits, levels } of pieces) {
      if (own !== option) continue
      for (const other of [...fits.map((f) => f.with), ...levels[0]!.patches.flatMap((p) => p.hiddenBy)]) {
        touching.get(own)!.add(other)
        touching.get(other)!.add(own)
      }
    }
  }
  return touching
}

const keyOf = (inner: number | null, outer: number) => `${inner} ${outer}`

/** What of a look is asked: pairs of what lies beneath and what lies above. */
type Asked = (inner: number | null, outer: number) => boolean

/** Looks put on one after another, and the worst that was seen on them. */
class Trials {
  readonly worst = new Map<string, Worse>()
  readonly open = new Map<string, Hole>()
  /** Pairs that were measured. */
  readonly seen = new Set<string>()
  private readonly lookedAt = new Set<string>()
  private readonly assembly: Assembly
  private readonly beneath: Uncovered

  constructor(
    private readonly wardrobe: Wardrobe,
    private readonly opened: OpenBody,
    private readonly body: BodyEntry,
    private readonly layers: readonly (number | null)[],
  ) {
    this.assembly = new Assembly(body)
    this.beneath = new Uncovered(body)
  }

  /** @param askedOf what is measured, by the options that are worn */
  async put(chosen: readonly string[], askedOf: (worn: readonly number[]) => Asked): Promise<void> {
    const { body, assembly, beneath } = this
    const parts = partsOf(body, chosen)
    const { pieces } = await this.wardrobe.fit(this.opened, { ...startLook(body), parts }, () => true)
    const all = [this.opened.piece, ...pieces]
    assembly.dress(all, 0)
    beneath.dress(all)
    const closed = beneath.open(weightsOf(body, startLook(body)), (patch) => this.isFresh(patch))
    const asked = askedOf(pieces.flatMap((p) => (p.option === null ? [] : [p.option])))
    const { through: before } = this.at('start', parts, asked)
    const places = new Map(before.map((t) => [keyOf(t.inner, t.outer), t.places]))
    for (const pair of places.keys()) this.seen.add(pair)
    if (places.size === 0 && closed.size === 0) return
    for (const end of ['min', 'max'] as const) {
      const { look, through } = this.at(end, parts, (inner, outer) => places.has(keyOf(inner, outer)))
      const text = lookToText(this.wardrobe.manifest, look, () => true)
      const opened = beneath.open(weightsOf(body, look), (_, patch) => closed.has(patch))
      for (const hole of holesIn(opened, closed)) this.noteHole(hole, text)
      for (const t of through) this.noteThrough(t, places.get(keyOf(t.inner, t.outer))!, text)
    }
  }

  private at(end: 'start' | 'min' | 'max', parts: Look['parts'], asked: Asked) {
    const { body, assembly, layers } = this
    const sliders = Object.fromEntries(body.sliders.map((s) => [s.id, s[end]]))
    const { look } = settle(body, { ...startLook(body), parts, sliders }, () => true)
    assembly.shape(weightsOf(body, look))
    // what stands out far where sliders begin may come nearer, and is no worse for it
    const most = end === 'start' ? 4 * MOST : MOST
    return { look, through: showsThrough(assembly, (o) => layers[o]!, heightOf(assembly), asked, most) }
  }

  /** Whether it is hidden by something that it was not yet looked at beneath; from now on it was. */
  private isFresh({ inner, patch, by }: LeftOut): boolean {
    const pairs = by.map((o) => `${inner} ${patch} ${o}`)
    const fresh = pairs.some((pair) => !this.lookedAt.has(pair))
    for (const pair of pairs) this.lookedAt.add(pair)
    return fresh
  }

  private noteHole({ inner, outer, area, places }: Omit<Hole, 'text' | 'inner' | 'outer'> & Pair, text: string): void {
    const least = SMALL * (heightOf(this.assembly) / GROWN) ** 2
    const key = keyOf(inner, outer)
    if (places < FEW || area < Math.max(least, this.open.get(key)?.area ?? 0)) return
    this.open.set(key, { inner: this.idOf(inner), outer: this.idOf(outer)!, area, places, text })
  }

  private noteThrough({ inner, outer, places }: Through, before: Through['places'], text: string): void {
    const worse = [...places].filter(([place]) => !before.has(place)).map(([, rise]) => rise)
    const depth = Math.max(0, ...worse)
    const key = keyOf(inner, outer)
    if (worse.length < FEW || (this.worst.get(key)?.depth ?? 0) >= depth) return
    this.worst.set(key, { inner: this.idOf(inner), outer: this.idOf(outer)!, depth, places: worse.length, text })
  }

  private idOf(option: number | null): string | null {
    return option === null ? null : this.body.options[option]!.id
  }
}

interface Pair {
  inner: number | null
  outer: number
}

/** By what is left out and what is to cover it, all that is open and was not where sliders begin. */
function holesIn(now: ReadonlyMap<string, Open>, before: ReadonlyMap<string, Open>) {
  const holes = new Map<string, Pair & { area: number; places: number }>()
  for (const [patch, { inner, outer, places }] of now) {
    const fresh = [...places].filter(([place]) => !before.get(patch)!.places.has(place))
    const name = keyOf(inner, outer)
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
