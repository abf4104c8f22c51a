import { Matrix4, Quaternion, Vector3 } from 'three'
import type { GlbWriter } from '../scene/GlbWriter.ts'
import type { Bone } from '../rig/Skeleton.ts'
import { localPlace, localScale, localTurn, type WrittenBone } from './boneAxes.ts'

/** Unturned if not said. */
type Written = Omit<WrittenBone, 'turn'> & { turn?: Bone['turn'] }

const UNTURNED: Bone['turn'] = [0, 0, 0, 1]

/**
 * Nodes of the joints in the order of the bones, each turned at rest as its bone is, and the skin over them.
 *
 * @param options.unit  metres in one of the units that vertices of the skin are counted in
 * @param options.above bones that they hang on, of which none carries skin; the first of them is the root
 * @param options.skin  whether there is one
 * @returns the number of the skin, -1 if there is none; the node of the root, of each bone above, and of each bone
 */
export function writeSkeleton(
  file: GlbWriter,
  bones: readonly Written[],
  { unit = 1, above = [], skin = true }: { unit?: number; above?: readonly Written[]; skin?: boolean } = {},
): { skin: number; root: number; above: number[]; joints: number[] } {
  const roots = nodesOf(file, above, null)
  const last = above.at(-1)
  const joints = nodesOf(file, bones, last ?? null)
  if (last) (file.json.nodes![roots.at(-1)!]!.children ??= []).unshift(joints[0]!)
  const root = roots[0] ?? joints[0]!
  return { root, above: roots, joints, skin: skin ? writeSkin(file, bones, joints, root, unit) : -1 }
}

function writeSkin(
  file: GlbWriter,
  bones: readonly Written[],
  joints: number[],
  skeleton: number,
  unit: number,
): number {
  const inverse = new Float32Array(bones.length * 16)
  const bind = new Matrix4()
  bones.forEach(({ at, turn = UNTURNED, scale = 1 }, i) => {
    if (isNone(turn) && scale === 1)
      inverse.set([unit, 0, 0, 0, 0, unit, 0, 0, 0, 0, unit, 0, -at[0], -at[1], -at[2], 1], i * 16)
    else
      bind
        .compose(new Vector3(...at), new Quaternion(...turn), new Vector3(scale, scale, scale))
        .invert()
        .scale(new Vector3(unit, unit, unit))
        .toArray(inverse, i * 16)
  })
  const inverseBindMatrices = file.accessor('bind', { type: 'MAT4', array: inverse })
  return file.add('skins', { name: 'skeleton', joints, skeleton, inverseBindMatrices })
}

function nodesOf(file: GlbWriter, bones: readonly Written[], over: Written | null): number[] {
  const nodes = bones.map((bone) => {
    const { name, parent, at, turn = UNTURNED } = bone
    const from = parent >= 0 ? bones[parent]! : over
    const above = from && { ...from, turn: from.turn ?? UNTURNED }
    // of length one, w may still be a last bit more than that
    const rotation = localTurn(above?.turn ?? UNTURNED, turn)
      .toArray()
      .map((v) => Math.max(-1, Math.min(1, v))) as Bone['turn']
    const size = localScale(above, bone)
    return file.add('nodes', {
      ...{ name, translation: localPlace(above, at) },
      ...(!isNone(rotation) && { rotation }),
      ...(size !== 1 && { scale: [size, size, size] as [number, number, number] }),
    })
  })
  bones.forEach(({ parent }, i) => {
    if (parent >= 0) (file.json.nodes![nodes[parent]!]!.children ??= []).push(nodes[i]!)
  })
  return nodes
}

const isNone = ([x, y, z]: readonly number[]) => x === 0 && y === 0 && z === 0
