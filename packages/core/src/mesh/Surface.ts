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
const scratchHint = new Triangle()
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
  /** What was nearest last: what is asked next is mostly close by. */
  private lastNearest = 0

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

  /** The first triangle hit along a unit direction, from either side; -1 if there is none. */
  firstHit(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): number {
    scratchRay.origin.set(ox, oy, oz)
    scratchRay.direction.set(dx, dy, dz)
    return this.bvh.raycastFirst(scratchRay, DoubleSide)?.faceIndex ?? -1
  }

  /**
   * Whether anything is hit along a unit direction within some distance, from either side.
   *
   * @param hints remembers at `slot` what was hit last: tried first, as neighbours are mostly covered by the same
   */
  blocks(
    ox: number,
    oy: number,
    oz: number,
    dx: number,
    dy: number,
    dz: number,
    far: number,
    hints: Int32Array,
    slot: number,
  ): boolean {
    if (hints[slot]! >= 0) {
      const distance = this.hitBy(hints[slot]!, ox, oy, oz, dx, dy, dz)
      if (distance >= 0 && distance <= far) return true
    }
    scratchRay.origin.set(ox, oy, oz)
    scratchRay.direction.set(dx, dy, dz)
    const hit = this.bvh.raycastFirst(scratchRay, DoubleSide, 0, far)
    if (hit) hints[slot] = hit.faceIndex!
    return hit !== null
  }

  /** How far along a direction a triangle is hit; negative if it is not (Möller & Trumbore 1997). */
  private hitBy(triangle: number, ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): number {
    const { positions, triangles } = this
    const a = triangles[triangle * 3]! * 3
    const b = triangles[triangle * 3 + 1]! * 3
    const c = triangles[triangle * 3 + 2]! * 3
    const ux = positions[b]! - positions[a]!
    const uy = positions[b + 1]! - positions[a + 1]!
    const uz = positions[b + 2]! - positions[a + 2]!
    const vx = positions[c]! - positions[a]!
    const vy = positions[c + 1]! - positions[a + 1]!
    const vz = positions[c + 2]! - positions[a + 2]!
    const px = dy * vz - dz * vy
    const py = dz * vx - dx * vz
    const pz = dx * vy - dy * vx
    const scale = ux * px + uy * py + uz * pz
    if (scale === 0) return -1
    const tx = ox - positions[a]!
    const ty = oy - positions[a + 1]!
    const tz = oz - positions[a + 2]!
    const u = (tx * px + ty * py + tz * pz) / scale
    if (u < 0 || u > 1) return -1
    const qx = ty * uz - tz * uy
    const qy = tz * ux - tx * uz
    const qz = tx * uy - ty * ux
    const v = (dx * qx + dy * qy + dz * qz) / scale
    if (v < 0 || u + v > 1) return -1
    return (vx * qx + vy * qy + vz * qz) / scale
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
    const hint = this.lastNearest
    if (!accept || accept(hint)) {
      // nothing farther than that is worth a look; a hair more, so that it is found itself, as without
      const bound = this.distanceToSquared(hint, point) * (1 + 1e-6) + 1e-12
      if (bound < best) best = bound
    }
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
    this.lastNearest = found
    for (let k = 0; k < 3; k++) scratchCorners[k]!.fromArray(this.positions, this.triangles[found * 3 + k]! * 3)
    const bary = Triangle.getBarycoord(at, ...scratchCorners, scratchBary)
    const weights: [number, number, number] = bary ? [bary.x, bary.y, bary.z] : [1, 0, 0]
    return { triangle: found, distance: Math.sqrt(best), weights, point: [at.x, at.y, at.z] }
  }

  private distanceToSquared(triangle: number, point: Vector3): number {
    const { a, b, c } = scratchHint
    a.fromArray(this.positions, this.triangles[triangle * 3]! * 3)
    b.fromArray(this.positions, this.triangles[triangle * 3 + 1]! * 3)
    c.fromArray(this.positions, this.triangles[triangle * 3 + 2]! * 3)
    return scratchHint.closestPointToPoint(point, scratchClosest).distanceToSquared(point)
  }
}
