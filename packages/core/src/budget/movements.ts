import { jointsAt, landmarkMoves } from '../body/PreparedBody.ts'
import { addDelta, type ActiveDelta } from '../body/shapeBody.ts'
import type { KeptMorph } from './mergeOutfit.ts'
import { lowestHeight } from '../body/standOnGround.ts'
import { partJoints, type Outfit } from '../dress/outfit.ts'
import type { Mesh } from '../mesh/Mesh.ts'
import { jointsOf, type RefinedRig } from '../rig/refineRig.ts'
import type { Skeleton } from '../rig/Skeleton.ts'

/** What a morph that is kept for the game does besides moving points: its joints go along. */
export interface Movement {
  /** The morph's name. */
  name: string
  /** A slider's range, played by a clip; or an expression, played by the game. */
  kind: KeptMorph['kind']
  /** How each bone's joint moves at full effect, the ground under the soles counted in; xyz a bone, metres. */
  joints: Float32Array
}

/**
 * The moves of joints that belong to a mesh's morphs.
 *
 * @param refined what the skeleton was made from
 * @param base   the shaped figure with the morphs it keeps, in their order
 * @param ground its points that stand on the ground
 */
export function movesOfMorphs(
  outfit: Outfit,
  skeleton: Skeleton,
  refined: RefinedRig,
  base: Mesh,
  ground: Uint32Array,
  active: readonly ActiveDelta[],
  kept: readonly KeptMorph[],
): Movement[] {
  const { body } = outfit
  const still = partJoints(outfit, active)
  const place = new Map(skeleton.bones.map((b, i) => [b.name, i]))
  return base.morphs.map((morph, m) => {
    const { acts, kind } = kept[m]!
    // the game plays a face by its morph alone: no joint goes along
    if (kind === 'expression') return { name: morph.name, kind, joints: new Float32Array(skeleton.bones.length * 3) }
    const marks = new Float32Array(body.landmarks.length)
    for (const { delta, weight } of acts) landmarkMoves(body, delta).forEach((v, i) => (marks[i]! += weight * v))
    const ofBody = jointsAt(body, marks)
    const ofParts = partJoints(outfit, [...active, ...acts]).map((v, i) => v - still[i]!)
    const moved = base.positions.slice()
    addDelta(morph, 1, moved)
    const lift = lowestHeight(base.positions, ground) - lowestHeight(moved, ground)
    const joints = new Float32Array(skeleton.bones.length * 3)
    const all = jointsOf(
      refined,
      Float32Array.from([...ofBody, ...ofParts]),
      moved.map((v, i) => v - base.positions[i]!),
    )
    // every bone that is kept takes the move of its own joint, not of those folded onto it
    refined.plan.bones.forEach(({ name }, from) => {
      const to = place.get(name)
      if (to === undefined) return
      for (let k = 0; k < 3; k++) joints[to * 3 + k] = all[from * 3 + k]! + (k === 1 ? lift : 0)
    })
    return { name: morph.name, kind, joints }
  })
}
