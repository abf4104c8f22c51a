import { MeshoptDecoder } from 'meshoptimizer/decoder'
import { Matrix4, Quaternion, Vector3 } from 'three'

/*
 * A reader of binary glTF of its own, after the specification alone: it shares nothing with what
 * writes files, so that what it finds in them is what an engine will find.
 */

interface AccessorJson {
  bufferView?: number
  byteOffset?: number
  count: number
  type: string
  componentType: number
  normalized?: boolean
  sparse?: {
    count: number
    indices: { bufferView: number; byteOffset?: number; componentType: number }
    values: { bufferView: number; byteOffset?: number }
  }
}

interface PackedJson {
  byteOffset?: number
  byteLength: number
  byteStride: number
  count: number
  mode: string
  filter?: string
}

interface NodeJson {
  name?: string
  mesh?: number
  skin?: number
  children?: number[]
  matrix?: number[]
  translation?: [number, number, number]
  rotation?: [number, number, number, number]
  scale?: [number, number, number]
  extensions?: { MSFT_lod?: { ids: number[] } }
}

interface PrimitiveJson {
  attributes: Record<string, number>
  indices?: number
  material?: number
  mode?: number
  targets?: Record<string, number>[]
}

interface Json {
  asset?: { version?: string; extras?: Record<string, unknown> }
  scenes?: { nodes?: number[] }[]
  scene?: number
  nodes?: NodeJson[]
  meshes?: { name?: string; primitives: PrimitiveJson[]; weights?: number[]; extras?: { targetNames?: string[] } }[]
  skins?: { joints: number[]; inverseBindMatrices?: number }[]
  materials?: { doubleSided?: boolean; pbrMetallicRoughness?: { baseColorTexture?: { index: number } } }[]
  textures?: { source?: number }[]
  images?: { bufferView?: number; mimeType?: string }[]
  accessors?: AccessorJson[]
  bufferViews?: {
    byteOffset?: number
    byteLength: number
    byteStride?: number
    extensions?: { EXT_meshopt_compression?: PackedJson; KHR_meshopt_compression?: PackedJson }
  }[]
  animations?: {
    name?: string
    channels: { sampler: number; target: { node?: number; path: string } }[]
    samplers: { input: number; output: number; interpolation?: string }[]
    extras?: { loop?: unknown }
  }[]
}

const SIZES: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT4: 16 }
const BYTES: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 }
const ARRAYS = {
  5120: Int8Array,
  5121: Uint8Array,
  5122: Int16Array,
  5123: Uint16Array,
  5125: Uint32Array,
  5126: Float32Array,
} as Record<number, new (buffer: ArrayBufferLike, from: number, count: number) => ArrayLike<number>>
/** As glTF has its numbers, whatever machine this is. */
const LITTLE_ENDIAN = new Uint8Array(new Uint16Array([1]).buffer)[0] === 1
/** Bytes that a run of a file can unpack to. */
const MOST_OPEN = 128 << 20
/** Must have resolved before a file that is packed is read. */
export const unpackerReady: Promise<void> = MeshoptDecoder.ready
/** What one stands for when it is normalized. */
const FULL: Record<number, number> = { 5120: 127, 5121: 255, 5122: 32767, 5123: 65535 }

export interface ShippedClip {
  name: string
  /** Whether the file says that it goes round. */
  loop: boolean
  duration: number
  channels: { node: number | undefined; path: string; times: Float64Array; values: Float64Array; size: number }[]
}

/** A node with a mesh, its triangles as drawn. */
export interface Drawn {
  node: number
  name: string
  skin: number | null
  positions: Float64Array // xyz a vertex, as they lie in the file
  normals: Float64Array | null
  joints: Float64Array | null
  weights: Float64Array | null
  /** Places in the texture, two a vertex. */
  uvs: Float64Array | null
  /** Light of each color, by so many numbers a vertex. */
  colors: { values: Float64Array; size: number } | null
  triangles: Float64Array // three vertices each
  targets: { positions: Float64Array | null; normals: Float64Array | null }[]
  primitives: number
  material: number | null
}

/** Where a node stands in what it hangs on. */
interface Placed {
  t: Vector3
  r: Quaternion
  s: Vector3
}

/** Where nodes are at a moment, and how strongly morph targets act. */
export interface Moment {
  world: Matrix4[]
  weights: Map<number, number[]>
}

export class ShippedFile {
  readonly json: Json
  private readonly binary: DataView

  /** Throws if the bytes are no binary glTF 2.0. */
  constructor(bytes: Uint8Array) {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
    if (bytes.length < 20 || view.getUint32(0, true) !== 0x46546c67) throw new Error('it is not binary glTF')
    if (view.getUint32(4, true) !== 2) throw new Error('it is not glTF 2.0')
    if (view.getUint32(8, true) !== bytes.length)
      throw new Error(`it says it has ${view.getUint32(8, true)} bytes, and has ${bytes.length}`)
    const length = view.getUint32(12, true)
    if (view.getUint32(16, true) !== 0x4e4f534a || 20 + length > bytes.length) throw new Error('its JSON is missing')
    this.json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as Json
    const start = 20 + length + 8
    this.binary =
      start <= bytes.length
        ? new DataView(bytes.buffer, bytes.byteOffset + start, view.getUint32(20 + length, true))
        : new DataView(new ArrayBuffer(0))
  }

  get nodes(): NodeJson[] {
    return this.json.nodes ?? []
  }

  /** The numbers of an accessor, one after another. */
  read(index: number): { values: Float64Array; size: number } {
    const accessor = this.json.accessors?.[index]
    if (!accessor) throw new Error(`accessor ${index} is not there`)
    const size = SIZES[accessor.type]!
    const { count, componentType: type, normalized } = accessor
    const values =
      accessor.bufferView === undefined
        ? new Float64Array(count * size)
        : this.numbers(accessor.bufferView, accessor.byteOffset ?? 0, count, size, type)
    if (accessor.sparse) {
      const { count: changed, indices, values: to } = accessor.sparse
      const at = this.numbers(indices.bufferView, indices.byteOffset ?? 0, changed, 1, indices.componentType)
      const given = this.numbers(to.bufferView, to.byteOffset ?? 0, changed, size, type)
      at.forEach((place, i) => values.set(given.subarray(i * size, (i + 1) * size), place * size))
    }
    const full = FULL[type]!
    if (normalized) for (let i = 0; i < values.length; i++) values[i] = Math.max(-1, values[i]! / full)
    return { values, size }
  }

  private numbers(viewIndex: number, offset: number, count: number, size: number, type: number): Float64Array {
    const view = this.json.bufferViews?.[viewIndex]
    if (!view) throw new Error(`buffer view ${viewIndex} is not there`)
    const bytes = BYTES[type]!
    const stride = view.byteStride ?? bytes * size
    const packed = view.extensions?.EXT_meshopt_compression ?? view.extensions?.KHR_meshopt_compression
    const from = packed ? this.unpacked(viewIndex, packed) : this.binary
    const start = (packed ? 0 : (view.byteOffset ?? 0)) + offset
    const out = new Float64Array(count * size)
    const first = from.byteOffset + start
    // numbers that lie one after another are taken as they lie; what reads beyond the end throws either way
    if (stride === bytes * size && first % bytes === 0 && LITTLE_ENDIAN) {
      out.set(new ARRAYS[type]!(from.buffer, first, count * size))
      if (start + count * stride > from.byteLength)
        throw new Error(`buffer view ${viewIndex} ends before its numbers do`)
      return out
    }
    const at = (o: number) => {
      if (type === 5126) return from.getFloat32(o, true)
      if (type === 5125) return from.getUint32(o, true)
      if (type === 5123) return from.getUint16(o, true)
      if (type === 5122) return from.getInt16(o, true)
      return type === 5121 ? from.getUint8(o) : from.getInt8(o)
    }
    for (let i = 0; i < count; i++)
      for (let k = 0; k < size; k++) out[i * size + k] = at(start + i * stride + k * bytes)
    return out
  }

  private readonly open = new Map<number, DataView>()

  /** A packed view as it lies open; `unpackerReady` must have resolved. */
  private unpacked(
    index: number,
    { byteOffset = 0, byteLength, byteStride, count, mode, filter }: PackedJson,
  ): DataView {
    const known = this.open.get(index)
    if (known) return known
    if (count * byteStride > MOST_OPEN) throw new Error(`buffer view ${index} unpacks to more than there can be`)
    const out = new Uint8Array(count * byteStride)
    const { buffer, byteOffset: start } = this.binary
    const source = new Uint8Array(buffer, start + byteOffset, byteLength)
    MeshoptDecoder.decodeGltfBuffer(out, count, byteStride, source, mode, filter)
    const view = new DataView(out.buffer)
    this.open.set(index, view)
    return view
  }

  /** Every node with a mesh, the ones of the scene first, then coarser levels of detail. */
  drawn(): Drawn[] {
    return (this.shown ??= this.readDrawn())
  }

  private shown: Drawn[] | null = null

  private readDrawn(): Drawn[] {
    return this.nodes.flatMap((node, n) => {
      const mesh = node.mesh === undefined ? undefined : this.json.meshes?.[node.mesh]
      const primitive = mesh?.primitives[0]
      if (!mesh || !primitive) return []
      const attribute = (name: string, from = primitive.attributes) =>
        from[name] === undefined ? null : this.read(from[name]).values
      const positions = attribute('POSITION')
      if (!positions) return []
      return [
        {
          node: n,
          name: node.name ?? '',
          skin: node.skin ?? null,
          positions,
          normals: attribute('NORMAL'),
          joints: attribute('JOINTS_0'),
          weights: attribute('WEIGHTS_0'),
          uvs: attribute('TEXCOORD_0'),
          colors: primitive.attributes.COLOR_0 === undefined ? null : this.read(primitive.attributes.COLOR_0),
          triangles:
            primitive.indices === undefined
              ? Float64Array.from({ length: positions.length / 3 }, (_, i) => i)
              : this.read(primitive.indices).values,
          targets: (primitive.targets ?? []).map((t) => ({
            positions: attribute('POSITION', t),
            normals: attribute('NORMAL', t),
          })),
          primitives: mesh.primitives.length,
          material: primitive.material ?? null,
        },
      ]
    })
  }

  jointsOf(skin: number): number[] {
    return this.json.skins?.[skin]?.joints ?? []
  }

  /** Read once: every check asks for them. */
  clips(): ShippedClip[] {
    return (this.played ??= this.readClips())
  }

  private played: ShippedClip[] | null = null

  private readClips(): ShippedClip[] {
    return (this.json.animations ?? []).map(({ name, channels, samplers, extras }) => {
      const read = channels.map(({ sampler, target }) => {
        const { input, output } = samplers[sampler]!
        const { values, size } = this.read(output)
        return { node: target.node, path: target.path, times: this.read(input).values, values, size }
      })
      const loop = extras?.loop === true
      return { name: name ?? '', loop, duration: Math.max(0, ...read.map((c) => c.times.at(-1) ?? 0)), channels: read }
    })
  }

  /** The file as it stands, or at a time of a clip, or of several laid over each other. */
  at(...playing: { clip: ShippedClip; time: number }[]): Moment {
    const nodes = this.nodes
    const { parts: still, parents } = (this.built ??= this.build())
    const parts = still.slice()
    // what moves is put elsewhere: the rest stands for every moment
    const moved = (node: number) => {
      const part = parts[node]!
      return part === still[node] ? (parts[node] = { t: part.t.clone(), r: part.r.clone(), s: part.s.clone() }) : part
    }
    const weights = new Map<number, number[]>()
    nodes.forEach(({ mesh }, n) => {
      const own = mesh === undefined ? undefined : this.json.meshes?.[mesh]?.weights
      if (own) weights.set(n, [...own])
    })
    for (const { clip, time } of playing)
      for (const { node, path, times, values, size } of clip.channels) {
        if (node === undefined) continue
        const stride = path === 'weights' ? values.length / times.length : size
        const value = sample(times, values, stride, time, path === 'rotation')
        if (path === 'rotation') moved(node).r.fromArray(value)
        else if (path === 'translation') moved(node).t.fromArray(value)
        else if (path === 'scale') moved(node).s.fromArray(value)
        else weights.set(node, value)
      }
    const world: Matrix4[] = []
    const worldOf = (n: number, depth = 0): Matrix4 => {
      if (depth > nodes.length) throw new Error('its nodes hang from each other in a ring')
      if (world[n]) return world[n]
      const { t, r, s } = parts[n]!
      const own = new Matrix4().compose(t, r, s)
      const above = parents.get(n)
      return (world[n] = above === undefined ? own : own.premultiply(worldOf(above, depth + 1)))
    }
    nodes.forEach((_, n) => worldOf(n))
    return { world, weights }
  }

  private built: { parts: Placed[]; parents: Map<number, number> } | null = null

  /** Where nodes stand in what they hang on, and what that is. */
  private build() {
    const parts = this.nodes.map(({ translation, rotation, scale, matrix }): Placed => {
      const [t, r, s] = [new Vector3(), new Quaternion(), new Vector3(1, 1, 1)]
      if (matrix) new Matrix4().fromArray(matrix).decompose(t, r, s)
      if (translation) t.fromArray(translation)
      if (rotation) r.fromArray(rotation)
      if (scale) s.fromArray(scale)
      return { t, r, s }
    })
    const parents = new Map(this.nodes.flatMap(({ children = [] }, n) => children.map((c) => [c, n] as const)))
    return { parts, parents }
  }

  /** Vertices of a drawn node in the world at a moment: morph targets, then skin; xyz a vertex. */
  posed(drawn: Drawn, moment: Moment): Float64Array {
    const m = this.skinMatrices(drawn, moment)
    const from = this.morphed(drawn, moment)
    const { joints, weights } = drawn
    const skinned = drawn.skin !== null && joints && weights
    const out = new Float64Array(from.length)
    // as faces meet in it, a vertex is there several times: it is worked out once
    const first = from === drawn.positions ? firstAlike(drawn) : null
    // for every vertex at many moments: written out
    for (let v = 0, i = 0; i < from.length; v += 4, i += 3) {
      const like = first ? first[v >> 2]! * 3 : i
      if (like < i) {
        out[i] = out[like]!
        out[i + 1] = out[like + 1]!
        out[i + 2] = out[like + 2]!
        continue
      }
      const x = from[i]!
      const y = from[i + 1]!
      const z = from[i + 2]!
      let px = 0
      let py = 0
      let pz = 0
      for (let j = v; j < v + (skinned ? 4 : 1); j++) {
        const w = skinned ? weights[j]! : 1
        const o = skinned ? joints[j]! * 16 : 0
        // a joint that is not there moves nothing
        if (w === 0 || o >= m.length) continue
        px += w * (m[o]! * x + m[o + 4]! * y + m[o + 8]! * z + m[o + 12]!)
        py += w * (m[o + 1]! * x + m[o + 5]! * y + m[o + 9]! * z + m[o + 13]!)
        pz += w * (m[o + 2]! * x + m[o + 6]! * y + m[o + 10]! * z + m[o + 14]!)
      }
      out[i] = px
      out[i + 1] = py
      out[i + 2] = pz
    }
    return out
  }

  /** The height of the lowest vertex at a moment. */
  lowest(drawn: Drawn, moment: Moment): number {
    const m = this.skinMatrices(drawn, moment)
    const from = this.morphed(drawn, moment)
    const { joints, weights } = drawn
    const skinned = drawn.skin !== null && joints && weights
    let lowest = Infinity
    const first = from === drawn.positions ? firstAlike(drawn) : null
    // for every vertex at many moments: written out
    for (let v = 0, i = 0; i < from.length; v += 4, i += 3) {
      if (first && first[v >> 2]! * 3 < i) continue
      const x = from[i]!
      const y = from[i + 1]!
      const z = from[i + 2]!
      let height = skinned ? 0 : m[1]! * x + m[5]! * y + m[9]! * z + m[13]!
      if (skinned)
        for (let j = v; j < v + 4; j++) {
          const w = weights[j]!
          const o = joints[j]! * 16
          if (w !== 0 && o < m.length) height += w * (m[o + 1]! * x + m[o + 5]! * y + m[o + 9]! * z + m[o + 13]!)
        }
      if (height < lowest) lowest = height
    }
    return lowest
  }

  private morphed(drawn: Drawn, moment: Moment): Float64Array {
    const weights = moment.weights.get(drawn.node)
    if (!weights?.some((w) => w !== 0)) return drawn.positions
    const out = drawn.positions.slice()
    weights.forEach((weight, t) => {
      const moves = drawn.targets[t]?.positions
      if (weight && moves) for (let i = 0; i < out.length; i++) out[i]! += weight * moves[i]!
    })
    return out
  }

  /** Sixteen numbers a joint, column by column; of a node without skin its own matrix alone. */
  private skinMatrices({ skin: index, node }: Drawn, { world }: Moment): Float64Array {
    if (index === null) return Float64Array.from(world[node]!.elements)
    const skin = this.json.skins![index]!
    const bind = skin.inverseBindMatrices === undefined ? null : this.bindOf(skin.inverseBindMatrices)
    const out = new Float64Array(skin.joints.length * 16)
    const matrix = new Matrix4()
    skin.joints.forEach((joint, k) => {
      const m = world[joint]!
      if (bind) out.set(matrix.fromArray(bind as unknown as number[], k * 16).premultiply(m).elements, k * 16)
      else out.set(m.elements, k * 16)
    })
    return out
  }

  private readonly binds = new Map<number, Float64Array>()

  private bindOf(accessor: number): Float64Array {
    let bind = this.binds.get(accessor)
    if (!bind) this.binds.set(accessor, (bind = this.read(accessor).values))
    return bind
  }

  /** The bytes of every image that lies in the file. */
  images(): Uint8Array[] {
    return (this.json.images ?? []).map(({ bufferView }) => {
      const view = bufferView === undefined ? undefined : this.json.bufferViews?.[bufferView]
      if (!view) return new Uint8Array()
      const { buffer, byteOffset } = this.binary
      return new Uint8Array(buffer, byteOffset + (view.byteOffset ?? 0), view.byteLength)
    })
  }
}

/** Linear between keys, turns by spherical interpolation, held before the first and after the last. */
function sample(times: Float64Array, values: Float64Array, stride: number, time: number, isTurn: boolean): number[] {
  const key = (i: number) => Array.from({ length: stride }, (_, k) => values[i * stride + k]!)
  let next = 0
  while (next < times.length && !(times[next]! > time)) next++
  if (next === 0) return key(0)
  const from = next - 1
  if (next === times.length) return key(from)
  const f = (time - times[from]!) / (times[next]! - times[from]!)
  if (isTurn)
    return new Quaternion()
      .fromArray(values as unknown as number[], from * stride)
      .slerp(new Quaternion().fromArray(values as unknown as number[], next * stride), f)
      .toArray()
  return key(from).map((v, k) => v * (1 - f) + values[next * stride + k]! * f)
}

/** So many vertices at one place are compared. */
const MOST_LOOKED = 24

const alike = new WeakMap<Drawn, Uint32Array>()

/** Of each vertex the first with its place, joints and weights, which is posed as it is: itself, if there is none before. */
function firstAlike(drawn: Drawn): Uint32Array {
  const known = alike.get(drawn)
  if (known) return known
  const { positions, joints, weights } = drawn
  const first = new Uint32Array(positions.length / 3)
  /** By a number that is the same for the same place: the last with it, and of each the one before it with the same. */
  const last = new Map<number, number>()
  const before = new Int32Array(first.length)
  const same = (list: Float64Array | null, size: number, a: number, b: number) => {
    for (let k = 0; list && k < size; k++) if (list[a * size + k] !== list[b * size + k]) return false
    return true
  }
  for (let v = 0; v < first.length; v++) {
    const key = positions[v * 3]! + 7.31 * positions[v * 3 + 1]! + 59.7 * positions[v * 3 + 2]!
    let like = last.get(key) ?? -1
    // of a file that is odd all may lie at one place: what is not found soon is worked out once more
    for (let n = 0; like >= 0; like = n++ < MOST_LOOKED ? before[like]! : -1)
      if (same(positions, 3, like, v) && same(joints, 4, like, v) && same(weights, 4, like, v)) break
    first[v] = like < 0 ? v : like
    if (like >= 0) continue
    before[v] = last.get(key) ?? -1
    last.set(key, v)
  }
  alike.set(drawn, first)
  return first
}
