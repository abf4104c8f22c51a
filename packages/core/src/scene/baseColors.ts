import type { Material, ReaderContext } from '@gltf-transform/core'
import { understood } from './understood.ts'

/*
 * What of a glTF material's base color stands in extensions: where its picture lies (KHR_texture_transform, which packers
 * of vertices rely on), and the diffuse color of materials of the older kind (KHR_materials_pbrSpecularGlossiness).
 */

const TRANSFORM = 'KHR_texture_transform'
const SPECULAR = 'KHR_materials_pbrSpecularGlossiness'

/** How places on a picture follow from a vertex's: scaled, then turned, then moved. */
export interface PicturePlace {
  offset: readonly [number, number]
  /** Radians, counter-clockwise as one sees the picture. */
  rotation: number
  scale: readonly [number, number]
}

/** Marks a material whose picture does not lie as its vertices say. */
export const PICTURE_PLACE = 'tinkerPicturePlace'

const own = (of: unknown, key: string): unknown =>
  typeof of === 'object' && of !== null ? (of as Record<string, unknown>)[key] : undefined

/** Red, green, blue and how opaque it is. */
export const isColor = (value: unknown): value is [number, number, number, number] =>
  Array.isArray(value) && value.length === 4 && value.every((v) => Number.isFinite(v))

/** What a material has for a base color, as its file describes it: an own one, or the diffuse one of the older kind. */
export function baseColorOf(material: unknown): { factor: unknown; texture: unknown } {
  const plain = own(material, 'pbrMetallicRoughness')
  const [factor, texture] = [own(plain, 'baseColorFactor'), own(plain, 'baseColorTexture')]
  if (factor !== undefined || texture !== undefined) return { factor, texture }
  const older = own(own(material, 'extensions'), SPECULAR)
  return { factor: own(older, 'diffuseFactor'), texture: own(older, 'diffuseTexture') }
}

/** Where a picture lies by its description; null where that says nothing that could be. */
export function picturePlaceOf(texture: unknown): PicturePlace | null {
  const said = own(own(texture, 'extensions'), TRANSFORM)
  if (said === undefined) return null
  const pair = (key: string, without: number): [number, number] | null => {
    const value = own(said, key) ?? [without, without]
    return Array.isArray(value) && value.length === 2 && value.every((v) => Number.isFinite(v))
      ? [value[0] as number, value[1] as number]
      : null
  }
  const [offset, scale, rotation] = [pair('offset', 0), pair('scale', 1), own(said, 'rotation') ?? 0]
  return offset && scale && typeof rotation === 'number' && Number.isFinite(rotation)
    ? { offset, scale, rotation }
    : null
}

/** Which of its coordinates a picture lies on: TEXCOORD_0, or another. */
export function coordinatesOf(texture: unknown): number {
  const set = own(own(own(texture, 'extensions'), TRANSFORM), 'texCoord') ?? own(texture, 'texCoord') ?? 0
  return typeof set === 'number' ? set : 0
}

/** The places of vertices on the picture of their material, uv each. */
export function placedOn(material: Material | null, uvs: Float32Array): Float32Array {
  const place = material?.getExtras()[PICTURE_PLACE] as PicturePlace | undefined
  if (!place) return uvs
  const { offset, rotation, scale } = place
  const [cos, sin] = [Math.cos(rotation), Math.sin(rotation)]
  return uvs.map((_, i) => {
    const [u, v] = [uvs[i & ~1]! * scale[0], uvs[i | 1]! * scale[1]]
    return i % 2 ? offset[1] - sin * u + cos * v : offset[0] + cos * u + sin * v
  })
}

/** The materials of a file, each as it is described. */
function described({ jsonDoc, materials }: ReaderContext): [Material, unknown][] {
  return materials.map((material, i) => [material, jsonDoc.json.materials?.[i]])
}

/** Pictures that lie elsewhere than the vertices of their surface say. */
export const PicturePlaces = understood(TRANSFORM, (context) => {
  for (const [material, def] of described(context)) {
    const { texture } = baseColorOf(def)
    const place = picturePlaceOf(texture)
    if (place) material.setExtras({ ...material.getExtras(), [PICTURE_PLACE]: place })
    material.getBaseColorTextureInfo()?.setTexCoord(coordinatesOf(texture))
  }
})

/** Marks a material with a picture that is of a kind not read here. */
export const PICTURE_UNREAD = 'tinkerPictureUnread'

/** Pictures of more kinds: where a material has no other, it is marked. */
export const UNREAD_PICTURES = ['EXT_texture_webp', 'KHR_texture_basisu', 'MSFT_texture_dds'].map((name) =>
  understood(name, (context) => {
    for (const [material, def] of described(context)) {
      const { texture } = baseColorOf(def)
      if (texture !== undefined && !material.getBaseColorTexture())
        material.setExtras({ ...material.getExtras(), [PICTURE_UNREAD]: true })
    }
  }),
)

/** Materials of the older kind: what they have for a base color is the base color, where they have no other. */
export const SpecularGlossiness = understood(SPECULAR, (context) => {
  for (const [material, def] of described(context)) {
    const { factor, texture } = baseColorOf(def)
    // its own one stands there already
    if (isColor(factor)) material.setBaseColorFactor(factor)
    const index = own(texture, 'index')
    const source = typeof index === 'number' ? context.jsonDoc.json.textures?.[index]?.source : undefined
    const picture = source === undefined ? undefined : context.textures[source]
    if (!picture || material.getBaseColorTexture()) continue
    material.setBaseColorTexture(picture)
    material.getBaseColorTextureInfo()!.setTexCoord(coordinatesOf(texture))
  }
})
