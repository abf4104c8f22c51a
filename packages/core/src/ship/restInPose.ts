import { Quaternion, Vector3 } from 'three'
import type { Figure } from '../build.ts'
import { addDelta } from '../body/shapeBody.ts'
import { pointsInUse, type Mesh, type Morph } from '../mesh/Mesh.ts'
import { computeNormals, createNormalScratch } from '../mesh/normals.ts'
import type { Clip } from '../motion/Clip.ts'
import { setDown } from '../motion/poses/changePose.ts'
import { takePoints } from '../motion/soles.ts'
import type { HelperPoint } from '../rig/helperPoints.ts'
import { createWorldPose, skinPoints, solveForward, type Jointed, type Pose, type WorldPose } from '../rig/Pose.ts'

/** A figure that stands in another pose at rest, and what turns all that was made for it into what fits it. */
export interface Rested {
  figure: Figure
  clip: (clip: Clip) => Clip
  point: (point: HelperPoint) => HelperPoint
}

/**
 * Makes a pose the rest pose of a figure: its points are where the skin carries them there, on the ground, its joints are
 * where they are then, unturned, and clips turn from there. Whatever a clip asks for, joints come to the same places as
 * before; the skin is bent from the new rest, so that there it is as linear blend skinning of the pose left it.
 */
export function restInPose(figure: Figure, asked: Pose): Rested {
  const { bones } = figure.skeleton
  // a point that no corner has is not drawn, and stands nowhere
  const pose = setDown(bones, takePoints(figure.mesh, pointsInUse(figure.mesh)), asked)
  const world = solveForward(bones, pose, createWorldPose(bones))
  const meshes = [figure.mesh, ...figure.lods]
  const joints = figure.movements.map((movement) => jointsMoved(bones, pose, world, movement.joints))
  const posed = meshes.map((mesh) => posedMesh(mesh, figure, pose, world))
  const turnOf = (bone: number) => new Quaternion().fromArray(world.turns, bone * 4)
  const placeOf = (bone: number) => new Vector3().fromArray(world.joints, bone * 3)
  const carried = (bone: number, at: readonly number[]) =>
    new Vector3(...(at as [number, number, number]))
      .sub(new Vector3(...bones[bone]!.at))
      .applyQuaternion(turnOf(bone))
      .add(placeOf(bone))
      .toArray()
  return {
    figure: {
      ...figure,
      mesh: posed[0]!,
      lods: posed.slice(1),
      skeleton: {
        ...figure.skeleton,
        bones: bones.map((bone, i) => ({ ...bone, at: placeOf(i).toArray(), tail: carried(i, bone.tail) })),
      },
      movements: figure.movements.map((movement, m) => ({ ...movement, joints: joints[m]! })),
    },
    clip: (clip) => clipFrom(clip, bones, world),
    point: (point) => ({ ...point, at: carried(point.bone, point.at) }),
  }
}

/** Bones with their joints elsewhere, as a slider that is kept for the game moves them. */
const moved = (bones: Jointed, by: ArrayLike<number>): Jointed =>
  bones.map(({ parent, at }, i) => ({ parent, at: at.map((v, k) => v + by[i * 3 + k]!) }))

const rooted = (pose: Pose, by: ArrayLike<number>): Pose => ({
  turns: pose.turns,
  root: pose.root.map((v, k) => v + by[k]!) as Pose['root'],
})

/** How joints move in the pose where they move so at rest. */
function jointsMoved(bones: Jointed, pose: Pose, world: WorldPose, by: Float32Array): Float32Array {
  const own = moved(bones, by)
  const there = solveForward(own, rooted(pose, by), createWorldPose(own))
  return there.joints.map((v, i) => v - world.joints[i]!)
}

/** Points that move by less are left out of a morph, metres. */
const STILL = 1e-7

function posedMesh(mesh: Mesh, { skeleton: { bones }, movements }: Figure, pose: Pose, world: WorldPose): Mesh {
  const { joints, weights } = mesh
  const positions = skinPoints(bones, world, mesh.positions, joints, weights)
  const normals = new Float32Array(mesh.normals.length)
  computeNormals(mesh, positions, normals, createNormalScratch(mesh), mesh)
  const morphs = mesh.morphs.map((morph, m): Morph => {
    const by = movements[m]!.joints
    const own = moved(bones, by)
    const there = solveForward(own, rooted(pose, by), createWorldPose(own))
    const shaped = mesh.positions.slice()
    addDelta(morph, 1, shaped)
    const skinned = skinPoints(own, there, shaped, joints, weights)
    // points that the slider leaves alone may hang on joints that it moves
    const way = skinned.map((v, i) => v - positions[i]!)
    const going: number[] = []
    for (let i = 0; i < way.length; i += 3)
      if (Math.max(Math.abs(way[i]!), Math.abs(way[i + 1]!), Math.abs(way[i + 2]!)) > STILL) going.push(i / 3)
    const deltas = new Float32Array(going.length * 3)
    going.forEach((p, i) => deltas.set(way.subarray(p * 3, p * 3 + 3), i * 3))
    return { ...morph, points: Uint32Array.from(going), deltas }
  })
  return { ...mesh, positions, normals, morphs }
}

/** A clip from another rest: turns in the world are taken from those of the pose; what does not turn any more may have to. */
function clipFrom(clip: Clip, bones: Figure['skeleton']['bones'], { turns }: WorldPose): Clip {
  const n = clip.times.length
  const rotations = bones.map(() => new Float32Array(n * 4))
  const back = bones.map((_, b) => new Quaternion().fromArray(turns, b * 4).invert())
  // of each bone in the world: as the clip has it, and from the new rest
  const world = bones.map(() => new Quaternion())
  const from = bones.map(() => new Quaternion())
  const own = new Quaternion()
  for (let s = 0; s < n; s++)
    bones.forEach(({ parent }, b) => {
      const r = clip.rotations[b]
      if (r) own.fromArray(r, s * 4)
      else own.identity()
      if (parent < 0) world[b]!.copy(own)
      else world[b]!.multiplyQuaternions(world[parent]!, own)
      from[b]!.multiplyQuaternions(world[b]!, back[b]!)
      if (parent < 0) own.copy(from[b]!)
      else own.copy(from[parent]!).invert().multiply(from[b]!)
      own.normalize().toArray(rotations[b]!, s * 4)
    })
  return { ...clip, rotations: rotations.map((r) => oneWay(r)) }
}

/** Turns that follow each other by the shorter way, as engines go from key to key; null where there are none. */
export function oneWay(turns: Float32Array): Float32Array | null {
  let still = true
  for (let i = 0; i < turns.length; i += 4) {
    let dot = 0
    for (let k = 0; k < 4; k++) dot += turns[i + k]! * (i ? turns[i - 4 + k]! : k === 3 ? 1 : 0)
    if (dot < 0) for (let k = 0; k < 4; k++) turns[i + k]! *= -1
    still &&= Math.abs(turns[i]!) + Math.abs(turns[i + 1]!) + Math.abs(turns[i + 2]!) < 1e-6
  }
  return still ? null : turns
}
