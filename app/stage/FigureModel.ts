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
  Box3,
  Color,
  Quaternion,
  SRGBColorSpace,
  Sphere,
  Vector3,
} from 'three'
import type { Clip } from '@idle-tinker/core'
import type { FigureView, Moves } from '../workers/protocol'
import { FaceMoves } from './FaceMoves'
import type { IndexRange } from './Outline'
import { weightColor } from './weightRamp'

/** What shuts its eyes is no expression of a clip, and is called so that none is called alike. */
const LIDS = '(lids)'
const NONE: readonly string[] = []

/** A figure in the scene: one skinned mesh, one material, one draw call. */
export class FigureModel {
  readonly mesh: SkinnedMesh<BufferGeometry, MeshStandardMaterial>
  readonly bones: Bone[]
  private readonly topology: string
  private texture: DataTexture
  /** Its own colors: baked light. */
  private readonly shades: BufferAttribute
  /** Its own normals. */
  private readonly normals: BufferAttribute
  /** How its vertices move to other faces, and to shut its eyes. */
  private readonly face: FaceMoves
  /** Where the root bone's joint is at rest. */
  private readonly root = new Vector3()
  private readonly a = new Quaternion()
  private readonly b = new Quaternion()

  constructor(view: FigureView) {
    this.topology = view.topology
    const geometry = new BufferGeometry()
    const { mesh } = view
    geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3))
    this.normals = new BufferAttribute(mesh.normals, 3)
    geometry.setAttribute('normal', this.normals)
    this.face = new FaceMoves(geometry.getAttribute('position') as BufferAttribute, this.normals)
    geometry.setAttribute('uv', new BufferAttribute(mesh.uvs, 2))
    this.shades = new BufferAttribute(mesh.colors, 3)
    geometry.setAttribute('color', this.shades)
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

  /** How tall it stands, metres. */
  get height(): number {
    return this.box.max.y
  }

  /** All of it at rest. */
  get box(): Box3 {
    return this.mesh.geometry.boundingBox!
  }

  /** All of it as it is posed. */
  posedBox(): Box3 {
    const box = new Box3()
    const point = new Vector3()
    const { count } = this.mesh.geometry.getAttribute('position')
    for (let v = 0; v < count; v++) box.expandByPoint(this.mesh.getVertexPosition(v, point))
    return box
  }

  /** A sphere around a piece at rest. */
  sphereOf({ start, count }: IndexRange): Sphere {
    const { index } = this.mesh.geometry
    const position = this.mesh.geometry.getAttribute('position')
    const points = Array.from({ length: count }, (_, i) =>
      new Vector3().fromBufferAttribute(position, index!.getX(start + i)),
    )
    const { center } = new Box3().setFromPoints(points).getBoundingSphere(new Sphere())
    return new Sphere(center, Math.max(...points.map((p) => p.distanceTo(center))))
  }

  /** Paints the weights of a bone in a light-to-dark ramp; null brings the colors back. */
  paint(bone: string | null): void {
    const { geometry, material } = this.mesh
    const index = this.bones.findIndex((b) => b.name === bone)
    const shades = this.shades
    if (index < 0) {
      geometry.setAttribute('color', shades)
      material.map = this.texture
    } else {
      const joints = geometry.getAttribute('skinIndex')
      const weights = geometry.getAttribute('skinWeight')
      const colors = new BufferAttribute(new Float32Array(shades.array.length), 3)
      const ramp = Array.from({ length: 256 }, (_, i) => new Color(weightColor(i / 255)))
      for (let v = 0; v < colors.count; v++) {
        let w = 0
        for (let k = 0; k < 4; k++) if (joints.getComponent(v, k) === index) w += weights.getComponent(v, k)
        const { r, g, b } = ramp[Math.round(Math.min(1, w) * 255)]!
        colors.setXYZ(v, r, g, b)
      }
      geometry.setAttribute('color', colors)
      material.map = null
    }
    material.needsUpdate = true
  }

  /** Shows the surface faceted, as a wire net, or as it was made; with other normals, and in other colors than its own, xyz and rgb a vertex. */
  surface(kind: 'facets' | 'wire' | 'made', normals: Float32Array | null, colors: Float32Array | null): void {
    const { geometry, material } = this.mesh
    material.flatShading = kind === 'facets'
    material.wireframe = kind === 'wire'
    geometry.setAttribute('normal', normals ? new BufferAttribute(normals, 3) : this.normals)
    geometry.setAttribute('color', colors ? new BufferAttribute(colors, 3) : this.shades)
    material.map = colors ? null : this.texture
    material.needsUpdate = true
  }

  /** Takes on the pose of a clip at a time, seconds; the rest pose without one, or with one of other bones. Allocates nothing. */
  pose(clip: Clip | null, time: number): void {
    const { bones, a, b } = this
    this.face.reset(LIDS)
    if (!clip || clip.rotations.length !== bones.length) {
      this.rest()
      bones[0]?.position.copy(this.root)
    } else {
      const { times, duration } = clip
      const last = times.length - 1
      const t = Math.min(Math.max(0, time), duration)
      // most clips are sampled evenly; those made of keys at their keys as well
      let i = Math.min(last - 1, Math.floor((t / duration) * last))
      while (i > 0 && times[i]! > t) i--
      while (i < last - 1 && times[i + 1]! <= t) i++
      const s = Math.min(1, Math.max(0, (t - times[i]!) / (times[i + 1]! - times[i]!)))
      for (let bone = 0; bone < bones.length; bone++) {
        const turns = clip.rotations[bone]
        if (!turns) bones[bone]!.quaternion.identity()
        else bones[bone]!.quaternion.copy(a.fromArray(turns, i * 4)).slerp(b.fromArray(turns, (i + 1) * 4), s)
      }
      const { root } = clip
      const [from, to] = [i * 3, (i + 1) * 3]
      bones[0]?.position.set(
        root[from]! * (1 - s) + root[to]! * s,
        root[from + 1]! * (1 - s) + root[to + 1]! * s,
        root[from + 2]! * (1 - s) + root[to + 2]! * s,
      )
      const { names = NONE, shares } = clip.face ?? {}
      for (let k = 0, n = names.length; k < n; k++)
        this.face.set(names[k]!, shares![i * n + k]! * (1 - s) + shares![(i + 1) * n + k]! * s)
    }
    this.face.apply()
    this.mesh.updateMatrixWorld(true)
  }

  /** Takes on another shape of the same figure; false if a new model is needed. */
  update(view: FigureView): boolean {
    if (view.topology !== this.topology) return false
    const geometry = this.mesh.geometry
    const position = geometry.getAttribute('position') as BufferAttribute
    for (const [attribute, array] of [
      [position, view.mesh.positions],
      [this.normals, view.mesh.normals],
    ] as const) {
      attribute.copyArray(array)
      attribute.needsUpdate = true
    }
    // of another shape
    this.face.forget()
    const image = this.texture.image as { data: Uint8Array; width: number }
    if (image.width === view.atlas.size) {
      image.data.set(view.atlas.pixels)
      this.texture.needsUpdate = true
    } else {
      const painted = this.mesh.material.map === null
      this.texture.dispose()
      this.texture = atlasTexture(view)
      if (!painted) this.mesh.material.map = this.texture
    }
    this.rest()
    this.placeBones(view)
    this.mesh.updateMatrixWorld(true)
    this.mesh.skeleton.calculateInverses()
    this.bound()
    return true
  }

  /** Learns how its vertices move when it shuts its eyes; it has them open until it is told otherwise. */
  setLids(moves: Moves | null): void {
    this.face.learn(LIDS, moves)
  }

  /** Shuts its eyes as far, 0 to 1; nothing if it has not learned how. */
  shutEyes(share: number): void {
    this.face.set(LIDS, share)
    this.face.apply()
  }

  /** Learns how its vertices move to other faces, by what these are called; others it knew are forgotten. */
  setFaces(faces: Readonly<Record<string, Moves>>): void {
    this.face.drop(LIDS)
    for (const [name, moves] of Object.entries(faces)) this.face.learn(name, moves)
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
    if (this.bones[0]) this.root.copy(this.bones[0].position)
  }

  private bound(): void {
    this.mesh.geometry.computeBoundingBox()
    const box = this.mesh.geometry.boundingBox!
    const center = box.getCenter(new Vector3())
    this.mesh.geometry.boundingSphere = new Sphere(center, box.getSize(new Vector3()).length() / 2)
    this.mesh.boundingSphere = this.mesh.geometry.boundingSphere.clone()
    this.mesh.boundingBox = box.clone()
  }

  /** Frees what it holds, and leaves its scene. */
  dispose(): void {
    this.mesh.removeFromParent()
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
