import type { GlbWriter } from '../scene/GlbWriter.ts'
import type { Bone } from '../rig/Skeleton.ts'

/**
 * Nodes of the joints in the order of the bones, and the skin over them.
 *
 * @param unit metres in one of the units that vertices of the skin are counted in
 */
export function writeSkeleton(
  file: GlbWriter,
  bones: readonly Pick<Bone, 'name' | 'parent' | 'at'>[],
  unit = 1,
): { skin: number; joints: number[] } {
  const inverse = new Float32Array(bones.length * 16)
  const joints = bones.map(({ name, parent, at }, i) => {
    const from = parent >= 0 ? bones[parent]!.at : ([0, 0, 0] as const)
    inverse.set([unit, 0, 0, 0, 0, unit, 0, 0, 0, 0, unit, 0, -at[0], -at[1], -at[2], 1], i * 16)
    return file.add('nodes', { name, translation: [at[0] - from[0], at[1] - from[1], at[2] - from[2]] })
  })
  bones.forEach(({ parent }, i) => {
    if (parent >= 0) (file.json.nodes![joints[parent]!]!.children ??= []).push(joints[i]!)
  })
  const inverseBindMatrices = file.accessor('bind', { type: 'MAT4', array: inverse })
  return { joints, skin: file.add('skins', { name: 'skeleton', joints, skeleton: joints[0]!, inverseBindMatrices }) }
}
