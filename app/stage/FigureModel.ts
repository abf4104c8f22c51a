import {
  Bone,
  BufferAttribute,
  BufferGeometry,
  DataTexture,
  DoubleSide,
  FrontSide,
  MeshStandardMaterial,
  LinearFilter,
  NearestFilter,
  RGBAFormat,
  Skeleton,
  SkinnedMesh,
  SRGBColorSpace,
  Sphere,
  Vector3,
} from 'three'
import type { FigureView } from '../workers/protocol'

/** A figure in the scene: one skinned mesh, one material, one draw call. */
export class FigureModel {
  readonly mesh: SkinnedMesh<BufferGeometry, MeshStandardMaterial>
  readonly bones: Bone[]
  private readonly topology: string
  private texture: DataTexture

  constructor(view: FigureView) {
    this.topology = view.topology
    const geometry = new BufferGeometry()
    const { mesh } = view
    geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
    geometry.setAttribute('normal', new BufferAttribute(mesh.normals, 3))
    geometry.setAttribute('uv', new BufferAttribute(mesh.uvs, 2))
    geometry.setAttribute('color', new BufferAttribute(mesh.colors, 3))
    geometry.setAttribute('skinIndex', new BufferAttribute(mesh.joints, 4))
    geometry.setAttribute('skinWeight', new BufferAttribute(mesh.weights, 4))
    geometry.setIndex(new BufferAttribute(mesh.indices, 1))
    this.texture = atlasTexture(view)
    const material = new MeshStandardMaterial({
      map: this.texture,
      vertexColors: true,
      roughness: 0.92,
      metalness: 0,
      side: view.doubleSided ? DoubleSide : FrontSide,
    })
    this.mesh = new SkinnedMesh(geometry, material)
    this.mesh.frustumCulled = false
    this.bones = view.bones.map((b) => {
      const bone = new Bone()
      bone.name = b.name
      return bone
    })
    this.placeBones(view)
    view.bones.forEach((b, i) =>
      b.parent >= 0 ? this.bones[b.parent]!.add(this.bones[i]!) : this.mesh.add(this.bones[i]!),
    )
    this.mesh.updateMatrixWorld(true)
    this.mesh.bind(new Skeleton(this.bones))
    this.bound()
  }

  get atlas(): DataTexture {
    return this.texture
  }

  /** Takes on another shape of the same figure; false if a new model is needed. */
  update(view: FigureView): boolean {
    if (view.topology !== this.topology) return false
    const geometry = this.mesh.geometry
    for (const [name, array] of [
      ['position', view.mesh.positions],
      ['normal', view.mesh.normals],
    ] as const) {
      const attribute = geometry.getAttribute(name) as BufferAttribute
      attribute.copyArray(array)
      attribute.needsUpdate = true
    }
    const image = this.texture.image as { data: Uint8Array; width: number }
    if (image.width === view.atlas.size) {
      image.data.set(view.atlas.pixels)
      this.texture.needsUpdate = true
    } else {
      this.texture.dispose()
      this.mesh.material.map = this.texture = atlasTexture(view)
    }
    this.rest()
    this.placeBones(view)
    this.mesh.updateMatrixWorld(true)
    this.mesh.skeleton.calculateInverses()
    this.bound()
    return true
  }

  /** Back to the rest pose. */
  rest(): void {
    for (const bone of this.bones) bone.quaternion.identity()
  }

  private placeBones(view: FigureView): void {
    view.bones.forEach((b, i) => {
      const from = b.parent >= 0 ? view.bones[b.parent]!.at : [0, 0, 0]
      this.bones[i]!.position.set(b.at[0] - from[0]!, b.at[1] - from[1]!, b.at[2] - from[2]!)
    })
  }

  private bound(): void {
    this.mesh.geometry.computeBoundingBox()
    const box = this.mesh.geometry.boundingBox!
    const center = box.getCenter(new Vector3())
    this.mesh.geometry.boundingSphere = new Sphere(center, box.getSize(new Vector3()).length() / 2)
    this.mesh.boundingSphere = this.mesh.geometry.boundingSphere.clone()
    this.mesh.boundingBox = box.clone()
  }

  dispose(): void {
    this.mesh.geometry.dispose()
    this.mesh.material.dispose()
    this.mesh.skeleton.dispose()
    this.texture.dispose()
  }
}

function atlasTexture(view: FigureView): DataTexture {
  const texture = new DataTexture(view.atlas.pixels.slice(), view.atlas.size, view.atlas.size, RGBAFormat)
  texture.colorSpace = SRGBColorSpace
  // flat cells must not bleed into each other; pictures look better smooth
  texture.magFilter = view.atlas.painted ? LinearFilter : NearestFilter
  texture.minFilter = texture.magFilter
  texture.needsUpdate = true
  return texture
}
