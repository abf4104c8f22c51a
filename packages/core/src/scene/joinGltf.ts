import type { GLTF } from '@gltf-transform/core'
import { toUint8Array } from 'js-base64'
import { problem, type Read } from '../base/problem.ts'
import { parseJson } from '../base/validate.ts'
import { checkGltf } from './checkGltf.ts'
import { fourths, glbBytes, MESHOPT } from './GlbWriter.ts'
import { packingOf } from './meshopt.ts'

/** Finds what lies beside a file, by the way it is named there; nothing where it does not. */
export type Beside = (uri: string) => Promise<Uint8Array | undefined> | Uint8Array | undefined

/**
 * A glTF file that is text, with the files it names, as one binary glTF file: what `splitGlb` takes apart.
 *
 * @param beside what lies beside it, by the way it is named there
 */
export async function joinGltf(text: string, where: string, beside: Beside): Promise<Read<Uint8Array>> {
  const { value, problems } = parseJson(text, where)
  if (problems.length) return { value: null, problems }
  const faults = checkGltf(value, where)
  return faults.length ? { value: null, problems: faults } : joinParts(value, where, beside)
}

/** The same of a description that has been looked at (see `checkGltf`); what it names oddly is told, not thrown. */
export async function joinParts(description: unknown, where: string, beside: Beside): Promise<Read<Uint8Array>> {
  try {
    return await joined(description, where, beside)
  } catch (error) {
    const said = `Its files cannot be put together: ${error instanceof Error ? error.message : String(error)}.`
    return { value: null, problems: [problem('gltf-broken', where, said, 'Export it again, or as GLB.')] }
  }
}

async function joined(description: unknown, where: string, beside: Beside): Promise<Read<Uint8Array>> {
  const json = structuredClone(description) as GLTF.IGLTF
  if (!Array.isArray(json.images ?? []) || json.images?.some((image) => !isPicture(image)))
    return { value: null, problems: [problem('gltf-broken', where, 'Its images are no pictures.', 'Export it again.')] }
  const chunks: Uint8Array[] = []
  let length = 0
  const append = (bytes: Uint8Array) => {
    const at = length
    chunks.push(bytes)
    length += fourths(bytes.length)
    return at
  }
  const broken = (message: string): Read<Uint8Array> => ({
    value: null,
    problems: [problem('gltf-broken', where, message, 'Keep its files together, or export it as GLB.')],
  })
  const lost = (uri: string) => broken(`“${uri.slice(0, 80)}” is not beside it.`)
  const starts: number[] = []
  // what only says how packed runs lie open is nowhere
  const open = json.buffers?.filter(isFallback) ?? []
  for (const [i, buffer] of (json.buffers ?? []).entries()) {
    if (isFallback(buffer)) {
      starts.push(-1)
      continue
    }
    if (typeof buffer.uri !== 'string') return broken(`Its buffer ${i} names no file.`)
    const bytes = await fetched(buffer.uri, beside)
    if (!bytes) return lost(buffer.uri)
    starts.push(append(bytes.subarray(0, buffer.byteLength)))
  }
  const toOne = (place: { buffer: number; byteOffset?: number }) => {
    const start = starts[place.buffer] ?? 0
    if (start >= 0) place.byteOffset = (place.byteOffset ?? 0) + start
    place.buffer = start >= 0 ? 0 : 1
  }
  json.bufferViews?.forEach((view) => {
    toOne(view)
    const packed = packingOf(view)
    if (packed) toOne(packed)
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
  if (length > 0) json.buffers = [{ byteLength: length }, ...open]
  return { value: glbBytes(json, chunks), problems: [] }
}

const isFallback = ({ extensions = {} }: GLTF.IBuffer) =>
  (extensions[MESHOPT] as { fallback?: unknown } | undefined)?.fallback === true

/** Whether it names a file or a place in a buffer, as a picture must. */
const isPicture = (image: unknown): boolean =>
  typeof image === 'object' && image !== null && ['string', 'undefined'].includes(typeof (image as GLTF.IImage).uri)

async function fetched(uri: string | undefined, beside: Beside): Promise<Uint8Array | undefined> {
  if (uri === undefined) return undefined
  return dataOf(uri)?.bytes ?? beside(uri)
}

/** What an address holds itself, as in glTF files that are all in one; null where it names something else. */
export function dataOf(uri: string): { mimeType: string; bytes: Uint8Array } | null {
  const [, mimeType, data] = /^data:([^;,]*)(?:;[^;,]*)*;base64,(.*)$/s.exec(uri) ?? []
  return mimeType === undefined ? null : { mimeType, bytes: toUint8Array(data!) }
}
