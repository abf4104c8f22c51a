import type { PreparedBody } from '../body/PreparedBody.ts'
import { facesOfRegion, seamArea } from '../body/seams.ts'
import { Surface } from '../mesh/Surface.ts'
import type { BoundPart } from './bindPart.ts'
import { checkPoses, poseCount, poseLayer } from './checkPoses.ts'
import type { LayerShape } from './clearance.ts'
import { coverageBits, coveredTriangles } from './coverage.ts'
import { innerWall } from './innerWall.ts'
import { BITS, kept } from './kept.ts'
import { isCloth, layerNumber, type Layer } from './Layer.ts'
import { PairMemory } from '../base/PairMemory.ts'

const surfaces = new WeakMap<BoundPart, Surface[]>()
const posedBodies = new WeakMap<PreparedBody, LayerShape[]>()
const bodyCover = new PairMemory<BoundPart, PreparedBody, Uint8Array[]>()
const layerCover = new PairMemory<BoundPart, BoundPart, Uint8Array[]>()
const linings = new PairMemory<BoundPart, PreparedBody, Uint8Array>()

/** The rest shape of a part in every checked pose, the rest pose first. */
export function surfacesOf(body: PreparedBody, bound: BoundPart): Surface[] {
  let made = surfaces.get(bound)
  if (!made) {
    const rig = checkPoses(body, bound.bones)
    made = rig.poses.map(
      (_, pose) => new Surface(poseLayer(rig, pose, bound.rest, bound.joints, bound.weights), bound.triangles),
    )
    surfaces.set(bound, made)
  }
  return made
}

function posedBody(body: PreparedBody): LayerShape[] {
  let made = posedBodies.get(body)
  if (!made) {
    const { positions, joints, weights } = body.model.mesh
    const rig = checkPoses(body)
    made = rig.poses.map((_, pose) => ({
      positions: poseLayer(rig, pose, positions, joints, weights),
      triangles: body.triangles,
    }))
    posedBodies.set(body, made)
  }
  return made
}

/** Coverage in every checked pose; what is bare in one pose need not be looked at in the next. */
function coverInPoses(inner: readonly LayerShape[], outer: readonly Surface[], scale: number): Uint8Array[] {
  let last: Uint8Array | undefined
  return inner.map((shape, pose) => (last = coverageBits(shape, outer[pose]!, scale, last)))
}

/** What of an outfit nobody can see, and what is the inside of cloth; one byte a triangle. */
export interface Covered {
  /** 1 where a triangle of the body cannot be seen (or has been replaced). */
  hiddenBody: Uint8Array
  /** The same for each layer. */
  hiddenLayers: Uint8Array[]
  /** 1 where a triangle of a layer is the inner wall of cloth: the first to go when triangles are short. */
  linings: Uint8Array[]
}

/** What can hide: plates on the face (layer 0) lie over too little of a triangle to do so. */
const canHide = ({ part }: BoundPart) => part.def.how === 'worn' && layerNumber(part) > 0

/** Whether a part lies over another that can be hidden at all. */
const liesOver = (outer: BoundPart, inner: BoundPart) =>
  canHide(outer) && inner.part.def.how === 'worn' && layerNumber(outer.part) > layerNumber(inner.part)

/** By pose, which samples of the body one part covers. */
const overBody = (body: PreparedBody, bound: BoundPart) =>
  bodyCover.get(bound, body, () =>
    kept(body, 'cover', [bound.part.hash], BITS, () =>
      coverInPoses(posedBody(body), surfacesOf(body, bound), body.scale),
    ),
  )

/** By pose, which samples of a part another covers. */
const overPart = (body: PreparedBody, inner: BoundPart, outer: BoundPart) =>
  layerCover.get(outer, inner, () =>
    kept(body, 'cover', [outer.part.hash, inner.part.hash], BITS, () =>
      coverInPoses(surfacesOf(body, inner), surfacesOf(body, outer), body.scale),
    ),
  )

/** 1 where a triangle is covered in every checked pose, by all that cover it together: in one pose is not enough. */
function coveredInAll(body: PreparedBody, covers: readonly Uint8Array[][], count: number): Uint8Array {
  const inPose = (pose: number) =>
    coveredTriangles(
      covers.map((bits) => bits[pose]!),
      count,
    )
  const hidden = inPose(0)
  for (let pose = 1; pose < poseCount(body); pose++) {
    const here = inPose(pose)
    for (let t = 0; t < count; t++) hidden[t]! &= here[t]!
  }
  return hidden
}

/** What of the body one part hides by itself, covered or replaced: 1 a triangle. */
export function hiddenOfBody(body: PreparedBody, bound: BoundPart): Uint8Array {
  const count = body.triangles.length / 3
  const hidden = canHide(bound) ? coveredInAll(body, [overBody(body, bound)], count) : new Uint8Array(count)
  hideReplaced(body, bound, hidden)
  return hidden
}

/** What of one part another hides by itself: 1 a triangle; null where it does not lie over it. */
export function hiddenOfPart(body: PreparedBody, inner: BoundPart, outer: BoundPart): Uint8Array | null {
  if (!liesOver(outer, inner)) return null
  return coveredInAll(body, [overPart(body, inner, outer)], inner.triangles.length / 3)
}

/** Finds what is covered in every checked pose. */
export function findCovered(body: PreparedBody, layers: readonly Layer[]): Covered {
  const all = layers.map((l) => l.bound)
  const hiddenBody = coveredInAll(
    body,
    all.filter(canHide).map((bound) => overBody(body, bound)),
    body.triangles.length / 3,
  )
  for (const bound of all) hideReplaced(body, bound, hiddenBody)
  const hiddenLayers = all.map((inner) => {
    const over = all.filter((outer) => liesOver(outer, inner)).map((outer) => overPart(body, inner, outer))
    const count = inner.triangles.length / 3
    return over.length ? coveredInAll(body, over, count) : new Uint8Array(count)
  })
  // what sits on something that is not seen there is not seen either
  layers.forEach(({ ridesOn, bound }, i) => {
    if (ridesOn && hiddenLayers[ridesOn.layer]![bound.part.spot!.triangle]) hiddenLayers[i]!.fill(1)
  })
  return { hiddenBody, hiddenLayers, linings: all.map((bound) => liningOf(body, bound)) }
}

function liningOf(body: PreparedBody, bound: BoundPart): Uint8Array {
  if (!isCloth(bound.part)) return new Uint8Array(bound.triangles.length / 3)
  const find = () =>
    innerWall(
      { positions: bound.rest, triangles: bound.triangles },
      surfacesOf(body, bound)[0]!,
      body.surface,
      body.scale,
    )
  return linings.get(bound, body, () => kept(body, 'lining', [bound.part.hash], BITS, () => [find()])[0]!)
}

function hideReplaced(body: PreparedBody, { part: { def } }: BoundPart, hidden: Uint8Array): void {
  if (def.how !== 'replaces') return
  const faces = seamArea(body, def.seam)?.faces ?? facesOfRegion(body, regionOfSeam(body, def.seam))
  for (let t = 0; t < hidden.length; t++) if (faces[t]) hidden[t] = 1
}

const regionOfSeam = (body: PreparedBody, id: string) => body.model.def.seams.find((s) => s.id === id)?.region ?? ''
