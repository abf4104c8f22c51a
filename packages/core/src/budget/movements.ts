import { jointsAt, landmarkMoves } from '../body/PreparedBody.ts'
import { addDelta, type ActiveDelta } from '../body/shapeBody.ts'
import { lowestHeight } from '../body/standOnGround.ts'
import { partJoints, type Outfit } from '../dress/outfit.ts'
import type { Mesh } from '../mesh/Mesh.ts'
import type { Skeleton } from '../rig/Skeleton.ts'

/** What a slider that is kept for the game does besides moving points: its joints go along. */
export interface Movement {
  /** The morph's name. */
  name: string
  /** How each bone's joint moves at full effect, the ground under the soles counted in; xyz a bone, metres. */
  joints: Float32Array
}

/**
 * The moves of joints that belong to a mesh's morphs.
 *
 * @param base   the shaped figure with the morphs it keeps
 * @param ground its points that stand on the ground
 */
export function movementsOf(
  outfit: Outfit,
  skeleton: Skeleton,
  base: Mesh,
  ground: Uint32Array,
  active: readonly ActiveDelta[],
): Movement[] {
  const { body } = outfit
  const still = partJoints(outfit, active)
  const names = [...body.model.bones, ...outfit.bones].map((b) => b.name)
  return base.morphs.map((morph) => {
    const delta = body.model.mesh.morphs.find((m) => m.name === morph.name)!
    const ofBody = jointsAt(body, landmarkMoves(body, delta))
    const ofParts = partJoints(outfit, [...active, { delta, weight: 1 }]).map((v, i) => v - still[i]!)
    const moved = base.positions.slice()
    addDelta(morph, 1, moved)
    const lift = lowestHeight(base.positions, ground) - lowestHeight(moved, ground)
    const joints = new Float32Array(skeleton.bones.length * 3)
    const all = Float32Array.from([...ofBody, ...ofParts])
    // every bone that is kept takes the move of its own joint, not of those folded onto it
    skeleton.fold.forEach((to, planned) => {
      if (skeleton.bones[to]!.name !== names[planned]) return
      for (let k = 0; k < 3; k++) joints[to * 3 + k] = all[planned * 3 + k]! + (k === 1 ? lift : 0)
    })
    return { name: morph.name, joints }
  })
}
