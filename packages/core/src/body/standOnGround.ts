import type { BodyModel } from '../kit/Kit.ts'
import { pointsInUse, type Mesh } from '../mesh/Mesh.ts'

/**
 * The points that stand on the ground: visible ones that hang mostly on bones that the plan stands on;
 * every visible one of a body that stands on no bone.
 */
export function groundPoints(
  mesh: Pick<Mesh, 'cornerPoints' | 'joints' | 'weights'>,
  { bones, plan }: Pick<BodyModel, 'bones' | 'plan'>,
): Uint32Array {
  const feet = bones.map((b) => plan.ground.includes(b.name))
  const seen = pointsInUse(mesh)
  const found = seen.filter((p) => {
    let share = 0
    for (let k = 0; k < 4; k++) if (feet[mesh.joints[p * 4 + k]!]) share += mesh.weights[p * 4 + k]!
    return share > 0.5
  })
  return found.length ? found : seen
}

/** The height of the lowest of some points, metres; 0 of none. */
export function lowestHeight(positions: Float32Array, points: Uint32Array): number {
  let lowest = Infinity
  for (let i = 0; i < points.length; i++) lowest = Math.min(lowest, positions[points[i]! * 3 + 1]!)
  return Number.isFinite(lowest) ? lowest : 0
}

/** Moves everything up or down so that the lowest ground point is at height zero; returns by how much. */
export function standOnGround(positions: Float32Array, ground: Uint32Array): number {
  const lift = -lowestHeight(positions, ground)
  for (let i = 1; i < positions.length; i += 3) positions[i]! += lift
  return lift
}
