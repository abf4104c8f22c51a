import { Box3, BufferAttribute, BufferGeometry, Line3, Ray, Triangle, Vector3 } from 'three'
import { ExtendedTriangle, MeshBVH } from 'three-mesh-bvh'
import { distanceToBox, entersBox, flatTree, meetsBox, type BoxTree } from './boxTree.ts'

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
const scratchAt = new Vector3()
const scratchBary = new Vector3()
/** Its types lack the third parameter: be quiet about triangles in one plane, whose stretch has no length. */
const scratchOther = new ExtendedTriangle() as ExtendedTriangle & {
  intersectsTriangle(other: Triangle, stretch: Line3, quiet: boolean): boolean
}
const scratchOwn = new ExtendedTriangle()
const scratchTriangle = new Triangle()
const scratchBox = new Box3()
const scratchOwnBox = new Box3()
const scratchLine = new Line3()
/** How far the last ray went. */
let hitAt = Infinity
/** Nodes still to be looked at, and how far away they are; trees are at most 40 deep (three-mesh-bvh's own bound). */
const stack = new Uint32Array(128)
const reached = new Float64Array(stack.length)

/**
 * Triangles that can be asked where a ray hits and what lies nearest
 * (bounding-volume hierarchy by three-mesh-bvh; triangle ids stay as given).
 */
export class Surface {
  readonly positions: Float32Array
  readonly triangles: Uint32Array
  private readonly tree: BoxTree
  /** What was nearest last: what is asked next is mostly close by. */
  private lastNearest = 0

  constructor(positions: Float32Array, triangles: Uint32Array) {
    this.positions = positions
    this.triangles = triangles
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(positions, 3))
    geometry.setIndex(new BufferAttribute(triangles.slice(), 1))
    this.tree = flatTree(new MeshBVH(geometry, { indirect: true, targetLeafSize: 6 }), triangles.length / 3)
  }

  /** Distance along a unit direction to the first triangle hit from either side, or Infinity. */
  castRay(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, near: number, far: number): number {
    return this.follow(ox, oy, oz, dx, dy, dz, near, far) < 0 ? Infinity : hitAt
  }

  /** The first triangle hit along a unit direction, from either side; -1 if there is none. */
  firstHit(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): number {
    return this.follow(ox, oy, oz, dx, dy, dz, 0, Infinity)
  }

  /** The first triangle hit from `near` to `far`, or -1; how far away it is hit goes to `hitAt`. */
  private follow(
    ox: number,
    oy: number,
    oz: number,
    dx: number,
    dy: number,
    dz: number,
    near: number,
    far: number,
  ): number {
    scratchRay.origin.set(ox, oy, oz)
    scratchRay.direction.set(dx, dy, dz)
    const { boxes, after, first, count, triangles } = this.tree
    const ix = 1 / dx
    const iy = 1 / dy
    const iz = 1 / dz
    let hit = -1
    hitAt = Infinity
    for (let node = 0; node < after.length;) {
      if (!entersBox(boxes, node, ox, oy, oz, ix, iy, iz, Math.min(far, hitAt))) {
        node = after[node]!
        continue
      }
      const end = first[node]! + count[node]!
      for (let i = first[node]!; i < end; i++) {
        const { a, b, c } = this.readTriangle(triangles[i]!, scratchTriangle)
        if (!scratchRay.intersectTriangle(a, b, c, false, scratchAt)) continue
        const distance = scratchRay.origin.distanceTo(scratchAt)
        if (!(distance >= near && distance <= far && distance < hitAt)) continue
        hitAt = distance
        hit = triangles[i]!
      }
      node++
    }
    return hit
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
    // that it is hit is enough: which is hit first would take longer to find
    const { boxes, after, first, count, triangles } = this.tree
    const ix = 1 / dx
    const iy = 1 / dy
    const iz = 1 / dz
    for (let node = 0; node < after.length;) {
      if (!entersBox(boxes, node, ox, oy, oz, ix, iy, iz, far)) {
        node = after[node]!
        continue
      }
      const end = first[node]! + count[node]!
      for (let i = first[node]!; i < end; i++) {
        const distance = this.hitBy(triangles[i]!, ox, oy, oz, dx, dy, dz)
        if (!(distance >= 0 && distance <= far)) continue
        hints[slot] = triangles[i]!
        return true
      }
      node++
    }
    return false
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
    const { a, b, c } = scratchOther
    ;[a, b, c].forEach((v, k) => v.fromArray(positions as number[], corners[k]! * 3))
    scratchOther.needsUpdate = true
    scratchBox.setFromPoints([a, b, c])
    const { boxes, after, first, count, triangles } = this.tree
    for (let node = 0; node < after.length;) {
      if (!meetsBox(boxes, node, scratchBox)) {
        node = after[node]!
        continue
      }
      const end = first[node]! + count[node]!
      for (let i = first[node]!; i < end; i++) {
        const own = this.readTriangle(triangles[i]!, scratchOwn)
        // most lie apart, and that is seen sooner so
        scratchOwnBox.makeEmpty().expandByPoint(own.a).expandByPoint(own.b).expandByPoint(own.c)
        if (!scratchOwnBox.intersectsBox(scratchBox)) continue
        own.needsUpdate = true
        if (!scratchOther.intersectsTriangle(own, scratchLine, true)) continue
        const { start, end: stop } = scratchLine
        if (!start.equals(stop) && counts([start.x, start.y, start.z], [stop.x, stop.y, stop.z])) return true
      }
      node++
    }
    return false
  }

  /**
   * Nearest place among the triangles that `accept` lets through; null if there is none within `far` metres.
   *
   * @param accept must not ask a surface anything itself
   */
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
    const { boxes, after, first, count, triangles } = this.tree
    let left = triangles.length ? 1 : 0
    stack[0] = 0
    reached[0] = 0
    while (left > 0) {
      const node = stack[--left]!
      if (!(reached[left]! ** 2 < best)) continue
      if (count[node] === 0) {
        const one = node + 1
        const other = after[one]!
        const toOne = distanceToBox(boxes, one, x, y, z)
        const toOther = distanceToBox(boxes, other, x, y, z)
        // the nearer last: it is taken up next
        const swap = toOther < toOne
        if (left + 2 > stack.length) throw new RangeError('a tree of boxes is deeper than any that is built')
        stack[left] = swap ? one : other
        reached[left++] = swap ? toOne : toOther
        stack[left] = swap ? other : one
        reached[left++] = swap ? toOther : toOne
        continue
      }
      const end = first[node]! + count[node]!
      for (let i = first[node]!; i < end; i++) {
        const triangle = triangles[i]!
        if (accept && !accept(triangle)) continue
        const d = this.distanceToSquared(triangle, point)
        if (d < best || (d === best && found >= 0 && triangle < found)) {
          best = d
          found = triangle
          scratchAt.copy(scratchClosest)
        }
      }
    }
    if (found < 0) return null
    this.lastNearest = found
    const { a, b, c } = this.readTriangle(found, scratchTriangle)
    const bary = Triangle.getBarycoord(scratchAt, a, b, c, scratchBary)
    const weights: [number, number, number] = bary ? [bary.x, bary.y, bary.z] : [1, 0, 0]
    return { triangle: found, distance: Math.sqrt(best), weights, point: [scratchAt.x, scratchAt.y, scratchAt.z] }
  }

  /** The place nearest on one triangle goes to `scratchClosest`. */
  private distanceToSquared(triangle: number, point: Vector3): number {
    return this.readTriangle(triangle, scratchTriangle)
      .closestPointToPoint(point, scratchClosest)
      .distanceToSquared(point)
  }

  private readTriangle<T extends Triangle>(triangle: number, into: T): T {
    const { positions, triangles } = this
    into.a.fromArray(positions, triangles[triangle * 3]! * 3)
    into.b.fromArray(positions, triangles[triangle * 3 + 1]! * 3)
    into.c.fromArray(positions, triangles[triangle * 3 + 2]! * 3)
    return into
  }
}
