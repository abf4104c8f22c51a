import type { HelperPoint } from '@idle-tinker/core'
import {
  DynamicDrawUsage,
  Group,
  InstancedMesh,
  Matrix4,
  MeshBasicMaterial,
  OctahedronGeometry,
  Quaternion,
  Vector3,
  type Bone,
  type BufferGeometry,
} from 'three'
import type { DrawBone } from '../workers/protocol'

const COLOR = '#0f6e78'
/** Around it, so that it is seen on anything. */
const RIM = '#fffdf5'
const RIM_SHARE = 1.5
/** Metres from the middle of a mark to its tips, and of the one that is pointed at. */
const SIZE = 0.016
const LARGE = 0.034

/** Small diamonds where helper points are. Made once for a list of them; following a pose allocates nothing. */
export class PointMarks {
  readonly group = new Group()
  private readonly meshes: readonly InstancedMesh<BufferGeometry, MeshBasicMaterial>[]
  readonly points: readonly HelperPoint[]
  /** From its bone's joint to each point, at rest, metres. */
  private readonly ways: readonly Vector3[]
  private readonly matrix = new Matrix4()
  private readonly unturned = new Quaternion()
  private readonly at = new Vector3()
  private readonly scale = new Vector3()

  constructor(points: readonly HelperPoint[], bones: readonly DrawBone[]) {
    this.points = points
    this.ways = points.map(({ at, bone }) => new Vector3(...at).sub(new Vector3(...bones[bone]!.at)))
    // the rim is drawn first, and the mark over it
    this.meshes = [RIM, COLOR].map((color, order) => {
      const material = new MeshBasicMaterial({ color, depthTest: false, transparent: true })
      const shape = new OctahedronGeometry(order === 0 ? RIM_SHARE : 1)
      const mesh = new InstancedMesh<BufferGeometry, MeshBasicMaterial>(shape, material, Math.max(1, points.length))
      mesh.instanceMatrix.setUsage(DynamicDrawUsage)
      mesh.frustumCulled = false
      mesh.renderOrder = 4 + order
      mesh.count = points.length
      return mesh
    })
    this.group.add(...this.meshes)
  }

  /** Puts the marks where the bones have carried their points. */
  follow(pose: readonly Bone[], lit: string | null): void {
    const { points, ways, matrix, unturned, at, scale, meshes } = this
    for (let i = 0; i < points.length; i++) {
      at.copy(ways[i]!).applyMatrix4(pose[points[i]!.bone]!.matrixWorld)
      scale.setScalar(points[i]!.id === lit ? LARGE : SIZE)
      matrix.compose(at, unturned, scale)
      for (const mesh of meshes) mesh.setMatrixAt(i, matrix)
    }
    for (const mesh of meshes) mesh.instanceMatrix.needsUpdate = true
  }

  dispose(): void {
    this.group.removeFromParent()
    for (const mesh of this.meshes) {
      mesh.dispose()
      mesh.geometry.dispose()
      mesh.material.dispose()
    }
  }
}
