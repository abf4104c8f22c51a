import { Memory } from '../base/Memory.ts'
import type { Problem } from '../base/problem.ts'
import type { Arrays } from '../base/Shelf.ts'
import { addDelta, applyDeltas, type ActiveDelta } from '../body/shapeBody.ts'
import type { PreparedBody } from '../body/PreparedBody.ts'
import type { PartBone, PartModel } from '../kit/Kit.ts'
import type { Limb } from '../kit/plan.ts'
import { pointNeighbours, type Packed } from '../mesh/adjacency.ts'
import type { Morph } from '../mesh/Mesh.ts'
import { Surface } from '../mesh/Surface.ts'
import { limbIdOn, type ResolvedPart } from '../recipe/resolve.ts'
import type { Nudge } from '../recipe/schema.ts'
import { bindPart, bindRider, cornersOf, deltaOf, type BoundPart } from './bindPart.ts'
import { anchorPoints, letOut, pushClear, type Anchors } from './clearance.ts'
import { seamProblems } from './joinSeam.ts'
import { findCovered, surfacesOf, type Covered } from './cover.ts'
import { kept, type Codec } from './kept.ts'
import { compareLayers, isCloth, layerNumber, type Layer } from './Layer.ts'
import { nudgeMoves, type Nudgeable } from './nudge.ts'
import { PairMemory } from '../base/PairMemory.ts'
import { applyPress, pressUnder, type Press } from './press.ts'
import { carryDelta } from './tie.ts'

/** Everything on a figure that does not change while sliders move. */
export interface Outfit extends Covered {
  body: PreparedBody
  layers: Layer[]
  /** The bones that parts bring, in the order of the layers; names are told apart where two share one. */
  bones: PartBone[]
  /** The limbs that these make. */
  limbs: Limb[]
  /** What is to be said of seams. */
  problems: Problem[]
}

/** How deep a part may be sunk at rest in skin or cloth and still be pulled out; deeper is on purpose, metres. */
const SKIN_TOLERANCE = 0.006
const LAYER_TOLERANCE = 0.03

const anchorsWith = (gap: number): Codec<Anchors> => ({
  to: ({ points, planes }) => ({ points, planes }),
  from: ({ points, planes }) => ({ points: points as Uint32Array, planes: planes as Uint32Array, gap }),
})
const LIFT: Codec<Float32Array | null> = {
  to: (by): Arrays => (by ? { by } : {}),
  from: ({ by }) => (by as Float32Array | undefined) ?? null,
}
const PRESS: Codec<Press> = {
  to: (press) => ({ ...press }),
  from: (arrays) => arrays as unknown as Press,
}

const bodyAnchors = new PairMemory<BoundPart, PreparedBody, Anchors>()
const layerAnchors = new PairMemory<BoundPart, BoundPart, Anchors>()
const layerLift = new PairMemory<BoundPart, BoundPart, Float32Array | null>()
const lifted = new WeakMap<BoundPart, Memory>()
const presses = new PairMemory<BoundPart, BoundPart, Map<string, Press>>()

/**
 * Puts parts on a body: binds them, finds what each must stay clear of and what is covered in
 * every checked pose. `parts` may be in any order; layers come out from the skin outward.
 */
export function assembleOutfit(body: PreparedBody, parts: readonly ResolvedPart[]): Outfit {
  const layers = layersOf(body, parts)
  layers.forEach((outer, i) => arrange(body, outer, layers.slice(0, i)))
  const problems = layers.flatMap(({ slot, bound }) =>
    seamProblems(body, bound.part, bound.joined, `recipe/parts/${slot}`),
  )
  return { body, layers, problems, ...bonesOf(body, layers), ...findCovered(body, layers) }
}

/**
 * Parts on a body that know nothing of each other: each lies clear of the body alone, and hides nothing. There may be
 * several in a slot.
 */
export function standApart(body: PreparedBody, parts: readonly ResolvedPart[]): Outfit {
  const layers = layersOf(body, parts)
  const none = (triangles: Uint32Array) => new Uint8Array(triangles.length / 3)
  const hiddenLayers = layers.map(({ bound }) => none(bound.triangles))
  return {
    ...{ body, layers, problems: [], ...bonesOf(body, layers) },
    ...{ hiddenBody: none(body.triangles), hiddenLayers, linings: hiddenLayers },
  }
}

function layersOf(body: PreparedBody, parts: readonly ResolvedPart[]): Layer[] {
  const hosts = new Map(parts.map((p) => [p.instance, p.part]))
  const bound = ({ part }: ResolvedPart) => {
    const host = part.spot?.on && hosts.get(part.spot.on.instance)
    return host ? bindRider(body, part, bindPart(body, host)) : bindPart(body, part)
  }
  const layers = parts
    .map((p) => ({ instance: p.instance, slot: p.slot, bound: bound(p) }))
    .sort(
      (a, b) =>
        compareLayers(a.bound.part, b.bound.part) ||
        (a.slot === b.slot ? (a.instance < b.instance ? -1 : 1) : a.slot < b.slot ? -1 : 1),
    )
  return layers.map(({ instance, slot, bound }): Layer => ({
    instance,
    slot,
    bound,
    rest: bound.rest,
    positions: new Float32Array(bound.rest.length),
    liftedBy: [],
    // what is not cloth lies where its maker put it
    onBody: isCloth(bound.part) ? skinAnchors(body, bound) : null,
    pressed: [],
    ridesOn: rideOf(bound.part, layers),
    onLayers: [],
  }))
}

/** Where a part sits that sits on another. */
function rideOf({ spot }: PartModel, layers: readonly Pick<Layer, 'instance' | 'bound'>[]): Layer['ridesOn'] {
  const layer = spot?.on ? layers.findIndex((l) => l.instance === spot.on!.instance) : -1
  if (layer < 0) return null
  return { layer, corners: cornersOf(layers[layer]!.bound, spot!.triangle), shares: spot!.shares }
}

/** How far a spot of a layer has gone from where it lies on the resting body, into `out`. */
function rideAlong(outfit: Outfit, { layer, corners, shares }: NonNullable<Layer['ridesOn']>, out: number[]): void {
  const { positions, bound } = outfit.layers[layer]!
  for (let k = 0; k < 3; k++) {
    out[k] = 0
    for (let i = 0; i < 3; i++)
      out[k]! += shares[i]! * (positions[corners[i]! * 3 + k]! - bound.rest[corners[i]! * 3 + k]!)
  }
}

/** Lets a layer out over those beneath, and draws in what it presses. */
function arrange(body: PreparedBody, outer: Layer, beneath: readonly Layer[]): void {
  const def = outer.bound.part.def
  if (def.how !== 'worn') return
  const gap = def.clearance / 1000
  beneath.forEach((inner, j) => {
    if (!isCloth(inner.bound.part) || !isCloth(outer.bound.part) || layerNumber(inner.bound.part) >= def.layer) return
    // what is pressed flat beneath it need not be kept out
    if (def.presses?.includes(inner.slot)) return
    const pair = [outer.bound.part.hash, inner.bound.part.hash]
    const anchors = layerAnchors.get(outer.bound, inner.bound, () =>
      kept(body, 'anchors', pair, anchorsWith(gap), () =>
        anchorPoints(
          { positions: outer.bound.rest, triangles: outer.bound.triangles },
          surfacesOf(body, inner.bound)[0]!,
          gap,
          LAYER_TOLERANCE * body.scale,
          body.scale,
        ),
      ),
    )
    if (anchors.points.length) outer.onLayers.push({ layer: j, anchors })
    const lift = layerLift.get(outer.bound, inner.bound, () =>
      kept(body, 'lifted walls', pair, LIFT, () => liftOver(body, outer.bound, inner.bound, gap)),
    )
    if (!lift) return
    outer.liftedBy.push(inner.bound.part.hash)
    outer.rest = liftedRest(outer, lift)
  })
  const pressed = beneath.filter((inner) => def.presses?.includes(inner.slot))
  pressed.forEach((inner, k) => inner.pressed.push(pressOf(body, outer, inner, pressed.length - 1 - k)))
}

/** How `outer` presses `inner`, both as they lie on what is beneath them. */
function pressOf(body: PreparedBody, outer: Layer, inner: Layer, between: number): Press {
  const ways = presses.get(outer.bound, inner.bound, () => new Map<string, Press>())
  const key = JSON.stringify([outer.liftedBy, inner.liftedBy, between])
  let press = ways.get(key)
  if (!press) {
    const find = () => {
      const { triangles } = outer.bound
      const roof = outer.liftedBy.length ? new Surface(outer.rest, triangles) : surfacesOf(body, outer.bound)[0]!
      return pressUnder(body, inner.rest, inner.bound.triangles, roof, between)
    }
    press = kept(body, 'press under walls', [outer.bound.part.hash, inner.bound.part.hash, key], PRESS, find)
    ways.set(key, press)
  }
  return press
}

function liftOver(body: PreparedBody, outer: BoundPart, inner: BoundPart, gap: number): Float32Array | null {
  const shape = { positions: outer.rest, triangles: outer.triangles }
  return letOut(
    shape,
    pointNeighbours(outer.triangles, outer.rest.length / 3),
    surfacesOf(body, inner)[0]!,
    gap,
    LAYER_TOLERANCE * body.scale,
    body.scale,
  )
}

/** Ways to let one part out that are remembered. */
const MOST_LIFTS = 64

/** The rest shape after one more lift: the same array for the same lifts, so that more can be remembered by it. */
function liftedRest({ bound, rest, liftedBy }: Layer, lift: Float32Array): Float32Array {
  let ways = lifted.get(bound)
  if (!ways) lifted.set(bound, (ways = new Memory(MOST_LIFTS)))
  return ways.recall('rest', liftedBy.join(), () => strongestLift(bound.rest, rest, lift))
}

/** Of two ways to let a part out, the larger for each point. */
function strongestLift(base: Float32Array, now: Float32Array, lift: Float32Array): Float32Array {
  const out = now.slice()
  for (let i = 0; i < out.length; i += 3) {
    const before = Math.hypot(now[i]! - base[i]!, now[i + 1]! - base[i + 1]!, now[i + 2]! - base[i + 2]!)
    if (Math.hypot(lift[i]!, lift[i + 1]!, lift[i + 2]!) > before)
      for (let k = 0; k < 3; k++) out[i + k] = base[i + k]! + lift[i + k]!
  }
  return out
}

function skinAnchors(body: PreparedBody, bound: BoundPart): Anchors {
  return bodyAnchors.get(bound, body, () => {
    const def = bound.part.def
    const gap = def.how === 'worn' ? def.clearance / 1000 : 0
    const binds = def.how === 'worn' && def.binds?.length ? new Set(def.binds) : null
    const accept = (t: number) => !binds || binds.has(body.model.def.regions[body.regionOf[t]!]?.id ?? '')
    return kept(body, 'anchors', [bound.part.hash], anchorsWith(gap), () =>
      anchorPoints(
        { positions: bound.rest, triangles: bound.triangles },
        body.surface,
        gap,
        SKIN_TOLERANCE * body.scale,
        body.scale,
        accept,
      ),
    )
  })
}

/** The bones and limbs of all layers, each with a name that nobody else on the figure has. */
function bonesOf(body: PreparedBody, layers: readonly Layer[]): Pick<Outfit, 'bones' | 'limbs'> {
  const taken = new Set(body.model.bones.map((b) => b.name))
  const all: Pick<Outfit, 'bones' | 'limbs'> = { bones: [], limbs: [] }
  for (const { instance, bound } of layers) {
    const names = new Map<string, string>()
    for (const { name } of bound.bones) {
      let free = taken.has(name) ? `${instance}-${name}` : name
      for (let n = 2; taken.has(free); n++) free = `${instance}-${n}-${name}`
      taken.add(free)
      names.set(name, free)
    }
    const own = (name: string) => names.get(name) ?? name
    for (const bone of bound.bones)
      all.bones.push({
        ...bone,
        name: own(bone.name),
        parent: bone.parent === null ? null : own(bone.parent),
        ...(bone.fold !== undefined && { fold: own(bone.fold) }),
      })
    for (const limb of bound.part.def.limbs ?? [])
      all.limbs.push({ ...limb, id: limbIdOn(instance, limb.id), bones: limb.bones.map(own) })
  }
  return all
}

/** The deltas of a part for those of the body, by layer. Nothing is worked out twice. */
export function layerDeltas(layer: Layer, active: readonly ActiveDelta[]): ActiveDelta[] {
  return active.map(({ delta, weight }) => ({ delta: deltaOf(layer.bound, delta), weight }))
}

/** Moves every layer that follows the body with its deltas, from where it lies at rest. */
export function followBody(outfit: Outfit, active: readonly ActiveDelta[]): void {
  // what is new goes through all ties in a row, which keep how it lies over the body's points
  for (const { delta } of active) for (const layer of outfit.layers) if (!layer.ridesOn) deltaOf(layer.bound, delta)
  for (const layer of outfit.layers)
    if (!layer.ridesOn) applyDeltas(layer.rest, layerDeltas(layer, active), layer.positions)
}

/** Moves them on, with one delta more. */
export function followOn(outfit: Outfit, delta: Morph): void {
  for (const layer of outfit.layers) if (!layer.ridesOn) addDelta(deltaOf(layer.bound, delta), 1, layer.positions)
}

/**
 * Pushes every layer that has followed clear of the body and of the layers beneath, draws in what is pressed, and last
 * moves what was nudged on it.
 *
 * @param nudges by instance
 */
export function clearLayers(
  outfit: Outfit,
  bodyPositions: Float32Array,
  nudges: ReadonlyMap<string | null, Nudge> = new Map(),
): void {
  const ride = [0, 0, 0]
  for (const layer of outfit.layers) {
    if (layer.ridesOn) {
      rideAlong(outfit, layer.ridesOn, ride)
      for (let i = 0; i < layer.positions.length; i++) layer.positions[i] = layer.rest[i]! + ride[i % 3]!
      continue
    }
    if (layer.onBody) pushClear(layer.positions, bodyPositions, layer.onBody)
    for (const { layer: inner, anchors } of layer.onLayers)
      pushClear(layer.positions, outfit.layers[inner]!.positions, anchors)
    // last: what lies under another part may sink into what is beneath, but not come out above
    for (const press of layer.pressed) applyPress(layer.positions, bodyPositions, press)
    const nudge = nudges.get(layer.instance)
    if (nudge) addDelta(nudgeMoves(nudgeable(layer.bound, layer.positions), nudge), 1, layer.positions)
  }
}

/** Shapes every layer as the body's deltas do, and clears it. */
export function dressOutfit(outfit: Outfit, bodyPositions: Float32Array, active: readonly ActiveDelta[]): void {
  followBody(outfit, active)
  clearLayers(outfit, bodyPositions)
}

/** A part's surface, shaped so. */
export function nudgeable({ triangles, tie, rest }: BoundPart, positions: Float32Array): Nudgeable {
  return { positions, triangles, neighbours: tie.hanging?.neighbours ?? neighboursOf(triangles, rest.length / 3) }
}

const neighbours = new WeakMap<Uint32Array, Packed>()

function neighboursOf(triangles: Uint32Array, points: number): Packed {
  let found = neighbours.get(triangles)
  if (!found) neighbours.set(triangles, (found = pointNeighbours(triangles, points)))
  return found
}

/** Where the joints of the parts' bones stand on the shaped body, xyz a bone, metres. */
export function partJoints(outfit: Outfit, active: readonly ActiveDelta[]): Float32Array {
  const out = Float32Array.from(outfit.bones.flatMap((b) => b.at))
  let start = 0
  for (const { bound } of outfit.layers) {
    if (!bound.jointTie) continue
    const own = out.subarray(start, (start += bound.bones.length * 3))
    for (const { delta, weight } of active) addDelta(carryDelta(bound.jointTie, delta), weight, own)
  }
  return out
}
