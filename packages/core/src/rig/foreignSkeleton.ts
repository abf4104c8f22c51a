import { wordsOf } from '../base/words.ts'

/* A skeleton of somebody else’s, as it is looked at to find which of its joints are which bones. */

/** A joint of a skeleton from elsewhere, as it stands at rest. */
export interface ForeignJoint {
  name: string
  at: [number, number, number]
  /** The nearest joint above it, -1 if there is none. */
  parent: number
}

/** Joints that only help others. */
export const HELPERS = new Set([
  'ik',
  'goal',
  'pole',
  'twist',
  'roll',
  'target',
  'weapon',
  'wing',
  'helper',
  'socket',
  'prop',
])

/** Its joints, their words, and the ways through it. */
export interface ForeignSkeleton {
  joints: readonly ForeignJoint[]
  words: string[][]
  /** Every way from a root to a joint that has none below it. */
  paths: number[][]
  height: number
  floor: number
  parent(joint: number): number
  /** Those that hang on a joint. */
  below(joint: number): readonly number[]
  /** From the root to a joint. */
  pathTo(joint: number): number[]
  /** The nearest joint above both, or one of them. */
  above(a: number, b: number): number
}

/** @param joints in the order of the file; a loop of parents ends somewhere */
export function skeletonOf(joints: readonly ForeignJoint[]): ForeignSkeleton {
  const pathTo = (joint: number): number[] => {
    const path: number[] = []
    // as long as there are joints: a loop of parents ends
    for (let at = joint; at >= 0 && path.length <= joints.length; at = joints[at]!.parent) path.unshift(at)
    return path
  }
  const inner = new Set(joints.map((j) => j.parent))
  const children: number[][] = joints.map(() => [])
  joints.forEach((j, i) => children[j.parent]?.push(i))
  const ys = joints.map((j) => j.at[1])
  const floor = Math.min(...ys)
  return {
    joints,
    words: joints.map((j) => wordsOf(j.name.replace(/^.*[:|]/, ''))),
    paths: [...joints.keys()].filter((j) => !inner.has(j)).map(pathTo),
    height: Math.max(...ys) - floor || 1,
    floor,
    parent: (joint) => joints[joint]!.parent,
    below: (joint) => children[joint] ?? [],
    pathTo,
    above(a, b) {
      const other = new Set(pathTo(b))
      return pathTo(a).findLast((j) => other.has(j)) ?? -1
    },
  }
}

/** Whether a joint only helps others. */
export const isHelper = ({ words }: ForeignSkeleton, joint: number) => words[joint]!.some((w) => HELPERS.has(w))

export const far = (a: ForeignJoint['at'], b: ForeignJoint['at']) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])

/** Names onto joints, the first to the first and the last to the last; of more joints than names those between are passed over. */
export function fill(out: Map<string, number>, names: readonly string[], joints: readonly number[]): void {
  if (joints.length >= names.length) {
    names.forEach((name, i) => {
      const at =
        i < names.length - 1 ? Math.round((i * (joints.length - 1)) / Math.max(1, names.length - 1)) : joints.length - 1
      out.set(name, joints[at]!)
    })
    return
  }
  joints.forEach((joint, i) => out.set(names[i]!, joint))
}

/** The same, but of fewer joints than names the last is the last. */
export function fillEnds(out: Map<string, number>, names: readonly string[], joints: readonly number[]): void {
  if (joints.length >= names.length || joints.length === 0) return fill(out, names, joints)
  const last = joints.length - 1
  const stop = (i: number) => (last === 0 ? names.length - 1 : Math.round((i * (names.length - 1)) / last))
  joints.forEach((joint, i) => out.set(names[stop(i)]!, joint))
}

/** Names onto joints, the last to the last. */
export function fillFromEnd(out: Map<string, number>, names: readonly string[], joints: readonly number[]): void {
  const used = joints.length > names.length ? [joints[0]!, ...joints.slice(joints.length - names.length + 1)] : joints
  used.forEach((joint, i) => out.set(names[names.length - used.length + i]!, joint))
}
