import { Document, type Animation, type Node, type Skin } from '@gltf-transform/core'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { problem, type Read } from '../../base/problem.ts'
import type { Beside } from '../../scene/joinGltf.ts'
import { readGltf, type GltfJson } from '../../scene/readGltf.ts'
import { readScene } from '../../scene/readScene.ts'
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

/**
 * Reads the clips of a binary glTF file. The rest pose is that in which its skins are bound, of nodes without a skin
 * that in which they stand; clips are sampled sixty times a second. Scale that moves is left out.
 *
 * @param still whether a file without clips is read as well, as one motion of a single frame
 */
export async function readGlbMotion(bytes: Uint8Array, name: string, still = false): Promise<Read<ForeignMotion[]>> {
  return motionsOf(await readScene(bytes, name), name, still)
}

/**
 * Reads the clips of a glTF file that is text.
 *
 * @param beside what lies beside it, by the way it is named there
 */
export async function readGltfMotion(
  text: string,
  name: string,
  beside: Beside,
  still = false,
): Promise<Read<ForeignMotion[]>> {
  // what it looks like moves nothing
  const bare = ({ images: _images, textures: _textures, materials, ...json }: GltfJson): GltfJson => ({
    ...json,
    ...(materials && { materials: materials.map(() => ({})) }),
  })
  return motionsOf(await readGltf(text, name, beside, bare), name, still)
}

function motionsOf({ value: document, problems }: Read<Document>, name: string, still: boolean): Read<ForeignMotion[]> {
  if (!document) return { value: null, problems: problems.map((p) => ({ ...p, severity: 'error' as const })) }
  const clips = document.getRoot().listAnimations()
  if (clips.length === 0 && !still)
    return refused(name, 'glb-still', 'It holds no clip.', 'Export it with its animation.')
  const wanted = wantedNodes(document)
  if (wanted.size < 2)
    return still
      ? refused(name, 'skeleton-none', 'It holds no skeleton.', 'Export the figure with its skeleton.')
      : refused(name, 'glb-still', 'Its clips move no skeleton.', 'Export the skeleton with its animation.')
  // before anything is worked out of them
  const large = tooLarge(name, wanted.size, 1)
  if (large) return { value: null, problems: [large] }
  const found = jointsOf(document, wanted)
  const uneven = unevenScale(
    name,
    found.nodes.map((node, i) => ({ name: found.joints[i]!.name, scale: node.getScale() })),
  )
  const told = [...problems, ...(uneven ? [uneven] : [])]
  if (clips.length === 0) return { value: [sampled(name, found, [], 1, 1 / RATE)], problems: told }
  const titles = uniqueNames(clips.map((clip, i) => clip.getName() || (clips.length > 1 ? `Clip ${i + 1}` : name)))
  const read = clips.map((clip, i) => readClip(clip, titles[i]!, name, found))
  const all = [...told, ...read.flatMap((r) => r.problems)]
  const motions = read.flatMap((r) => r.value ?? [])
  return { value: motions.length ? motions : null, problems: all }
}

const refused = (where: string, code: string, message: string, fix: string) => ({
  value: null,
  problems: [problem(code, where, message, fix)],
})

interface FoundJoints {
  /** Parents before their children. */
  nodes: Node[]
  joints: MotionJoint[]
  /** How much longer a unit is than the scene's, above each joint. */
  scales: number[]
}

/** What skins hang on and clips move, with all above it. */
function wantedNodes(document: Document): Set<Node> {
  const root = document.getRoot()
  const wanted = new Set<Node>(root.listSkins().flatMap((skin) => skin.listJoints()))
  for (const clip of root.listAnimations())
    for (const channel of clip.listChannels()) {
      const node = channel.getTargetNode()
      if (node && channel.getTargetPath() !== 'weights') wanted.add(node)
    }
  for (const node of [...wanted])
    for (let at = node.getParentNode(); at && !wanted.has(at); at = at.getParentNode()) wanted.add(at)
  return wanted
}

/** The nodes as joints, at rest as skins are bound to them, else as they stand. */
function jointsOf(document: Document, wanted: ReadonlySet<Node>): FoundJoints {
  const root = document.getRoot()
  const bound = new Map<Node, Matrix4>()
  for (const skin of root.listSkins()) {
    const inverse = bindsOf(skin)
    const over = root.listNodes().find((node) => node.getSkin() === skin)
    const toScene = inverse.size ? sceneOf(inverse, over) : new Matrix4()
    for (const [joint, bind] of inverse)
      if (!bound.has(joint)) bound.set(joint, toScene.clone().multiply(bind.clone().invert()))
  }
  const depth = (node: Node): number => {
    let deep = 0
    for (let at = node.getParentNode(); at; at = at.getParentNode()) deep++
    return deep
  }
  // children keep the order they have in the file
  const nodes = root
    .listNodes()
    .filter((node) => wanted.has(node))
    .map((node) => ({ node, deep: depth(node) }))
    .sort((a, b) => a.deep - b.deep)
    .map(({ node }) => node)
  const number = new Map(nodes.map((node, i) => [node, i]))
  const names = uniqueNames(nodes.map((node) => node.getName()))
  const joints = nodes.map((node, i): MotionJoint => {
    const [at, turn] = [new Vector3(), new Quaternion()]
    ;(bound.get(node) ?? matrixOf(node)).decompose(at, turn, new Vector3())
    return {
      name: names[i]!,
      parent: number.get(node.getParentNode()!) ?? -1,
      at: at.toArray(),
      turn: turn.normalize().toArray(),
      ...scaleSaid(scaleFrom(node)),
      end: false,
    }
  })
  const scales = nodes.map((node) => scaleFrom(node.getParentNode()))
  return { nodes, joints, scales }
}

/** How much longer a unit of what hangs on a node is than the scene's. */
function scaleFrom(node: Node | null): number {
  let scale = 1
  for (let at = node; at; at = at.getParentNode())
    scale *= Math.cbrt(Math.abs(at.getScale().reduce((a, b) => a * b, 1)))
  return scale
}

/** The inverse bind matrices of a skin's joints. */
function bindsOf(skin: Skin): Map<Node, Matrix4> {
  const binds = skin.getInverseBindMatrices()
  const found = new Map<Node, Matrix4>()
  const element: number[] = []
  skin.listJoints().forEach((joint, i) => {
    if (!binds || i >= binds.getCount()) return
    const bind = new Matrix4().fromArray(binds.getElement(i, element))
    // of one that cannot be turned back nothing is known; whole numbers may make a unit very small
    if (bind.elements.every(Number.isFinite) && scaleOf(bind) > 1e-7) found.set(joint, bind)
  })
  return found
}

const scaleOf = (matrix: Matrix4) => Math.cbrt(Math.abs(matrix.determinant()))

/**
 * From where the vertices of a skin are counted to the scene: whole numbers, say, or a mesh in centimetres with z up. As
 * most of the joints have it that stand as they were bound; of a skeleton that stands otherwise, as its mesh's node has it
 * where that is as large, and the size alone where it is not.
 */
function sceneOf(inverse: ReadonlyMap<Node, Matrix4>, over: Node | undefined): Matrix4 {
  const ways = [...inverse].map(([joint, bind]) => matrixOf(joint).multiply(bind))
  const scale = ways.map(scaleOf).sort((a, b) => a - b)[ways.length >> 1]!
  const alike = (a: Matrix4, b: Matrix4) => a.elements.every((v, i) => Math.abs(v - b.elements[i]!) < 1e-3 * (i < 12 ? scale : 1)) // prettier-ignore
  // one alone always agrees with itself
  const most = (way: Matrix4) => ways.filter((other) => alike(way, other)).length * 2 > Math.max(2, ways.length)
  const agreed = ways.find(most)
  const mesh = over ? matrixOf(over) : null
  const same = mesh && Math.abs(scaleOf(mesh) / scale - 1) < 1e-2
  const found = agreed ?? (same ? mesh : new Matrix4().makeScale(scale, scale, scale))
  // where they are the same nothing is rounded
  return alike(found, new Matrix4()) ? new Matrix4() : found
}

const matrixOf = (node: Node) => new Matrix4().fromArray(node.getWorldMatrix())

function readClip(clip: Animation, title: string, where: string, found: FoundJoints): Read<ForeignMotion> {
  const { joints } = found
  const curves = clip.listChannels().flatMap((channel) => {
    const [node, path] = [channel.getTargetNode(), channel.getTargetPath()]
    if (!node || (path !== 'rotation' && path !== 'translation')) return []
    const sampler = channel.getSampler()
    const [times, values] = [sampler?.getInput()?.getArray(), sampler?.getOutput()]
    if (!sampler || !times || !values || times.length === 0) return []
    const own = { times: Float32Array.from(times), values: floatsOf(values), way: sampler.getInterpolation() }
    return [{ node, path, ...own }]
  })
  const broken = curves.find(
    ({ times, values }) =>
      !times.every((t, i) => Number.isFinite(t) && t >= 0 && (i === 0 || t >= times[i - 1]!)) ||
      !values.every(Number.isFinite),
  )
  const fault = (code: string, message: string, fix = 'Export it again.'): Read<ForeignMotion> => ({
    value: null,
    problems: [problem(code, `${where}/${title}`, message, fix)],
  })
  if (broken) return fault('clip-values', `The keys of “${broken.node.getName()}” are no numbers in order.`)
  const seconds = Math.max(0, ...curves.map(({ times }) => times[times.length - 1]!))
  if (curves.length === 0) return fault('glb-still', 'It turns no bone.', 'Leave it out.')
  const frames = Math.max(1, Math.round(seconds * RATE) + 1)
  const large = tooLong(`${where}/${title}`, seconds) ?? tooLarge(`${where}/${title}`, joints.length, frames)
  if (large) return { value: null, problems: [large] }
  const step = frames > 1 ? seconds / (frames - 1) : 1 / RATE
  return { value: sampled(title, found, curves, frames, step), problems: [] }
}

/** A motion of so many frames; what no curve moves stands as its node does. */
function sampled(
  title: string,
  { nodes, joints, scales }: FoundJoints,
  curves: readonly (Curve & { node: Node; path: string })[],
  frames: number,
  step: number,
): ForeignMotion {
  const motion: ForeignMotion = {
    ...{ name: title, joints, frames, step },
    turns: new Float32Array(frames * joints.length * 4),
    moves: new Float32Array(frames * joints.length * 3),
    up: '+y',
  }
  nodes.forEach((node, j) => {
    const own = (path: string) => curves.find((c) => c.node === node && c.path === path)
    const [turns, moves] = [own('rotation'), own('translation')]
    const sample = [0, 0, 0, 1]
    for (let f = 0; f < frames; f++) {
      const row = f * joints.length + j
      if (turns) {
        sampleAt(turns, f * motion.step, 4, sample)
        new Quaternion()
          .fromArray(sample)
          .normalize()
          .toArray(motion.turns, row * 4)
      } else motion.turns.set(node.getRotation(), row * 4)
      if (moves) sampleAt(moves, f * motion.step, 3, sample)
      const place = moves ? sample : node.getTranslation()
      for (let k = 0; k < 3; k++) motion.moves[row * 3 + k] = place[k]! * scales[j]!
    }
  })
  return motion
}

interface Curve {
  times: Float32Array
  values: Float32Array
  way: string
}

function floatsOf(accessor: {
  getCount(): number
  getElementSize(): number
  getElement(i: number, to: number[]): number[]
}) {
  const size = accessor.getElementSize()
  const out = new Float32Array(accessor.getCount() * size)
  const element: number[] = []
  for (let i = 0; i < accessor.getCount(); i++) out.set(accessor.getElement(i, element).slice(0, size), i * size)
  return out
}

/** A curve's value at a time, as glTF 2.0 has it (appendix C): steps, lines or slerp, or cubic splines. */
function sampleAt({ times, values, way }: Curve, time: number, size: 3 | 4, out: number[]): void {
  const cubic = way === 'CUBICSPLINE'
  const count = Math.min(times.length, Math.floor(values.length / (cubic ? size * 3 : size)))
  const valueOf = (i: number, part = 1) => (cubic ? (i * 3 + part) * size : i * size)
  const { a, b, u } = keysAround(times, count, time)
  const span = times[b]! - times[a]!
  if (a === b || u === 0 || way === 'STEP') {
    for (let k = 0; k < size; k++) out[k] = values[valueOf(a) + k] ?? (k === 3 ? 1 : 0)
    return
  }
  if (!cubic && size === 4) {
    const from = new Quaternion().fromArray(values, valueOf(a))
    from.slerp(new Quaternion().fromArray(values, valueOf(b)), u).toArray(out)
    return
  }
  const [u2, u3] = [u * u, u * u * u]
  for (let k = 0; k < size; k++) {
    const p = values[valueOf(a) + k]!
    const q = values[valueOf(b) + k]!
    out[k] = cubic
      ? (2 * u3 - 3 * u2 + 1) * p +
        (u3 - 2 * u2 + u) * span * values[valueOf(a, 2) + k]! +
        (3 * u2 - 2 * u3) * q +
        (u3 - u2) * span * values[valueOf(b, 0) + k]!
      : p + (q - p) * u
  }
}
