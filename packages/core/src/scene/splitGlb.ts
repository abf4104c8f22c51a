import type { GLTF } from '@gltf-transform/core'
import { fourths } from './GlbWriter.ts'
import { packingOf } from './meshopt.ts'

/**
 * A binary glTF file as glTF with its files: the description as JSON, one buffer, and its pictures.
 *
 * @param bytes of a file that is whole: one that was just written
 * @param stem  what the files are called, without endings
 * @returns files by name
 */
export function splitGlb(bytes: Uint8Array, stem: string): Map<string, Uint8Array> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const length = view.getUint32(12, true)
  const json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as GLTF.IGLTF
  const binary = bytes.subarray(28 + length)
  const files = new Map<string, Uint8Array>()
  const views = json.bufferViews ?? []
  const bytesOf = ({ byteOffset = 0, byteLength }: { byteOffset?: number; byteLength: number }) =>
    binary.slice(byteOffset, byteOffset + byteLength)
  const pictures = new Set<number>()
  json.images?.forEach((image, i) => {
    if (image.bufferView === undefined) return
    pictures.add(image.bufferView)
    const name = `${stem}${i === 0 ? '' : `-${i + 1}`}.png`
    files.set(name, bytesOf(views[image.bufferView]!))
    image.uri = name
    delete image.bufferView
    // a file says itself what it is
    delete image.mimeType
  })
  // what is left lies one after the other; places of views that are gone are taken by those behind
  const number = new Map<number, number>()
  const chunks: Uint8Array[] = []
  const starts: number[] = []
  let offset = 0
  json.bufferViews = views.flatMap((own, v) => {
    if (pictures.has(v)) return []
    number.set(v, number.size)
    const packed = packingOf(own)
    const chunk = bytesOf(packed ?? own)
    starts.push(offset)
    // where a packed run lies open stays as it was
    if (packed) packed.byteOffset = offset
    const moved = packed ? own : { ...own, byteOffset: offset }
    chunks.push(chunk)
    offset += fourths(chunk.length)
    return [moved]
  })
  for (const accessor of json.accessors ?? []) {
    if (accessor.bufferView !== undefined) accessor.bufferView = number.get(accessor.bufferView)!
    for (const part of [accessor.sparse?.indices, accessor.sparse?.values])
      if (part) part.bufferView = number.get(part.bufferView)!
  }
  const buffer = new Uint8Array(offset)
  chunks.forEach((chunk, i) => buffer.set(chunk, starts[i]))
  if (offset > 0) {
    files.set(`${stem}.bin`, buffer)
    json.buffers = [{ uri: `${stem}.bin`, byteLength: offset }, ...json.buffers!.slice(1)]
  } else delete json.buffers
  return new Map([[`${stem}.gltf`, new TextEncoder().encode(JSON.stringify(json, null, 1))], ...files])
}
