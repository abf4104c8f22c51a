import { pointsInUse, type Mesh } from '../mesh/Mesh.ts'
import { createWorldPose, skinPoints, solveForward } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { easeUp } from './easeUp.ts'
import type { Leg } from './Leg.ts'
import type { Moment } from './plantFeet.ts'
import { lowestOf, farthestFrom, takePoints, type Skin } from './soles.ts'
import { placeFoot } from './step.ts'

/** A trunk that is this near the ground, as a share of the lowest hips' height, may come down to it in motion. */
const NEAR = 0.7
/** Of it what lies under this share of the highest hips' height is looked at. */
const LOW = 1.2
/** So far it is kept off the ground, metres. */
const CLEAR = 0.004

/** What of a figure's trunk can come down to the ground: the drawn points that hang on no limb; null where it is carried high. */
export function bellyOf(mesh: Skin & Pick<Mesh, 'cornerPoints'>, { limbs, bones }: Skeleton): Skin | null {
  const index = new Map(bones.map((b, i) => [b.name, i]))
  const hips = limbs.flatMap((l) => (l.kind === 'leg' ? [bones[index.get(l.bones[0]!)!]!.at[1]] : []))
  if (hips.length === 0) return null
  const [lowest, highest] = [Math.min(...hips), Math.max(...hips)]
  const own = onNoLimb(mesh, { limbs, bones }).filter((p) => mesh.positions[p * 3 + 1]! <= LOW * highest)
  return own.some((p) => mesh.positions[p * 3 + 1]! < NEAR * lowest) ? takePoints(mesh, own) : null
}

/** All of a figure's trunk, head and all: of one who may lie down. */
export function trunkOf(mesh: Skin & Pick<Mesh, 'cornerPoints'>, skeleton: Pick<Skeleton, 'limbs' | 'bones'>): Skin {
  return takePoints(mesh, onNoLimb(mesh, skeleton))
}

/** The drawn points that hang on no limb, in their order. */
function onNoLimb(
  mesh: Skin & Pick<Mesh, 'cornerPoints'>,
  { limbs, bones }: Pick<Skeleton, 'limbs' | 'bones'>,
): Uint32Array {
  const names = new Set(limbs.flatMap((l) => l.bones))
  const ofLimbs = new Set(bones.flatMap(({ name }, b) => (names.has(name) ? [b] : [])))
  return pointsInUse(mesh).filter((p) => {
    let share = 0
    for (let k = 0; k < 4; k++) if (ofLimbs.has(mesh.joints[p * 4 + k]!)) share += mesh.weights[p * 4 + k]!
    return share < 0.5
  })
}

/** Raises the root where the trunk would go through the ground, evenly over time; feet stay where they are. Changes the moments' poses. */
export function keepTrunkUp(
  skeleton: Skeleton,
  legs: readonly Leg[],
  { positions, joints, weights }: Skin,
  moments: Moment[],
  loop: boolean,
): void {
  const { bones } = skeleton
  const last = loop ? moments.length - 1 : moments.length
  if (last < 1) return
  const world = createWorldPose(bones)
  const posed = new Float32Array(positions.length)
  const reach = farthestFrom({ positions, joints, weights }, bones)
  const lacks = moments.slice(0, last).map(({ pose }) => {
    solveForward(bones, pose, world)
    // most of the time it is far above the ground
    if (reach.every(([bone, far]) => world.joints[bone * 3 + 1]! > far + CLEAR)) return 0
    skinPoints(bones, world, positions, joints, weights, posed)
    return Math.max(0, CLEAR - lowestOf(posed))
  })
  if (lacks.every((v) => v === 0)) return
  const eased = easeUp(lacks, loop)
  for (let m = 0; m < last; m++) {
    const { pose, steps } = moments[m]!
    pose.root[1] += eased[m]!
    legs.forEach((leg, l) => placeFoot(leg, skeleton, steps[l]!, pose))
  }
  if (!loop) return
  moments[last]!.pose.turns.set(moments[0]!.pose.turns)
  moments[last]!.pose.root = [...moments[0]!.pose.root]
}
