import type { GLTF } from '@gltf-transform/core'
import { MeshoptDecoder } from 'meshoptimizer/decoder'
import { MeshoptEncoder } from 'meshoptimizer/encoder'
import { problem, type Read } from '../base/problem.ts'
import { fourths, glbBytes, MESHOPT, type Pack } from './GlbWriter.ts'

/*
 * Runs of bytes of glTF files packed by meshoptimizer (Kapoulkine), as EXT_meshopt_compression describes.
 */

/** The name under which later files have it. */
export const MESHOPT_LATER = 'KHR_meshopt_compression'

/** Must have resolved before anything is packed. */
export const packerReady: Promise<void> = MeshoptEncoder.ready

/** Packs elements of so many bytes each; corners of triangles as such. */
export const packMeshopt: Pack = (bytes, stride, mode) =>
  MeshoptEncoder.encodeGltfBuffer(bytes, bytes.length / stride, stride, mode)

/** Far beyond any low-poly model, bytes. */
const MOST = 128 << 20
const MODES = ['ATTRIBUTES', 'TRIANGLES', 'INDICES']
const FILTERS = ['NONE', 'OCTAHEDRAL', 'QUATERNION', 'EXPONENTIAL', 'COLOR']

/** How a view is packed. */
export interface PackedView {
  buffer: number
  byteOffset?: number
  byteLength: number
  byteStride: number
  count: number
  mode: string
  filter?: string
}

/** How a view is packed, if it is. */
export function packingOf(view: GLTF.IBufferView): PackedView | undefined {
  return (view.extensions?.[MESHOPT] ?? view.extensions?.[MESHOPT_LATER]) as PackedView | undefined
}

/**
 * A binary glTF file with nothing in it packed: the same bytes where nothing was.
 *
 * @param bytes of a file whose container and lists have been looked at
 */
export async function unpackMeshopt(bytes: Uint8Array, where: string): Promise<Read<Uint8Array>> {
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true)
  const text = new TextDecoder().decode(bytes.subarray(20, 20 + length))
  // most files name neither, and are not taken apart for that
  if (!text.includes(MESHOPT) && !text.includes(MESHOPT_LATER)) return { value: bytes, problems: [] }
  const json = JSON.parse(text) as GLTF.IGLTF
  const views = json.bufferViews ?? []
  if (!views.some(packingOf)) return { value: bytes, problems: [] }
  const broken = (place: string, message: string): Read<Uint8Array> => ({
    value: null,
    problems: [problem('gltf-broken', `${where}${place}`, message, 'Export it again, or without packing it.')],
  })
  const binary = bytes.subarray(28 + length)
  let [all, offset] = [0, 0]
  for (const [i, view] of views.entries()) {
    const packed = packingOf(view)
    const place = `/bufferViews/${i}`
    if (packed && !isSound(packed, view, binary.length)) return broken(place, 'It is not packed as it says.')
    if (!packed && (view.buffer !== 0 || (view.byteOffset ?? 0) + view.byteLength > binary.length))
      return broken(place, 'Its buffer is not there.')
    if ((all += view.byteLength) > MOST) return broken(place, 'It unpacks to more than 128 MB.')
  }
  await MeshoptDecoder.ready
  const chunks: Uint8Array[] = []
  json.bufferViews = []
  for (const [i, view] of views.entries()) {
    const packed = packingOf(view)
    let chunk: Uint8Array
    try {
      chunk = packed
        ? unpacked(packed, binary)
        : binary.slice(view.byteOffset ?? 0, (view.byteOffset ?? 0) + view.byteLength)
    } catch {
      return broken(`/bufferViews/${i}`, 'What is packed in it cannot be unpacked.')
    }
    chunks.push(chunk)
    const { extensions: _, ...plain } = view
    json.bufferViews.push({ ...plain, buffer: 0, byteOffset: offset, byteLength: chunk.length })
    offset += fourths(chunk.length)
  }
  json.buffers = [{ byteLength: offset }]
  for (const list of ['extensionsUsed', 'extensionsRequired'] as const) {
    const left = json[list]?.filter((name) => name !== MESHOPT && name !== MESHOPT_LATER)
    if (left?.length) json[list] = left
    else delete json[list]
  }
  return { value: glbBytes(json, chunks), problems: [] }
}

/** Whether its numbers can be true, so that nothing is allocated that is not there. */
function isSound(
  { buffer, byteOffset = 0, byteLength, byteStride, count, mode, filter = 'NONE' }: PackedView,
  view: GLTF.IBufferView,
  most: number,
): boolean {
  const whole = [byteOffset, byteLength, byteStride, count].every((n) => Number.isInteger(n) && n >= 0)
  return (
    whole &&
    buffer === 0 &&
    byteOffset + byteLength <= most &&
    MODES.includes(mode) &&
    FILTERS.includes(filter) &&
    (mode === 'ATTRIBUTES'
      ? byteStride > 0 && byteStride <= 256 && byteStride % 4 === 0
      : [2, 4].includes(byteStride)) &&
    (mode !== 'TRIANGLES' || count % 3 === 0) &&
    count * byteStride === view.byteLength
  )
}

function unpacked(
  { byteOffset = 0, byteLength, byteStride, count, mode, filter }: PackedView,
  binary: Uint8Array,
): Uint8Array {
  const out = new Uint8Array(count * byteStride)
  MeshoptDecoder.decodeGltfBuffer(
    out,
    count,
    byteStride,
    binary.subarray(byteOffset, byteOffset + byteLength),
    mode,
    filter,
  )
  return out
}
