import {
  CylinderGeometry,
  DynamicDrawUsage,
  Group,
  InstancedMesh,
  Matrix4,
  MeshBasicMaterial,
  Quaternion,
  TorusGeometry,
  Vector3,
  type Bone,
  type BufferGeometry,
  type Camera,
} from 'three'
import type { DrawBone } from '../workers/protocol'

/** Bones shorter than this get small rings at their joints, metres: fingers, eyes. */
const SHORT = 0.05
/** Rods shorter than this are not drawn, metres. */
const NO_LENGTH = 1e-4
const UP = new Vector3(0, 1, 0)
const COLOR = '#c58a1c'

/** Thin brass rods with ring joints; left solid, right hollow. Made once for a skeleton; following its pose allocates nothing. */
export class BoneRods {
  readonly group = new Group()
  private readonly bones: readonly DrawBone[]
  private readonly solid: InstancedMesh<BufferGeometry, MeshBasicMaterial>
  private readonly hollow: InstancedMesh<BufferGeometry, MeshBasicMaterial>
  private readonly rings: InstancedMesh<BufferGeometry, MeshBasicMaterial>
  private readonly smallRings: InstancedMesh<BufferGeometry, MeshBasicMaterial>
  private readonly all: readonly InstancedMesh<BufferGeometry, MeshBasicMaterial>[]
  private readonly matrix = new Matrix4()
  private readonly turn = new Quaternion()
  private readonly scale = new Vector3(1, 1, 1)
  private readonly from = new Vector3()
  private readonly to = new Vector3()
  private readonly along = new Vector3()

  constructor(bones: readonly DrawBone[]) {
    this.bones = bones
    const brass = new MeshBasicMaterial({ color: COLOR, depthTest: false, transparent: true })
    const wire = new MeshBasicMaterial({ color: COLOR, wireframe: true, depthTest: false, transparent: true })
    const rod = new CylinderGeometry(0.0035, 0.0035, 1, 5)
    const of = (geometry: BufferGeometry, material: MeshBasicMaterial) => {
      const mesh = new InstancedMesh(geometry, material, Math.max(1, bones.length))
      mesh.instanceMatrix.setUsage(DynamicDrawUsage)
      mesh.frustumCulled = false
      mesh.renderOrder = 3
      return mesh
    }
    this.solid = of(rod, brass)
    this.hollow = of(rod, wire)
    this.rings = of(new TorusGeometry(0.014, 0.0032, 6, 14), brass)
    this.smallRings = of(new TorusGeometry(0.006, 0.0032, 6, 14), brass)
    this.all = [this.solid, this.hollow, this.rings, this.smallRings]
    this.group.add(...this.all)
  }

  /** Is it made for these bones? */
  isOf(bones: readonly DrawBone[]): boolean {
    return (
      bones.length === this.bones.length &&
      bones.every((b, i) => b.name === this.bones[i]!.name && b.parent === this.bones[i]!.parent)
    )
  }

  /** Puts rods and rings where the bones are, rings facing the camera. */
  follow(pose: readonly Bone[], camera: Camera): void {
    const { bones, from, to, along, turn, scale, matrix } = this
    const { solid, hollow, rings, smallRings } = this
    solid.count = hollow.count = rings.count = smallRings.count = 0
    for (let i = 0; i < bones.length; i++) {
      const { parent, name } = bones[i]!
      to.setFromMatrixPosition(pose[i]!.matrixWorld)
      from.setFromMatrixPosition(pose[parent < 0 ? i : parent]!.matrixWorld)
      along.subVectors(to, from)
      const length = Math.sqrt(along.x * along.x + along.y * along.y + along.z * along.z)
      scale.set(1, 1, 1)
      turn.setFromRotationMatrix(matrix.lookAt(camera.position, to, UP))
      add(parent >= 0 && length < SHORT ? smallRings : rings, matrix.compose(to, turn, scale))
      if (length < NO_LENGTH) continue
      turn.setFromUnitVectors(UP, along.divideScalar(length))
      scale.set(1, length, 1)
      add(isRight(name) ? hollow : solid, matrix.compose(from.lerp(to, 0.5), turn, scale))
    }
    for (const mesh of this.all) mesh.instanceMatrix.needsUpdate = true
  }

  dispose(): void {
    this.group.removeFromParent()
    for (const mesh of this.all) {
      mesh.dispose()
      mesh.geometry.dispose()
      mesh.material.dispose()
    }
  }
}

/** Bones are named by the open VRM standard. */
export function isRight(name: string): boolean {
  return name.startsWith('right')
}

function add(mesh: InstancedMesh, matrix: Matrix4): void {
  mesh.setMatrixAt(mesh.count++, matrix)
}
