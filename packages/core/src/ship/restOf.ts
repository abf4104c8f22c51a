import { problem, type Read } from '../base/problem.ts'
import type { BodyPlan } from '../kit/plan.ts'
import { armsPose } from '../motion/poses/changePose.ts'
import { poseOn } from '../motion/poses/keptPose.ts'
import { poseRig, type Posable } from '../motion/poses/PoseRig.ts'
import type { Target } from '../recipe/target.ts'
import type { Pose } from '../rig/Pose.ts'

/** The pose in which a target wants a figure to stand at rest; none where that is as it was built, or it cannot: that is told. */
export function restOf(
  { skeleton }: { skeleton: Posable },
  plan: BodyPlan,
  { convention }: Pick<Target, 'convention'>,
): Read<Pose> {
  const { rest, pose } = convention
  const built = (code: string, message: string, remedy: string): Read<Pose> => ({
    value: null,
    problems: [problem(code, 'target/convention/rest', `${message} It stands as it was built.`, remedy, 'warning')],
  })
  if (rest === 'built') return { value: null, problems: [] }
  if (rest === 'pose') {
    if (!pose) return built('rest-no-pose', 'The target says no pose to stand in.', 'Choose one in its limits.')
    if (pose.plan !== plan.id)
      return built('rest-other-plan', `“${pose.name}” is for figures of another kind.`, 'Choose another pose for them.')
    return { value: poseOn({ format: 'idle-tinker-pose', version: 1, ...pose }, skeleton), problems: [] }
  }
  const value = armsPose(poseRig(skeleton, plan), rest)
  return value ? { value, problems: [] } : built('rest-no-arms', 'This figure has no arms to hold out.', '')
}
