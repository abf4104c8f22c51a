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

/** Finds what is covered in every checked pose. */
export function findCovered(body: PreparedBody, layers: readonly Pick<Layer, 'bound' | 'ridesOn'>[]): Covered {
  // plates on the face (layer 0) lie over too little of a triangle to hide it
  const worn = layers.filter((l) => l.bound.part.def.how === 'worn' && layerNumber(l.bound.part) > 0)
  const poses = poseCount(body)
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
    bodyCover.get(l.bound, body, () =>
      kept(body, 'cover', [l.bound.part.hash], BITS, () =>
        coverInPoses(posedBody(body), surfacesOf(body, l.bound), body.scale),
      ),
    ),
  )
  const hiddenBody = inEveryPose((pose) => overBody.map((bits) => bits[pose]!), body.triangles.length / 3)
  for (const layer of layers) hideReplaced(body, layer, hiddenBody)
  const hiddenLayers = layers.map((inner) => {
    const count = inner.bound.triangles.length / 3
    if (inner.bound.part.def.how !== 'worn') return new Uint8Array(count)
    const over = worn
      .filter((outer) => layerNumber(outer.bound.part) > layerNumber(inner.bound.part))
      .map((outer) =>
        layerCover.get(outer.bound, inner.bound, () =>
          kept(body, 'cover', [outer.bound.part.hash, inner.bound.part.hash], BITS, () =>
            coverInPoses(surfacesOf(body, inner.bound), surfacesOf(body, outer.bound), body.scale),
          ),
        ),
      )
    return over.length ? inEveryPose((pose) => over.map((bits) => bits[pose]!), count) : new Uint8Array(count)
  })
  // what sits on something that is not seen there is not seen either
  layers.forEach(({ ridesOn, bound }, i) => {
    if (ridesOn && hiddenLayers[ridesOn.layer]![bound.part.spot!.triangle]) hiddenLayers[i]!.fill(1)
  })
  return { hiddenBody, hiddenLayers, linings: layers.map((l) => liningOf(body, l.bound)) }
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

function hideReplaced(body: PreparedBody, layer: Pick<Layer, 'bound'>, hidden: Uint8Array): void {
  const def = layer.bound.part.def
  if (def.how !== 'replaces') return
  const faces = seamArea(body, def.seam)?.faces ?? facesOfRegion(body, regionOfSeam(body, def.seam))
  for (let t = 0; t < hidden.length; t++) if (faces[t]) hidden[t] = 1
}

const regionOfSeam = (body: PreparedBody, id: string) => body.model.def.seams.find((s) => s.id === id)?.region ?? ''
