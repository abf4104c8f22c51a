import type { Document } from '@gltf-transform/core'
import type { Problem, Read } from '../base/problem.ts'
import { parseJson } from '../base/validate.ts'
import { checkGltf } from './checkGltf.ts'
import { joinParts, type Beside } from './joinGltf.ts'
import { readScene } from './readScene.ts'

/** A glTF file's description, as far as it was looked at: the rest is as it was. */
export interface GltfJson extends Record<string, unknown> {
  buffers?: { uri?: unknown }[]
  materials?: unknown[]
}

/**
 * Reads a glTF 2.0 file that is text, with the buffers it names: as one binary file, so that it is read as such are.
 *
 * @param beside what lies beside it, by the way it is named there
 * @param plain  what of it is read, instead of all; pictures that are left out are looked for by nobody
 */
export async function readGltf(
  text: string,
  where: string,
  beside: Beside,
  plain: (json: GltfJson) => GltfJson,
): Promise<Read<Document>> {
  const { value, problems } = parseJson(text, where)
  if (problems.length) return { value: null, problems }
  const faults = checkGltf(value, where)
  if (faults.length) return { value: null, problems: faults }
  const whole = await joinParts(plain(value as GltfJson), where, beside)
  if (!whole.value) return { value: null, problems: whole.problems.map(aside) }
  const read = await readScene(whole.value, where)
  return read.value ? read : { value: null, problems: read.problems.map(aside) }
}

/** Of several files one that cannot be read stands in the way of no other. */
const aside = (p: Problem): Problem => ({ ...p, severity: 'warning' })
