import type { Target } from '@idle-tinker/core'

export type GltfStyle = NonNullable<Target['gltf']>

/** What of a glTF file a target decides, and how it may be; the first of each is what holds where nothing is said. */
export const GLTF_STYLES = [
  {
    key: 'vertices',
    name: 'Vertices in glTF',
    options: [
      { id: 'full', name: 'In full: 32 bits' },
      { id: 'quantized', name: 'Quantized: 16 and 8 bits' },
      { id: 'packed', name: 'Quantized and packed (meshopt)' },
    ],
  },
  {
    key: 'colors',
    name: 'Colors in glTF',
    options: [
      { id: 'picture', name: 'In a picture' },
      { id: 'vertices', name: 'On the vertices' },
    ],
  },
  {
    key: 'levels',
    name: 'Coarser levels in glTF',
    options: [
      { id: 'together', name: 'In the figure’s file' },
      { id: 'files', name: 'A file for each' },
    ],
  },
  {
    key: 'clips',
    name: 'Clips in glTF',
    options: [
      { id: 'together', name: 'In the figure’s file' },
      { id: 'files', name: 'A file for each, with the figure' },
      { id: 'apart', name: 'A file for each, bones alone' },
    ],
  },
  {
    key: 'counted',
    name: 'Sizes in glTF',
    options: [
      { id: 'metres', name: 'Metres, as its standard says' },
      { id: 'unit', name: 'The target’s own unit' },
    ],
  },
] as const satisfies readonly {
  key: keyof GltfStyle
  name: string
  options: readonly { id: NonNullable<GltfStyle[keyof GltfStyle]>; name: string }[]
}[]

/** A target with one thing about its glTF files as it is chosen; what is as usual is not said. */
export function withGltfStyle(target: Target, key: keyof GltfStyle, id: string): Target {
  const { gltf: before, ...rest } = target
  const usual = GLTF_STYLES.find((s) => s.key === key)!.options[0].id
  const { [key]: _gone, ...left } = before ?? {}
  const gltf = id === usual ? left : { ...left, [key]: id }
  return Object.keys(gltf).length ? { ...rest, gltf } : rest
}
