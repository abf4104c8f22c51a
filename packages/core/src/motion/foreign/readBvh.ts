import { Euler, Quaternion, type EulerOrder } from 'three'
import { problem, type Problem, type Read } from '../../base/problem.ts'
import { radians } from '../curves.ts'
import { FileFault, readOrTell } from '../../base/FileFault.ts'
import { MOST_JOINTS, tooLarge, uniqueNames, type ForeignMotion, type MotionJoint } from './ForeignMotion.ts'

/*
 * BVH, the “Biovision hierarchy” of motion capture: a skeleton of offsets, then a line of numbers a frame. Nothing in it
 * says what is up or how long a unit is.
 */

interface BvhJoint {
  name: string
  parent: number
  offset: [number, number, number]
  /** As they stand in a line of numbers, e.g. “Zrotation”; where its first one stands there. */
  channels: string[]
  first: number
  end: boolean
}

const CHANNEL = /^([XYZ])(position|rotation)$/i
/** What is deeper than this is no figure. */
const MOST_DEEP = 120
/** Most channels of one joint: three of place, three of turn. */
const MOST_CHANNELS = 6
const USUAL_STEP = 1 / 30
/** Characters that a whole skeleton, and one number of a frame, take at most. */
const MOST_TEXT = { skeleton: 4 << 20, number: 64 }

/**
 * Reads a BVH file. The rest pose is that of its offsets. A file that ends before its last frame is read up to there.
 *
 * @param name what the motion is called
 */
export function readBvh(text: string, name: string): Read<ForeignMotion> {
  return readOrTell(name, () => readWhole(text, name))
}

function readWhole(text: string, name: string): Read<ForeignMotion> {
  const problems: Problem[] = []
  const motionAt = text.search(/^[ \t]*MOTION\b/m)
  if (!/^\s*HIERARCHY\b/.test(text) || motionAt < 0)
    throw new FileFault('bvh-foreign', 'This is no BVH file: it has no skeleton or no motion.', 'Choose another file.')
  if (motionAt > MOST_TEXT.skeleton) throw tooManyJoints()
  const found = readHierarchy(text.slice(0, motionAt))
  const { frames: said, step, valuesAt } = readHead(text, motionAt)
  const width = found.reduce((sum, j) => sum + j.channels.length, 0)
  const large = tooLarge(name, found.length, said)
  if (large) return { value: null, problems: [large] }
  const values = readValues(text, valuesAt, width, said)
  const frames = values.length / width
  if (frames === 0) throw new FileFault('bvh-frames', 'It has no frames.')
  if (frames < said)
    problems.push(
      problem(
        'bvh-frames',
        name,
        `It says it has ${said} frames; ${frames} are there.`,
        'Export it again if the end is lacking.',
        'warning',
      ),
    )
  if (!(step > 0 && step < 10))
    problems.push(
      problem(
        'bvh-time',
        name,
        'It does not say how long a frame is: 30 a second.',
        'Write its frame time.',
        'warning',
      ),
    )
  const joints = restOf(found)
  const motion: ForeignMotion = {
    name,
    joints,
    frames,
    step: step > 0 && step < 10 ? step : USUAL_STEP,
    turns: new Float32Array(frames * joints.length * 4),
    moves: new Float32Array(frames * joints.length * 3),
    up: null,
  }
  found.forEach((joint, j) => fillJoint(motion, joint, j, values, width))
  return { value: motion, problems }
}

const tooManyJoints = () =>
  new FileFault('bvh-large', 'Its skeleton has more joints than any figure.', 'Leave out what is no bone.')

function readHierarchy(text: string): BvhJoint[] {
  const joints: BvhJoint[] = []
  const above: number[] = []
  let pending: Pick<BvhJoint, 'name' | 'end'> | null = null
  let channels = 0
  const here = () => {
    const joint = joints[above.at(-1) ?? -1]
    if (!joint) throw new FileFault('bvh-broken', 'Its skeleton is broken: numbers stand outside of any joint.')
    return joint
  }
  // braces may stand on a line with a name or by themselves
  for (const line of text.replace(/([{}])/g, '\n$1\n').split('\n')) {
    const said = line.trim()
    const [word = '', ...rest] = said.split(/\s+/)
    if (said === '' || /^HIERARCHY$/i.test(word)) continue
    else if (/^(ROOT|JOINT)$/i.test(word) || /^End$/i.test(word)) {
      if (/^ROOT$/i.test(word) && joints.length)
        throw new FileFault('bvh-roots', 'It holds more than one skeleton.', 'Leave one figure in the file.')
      const end = /^End$/i.test(word)
      pending = { name: end ? `${joints[above.at(-1) ?? -1]?.name ?? ''} end` : rest.join(' '), end }
    } else if (word === '{') {
      if (!pending) throw new FileFault('bvh-broken', 'Its skeleton is broken: a joint has no name.')
      joints.push({ ...pending, parent: above.at(-1) ?? -1, offset: [0, 0, 0], channels: [], first: channels })
      above.push(joints.length - 1)
      pending = null
      if (above.length > MOST_DEEP || joints.length > 2 * MOST_JOINTS) throw tooManyJoints()
    } else if (word === '}') {
      if (above.pop() === undefined) throw new FileFault('bvh-broken', 'Its skeleton is broken: a brace is too many.')
    } else if (/^OFFSET$/i.test(word)) {
      const offset = rest.map(Number)
      if (offset.length !== 3 || !offset.every(Number.isFinite))
        throw new FileFault('bvh-offset', `The place of “${here().name}” is no place.`)
      here().offset = offset as [number, number, number]
    } else if (/^CHANNELS$/i.test(word)) {
      const [count, ...names] = rest
      const joint = here()
      if (Number(count) !== names.length || names.length > MOST_CHANNELS || !names.every((n) => CHANNEL.test(n)))
        throw new FileFault(
          'bvh-channels',
          `“${joint.name}” does not say clearly how it moves: “${said.slice(0, 80)}”.`,
        )
      joint.channels = names
      joint.first = channels
      channels += names.length
    } else throw new FileFault('bvh-broken', `Its skeleton is broken: “${said.slice(0, 40)}” means nothing.`)
  }
  if (above.length) throw new FileFault('bvh-broken', 'Its skeleton is broken: a brace is lacking.')
  if (joints.length < 2 || channels === 0) throw new FileFault('bvh-broken', 'It has no skeleton that moves.')
  return joints
}

function readHead(text: string, motionAt: number): { frames: number; step: number; valuesAt: number } {
  const head = /MOTION\s+Frames:\s*(\S+)\s+Frame\s+Time:\s*(\S+)[^\S\n]*/iy
  head.lastIndex = text.indexOf('MOTION', motionAt)
  const said = head.exec(text)
  const frames = Number(said?.[1])
  if (!said || !Number.isInteger(frames) || frames < 0)
    throw new FileFault('bvh-frames', 'It does not say how many frames it has.')
  return { frames, step: Number(said[2]), valuesAt: head.lastIndex }
}

/** The numbers of all frames, one after another; a last frame that is not whole is left out. */
function readValues(text: string, from: number, width: number, frames: number): Float32Array {
  const values: Float32Array = new Float32Array(frames * width)
  let read = 0
  let line = from
  while (line < text.length && read < frames) {
    const end = text.indexOf('\n', line)
    const stop = end < 0 ? text.length : end
    if (stop - line > (width + 1) * MOST_TEXT.number)
      throw new FileFault('bvh-line', `Frame ${read + 1} is longer than its joints’ numbers can be.`)
    const words = text.slice(line, stop).trim()
    line = end < 0 ? text.length : end + 1
    if (words === '') continue
    const numbers = words.split(/\s+/)
    if (numbers.length !== width) {
      // the file breaks off
      if (line >= text.length && numbers.length < width) break
      throw new FileFault(
        'bvh-values',
        `Frame ${read + 1} has ${numbers.length} numbers; its joints move in ${width} ways.`,
      )
    }
    for (let i = 0; i < width; i++) {
      const value = Number(numbers[i])
      if (!Number.isFinite(value) || Math.abs(value) > 1e7)
        throw new FileFault('bvh-values', `In frame ${read + 1} “${numbers[i]!.slice(0, 20)}” is no number.`)
      values[read * width + i] = value
    }
    read++
  }
  return values.subarray(0, read * width)
}

function restOf(found: readonly BvhJoint[]): MotionJoint[] {
  const names = uniqueNames(found.map((j) => j.name))
  const joints: MotionJoint[] = []
  found.forEach(({ parent, offset, end }, j) => {
    const from = joints[parent]?.at ?? [0, 0, 0]
    const at = offset.map((v, k) => v + from[k]!) as MotionJoint['at']
    joints.push({ name: names[j]!, parent, at, turn: [0, 0, 0, 1], end })
  })
  return joints
}

function fillJoint(
  { turns, moves, frames, joints }: ForeignMotion,
  { offset, channels, first }: BvhJoint,
  j: number,
  values: Float32Array,
  width: number,
): void {
  const kinds = channels.map((name, c) => {
    const [, axis, kind] = CHANNEL.exec(name)!
    return { k: 'XYZ'.indexOf(axis!.toUpperCase()), turn: /rotation/i.test(kind!), at: first + c }
  })
  const places = kinds.filter((c) => !c.turn)
  const rotations = kinds.filter((c) => c.turn)
  const base = instead(offset, places, values, width, frames)
  const order = rotations.map((c) => 'XYZ'[c.k]).join('')
  const whole = order.length === 3 && new Set(order).size === 3
  const euler = new Euler()
  const turn = new Quaternion()
  const one = new Quaternion()
  for (let f = 0; f < frames; f++) {
    const row = f * width
    const m = (f * joints.length + j) * 3
    for (let k = 0; k < 3; k++) moves[m + k] = base[k]!
    for (const { k, at } of places) moves[m + k] = base[k]! + values[row + at]!
    if (whole) {
      const angles = [0, 0, 0] as [number, number, number]
      for (const { k, at } of rotations) angles[k] = radians(values[row + at]!)
      turn.setFromEuler(euler.set(...angles, order as EulerOrder))
    } else {
      turn.identity()
      for (const { k, at } of rotations) {
        const angles = [0, 0, 0] as [number, number, number]
        angles[k] = radians(values[row + at]!)
        turn.multiply(one.setFromEuler(euler.set(...angles, 'XYZ')))
      }
    }
    turn.toArray(turns, (f * joints.length + j) * 4)
  }
}

/**
 * What the numbers of a joint's place are added to. Some files write them from the joint's offset, others instead of it;
 * the offset of a figure's bones is never far from where they are.
 */
function instead(
  offset: BvhJoint['offset'],
  places: readonly { k: number; at: number }[],
  values: Float32Array,
  width: number,
  frames: number,
): [number, number, number] {
  if (places.length === 0 || offset.every((v) => v === 0)) return [...offset]
  let [added, replaced] = [0, 0]
  for (const { k, at } of places) {
    let mean = 0
    for (let f = 0; f < frames; f++) mean += values[f * width + at]! / frames
    added += mean * mean
    replaced += (mean - offset[k]!) ** 2
  }
  if (added <= replaced) return [...offset]
  return offset.map((v, k) => (places.some((c) => c.k === k) ? 0 : v)) as [number, number, number]
}
