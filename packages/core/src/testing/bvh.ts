import { Euler, Quaternion, Vector3, type EulerOrder } from 'three'
import { poseAt, type Clip } from '../motion/Clip.ts'
import { createWorldPose, restPose, solveForward, type Pose } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'

export interface BvhOptions {
  /** Ours to the file's: turn of the axes, and its units a metre. */
  axes?: Quaternion
  unit?: number
  /** What a bone is called there; bones of no name are left out with what they do. */
  nameOf?: (bone: string) => string | null
  /** The pose that is to be the file's rest. */
  rest?: Pose
  order?: EulerOrder
  rate?: number
  /** Metres the figure goes on in a loop of the clip. */
  loops?: number
}

/** A clip of ours as a file somebody else might have made: written by the rules of BVH alone. */
export function writeBvh(clip: Clip, { bones }: Skeleton, options: BvhOptions = {}): string {
  const { axes = new Quaternion(), unit = 100, nameOf = (n) => n, order = 'ZXY', rate = 60, loops = 1 } = options
  const rest = solveForward(bones, options.rest ?? restPose(bones), createWorldPose(bones))
  const turnOf = (list: Float32Array, b: number) => new Quaternion().fromArray(list, b * 4)
  const at = (list: Float32Array, b: number) => new Vector3().fromArray(list, b * 3).applyQuaternion(axes)
  const names = bones.map((b) => nameOf(b.name))
  // a bone that is left out leaves its children to what it hung on
  const above = bones.map(({ parent }) => {
    let p = parent
    while (p >= 0 && names[p] === null) p = bones[p]!.parent
    return p
  })
  const kept = bones.flatMap((_, b) => (names[b] === null ? [] : [b]))
  const order3 = [...order] as ['X' | 'Y' | 'Z', 'X' | 'Y' | 'Z', 'X' | 'Y' | 'Z']
  const lines: string[] = ['HIERARCHY']
  const sequence: number[] = []
  const write = (b: number, deep: number) => {
    const tab = '\t'.repeat(deep)
    const from = above[b]! < 0 ? new Vector3() : at(rest.joints, above[b]!)
    const offset = above[b]! < 0 ? new Vector3() : at(rest.joints, b).sub(from).multiplyScalar(unit)
    sequence.push(b)
    lines.push(`${tab}${above[b]! < 0 ? 'ROOT' : 'JOINT'} ${names[b]}`, `${tab}{`)
    lines.push(
      `${tab}\tOFFSET ${offset
        .toArray()
        .map((v) => v.toFixed(6))
        .join(' ')}`,
    )
    const turns = order3.map((k) => `${k}rotation`).join(' ')
    lines.push(`${tab}\tCHANNELS ${above[b]! < 0 ? `6 Xposition Yposition Zposition ${turns}` : `3 ${turns}`}`)
    const children = kept.filter((c) => above[c] === b)
    for (const c of children) write(c, deep + 1)
    if (children.length === 0) {
      const tail = new Vector3(...bones[b]!.tail)
        .sub(new Vector3(...bones[b]!.at))
        .applyQuaternion(turnOf(rest.turns, b))
      const end = tail.applyQuaternion(axes).multiplyScalar(unit)
      lines.push(`${tab}\tEnd Site`, `${tab}\t{`, `${tab}\t\tOFFSET ${end.toArray().join(' ')}`, `${tab}\t}`)
    }
    lines.push(`${tab}}`)
  }
  write(kept[0]!, 0)
  const frames = Math.round(clip.duration * loops * rate) + 1
  lines.push('MOTION', `Frames: ${frames}`, `Frame Time: ${(1 / rate).toFixed(7)}`)
  const world = createWorldPose(bones)
  for (let f = 0; f < frames; f++) {
    const time = f / rate
    solveForward(bones, poseAt(clip, Math.min(time, clip.duration * loops)), world)
    const turned = (b: number) =>
      axes
        .clone()
        .multiply(turnOf(world.turns, b))
        .multiply(turnOf(rest.turns, b).invert())
        .multiply(axes.clone().invert())
    const numbers: number[] = []
    for (const b of sequence) {
      const p = above[b]!
      const local = p < 0 ? turned(b) : turned(p).invert().multiply(turned(b))
      const euler = new Euler().setFromQuaternion(local, order)
      if (p < 0) {
        const place = new Vector3().fromArray(world.joints, b * 3)
        place.z += (clip.travel * time) / clip.duration
        numbers.push(...place.applyQuaternion(axes).multiplyScalar(unit).toArray())
      }
      for (const k of order3) numbers.push((euler[k.toLowerCase() as 'x' | 'y' | 'z'] * 180) / Math.PI)
    }
    lines.push(numbers.map((v) => v.toFixed(5)).join(' '))
  }
  return lines.join('\n') + '\n'
}
