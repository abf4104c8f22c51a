import type { Document, Material } from '@gltf-transform/core'
import { Color, SRGBColorSpace } from 'three'
import { allIn, childrenOf, type XmlElement } from '../base/readXml.ts'
import { idOf, numbersIn } from './colladaNodes.ts'

/** A picture that lies beside a file. */
export interface Picture {
  image: Uint8Array
  mimeType: string
}

/** The materials of a COLLADA file, made as they are asked for: with a color, or the picture they are painted with. */
export class ColladaMaterials {
  private readonly known = new Map<string, Material>()
  private readonly document: Document
  private readonly byId: ReadonlyMap<string, XmlElement>
  private readonly beside: (name: string) => Picture | null
  private readonly tell: (said: string) => void

  constructor(
    document: Document,
    byId: ReadonlyMap<string, XmlElement>,
    beside: (name: string) => Picture | null,
    tell: (said: string) => void,
  ) {
    this.document = document
    this.byId = byId
    this.beside = beside
    this.tell = tell
  }

  /** A material by its id, or by the word that faces have for it. */
  get(id: string): Material {
    const known = this.known.get(id)
    if (known) return known
    const element = this.byId.get(id)
    const effect = element && this.byId.get(idOf(childrenOf(element, 'instance_effect')[0]?.attributes.url))
    const material = this.document.createMaterial(element?.attributes.name || id || 'plain')
    this.known.set(id, material)
    const diffuse = effect && allIn(effect, 'diffuse')[0]
    const color = diffuse && childrenOf(diffuse, 'color')[0]
    if (color) {
      const [r, g, b] = numbersIn(color)
      // the format says nothing of color spaces: what programs write is what they show
      const linear = new Color().setRGB(r ?? 0.6, g ?? 0.6, b ?? 0.6, SRGBColorSpace)
      material.setBaseColorFactor([linear.r, linear.g, linear.b, 1])
    }
    const texture = diffuse && childrenOf(diffuse, 'texture')[0]?.attributes.texture
    if (!effect || !texture) return material
    const name = this.pictureNamed(effect, texture)
    const picture = name ? this.beside(name) : null
    if (picture)
      material.setBaseColorTexture(
        this.document.createTexture(name!).setImage(new Uint8Array(picture.image)).setMimeType(picture.mimeType),
      )
    else this.tell(`Its picture “${(name ?? texture).slice(0, 80)}” is not beside it.`)
    return material
  }

  /** The file that a texture of an effect is read from: through a sampler and a surface, or straight. */
  private pictureNamed(effect: XmlElement, texture: string): string | null {
    const parameters = new Map(allIn(effect, 'newparam').map((p) => [p.attributes.sid ?? '', p]))
    let id = texture
    for (let deep = 0; deep < 4 && parameters.has(id); deep++) {
      const parameter = parameters.get(id)!
      const next = allIn(parameter, 'source')[0]?.text ?? allIn(parameter, 'init_from')[0]?.text
      const image = allIn(parameter, 'instance_image')[0]?.attributes.url
      id = idOf(image ?? next?.trim())
    }
    const image = this.byId.get(id)
    const from = image && allIn(image, 'init_from')[0]
    if (!from) return null
    // 1.5 has the address one deeper
    return (childrenOf(from, 'ref')[0]?.text ?? from.text).trim().replace(/^file:\/+/, '') || null
  }
}
