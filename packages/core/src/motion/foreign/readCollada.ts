import { Matrix4, Quaternion, Vector3 } from 'three'
import { problem, type Problem, type Read } from '../../base/problem.ts'
import { allIn, childrenOf, readXml, type XmlElement } from '../../base/readXml.ts'
import { localOf, nodesOf, numbersIn, rowMajor, upTurn, type ColladaNode, type Step } from '../../scene/colladaNodes.ts'
import { FileFault, readOrTell } from '../../base/FileFault.ts'
import {
  keysAround,
  RATE,
  scaleSaid,
  tooLarge,
  tooLong,
  unevenScale,
  uniqueNames,
  type ForeignMotion,
  type MotionJoint,
} from './ForeignMotion.ts'

/*
 * COLLADA 1.4 and 1.5 (ISO/PAS 17506): nodes that stand by a row of steps — matrices, moves, turns, scales — and channels
 * that change one of these, or one number of it, over time.
 */

/** What a figure looks like moves nothing. */
const PASSED = new Set([
  ...['library_geometries', 'library_images', 'library_materials', 'library_effects', 'library_lights'],
  ...['library_cameras', 'library_physics_scenes', 'extra'],
])

/** Numbers of one step over time: all of it, or the one at `member`. */
interface Channel {
  node: number
  step: number
  member: number | null
  times: number[]
  values: number[]
  ways: string[]
  /** Of each key the handles before and after it: time and value. */
  handles: { before: number[]; after: number[] } | null
}

/**
 * Reads the motion in a COLLADA file. The rest pose is that in which its skin is bound, of nodes without a skin that in
 * which they stand; it is sampled sixty times a second. Scale that moves is left out. Clips that the file names are
 * motions of their own.
 *
 * @param name  what the motion is called where the file has no name for it
 * @param still whether a file without motion is read as well, as one of a single frame
 */
export function readCollada(text: string, name: string, still = false): Read<ForeignMotion[]> {
  const fault = (code: string, message: string, fix: string) => ({
    value: null,
    problems: [problem(code, name, message, fix)],
  })
  let whole: XmlElement
  try {
    whole = readXml(text, PASSED)
  } catch (error) {
    return fault('collada-xml', (error as Error).message, 'Export it again.')
  }
  if (whole.name !== 'COLLADA') return fault('motion-foreign', `“${whole.name}” is no COLLADA.`, 'Choose another file.')
  return readOrTell(name, () => readWhole(whole, name, still))
}

function readWhole(whole: XmlElement, name: string, still: boolean): Read<ForeignMotion[]> {
  const nodes = nodesOf(whole)
  const sources = new Map(allIn(whole, 'source').map((s) => [s.attributes.id ?? '', s]))
  const channels = allIn(whole, 'animation').flatMap((a) => channelsOf(a, nodes, sources))
  if (channels.length === 0 && !still)
    throw new FileFault('collada-still', 'It holds no motion of a skeleton.', 'Export it with its animation.')
  const moved = new Set(channels.map((c) => c.node))
  const wanted = nodes.map((n, i) => n.isJoint || moved.has(i))
  nodes.forEach((_, i) => {
    if (!wanted[i]) return
    for (let at = nodes[i]!.parent; at >= 0; at = nodes[at]!.parent) wanted[at] = true
  })
  const kept = nodes.flatMap((_, i) => (wanted[i] ? [i] : []))
  const large = tooLarge(name, kept.length, 1)
  if (large) return { value: null, problems: [large] }
  const turn = upTurn(whole)
  const bound = boundPlaces(whole, nodes, sources)
  const scales = nodes.map((_, i) => scaleAbove(nodes, i))
  const joints = jointsOf(nodes, kept, bound, turn)
  const told = unevenScale(
    name,
    kept.map((n, i) => ({ name: joints[i]!.name, scale: scaleOf(localOf(nodes[n]!.steps)) })),
  )
  const problems: Problem[] = told ? [told] : []
  if (kept.length < 2)
    throw new FileFault('skeleton-none', 'It holds no skeleton.', 'Export the figure with its skeleton.')
  if (channels.length === 0) {
    const head = { name, joints, frames: 1, step: 1 / RATE }
    return { value: [sampled(head, { nodes, kept, channels, scales, turn }, 0)], problems }
  }
  const last = Math.max(...channels.map((c) => c.times.at(-1)!))
  const first = Math.min(...channels.map((c) => c.times[0]!))
  const clips = allIn(whole, 'animation_clip').map((clip, i) => ({
    name: clip.attributes.name || clip.attributes.id || `Clip ${i + 1}`,
    from: Number(clip.attributes.start ?? first),
    to: Number(clip.attributes.end ?? last),
  }))
  const spans = clips.filter((c) => Number.isFinite(c.from) && c.to > c.from)
  const titles = uniqueNames(spans.map((c) => c.name))
  const wholeMotion = [{ name, from: first, to: last }]
  const motions = (spans.length ? spans : wholeMotion).flatMap(({ from, to }, i) => {
    const title = spans.length ? titles[i]! : name
    const seconds = to - from
    const frames = Math.max(1, Math.round(seconds * RATE) + 1)
    const much = tooLong(title, seconds) ?? tooLarge(title, joints.length, frames)
    if (much) {
      problems.push(much)
      return []
    }
    const step = frames > 1 ? seconds / (frames - 1) : 1 / RATE
    return [sampled({ name: title, joints, frames, step }, { nodes, kept, channels, scales, turn }, from)]
  })
  return { value: motions.length ? motions : null, problems }
}

function channelsOf(
  animation: XmlElement,
  nodes: readonly ColladaNode[],
  sources: ReadonlyMap<string, XmlElement>,
): Channel[] {
  const samplers = new Map(childrenOf(animation, 'sampler').map((s) => [s.attributes.id, s]))
  return childrenOf(animation, 'channel').flatMap((channel): Channel[] => {
    const target = /^([^/]*)\/([^.(]+)(?:\.([A-Za-z]+)|((?:\(\d+\))+))?$/.exec(channel.attributes.target ?? '')
    const sampler = samplers.get((channel.attributes.source ?? '').replace(/^#/, ''))
    if (!target || !sampler) return []
    const node = nodes.findIndex((n) => n.id === target[1])
    const step = node < 0 ? -1 : nodes[node]!.steps.findIndex((s) => s.sid === target[2])
    // what moves no node, or what is not known of it, moves no skeleton
    if (step < 0) return []
    const { kind, values: rest } = nodes[node]!.steps[step]!
    const member = memberOf(kind, target[3], target[4])
    const input = (semantic: string) => {
      const found = childrenOf(sampler, 'input').find((i) => i.attributes.semantic === semantic)
      return found && sources.get((found.attributes.source ?? '').replace(/^#/, ''))
    }
    const floats = (semantic: string) => {
      const array = input(semantic) && childrenOf(input(semantic)!, 'float_array')[0]
      return array ? numbersIn(array) : null
    }
    const [times, values] = [floats('INPUT'), floats('OUTPUT')]
    const size = member === null ? rest.length : 1
    if (
      !times?.length ||
      !values ||
      values.length !== times.length * size ||
      times.some((t, i) => t < (times[i - 1] ?? t))
    )
      throw new FileFault(
        'collada-keys',
        `The keys of “${nodes[node]!.name}” are not as many as their times, or in no order.`,
      )
    const names = input('INTERPOLATION') && childrenOf(input('INTERPOLATION')!, 'Name_array')[0]
    const ways = names ? names.text.split(/\s+/).filter(Boolean) : []
    const [before, after] = [floats('IN_TANGENT'), floats('OUT_TANGENT')]
    const paired = member !== null && before?.length === times.length * 2 && after?.length === times.length * 2
    return [{ node, step, member, times, values, ways, handles: paired ? { before, after } : null }]
  })
}

/** Which number of a step a channel changes; null for all of it. */
function memberOf(kind: Step['kind'], word: string | undefined, cells: string | undefined): number | null {
  if (word) {
    const at = kind === 'rotate' && word === 'ANGLE' ? 3 : ['X', 'Y', 'Z'].indexOf(word)
    if (at < 0) throw new FileFault('collada-member', `“${word}” of a ${kind} is not known.`)
    return at
  }
  if (!cells) return null
  const at = [...cells.matchAll(/\d+/g)].map(Number)
  const index = kind === 'matrix' ? at[0]! * 4 + (at[1] ?? 0) : at[0]!
  const size = { matrix: 16, translate: 3, rotate: 4, scale: 3 }[kind]
  if (index >= size) throw new FileFault('collada-member', `A ${kind} has no number ${cells}.`)
  return index
}

/** Where skins are bound to their joints, in the scene: by node. */
function boundPlaces(
  whole: XmlElement,
  nodes: readonly ColladaNode[],
  sources: ReadonlyMap<string, XmlElement>,
): Map<number, Matrix4> {
  const bound = new Map<number, Matrix4>()
  for (const skin of allIn(whole, 'skin')) {
    const inputs = childrenOf(skin, 'joints').flatMap((j) => childrenOf(j, 'input'))
    const of = (semantic: string) =>
      sources.get((inputs.find((i) => i.attributes.semantic === semantic)?.attributes.source ?? '').replace(/^#/, ''))
    const named = of('JOINT')
    const list = named && [...childrenOf(named, 'Name_array'), ...childrenOf(named, 'IDREF_array')][0]
    const binds = of('INV_BIND_MATRIX')
    const array = binds && childrenOf(binds, 'float_array')[0]
    if (!list || !array) continue
    const values = numbersIn(array)
    for (const [i, word] of list.text.split(/\s+/).filter(Boolean).entries()) {
      const node = nodes.findIndex((n) => n.sid === word || n.id === word)
      if (node < 0 || bound.has(node) || values.length < (i + 1) * 16) continue
      const matrix = rowMajor(values.slice(i * 16, i * 16 + 16))
      // of one that cannot be turned back nothing is known
      if (Math.abs(matrix.determinant()) > 1e-12) bound.set(node, matrix.invert())
    }
  }
  return bound
}

/** Along x, y and z; one of them is negative where it is mirrored. */
function scaleOf(matrix: Matrix4): number[] {
  const scale = new Vector3()
  matrix.decompose(new Vector3(), new Quaternion(), scale)
  return scale.toArray()
}

const sizeOf = (matrix: Matrix4) => Math.cbrt(Math.abs(matrix.determinant())) || 1

/** How much longer a unit is than the scene's, above a node. */
function scaleAbove(nodes: readonly ColladaNode[], i: number): number {
  let scale = 1
  for (let at = nodes[i]!.parent; at >= 0; at = nodes[at]!.parent) scale *= sizeOf(localOf(nodes[at]!.steps))
  return scale
}

function jointsOf(
  nodes: readonly ColladaNode[],
  kept: readonly number[],
  bound: ReadonlyMap<number, Matrix4>,
  turn: Quaternion,
): MotionJoint[] {
  const number = new Map(kept.map((n, i) => [n, i]))
  const names = uniqueNames(kept.map((n) => nodes[n]!.name))
  const world: Matrix4[] = []
  for (const { parent, steps } of nodes) {
    const local = localOf(steps)
    world.push(parent < 0 ? local : world[parent]!.clone().multiply(local))
  }
  return kept.map((n, i): MotionJoint => {
    const [at, own] = [new Vector3(), new Quaternion()]
    ;(bound.get(n) ?? world[n]!).decompose(at, own, new Vector3())
    return {
      name: names[i]!,
      parent: number.get(nodes[n]!.parent) ?? -1,
      at: at.applyQuaternion(turn).toArray(),
      turn: own.premultiply(turn).normalize().toArray(),
      ...scaleSaid(sizeOf(world[n]!)),
      end: false,
    }
  })
}

interface Scene {
  nodes: readonly ColladaNode[]
  kept: readonly number[]
  channels: readonly Channel[]
  scales: readonly number[]
  turn: Quaternion
}

function sampled(
  head: Pick<ForeignMotion, 'name' | 'joints' | 'frames' | 'step'>,
  { nodes, kept, channels, scales, turn }: Scene,
  from: number,
): ForeignMotion {
  const { joints, frames, step } = head
  const motion: ForeignMotion = {
    ...head,
    turns: new Float32Array(frames * joints.length * 4),
    moves: new Float32Array(frames * joints.length * 3),
    up: '+y',
  }
  const [at, own, size] = [new Vector3(), new Quaternion(), new Vector3()]
  kept.forEach((n, j) => {
    const moving = channels.filter((c) => c.node === n)
    const { steps, parent } = nodes[n]!
    let still: Matrix4 | null = null
    for (let f = 0; f < frames; f++) {
      const local = moving.length ? localOf(stepsAt(steps, moving, from + f * step)) : (still ??= localOf(steps))
      local.decompose(at, own, size)
      at.multiplyScalar(scales[n]!)
      if (parent < 0) {
        at.applyQuaternion(turn)
        own.premultiply(turn)
      }
      at.toArray(motion.moves, (f * joints.length + j) * 3)
      own.normalize().toArray(motion.turns, (f * joints.length + j) * 4)
    }
  })
  return motion
}

/** The steps of a node at a time. */
function stepsAt(steps: readonly Step[], moving: readonly Channel[], time: number): Step[] {
  return steps.map((step, s) => {
    const own = moving.filter((c) => c.step === s)
    if (own.length === 0) return step
    const values = [...step.values]
    for (const channel of own) {
      if (channel.member !== null) values[channel.member] = numberAt(channel, time)
      else valuesAt(channel, step.kind, time).forEach((v, k) => (values[k] = v))
    }
    return { ...step, values }
  })
}

/** The keys around a time; one that is held until the next stays. */
function placeIn({ times, ways }: Channel, time: number): { a: number; b: number; u: number } {
  const { a, b, u } = keysAround(times, times.length, time)
  return { a, b, u: ways[a] === 'STEP' ? 0 : u }
}

function numberAt(channel: Channel, time: number): number {
  const { a, b, u } = placeIn(channel, time)
  const { values, times, ways, handles } = channel
  if (ways[a] !== 'BEZIER' || !handles || a === b) return values[a]! + (values[b]! - values[a]!) * u
  // a cubic of time and value: first where it is at that time, then its value there
  const cubic = (p: number, q: number, r: number, s: number, t: number) =>
    (1 - t) ** 3 * p + 3 * (1 - t) ** 2 * t * q + 3 * (1 - t) * t * t * r + t ** 3 * s
  const [t0, t1] = [times[a]!, times[b]!]
  let [low, high] = [0, 1]
  for (let i = 0; i < 32; i++) {
    const middle = (low + high) / 2
    if (cubic(t0, handles.after[a * 2]!, handles.before[b * 2]!, t1, middle) < time) low = middle
    else high = middle
  }
  return cubic(values[a]!, handles.after[a * 2 + 1]!, handles.before[b * 2 + 1]!, values[b]!, low)
}

/** All numbers of a step at a time; matrices turn evenly from one to the next. */
function valuesAt(channel: Channel, kind: Step['kind'], time: number): number[] {
  const { a, b, u } = placeIn(channel, time)
  const size = channel.values.length / channel.times.length
  const [from, to] = [a, b].map((k) => channel.values.slice(k * size, k * size + size)) as [number[], number[]]
  if (kind !== 'matrix' || u === 0) return from.map((v, k) => v + (to[k]! - v) * u)
  const parts = [from, to].map((v) => {
    const [at, turn, scale] = [new Vector3(), new Quaternion(), new Vector3()]
    rowMajor(v).decompose(at, turn, scale)
    return { at, turn, scale }
  }) as [{ at: Vector3; turn: Quaternion; scale: Vector3 }, { at: Vector3; turn: Quaternion; scale: Vector3 }]
  const mixed = new Matrix4().compose(
    parts[0].at.lerp(parts[1].at, u),
    parts[0].turn.slerp(parts[1].turn, u),
    parts[0].scale.lerp(parts[1].scale, u),
  )
  return mixed.transpose().toArray()
}
