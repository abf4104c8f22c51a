import { Quaternion, Vector3 } from 'three'
import type { Pose } from './Pose.ts'
import type { Bone } from './Skeleton.ts'
import { twistAbout } from './turns.ts'

const axis = new Vector3()
const turn = new Quaternion()

/**
 * Gives twist bones their share of what the bones they belong to turn about the length of the limb: the twist of the
 * decomposition of a turn into a swing and, before it, a twist about an axis. Changes the pose.
 */
export function shareTwists(bones: readonly Bone[], pose: Pose): void {
  bones.forEach(({ twist, parent }, i) => {
    if (!twist) return
    // along the limb: from the bone it hangs from through its own joint
    axis.fromArray(bones[i]!.at).sub(new Vector3().fromArray(bones[parent]!.at))
    if (axis.lengthSq() < 1e-12) return
    axis.normalize()
    turn.fromArray(pose.turns, twist.of * 4)
    turn.setFromAxisAngle(axis, twistAbout(turn, axis) * twist.share).toArray(pose.turns, i * 4)
  })
}
