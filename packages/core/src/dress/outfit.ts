import { pointNeighbours } from '../mesh/adjacency.ts'
import { Surface } from '../mesh/Surface.ts'
import type { BodyModel, PartModel } from '../kit/readKit.ts'
import type { PreparedBody } from '../body/PreparedBody.ts'
import { applyMorphs, type MorphStrengths } from '../body/shapeBody.ts'
import { anchorPoints, letOut, pushClear, type Anchors, type LayerShape } from './clearance.ts'
import { innerWall } from './innerWall.ts'
import { applyPress, pressUnder, type Press } from './press.ts'
import { bindPart, type BoundPart } from './bindPart.ts'
import { coverageBits, coveredTriangles } from './coverage.ts'
import { checkPoses, poseLayer } from './checkPoses.ts'

/** One worn, attached or replacing part on the figure, with the layers it has to stay clear of. */
export interface Layer {
  slot: string
  bound: BoundPart
  /** The part's rest shape, let out over the layers beneath: xyz a point. */
  rest: Float32Array
  /** Shaped and pushed clear: xyz a point. Rewritten by every `dressOutfit`. */
  positions: Float32Array
  /** Parts beneath that `rest` was let out for, by id. */
  liftedBy: string[]
  onBody: Anchors | null
  /** How parts above press it flat. */
  pressed: Press[]
  /** Anchors on layers beneath, by their place in the outfit. */
  onLayers: { layer: number; anchors: Anchors }[]
}

/** Everything on a figure that does not change while sliders move. */
export interface Outfit {
  body: PreparedBody
  layers: Layer[]
  /** 1 where a triangle of the body cannot be seen (or has been replaced). */
  hiddenBody: Uint8Array
  /** The same for each layer. */
  hiddenLayers: Uint8Array[]
  /** 1 where a triangle of a layer is the inner wall of cloth: the first to go when triangles are short. */
  linings: Uint8Array[]
}

const SKIN_TOLERANCE = 0.006
const LAYER_TOLERANCE = 0.03

/** Results that depend on a pair of models only, kept as long as the models live. */
class PairMemory<A extends object, B extends object, V> {
  private readonly rows = new WeakMap<A, WeakMap<B, V>>()
  get(a: A, b: B, make: () => V): V {
    let row = this.rows.get(a)
    if (!row) this.rows.set(a, (row = new WeakMap()))
    let value = row.get(b)
    if (value === undefined) row.set(b, (value = make()))
    return value
  }
}

const surfaces = new WeakMap<BoundPart, Surface[]>()
const bodyAnchors = new PairMemory<BoundPart, PreparedBody, Anchors>()
const layerAnchors = new PairMemory<BoundPart, BoundPart, Anchors>()
const bodyCover = new PairMemory<BoundPart, PreparedBody, Uint8Array[]>()
const layerLift = new PairMemory<BoundPart, BoundPart, { by: Float32Array | null }>()
const linings = new PairMemory<BoundPart, PreparedBody, Uint8Array>()
const presses = new PairMemory<BoundPart, BoundPart, Map<string, Press>>()
const layerCover = new PairMemory<BoundPart, BoundPart, Uint8Array[]>()
const posedBodies = new WeakMap<BodyModel, { positions: Float32Array; triangles: Uint32Array }[]>()

/** The rest shape of a part in every checked pose, the rest pose first. */
function surfacesOf(body: PreparedBody, bound: BoundPart): Surface[] {
  let made = surfaces.get(bound)
  if (!made)
    surfaces.set(
      bound,
      (made = checkPoses(body).map(
        (pose) => new Surface(poseLayer(pose, bound.rest, bound.joints, bound.weights), bound.triangles),
      )),
    )
  return made
}

function posedBody(body: PreparedBody): { positions: Float32Array; triangles: Uint32Array }[] {
  let made = posedBodies.get(body.model)
  const { positions, joints, weights } = body.model.mesh
  if (!made)
    posedBodies.set(
      body.model,
      (made = checkPoses(body).map((pose) => ({
        positions: poseLayer(pose, positions, joints, weights),
        triangles: body.triangles,
      }))),
    )
  return made
}

/** Cloth lies in layers; what sits on the face or in the hand (clearance 0) does not. */
export function isCloth(part: PartModel): boolean {
  return part.def.how === 'worn' && part.def.clearance > 0
}

function layerNumber(part: PartModel): number {
  return part.def.how === 'worn' ? part.def.layer : -1
}

/**
 * Puts parts on a body: binds them, finds what each must stay clear of and what is covered in
 * every checked pose. `parts` may be in any order; layers come out from the skin outward.
 */
export function assembleOutfit(body: PreparedBody, parts: readonly { slot: string; part: PartModel }[]): Outfit {
  const layers: Layer[] = parts
    .map(({ slot, part }) => ({ slot, bound: bindPart(body, part) }))
    .sort((a, b) => layerNumber(a.bound.part) - layerNumber(b.bound.part) || (a.slot < b.slot ? -1 : 1))
    .map(({ slot, bound }) => ({
      slot,
      bound,
      rest: bound.rest,
      positions: new Float32Array(bound.rest.length),
      liftedBy: [],
      onBody: bound.part.def.how === 'worn' ? skinAnchors(body, bound) : null,
      pressed: [],
      onLayers: [],
    }))
  layers.forEach((outer, i) => {
    const def = outer.bound.part.def
    if (def.how !== 'worn') return
    const beneath = layers.slice(0, i)
    beneath.forEach((inner, j) => {
      if (!isCloth(inner.bound.part) || !isCloth(outer.bound.part) || layerNumber(inner.bound.part) >= def.layer) return
      // what is pressed flat beneath it need not be kept out
      if (def.presses?.includes(inner.slot)) return
      const anchors = layerAnchors.get(outer.bound, inner.bound, () =>
        anchorPoints(
          { positions: outer.bound.rest, triangles: outer.bound.triangles },
          surfacesOf(body, inner.bound)[0]!,
          def.clearance / 1000,
          LAYER_TOLERANCE,
        ),
      )
      if (anchors.points.length) outer.onLayers.push({ layer: j, anchors })
      const lift = layerLift.get(outer.bound, inner.bound, () => ({
        by: liftOver(body, outer.bound, inner.bound, def.clearance / 1000),
      })).by
      if (!lift) return
      outer.rest = strongestLift(outer.bound.rest, outer.rest, lift)
      outer.liftedBy.push(inner.bound.part.def.id)
    })
    const pressed = beneath.filter((inner) => def.presses?.includes(inner.slot))
    pressed.forEach((inner, k) => inner.pressed.push(pressOf(body, outer, inner, pressed.length - 1 - k)))
  })
  // plates on the face (layer 0) lie over too little of a triangle to hide it
  const worn = layers.filter((l) => l.bound.part.def.how === 'worn' && layerNumber(l.bound.part) > 0)
  const bodyTriangles = body.triangles.length / 3
  const poses = checkPoses(body).length
  // covered in one pose is not enough: all of them must agree
  const inEveryPose = (bitsInPose: (pose: number) => Uint8Array[], count: number) => {
    const hidden = coveredTriangles(bitsInPose(0), count)
    for (let pose = 1; pose < poses; pose++) {
      const here = coveredTriangles(bitsInPose(pose), count)
      for (let t = 0; t < count; t++) hidden[t]! &= here[t]!
    }
    return hidden
  }
  const overBody = worn.map((l) =>
    bodyCover.get(l.bound, body, () => coverInPoses(posedBody(body), surfacesOf(body, l.bound))),
  )
  const hiddenBody = inEveryPose((pose) => overBody.map((bits) => bits[pose]!), bodyTriangles)
  for (const layer of layers) hideReplaced(body, layer, hiddenBody)
  const hiddenLayers = layers.map((inner) => {
    const count = inner.bound.triangles.length / 3
    if (inner.bound.part.def.how !== 'worn') return new Uint8Array(count)
    const over = worn
      .filter((outer) => layerNumber(outer.bound.part) > layerNumber(inner.bound.part))
      .map((outer) =>
        layerCover.get(outer.bound, inner.bound, () =>
          coverInPoses(surfacesOf(body, inner.bound), surfacesOf(body, outer.bound)),
        ),
      )
    return over.length ? inEveryPose((pose) => over.map((bits) => bits[pose]!), count) : new Uint8Array(count)
  })
  const linings = layers.map((l) =>
    isCloth(l.bound.part) ? liningOf(body, l.bound) : new Uint8Array(l.bound.triangles.length / 3),
  )
  return { body, layers, hiddenBody, hiddenLayers, linings }
}

/** Coverage in every checked pose; what is bare in one pose need not be looked at in the next. */
function coverInPoses(inner: readonly LayerShape[], outer: readonly Surface[]): Uint8Array[] {
  let last: Uint8Array | undefined
  return inner.map((shape, pose) => (last = coverageBits(shape, outer[pose]!, last)))
}

function liningOf(body: PreparedBody, bound: BoundPart): Uint8Array {
  return linings.get(bound, body, () =>
    innerWall({ positions: bound.rest, triangles: bound.triangles }, surfacesOf(body, bound)[0]!, body.surface),
  )
}

/** How `outer` presses `inner`, both as they lie on what is beneath them. */
function pressOf(body: PreparedBody, outer: Layer, inner: Layer, between: number): Press {
  const kept = presses.get(outer.bound, inner.bound, () => new Map<string, Press>())
  const key = JSON.stringify([outer.liftedBy, inner.liftedBy, between])
  let press = kept.get(key)
  if (!press) {
    const { triangles } = outer.bound
    const roof = outer.liftedBy.length ? new Surface(outer.rest, triangles) : surfacesOf(body, outer.bound)[0]!
    kept.set(key, (press = pressUnder(body, inner.rest, inner.bound.triangles, roof, between)))
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
    LAYER_TOLERANCE,
  )
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
    return anchorPoints(
      { positions: bound.rest, triangles: bound.triangles },
      body.surface,
      gap,
      SKIN_TOLERANCE,
      accept,
    )
  })
}

function hideReplaced(body: PreparedBody, layer: Layer, hidden: Uint8Array): void {
  const def = layer.bound.part.def
  if (def.how !== 'replaces') return
  const region = body.model.def.seams.find((s) => s.id === def.seam)?.region
  const index = body.model.def.regions.findIndex((r) => r.id === region)
  for (let t = 0; t < hidden.length; t++) if (body.regionOf[t] === index) hidden[t] = 1
}

/** Shapes every layer and pushes it clear of the body and the layers beneath. Allocates nothing. */
export function dressOutfit(outfit: Outfit, bodyPositions: Float32Array, strengths: MorphStrengths): void {
  for (const layer of outfit.layers) {
    applyMorphs(layer.rest, layer.bound.morphs, strengths, layer.positions)
    if (layer.onBody) pushClear(layer.positions, bodyPositions, layer.onBody)
    for (const { layer: inner, anchors } of layer.onLayers)
      pushClear(layer.positions, outfit.layers[inner]!.positions, anchors)
    // last: what lies under another part may sink into what is beneath, but not come out above
    for (const press of layer.pressed) applyPress(layer.positions, bodyPositions, press)
  }
}
