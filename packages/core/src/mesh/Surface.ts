import { Box3, BufferAttribute, BufferGeometry, DoubleSide, Line3, Ray, Triangle, Vector3 } from 'three'
import { ExtendedTriangle, MeshBVH } from 'three-mesh-bvh'

/** The place on a surface nearest to a point. */
export interface NearestPlace {
  triangle: number
  distance: number // metres
  /** Barycentric, of the triangle's three points. */
  weights: [number, number, number]
  point: [number, number, number]
}

const scratchRay = new Ray()
const scratchPoint = new Vector3()
const scratchClosest = new Vector3()
const scratchCorners = [new Vector3(), new Vector3(), new Vector3()] as const
const scratchBary = new Vector3()
/** Its types lack the third parameter: be quiet about triangles in one plane, whose stretch has no length. */
const scratchTriangle = new ExtendedTriangle() as ExtendedTriangle & {
  intersectsTriangle(other: Triangle, stretch: Line3, quiet: boolean): boolean
}
const scratchBox = new Box3()
const scratchLine = new Line3()

/**
 * Triangles that can be asked where a ray hits and what lies nearest
 * (bounding-volume hierarchy by three-mesh-bvh; triangle ids stay as given).
 */
export class Surface {
  readonly positions: Float32Array
  readonly triangles: Uint32Array
  private readonly bvh: MeshBVH

  constructor(positions: Float32Array, triangles: Uint32Array) {
    this.positions = positions
    this.triangles = triangles
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(positions, 3))
    geometry.setIndex(new BufferAttribute(triangles.slice(), 1))
    this.bvh = new MeshBVH(geometry, { indirect: true, targetLeafSize: 6 })
  }

  /** Distance along a unit direction to the first triangle hit from either side, or Infinity. */
  castRay(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, near: number, far: number): number {
    scratchRay.origin.set(ox, oy, oz)
    scratchRay.direction.set(dx, dy, dz)
    const hit = this.bvh.raycastFirst(scratchRay, DoubleSide, near, far)
    return hit ? hit.distance : Infinity
  }

  /**
   * Whether another triangle cuts this surface in a stretch that counts.
   *
   * @param positions xyz a point of the other mesh; `corners` are the triangle's three points
   * @param counts    told the two ends of each stretch until one counts
   */
  meets(
    positions: ArrayLike<number>,
    corners: ArrayLike<number>,
    counts: (from: readonly [number, number, number], to: readonly [number, number, number]) => boolean,
  ): boolean {
    const { a, b, c } = scratchTriangle
    ;[a, b, c].forEach((v, k) => v.fromArray(positions as number[], corners[k]! * 3))
    scratchTriangle.needsUpdate = true
    scratchBox.setFromPoints([a, b, c])
    return this.bvh.shapecast({
      intersectsBounds: (box) => box.intersectsBox(scratchBox),
      intersectsTriangle: (own) => {
        if (!scratchTriangle.intersectsTriangle(own, scratchLine, true)) return false
        const { start, end } = scratchLine
        return !start.equals(end) && counts([start.x, start.y, start.z], [end.x, end.y, end.z])
      },
    })
  }

  /** Nearest place among the triangles that `accept` lets through; null if there is none within `far` metres. */
  nearest(
    x: number,
    y: number,
    z: number,
    far = Infinity,
    accept?: (triangle: number) => boolean,
  ): NearestPlace | null {
    const point = scratchPoint.set(x, y, z)
    let best = far * far
    let found = -1
    const at = new Vector3()
    this.bvh.shapecast({
      boundsTraverseOrder: (box) => box.distanceToPoint(point),
      intersectsBounds: (_box, _leaf, score) => (score ?? 0) ** 2 < best,
      intersectsTriangle: (triangle: Triangle, id: number) => {
        if (accept && !accept(id)) return false
        triangle.closestPointToPoint(point, scratchClosest)
        const d = scratchClosest.distanceToSquared(point)
        if (d < best || (d === best && found >= 0 && id < found)) {
          best = d
          found = id
          at.copy(scratchClosest)
        }
        return false
      },
    })
    if (found < 0) return null
    for (let k = 0; k < 3; k++) scratchCorners[k]!.fromArray(this.positions, this.triangles[found * 3 + k]! * 3)
    const bary = Triangle.getBarycoord(at, ...scratchCorners, scratchBary)
    const weights: [number, number, number] = bary ? [bary.x, bary.y, bary.z] : [1, 0, 0]
    return { triangle: found, distance: Math.sqrt(best), weights, point: [at.x, at.y, at.z] }
  }
}
