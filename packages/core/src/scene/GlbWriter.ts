import type { GLTF } from '@gltf-transform/core'

type Numbers = Float32Array | Uint32Array | Uint16Array | Int16Array | Uint8Array | Int8Array
type List = 'accessors' | 'animations' | 'images' | 'materials' | 'meshes' | 'nodes' | 'samplers' | 'skins' | 'textures'
type Item<L extends List> = NonNullable<GLTF.IGLTF[L]>[number]

/** Packs a run of elements of so many bytes each. */
export type Pack = (bytes: Uint8Array, stride: number, mode: 'ATTRIBUTES' | 'TRIANGLES') => Uint8Array

/** A run of bytes while the file is open. */
interface Run {
  view: GLTF.IBufferView
  chunks: Uint8Array[]
  length: number
  /** Of what kind all its elements are, and how many bytes each has; null if they are of several, and stay unpacked. */
  elements: { stride: number; mode: 'ATTRIBUTES' | 'TRIANGLES' } | null
}

export interface Values {
  type: GLTF.AccessorType
  array: Numbers
  /** Whole numbers stand for shares of the largest. */
  normalized?: boolean
  /** Least and most are written beside: places and times must have them. */
  bounds?: boolean
}

/** How some of the vertices of a mesh move; the others stay. */
export interface Moves {
  /** How many vertices there are. */
  count: number
  /** Those that move, ascending. */
  rows: ArrayLike<number>
  /** xyz a row: metres, or whole numbers of the unit that the vertices are counted in. */
  values: Float32Array | Int16Array
  /** Whole numbers stand for shares of the largest. */
  normalized?: boolean
}

/** The extension by which bytes are packed. */
export const MESHOPT = 'EXT_meshopt_compression'
/** … and by which vertices are whole numbers. */
export const QUANTIZED = 'KHR_mesh_quantization'

/** Components an element. */
const SIZES: Record<GLTF.AccessorType, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 }
const VERTICES = 34962
const TRIANGLES = 34963

/**
 * Binary glTF 2.0 (Khronos), put together as it will lie in the file: lists of descriptions, and
 * runs of bytes that they point into. Indices are given out as things are added; nothing is looked
 * up or changed afterwards, which is what makes it quick.
 */
export class GlbWriter {
  readonly json: GLTF.IGLTF
  private readonly runs = new Map<string, number>()
  private readonly views: Run[] = []
  private readonly pack: Pack | null

  /** @param pack by which vertices, triangles and keys are packed (EXT_meshopt_compression); they lie open if absent */
  constructor(asset: Partial<GLTF.IAsset> = {}, pack: Pack | null = null) {
    this.json = { asset: { version: '2.0', ...asset } }
    this.pack = pack
  }

  /** Adds to a list of the document. @returns its index there */
  add<L extends List>(list: L, item: Item<L>): number {
    const items = (this.json[list] ??= []) as Item<L>[]
    return items.push(item) - 1
  }

  /** @param run accessors of one name lie in one run of bytes, one after the other */
  accessor(run: string, values: Values): number {
    const stride = SIZES[values.type] * values.array.BYTES_PER_ELEMENT
    // what is packed together is of one kind
    const packs = this.pack && stride % 4 === 0
    const own = packs ? this.run(`${run} of ${stride}`, {}, { stride, mode: 'ATTRIBUTES' }) : this.run(run)
    const place = this.append(own, bytesOf(values.array))
    return this.add('accessors', { ...describe(values), ...place })
  }

  /** Corners of triangles, as an accessor. */
  triangles(array: Uint32Array | Uint16Array): number {
    const stride = array.BYTES_PER_ELEMENT
    const own = this.pack
      ? this.newView({ target: TRIANGLES }, { stride, mode: 'TRIANGLES' })
      : this.run('triangles', { target: TRIANGLES })
    const place = this.append(own, bytesOf(array))
    return this.add('accessors', { ...describe({ type: 'SCALAR', array }), ...place })
  }

  /** Accessors of what every vertex has, side by side: a vertex is read in one go. */
  vertices<K extends string>(attributes: Record<K, Values>): Record<K, number> {
    const list = Object.entries(attributes) as [K, Values][]
    const offsets: number[] = []
    let stride = 0
    for (const [, { type, array }] of list) {
      offsets.push(stride)
      stride += fourths(SIZES[type] * array.BYTES_PER_ELEMENT)
    }
    const count = list.length ? list[0]![1].array.length / SIZES[list[0]![1].type] : 0
    const bytes = new ArrayBuffer(count * stride)
    list.forEach(([, values], i) => scatter(values, bytes, offsets[i]!, stride))
    const view = this.newView({ target: VERTICES, byteStride: stride }, { stride, mode: 'ATTRIBUTES' })
    this.append(view, new Uint8Array(bytes))
    return Object.fromEntries(
      list.map(([name, values], i) => [
        name,
        this.add('accessors', { ...describe(values), bufferView: view, byteOffset: offsets[i]! }),
      ]),
    ) as Record<K, number>
  }

  /** An accessor of what a target moves: by the rows that move, or by all, whichever is shorter. */
  moves({ count, rows: moving, values: theirs, normalized }: Moves): number {
    // of what moves nothing one row says so: accessors without bytes are good glTF, and too much for some importers
    const [rows, values] = moving.length ? [moving, theirs] : [[0], new (theirs.constructor as typeof Float32Array)(3)]
    const type = { type: 'VEC3', componentType: componentOf(values), count } as const
    const whole = normalized ? { ...type, normalized } : type
    const bounds = boundsOfRows(values, rows.length < count)
    if (rows.length * 2 >= count && values instanceof Float32Array) {
      const all = new Float32Array(count * 3)
      for (let i = 0; i < rows.length; i++) for (let k = 0; k < 3; k++) all[rows[i]! * 3 + k] = values[i * 3 + k]!
      const of = { stride: 12, mode: 'ATTRIBUTES' } as const
      const place = this.append(this.run('moves', { target: VERTICES, byteStride: 12 }, of), bytesOf(all))
      return this.add('accessors', { ...whole, ...bounds, ...place })
    }
    const indices = count > 65_535 ? Uint32Array.from(rows) : Uint16Array.from(rows)
    return this.add('accessors', {
      ...whole,
      ...bounds,
      sparse: {
        count: rows.length,
        indices: { ...this.append(this.run('sparse rows'), bytesOf(indices)), componentType: componentOf(indices) },
        values: this.append(this.run('sparse values'), bytesOf(values)),
      },
    })
  }

  /** A picture within the file. */
  image(name: string, mimeType: 'image/png', bytes: Uint8Array): number {
    const view = this.newView({})
    this.append(view, bytes)
    return this.add('images', { name, mimeType, bufferView: view })
  }

  bytes(): Uint8Array {
    if (this.pack) return this.packed(this.pack)
    let length = 0
    for (const { view, length: own } of this.views) {
      view.byteOffset = length
      view.byteLength = own
      length += fourths(own)
    }
    if (this.views.length) {
      this.json.bufferViews = this.views.map(({ view }) => view)
      this.json.buffers = [{ byteLength: length }]
    }
    return glbBytes(
      this.json,
      this.views.flatMap(({ chunks }) => chunks),
    )
  }

  /** The file with all that can be packed; how it lies open is said beside, in a buffer that is not there. */
  private packed(pack: Pack): Uint8Array {
    let [length, open] = [0, 0]
    const chunks = this.views.map((run) => {
      const { view, elements } = run
      const own = joined(run)
      const chunk = elements && own.length ? pack(own, elements.stride, elements.mode) : own
      view.byteLength = own.length
      const place = { buffer: 0, byteOffset: length, byteLength: chunk.length }
      length += fourths(chunk.length)
      if (chunk === own) Object.assign(view, place)
      else {
        const { stride, mode } = elements!
        const told = { ...place, byteStride: stride, count: own.length / stride, mode }
        Object.assign(view, { buffer: 1, byteOffset: open, extensions: { [MESHOPT]: told } })
        open += fourths(own.length)
      }
      return chunk
    })
    if (this.views.length) this.json.bufferViews = this.views.map(({ view }) => view)
    if (length) this.json.buffers = [{ byteLength: length }]
    if (open) {
      this.json.buffers!.push({ byteLength: open, extensions: { [MESHOPT]: { fallback: true } } })
      for (const list of ['extensionsUsed', 'extensionsRequired'] as const)
        this.json[list] = [...(this.json[list] ?? []), MESHOPT]
    }
    return glbBytes(this.json, chunks)
  }

  private run(name: string, view: Partial<GLTF.IBufferView> = {}, elements: Run['elements'] = null): number {
    let index = this.runs.get(name)
    if (index === undefined) this.runs.set(name, (index = this.newView(view, elements)))
    return index
  }

  private newView(view: Partial<GLTF.IBufferView>, elements: Run['elements'] = null): number {
    const run: Run = { view: { buffer: 0, byteLength: 0, ...view }, chunks: [], length: 0, elements }
    return this.views.push(run) - 1
  }

  /** Chunks begin at multiples of four bytes, as every kind of number needs. */
  private append(index: number, bytes: Uint8Array): { bufferView: number; byteOffset: number } {
    const run = this.views[index]!
    const byteOffset = fourths(run.length)
    run.chunks.push(bytes)
    run.length = byteOffset + bytes.length
    return { bufferView: index, byteOffset }
  }
}

/** Binary glTF: a description, and chunks of its one buffer, each of which begins at a multiple of four bytes. */
export function glbBytes(json: GLTF.IGLTF, chunks: readonly Uint8Array[]): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(json))
  const size = fourths(text.length)
  const length = chunks.reduce((sum, chunk) => sum + fourths(chunk.length), 0)
  const out = new Uint8Array(12 + 8 + size + (length ? 8 + length : 0))
  const header = new DataView(out.buffer)
  const words = [0x46546c67, 2, out.length, size, 0x4e4f534a] // glTF, version, length; chunk: length, JSON
  words.forEach((word, i) => header.setUint32(i * 4, word, true))
  out.set(text, 20)
  out.fill(0x20, 20 + text.length, 20 + size)
  if (length === 0) return out
  header.setUint32(20 + size, length, true)
  header.setUint32(24 + size, 0x004e4942, true) // BIN
  let at = 28 + size
  for (const chunk of chunks) {
    out.set(chunk, at)
    at += fourths(chunk.length)
  }
  return out
}

/** A run's chunks as they lie in a file. */
function joined({ chunks, length }: Run): Uint8Array {
  const out = new Uint8Array(length)
  let at = 0
  for (const chunk of chunks) {
    out.set(chunk, at)
    at += fourths(chunk.length)
  }
  return out
}

/** The next multiple of four. */
export function fourths(length: number): number {
  return (length + 3) & ~3
}

function bytesOf(array: Numbers): Uint8Array {
  return new Uint8Array(array.buffer, array.byteOffset, array.byteLength)
}

function componentOf(array: Numbers): GLTF.AccessorComponentType {
  if (array instanceof Float32Array) return 5126
  if (array instanceof Uint32Array) return 5125
  if (array instanceof Int16Array) return 5122
  if (array instanceof Int8Array) return 5120
  return array instanceof Uint16Array ? 5123 : 5121
}

function describe({ type, array, normalized, bounds }: Values): GLTF.IAccessor {
  const size = SIZES[type]
  const out: GLTF.IAccessor = { type, componentType: componentOf(array), count: array.length / size }
  if (normalized) out.normalized = true
  if (!bounds || array.length === 0) return out
  out.min = Array<number>(size).fill(Infinity)
  out.max = Array<number>(size).fill(-Infinity)
  for (let i = 0; i < array.length; i += size)
    for (let k = 0; k < size; k++) {
      const v = array[i + k]!
      if (v < out.min[k]!) out.min[k] = v
      if (v > out.max[k]!) out.max[k] = v
    }
  return out
}

/** The least and the most of rows of three, and of nothing where others stay. */
function boundsOfRows(values: ArrayLike<number>, others: boolean): { min: number[]; max: number[] } {
  const min = Array<number>(3).fill(others ? 0 : Infinity)
  const max = Array<number>(3).fill(others ? 0 : -Infinity)
  for (let i = 0; i < values.length; i++) {
    min[i % 3] = Math.min(min[i % 3]!, values[i]!)
    max[i % 3] = Math.max(max[i % 3]!, values[i]!)
  }
  return { min, max }
}

/** Lays the elements of an attribute into vertices of `stride` bytes, from `offset` on. */
function scatter({ type, array }: Values, bytes: ArrayBuffer, offset: number, stride: number): void {
  const size = SIZES[type]
  const width = array.BYTES_PER_ELEMENT
  const out = new (array.constructor as new (buffer: ArrayBuffer) => Numbers)(bytes)
  const step = stride / width
  for (let i = 0, o = offset / width; i < array.length; i += size, o += step)
    for (let k = 0; k < size; k++) out[o + k] = array[i + k]!
}
