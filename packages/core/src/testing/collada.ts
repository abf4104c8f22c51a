import { Matrix4, Quaternion, Vector3 } from 'three'
import { poseAt, type Clip } from '../motion/Clip.ts'
import { createWorldPose, restPose, solveForward } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'

export interface ColladaOptions {
  up?: 'Y_UP' | 'Z_UP' | 'X_UP'
  /** Units a metre. */
  unit?: number
  /** By one matrix, or by a move and three turns of which each has a channel of its own. */
  steps?: 'matrix' | 'turns'
  rate?: number
  /** Clips the file names: from and to, seconds. */
  clips?: readonly { name: string; from: number; to: number }[]
}

const degrees = (radians: number) => (radians * 180) / Math.PI
const words = (values: Iterable<number>) => [...values].map((v) => v.toFixed(7)).join(' ')

/** A clip of ours as a file somebody else might have made: written by the rules of COLLADA 1.4 alone. */
export function writeCollada(clip: Clip, { bones }: Skeleton, options: ColladaOptions = {}): string {
  const { up = 'Y_UP', unit = 1, steps = 'matrix', rate = 30 } = options
  // from our axes to the file's
  const axes = new Quaternion()
  if (up === 'Z_UP') axes.setFromAxisAngle(new Vector3(1, 0, 0), Math.PI / 2)
  if (up === 'X_UP') axes.setFromAxisAngle(new Vector3(0, 0, 1), -Math.PI / 2)
  const frames = Math.round(clip.duration * rate) + 1
  const times = Array.from({ length: frames }, (_, f) => f / rate)
  /** How a bone stands from the one above it, in the file's axes and unit. */
  const localAt = (time: number | null) => {
    const world = solveForward(bones, time === null ? restPose(bones) : poseAt(clip, time), createWorldPose(bones))
    const whole = bones.map((_, b) => ({
      at: new Vector3()
        .fromArray(world.joints, b * 3)
        .applyQuaternion(axes)
        .multiplyScalar(unit),
      turn: axes
        .clone()
        .multiply(new Quaternion().fromArray(world.turns, b * 4))
        .multiply(axes.clone().invert()),
    }))
    return bones.map(({ parent }, b) => {
      const { at, turn } = whole[b]!
      if (parent < 0) return { at, turn }
      const back = whole[parent]!.turn.clone().invert()
      return { at: at.clone().sub(whole[parent]!.at).applyQuaternion(back), turn: back.multiply(turn) }
    })
  }
  const rest = localAt(null)
  const moments = times.map(localAt)
  const matrixOf = ({ at, turn }: { at: Vector3; turn: Quaternion }) =>
    new Matrix4()
      .compose(at, turn, new Vector3(1, 1, 1))
      .transpose()
      .toArray()
  const turnsOf = (turn: Quaternion) => {
    // z, then y, then x
    const m = new Matrix4().makeRotationFromQuaternion(turn).elements
    const y = Math.asin(Math.max(-1, Math.min(1, -m[2]!)))
    return [degrees(Math.atan2(m[1]!, m[0]!)), degrees(y), degrees(Math.atan2(m[6]!, m[10]!))]
  }
  const node = (b: number): string => {
    const { at, turn } = rest[b]!
    const [z, y, x] = turnsOf(turn)
    const stands =
      steps === 'matrix'
        ? `<matrix sid="transform">${words(matrixOf(rest[b]!))}</matrix>`
        : `<translate sid="location">${words(at)}</translate><rotate sid="rotationZ">0 0 1 ${z}</rotate>` +
          `<rotate sid="rotationY">0 1 0 ${y}</rotate><rotate sid="rotationX">1 0 0 ${x}</rotate>`
    const inner = bones.flatMap(({ parent }, c) => (parent === b ? [node(c)] : [])).join('')
    return `<node id="node-${b}" sid="${bones[b]!.name}" name="${bones[b]!.name}" type="JOINT">${stands}${inner}</node>`
  }
  const source = (id: string, values: readonly number[]) =>
    `<source id="${id}"><float_array id="${id}-array" count="${values.length}">${words(values)}</float_array></source>`
  const animation = (id: string, target: string, values: number[]) =>
    `<animation>${source(`${id}-in`, times)}${source(`${id}-out`, values)}` +
    `<sampler id="${id}"><input semantic="INPUT" source="#${id}-in"/><input semantic="OUTPUT" source="#${id}-out"/></sampler>` +
    `<channel source="#${id}" target="${target}"/></animation>`
  const moved = bones.map((_, b) => {
    if (steps === 'matrix')
      return animation(
        `a${b}`,
        `node-${b}/transform`,
        moments.flatMap((m) => matrixOf(m[b]!)),
      )
    const angles = moments.map((m) => turnsOf(m[b]!.turn))
    const turned = ['Z', 'Y', 'X'].map((axis, k) => {
      // whole rounds between two keys are none
      const own = angles.map((a) => a[k]!)
      own.forEach((v, i) => i && (own[i] = v - 360 * Math.round((v - own[i - 1]!) / 360)))
      return animation(`a${b}${axis}`, `node-${b}/rotation${axis}.ANGLE`, own)
    })
    const place = animation(
      `a${b}T`,
      `node-${b}/location`,
      moments.flatMap((m) => m[b]!.at.toArray()),
    )
    return [...turned, place].join('')
  })
  const named = (options.clips ?? [])
    .map(({ name, from, to }) => `<animation_clip name="${name}" start="${from}" end="${to}"/>`)
    .join('')
  return (
    `<?xml version="1.0" encoding="utf-8"?>\n<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">` +
    `<asset><unit name="own" meter="${1 / unit}"/><up_axis>${up}</up_axis></asset>` +
    `<library_geometries><geometry id="mesh"><mesh><source id="no"><float_array count="3">1 2 nought</float_array></source></mesh></geometry></library_geometries>` +
    `<library_animations><animation id="all">${moved.join('')}</animation></library_animations>` +
    (named && `<library_animation_clips>${named}</library_animation_clips>`) +
    `<library_visual_scenes><visual_scene id="scene">${node(0)}</visual_scene></library_visual_scenes>` +
    `<scene><instance_visual_scene url="#scene"/></scene></COLLADA>`
  )
}
