import type { GLTF } from '@gltf-transform/core'
import { problem, type Read } from '../base/problem.ts'
import { parseJson } from '../base/validate.ts'
import { checkGltf } from './checkGltf.ts'

type Beside = (uri: string) => Promise<Uint8Array | undefined> | Uint8Array | undefined

/**
 * A glTF file that is text, with the files it names, as one binary glTF file: what `splitGlb` takes apart.
 *
 * @param beside what lies beside it, by the way it is named there
 */
export async function joinGltf(text: string, where: string, beside: Beside): Promise<Read<Uint8Array>> {
  const { value, problems } = parseJson(text, where)
  if (problems.length) return { value: null, problems }
  const faults = checkGltf(value, where)
  if (faults.length) return { value: null, problems: faults }
  const json = structuredClone(value) as GLTF.IGLTF
  const chunks: Uint8Array[] = []
  let length = 0
  const append = (bytes: Uint8Array) => {
    const at = length
    chunks.push(bytes)
    length = (length + bytes.length + 3) & ~3
    return at
  }
  const lost = (uri: string): Read<Uint8Array> => ({
    value: null,
    problems: [problem('gltf-broken', where, `“${uri.slice(0, 80)}” is not beside it.`, 'Keep its files together.')],
  })
  const starts: number[] = []
  for (const buffer of json.buffers ?? []) {
    const bytes = await fetched(buffer.uri, beside)
    if (!bytes) return lost(buffer.uri ?? 'a buffer')
    starts.push(append(bytes.subarray(0, buffer.byteLength)))
  }
  json.bufferViews?.forEach((view) => {
    view.byteOffset = (view.byteOffset ?? 0) + starts[view.buffer]!
    view.buffer = 0
  })
  for (const image of json.images ?? []) {
    if (image.uri === undefined) continue
    const bytes = await fetched(image.uri, beside)
    if (!bytes) return lost(image.uri)
    const byteOffset = append(bytes)
    image.bufferView = (json.bufferViews ??= []).push({ buffer: 0, byteOffset, byteLength: bytes.length }) - 1
    image.mimeType = bytes[0] === 0xff ? 'image/jpeg' : 'image/png'
    delete image.uri
  }
  if (length > 0) json.buffers = [{ byteLength: length }]
  const head = new TextEncoder().encode(JSON.stringify(json))
  const size = (head.length + 3) & ~3
  const out = new Uint8Array(20 + size + (length ? 8 + length : 0)).fill(0x20, 20, 20 + size)
  const view = new DataView(out.buffer)
  const words = [0x46546c67, 2, out.length, size, 0x4e4f534a] // glTF, version, length; chunk: length, JSON
  words.forEach((word, i) => view.setUint32(i * 4, word, true))
  out.set(head, 20)
  if (length === 0) return { value: out, problems: [] }
  view.setUint32(20 + size, length, true)
  view.setUint32(24 + size, 0x004e4942, true) // BIN
  let at = 28 + size
  for (const chunk of chunks) {
    out.set(chunk, at)
    at += (chunk.length + 3) & ~3
  }
  return { value: out, problems: [] }
}

async function fetched(uri: string | undefined, beside: Beside): Promise<Uint8Array | undefined> {
  if (uri === undefined) return undefined
  const data = /^data:[^,]*;base64,(.*)$/s.exec(uri)?.[1]
  if (data === undefined) return beside(uri)
  try {
    return Uint8Array.from(atob(data), (c) => c.charCodeAt(0))
  } catch {
    // what is no base64 is told as missing
    return undefined
  }
}
