import { problem, type Read } from '../../base/problem.ts'
import { isGlb } from '../../scene/readScene.ts'
import type { ForeignMotion } from './ForeignMotion.ts'
import { readBvh } from './readBvh.ts'
import { readCollada } from './readCollada.ts'
import type { Beside } from '../../scene/joinGltf.ts'
import { readGlbMotion, readGltfMotion } from './readGlbMotion.ts'

/** Larger files hold no motion of one figure, bytes. */
const MOST_BYTES = 64 * 2 ** 20

/**
 * Reads the motions in a file: BVH, binary glTF, glTF as text, or COLLADA.
 *
 * @param file   its name
 * @param beside what lies beside it, by the way it is named there: a glTF file's buffers
 * @param still  whether a file with a skeleton and no motion is read as well, as a motion of one frame
 */
export async function readMotion(
  bytes: Uint8Array,
  file: string,
  beside: Beside = () => undefined,
  still = false,
): Promise<Read<ForeignMotion[]>> {
  const name = file.replace(/^.*[/\\]/, '').replace(/\.[^.]*$/, '') || file
  const fault = (code: string, message: string, fix: string) => ({
    value: null,
    problems: [problem(code, file, message, fix)],
  })
  if (bytes.length === 0) return fault('motion-empty', 'The file is empty (0 bytes).', 'Export it again.')
  if (bytes.length > MOST_BYTES)
    return fault(
      'motion-large',
      `It has ${Math.round(bytes.length / 2 ** 20)} MB; 64 are the most.`,
      'Cut it into clips.',
    )
  if (isGlb(bytes)) return readGlbMotion(bytes, name, still)
  const text = new TextDecoder().decode(bytes).replace(/^\uFEFF/, '')
  if (/^\s*\{/.test(text)) return readGltfMotion(text, name, beside, still)
  if (/^\s*</.test(text)) return readCollada(text, name, still)
  if (!/^\s*HIERARCHY\b/.test(text))
    return fault('motion-foreign', 'This is neither BVH, glTF nor COLLADA.', 'Choose a .bvh, .glb, .gltf or .dae file.')
  const { value, problems } = readBvh(text, name)
  return { value: value && [value], problems }
}
