import { WebIO, type Document } from '@gltf-transform/core'
import { problem, type Read } from '../base/problem.ts'
import { parseJson } from '../base/validate.ts'
import { checkGltf } from './checkGltf.ts'
import { Quantization } from './Quantization.ts'

/** A glTF file's description, as far as it was looked at: the rest is as it was. */
export interface GltfJson extends Record<string, unknown> {
  buffers?: { uri?: unknown }[]
  materials?: unknown[]
}

/**
 * Reads a glTF 2.0 file that is text, with the buffers it names.
 *
 * @param beside what lies beside it, by the way it is named there
 * @param plain  what of it is read, instead of all; pictures are looked for by nobody
 */
export async function readGltf(
  text: string,
  where: string,
  beside: (uri: string) => Promise<Uint8Array | undefined> | Uint8Array | undefined,
  plain: (json: GltfJson) => GltfJson,
): Promise<Read<Document>> {
  const give = (message: string, remedy: string): Read<Document> => ({
    value: null,
    problems: [problem('gltf-broken', where, message, remedy, 'warning')],
  })
  const { value, problems } = parseJson(text, where)
  if (problems.length) return { value: null, problems }
  const faults = checkGltf(value, where)
  if (faults.length) return { value: null, problems: faults }
  const json = value as GltfJson
  try {
    const resources: Record<string, Uint8Array<ArrayBuffer>> = {}
    for (const [i, { uri }] of (json.buffers ?? []).entries()) {
      if (typeof uri !== 'string') return give(`Its buffer ${i} names no file.`, 'Export it as GLB.')
      if (uri.startsWith('data:')) continue
      const found = await beside(uri)
      if (!found) return give(`Its buffer “${uri.slice(0, 80)}” is not beside it.`, 'Add it, or export as GLB.')
      resources[uri] = new Uint8Array(found)
    }
    const document = await new WebIO()
      .registerExtensions([Quantization])
      .readJSON({ json: plain(json) as never, resources })
    return { value: document, problems: [] }
  } catch (error) {
    return give(`It cannot be read: ${error instanceof Error ? error.message : String(error)}`, 'Export it as GLB.')
  }
}
