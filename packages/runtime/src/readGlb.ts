/* Reads the pieces of a package: binary glTF 2.0, as far as packages use it. Throws where a file is not whole. */

type Numbers = Float32Array | Uint32Array | Uint16Array | Int16Array | Uint8Array | Int8Array

interface Accessor {
  bufferView?: number
  byteOffset?: number
  componentType: number
  count: number
  type: string
  normalized?: boolean
  sparse?: {
    count: number
    indices: { bufferView: number; byteOffset?: number; componentType: number }
    values: { bufferView: number; byteOffset?: number }
  }
}

export interface GltfJson {
  nodes?: { name?: string; mesh?: number; skin?: number; children?: number[]; translation?: number[] }[]
  meshes?: {
    name?: string
    primitives: { attributes: Record<string, number>; targets?: Record<string, number>[] }[]
    extras?: { targetNames?: string[] } & Record<string, unknown>
  }[]
  skins?: { joints: number[] }[]
  accessors?: Accessor[]
  bufferViews?: { byteOffset?: number; byteLength: number; byteStride?: number }[]
  animations?: {
    name?: string
    channels: { sampler: number; target: { node: number; path: string } }[]
    samplers: { input: number; output: number }[]
  }[]
}

const SIZES: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT4: 16 }
const ARRAYS = {
  5120: Int8Array,
  5121: Uint8Array,
  5122: Int16Array,
  5123: Uint16Array,
  5125: Uint32Array,
  5126: Float32Array,
} as const

export class Glb {
  readonly json: GltfJson
  private readonly bin: Uint8Array

  constructor(bytes: ArrayBuffer | Uint8Array) {
    const all = bytes instanceof Uint8Array ? bytes : new Uint8Array(bytes)
    const view = new DataView(all.buffer, all.byteOffset, all.byteLength)
    const word = (at: number) => view.getUint32(at, true)
    if (all.length < 20 || word(0) !== 0x46546c67 || word(4) !== 2 || word(8) !== all.length)
      throw new Error('not a whole binary glTF 2.0')
    const json = word(12)
    this.json = JSON.parse(new TextDecoder().decode(all.subarray(20, 20 + json))) as GltfJson
    const start = 20 + json
    this.bin = start + 8 <= all.length ? all.subarray(start + 8, start + 8 + word(start)) : new Uint8Array(0)
  }

  /** The numbers of an accessor, as they are written; a sparse one as its rows and what stands in them. */
  numbers(index: number): Numbers {
    const accessor = this.accessor(index)
    return this.read(accessor, accessor.bufferView, accessor.byteOffset ?? 0, accessor.count, SIZES[accessor.type]!)
  }

  /** Numbers as shares of the largest where the file says so, else as they are. */
  floats(index: number): Float32Array {
    const own = this.numbers(index)
    const most = { 5121: 255, 5123: 65_535 }[this.accessor(index).componentType]
    return Float32Array.from(own, (v) => (this.accessor(index).normalized && most ? v / most : v))
  }

  /** What moves of a morph target: rows of vertices and a move of three for each. */
  moves(index: number): { rows: Uint16Array; values: ArrayLike<number> } {
    const accessor = this.accessor(index)
    const { sparse } = accessor
    if (sparse) {
      const { indices, values } = sparse
      const rows = this.read(indices, indices.bufferView, indices.byteOffset ?? 0, sparse.count, 1)
      return {
        rows: Uint16Array.from(rows),
        values: this.read(accessor, values.bufferView, values.byteOffset ?? 0, sparse.count, 3),
      }
    }
    if (accessor.bufferView === undefined) return { rows: new Uint16Array(0), values: [] }
    return { rows: Uint16Array.from({ length: accessor.count }, (_, i) => i), values: this.numbers(index) }
  }

  private accessor(index: number): Accessor {
    const accessor = this.json.accessors?.[index]
    if (!accessor || !SIZES[accessor.type] || !(accessor.count >= 0)) throw new Error(`no accessor ${index}`)
    return accessor
  }

  private read(
    { componentType }: { componentType: number },
    viewIndex: number | undefined,
    offset: number,
    count: number,
    size: number,
  ): Numbers {
    const Kind = ARRAYS[componentType as keyof typeof ARRAYS]
    const view = this.json.bufferViews?.[viewIndex ?? -1]
    if (!Kind || !view) throw new Error('an accessor points nowhere')
    const width = Kind.BYTES_PER_ELEMENT
    const stride = view.byteStride ?? size * width
    const from = (view.byteOffset ?? 0) + offset
    if (count && from + (count - 1) * stride + size * width > this.bin.length) throw new Error('the file is cut off')
    const out = new Kind(count * size)
    const bytes = new Uint8Array(out.buffer)
    for (let i = 0; i < count; i++)
      bytes.set(this.bin.subarray(from + i * stride, from + i * stride + size * width), i * size * width)
    return out
  }
}
