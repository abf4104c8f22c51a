import { jointsAt, type PreparedBody } from './body/PreparedBody.ts'
import { addDelta, applyDeltas, shapeLandmarks, type ActiveDelta } from './body/shapeBody.ts'
import { standOnGround } from './body/standOnGround.ts'
import type { Merged } from './budget/mergeOutfit.ts'
import { nudgeMoves } from './dress/nudge.ts'
import { clearLayers, followBody, followOn, partJoints, type Outfit } from './dress/outfit.ts'
import { computeNormals, type NormalScratch } from './mesh/normals.ts'
import type { Resolved } from './recipe/resolve.ts'

/** An outfit on its body, and the arrays that shaping writes into. */
export interface Dressed {
  body: PreparedBody
  outfit: Outfit
  merged: Merged
  ground: Uint32Array
  scratch: NormalScratch
  /** Shapes of this outfit that are not remembered any more. */
  spare: Shape[]
  /** The one made last, whose normals may be the same for the most part. */
  last: Shape | null
}

export interface Shape {
  /** The outfit and what its sliders play. */
  slidersKey: string
  /** As sliders alone make it: nothing nudged, nothing pushed clear. */
  followed: Float32Array
  positions: Float32Array
  normals: Float32Array
  landmarks: Float32Array
  /** Joints of the body's bones, then of the parts', lifted; xyz a bone. */
  joints: Float32Array
  lift: number
  /** Where it goes when it is forgotten. */
  spare: Shape[]
}

/** What is asked of a shape. */
export interface Shaping {
  /** What the sliders play. */
  shaping: readonly ActiveDelta[]
  nudges: Resolved['nudges']
  /** The outfit and what the sliders play, as a text. */
  slidersKey: string
}

/**
 * What a dragging hand waits for: body and layers follow, soles find the ground, normals.
 *
 * @param before another shape of this outfit with the same sliders, nudged otherwise: what is the same is taken from it
 */
export function makeShape(dressed: Dressed, { shaping, nudges, slidersKey }: Shaping, before?: Shape): Shape {
  const { body, outfit, merged, ground, scratch } = dressed
  // what nobody can come back to is written over; only as many are made as are remembered, and one
  const shape = dressed.spare.pop() ?? emptyShape(body, merged, dressed.spare)
  const { positions } = merged.mesh
  const active = [...shaping]
  const nudge = nudges.get(null)
  if (before) positions.set(before.followed)
  else {
    applyDeltas(body.model.mesh.positions, shaping, merged.bodyPositions)
    followBody(outfit, shaping)
  }
  shape.slidersKey = slidersKey
  shape.followed.set(positions)
  if (nudge) {
    // one more delta of the body, of this very shape: what is worn and the joints go along
    const surface = { positions: merged.bodyPositions, triangles: body.triangles, neighbours: body.neighbours }
    const delta = nudgeMoves(surface, nudge)
    active.push({ delta, weight: 1 })
    addDelta(delta, 1, merged.bodyPositions)
    followOn(outfit, delta)
  }
  clearLayers(outfit, merged.bodyPositions, nudges)
  shape.positions.set(positions)
  shapeLandmarks(body, active, shape.landmarks)
  shape.lift = standOnGround(shape.positions, ground)
  // what draws on a face leaves the rest where it was; a shape that is written over is no more what it was
  const like = before ?? (dressed.last === shape ? null : dressed.last)
  computeNormals(merged.mesh, shape.positions, shape.normals, scratch, like ?? undefined)
  dressed.last = shape
  shape.joints.set(jointsAt(body, shape.landmarks))
  shape.joints.set(partJoints(outfit, active), body.model.bones.length * 3)
  for (let i = 1; i < shape.joints.length; i += 3) shape.joints[i]! += shape.lift
  return shape
}

function emptyShape(body: PreparedBody, { mesh, bones }: Merged, spare: Shape[]): Shape {
  return {
    spare,
    slidersKey: '',
    followed: new Float32Array(mesh.positions.length),
    positions: new Float32Array(mesh.positions.length),
    normals: new Float32Array(mesh.normals.length),
    landmarks: new Float32Array(body.landmarks.length),
    joints: new Float32Array((body.model.bones.length + bones.length) * 3),
    lift: 0,
  }
}

/** Landmarks of a shaped body in the figure's space, by id. */
export function namedLandmarks(body: PreparedBody, { landmarks, lift }: Shape): Map<string, [number, number, number]> {
  return new Map(
    [...body.landmarkIndex].map(([id, i]) => [
      id,
      [landmarks[i * 3]!, landmarks[i * 3 + 1]! + lift, landmarks[i * 3 + 2]!],
    ]),
  )
}
