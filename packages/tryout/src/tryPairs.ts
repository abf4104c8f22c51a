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
import { MOST, showsThrough } from './showsThrough.ts'

/** What came of trying on, for one body. It is measured, not proved: only on the looks that were put on. */
export interface Tried {
  body: string
  /** Looks that were put on, and how many pairs of parts are worn together in them. */
  looks: number
  pairs: number
  /** The worst by pairs of parts, the deepest first. */
  worst: Worse[]
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

/**
 * Puts on looks in which every two parts that can be worn together are, each with sliders as they begin and at both of
 * their ends, by the runtime alone, and measures what comes through at the ends that does not where they begin. How
 * parts lie where sliders begin is as they were made and fitted, cuffs over sleeves among it.
 */
export async function tryPairs(
  wardrobe: Wardrobe,
  body: BodyEntry,
  kits: Manifests,
  prover: Prover,
  progress: (done: number) => void = () => undefined,
): Promise<Tried> {
  const open = await wardrobe.openBody(body)
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
  const worst = new Map<string, Worse>()
  const seen = new Set<string>()
  const assembly = new Assembly(body)
  for (const [i, chosen] of choices.entries()) {
    progress(i / choices.length)
    const parts = partsOf(body, chosen)
    const { pieces } = await wardrobe.fit(open, { ...startLook(body), parts }, () => true)
    assembly.dress([open.piece, ...pieces], 0)
    const at = (end: 'start' | 'min' | 'max', asked: (inner: number | null, outer: number) => boolean) => {
      const sliders = Object.fromEntries(body.sliders.map((s) => [s.id, s[end]]))
      const { look } = settle(body, { ...startLook(body), parts, sliders }, () => true)
      assembly.shape(weightsOf(body, look))
      // what stands out far where sliders begin may come nearer, and is no worse for it
      const most = end === 'start' ? 4 * MOST : MOST
      return { look, through: showsThrough(assembly, (o) => layers[o]!, heightOf(assembly), asked, most) }
    }
    const key = (inner: number | null, outer: number) => `${inner} ${outer}`
    // a pair that has been looked at is not looked at again beside others
    const fresh = new Map(
      at('start', (inner, outer) => !seen.has(key(inner, outer))).through.map((t) => [key(t.inner, t.outer), t.places]),
    )
    for (const pair of fresh.keys()) seen.add(pair)
    for (const end of ['min', 'max'] as const) {
      const { look, through } = at(end, (inner, outer) => fresh.has(key(inner, outer)))
      for (const { inner, outer, places } of through) {
        const before = fresh.get(key(inner, outer))!
        const worse = [...places].filter(([place]) => !before.has(place)).map(([, rise]) => rise)
        const depth = Math.max(0, ...worse)
        if (worse.length < FEW || (worst.get(key(inner, outer))?.depth ?? 0) >= depth) continue
        worst.set(key(inner, outer), {
          ...{ inner: inner === null ? null : body.options[inner]!.id, outer: body.options[outer]!.id },
          ...{ depth, places: worse.length, text: lookToText(wardrobe.manifest, look, () => true) },
        })
      }
    }
  }
  return {
    ...{ body: body.id, looks: choices.length * 3, pairs: covered },
    worst: [...worst.values()].sort((a, b) => b.depth - a.depth).slice(0, TOLD),
  }
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
