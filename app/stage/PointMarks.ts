import type { HelperPoint } from '@idle-tinker/core'
import {
  DynamicDrawUsage,
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

const COLOR = '#2f7d8c'
/** Metres from the middle of a mark to its tips, and of the one that is pointed at. */
const SIZE = 0.016
const LARGE = 0.034

/** Small diamonds where helper points are. Made once for a list of them; following a pose allocates nothing. */
export class PointMarks {
  readonly mesh: InstancedMesh<BufferGeometry, MeshBasicMaterial>
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
    const material = new MeshBasicMaterial({ color: COLOR, depthTest: false, transparent: true })
    this.mesh = new InstancedMesh(new OctahedronGeometry(1), material, Math.max(1, points.length))
    this.mesh.instanceMatrix.setUsage(DynamicDrawUsage)
    this.mesh.frustumCulled = false
    this.mesh.renderOrder = 4
    this.mesh.count = points.length
  }

  /** Puts the marks where the bones have carried their points. */
  follow(pose: readonly Bone[], lit: string | null): void {
    const { points, ways, matrix, unturned, at, scale, mesh } = this
    for (let i = 0; i < points.length; i++) {
      at.copy(ways[i]!).applyMatrix4(pose[points[i]!.bone]!.matrixWorld)
      scale.setScalar(points[i]!.id === lit ? LARGE : SIZE)
      mesh.setMatrixAt(i, matrix.compose(at, unturned, scale))
    }
    mesh.instanceMatrix.needsUpdate = true
  }

  dispose(): void {
    this.mesh.removeFromParent()
    this.mesh.dispose()
    this.mesh.geometry.dispose()
    this.mesh.material.dispose()
  }
}
