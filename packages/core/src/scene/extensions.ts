import type { Extension } from '@gltf-transform/core'
import { PicturePlaces, SpecularGlossiness, UNREAD_PICTURES } from './baseColors.ts'
import { MESHOPT, QUANTIZED } from './GlbWriter.ts'
import { MESHOPT_LATER } from './meshopt.ts'
import { understood } from './understood.ts'

/** Without these, surfaces only look otherwise than they were meant to. */
const LOOKS = [
  ...['anisotropy', 'clearcoat', 'diffuse_transmission', 'dispersion', 'emissive_strength', 'ior', 'iridescence'],
  ...['sheen', 'specular', 'transmission', 'unlit', 'variants', 'volume'],
].map((look) => `KHR_materials_${look}`)

/**
 * The glTF extensions that a file may need of whoever reads it: vertices that are whole numbers, which the library reads as
 * they are, what stands beside base colors, looks, lights. The older materials come before where their pictures lie.
 */
export const KNOWN: readonly (typeof Extension)[] = [
  ...[QUANTIZED, 'KHR_lights_punctual', ...LOOKS].map((name) => understood(name)),
  ...[SpecularGlossiness, PicturePlaces, ...UNREAD_PICTURES],
]

const NAMES = new Set([...KNOWN.map((e) => e.EXTENSION_NAME), MESHOPT, MESHOPT_LATER])

/** Whether a file that needs an extension can be read; packed runs of bytes are unpacked before. */
export const isRead = (extension: unknown): boolean => typeof extension === 'string' && NAMES.has(extension)
