import { Logger, Verbosity, WebIO, type Document, type Extension } from '@gltf-transform/core'
import { problem, type Problem, type Read } from '../base/problem.ts'
import { parseJson } from '../base/validate.ts'
import { checkGltf } from './checkGltf.ts'
import { KNOWN } from './extensions.ts'
import { unpackMeshopt } from './meshopt.ts'

/** What a binary glTF file begins with: "glTF". */
const GLB_MAGIC = 0x46546c67
const JSON_CHUNK = 0x4e4f534a

/** Whether bytes claim to be a binary glTF file. */
export function isGlb(bytes: Uint8Array): boolean {
  return bytes.length >= 4 && viewOf(bytes).getUint32(0, true) === GLB_MAGIC
}

const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)

/**
 * Reads a binary glTF 2.0 file into a scene: every node, mesh, material, texture, skin, morph target
 * and clip, as a `Document` of @gltf-transform/core. Faults are problems, never exceptions; the time
 * and memory it takes are bounded by the file's own size.
 *
 * @param extensions glTF extensions to understand; others are passed over
 */
export async function readScene(
  bytes: Uint8Array,
  where: string,
  extensions: (typeof Extension)[] = [],
): Promise<Read<Document>> {
  const found = checkContainer(bytes, where)
  if (found.length) return { value: null, problems: found }
  try {
    // extensions that are passed over are nothing to tell of
    const io = new WebIO().setLogger(new Logger(Verbosity.SILENT)).registerExtensions([...KNOWN, ...extensions])
    const open = await unpackMeshopt(bytes, where)
    if (!open.value) return { value: null, problems: open.problems }
    return { value: await io.readBinary(open.value), problems: [] }
  } catch (error) {
    const detail = error instanceof Error ? error.message : String(error)
    return broken(where, `The file cannot be read as glTF: ${detail}`)
  }
}

function broken(where: string, message: string, code = 'glb-broken'): { value: null; problems: Problem[] } {
  return { value: null, problems: [problem(code, where, message, 'Copy or export it again.')] }
}

function checkContainer(bytes: Uint8Array, where: string): Problem[] {
  const fault = (code: string, message: string) => broken(where, message, code).problems
  if (bytes.length === 0) return fault('glb-empty', 'The file is empty (0 bytes).')
  if (!isGlb(bytes) || bytes.length < 12) return fault('glb-foreign', 'This is not a GLB file.')
  const view = viewOf(bytes)
  const version = view.getUint32(4, true)
  if (version !== 2) return fault('glb-version', `It is binary glTF ${version}; only version 2 is read.`)
  const said = view.getUint32(8, true)
  if (said > bytes.length)
    return fault('glb-cut-off', `The file says it has ${said} bytes but only ${bytes.length} are there.`)
  if (said < 20 || view.getUint32(16, true) !== JSON_CHUNK || 20 + view.getUint32(12, true) > said)
    return fault('glb-broken', 'The file does not begin with its description.')
  const text = new TextDecoder().decode(bytes.subarray(20, 20 + view.getUint32(12, true)))
  const parsed = parseJson(text, where)
  return parsed.problems.length ? parsed.problems : checkGltf(parsed.value, where)
}
