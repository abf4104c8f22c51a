import { triangleNormals } from './normals.ts'

/** Triangles that are shaded as one: an index a triangle, from zero. */
export type Facets = Uint32Array

/**
 * Joins neighbouring triangles of one region into facets while their normals stay within an angle
 * of the facet's first triangle. Greedy in triangle order, hence deterministic; O(triangles).
 *
 * @param triangles three points each
 * @param regionOf  one number a triangle; facets do not cross it
 * @param maxAngle  radians
 */
export function findFacets(
  positions: ArrayLike<number>,
  triangles: Uint32Array,
  regionOf: ArrayLike<number>,
  maxAngle: number,
): Facets {
  const count = triangles.length / 3
  const across = neighboursAcrossEdges(triangles)
  const normals = triangleNormals(positions, triangles)
  const least = Math.cos(maxAngle)
  const facets = new Uint32Array(count).fill(0xffffffff)
  const stack = new Uint32Array(count)
  let next = 0
  for (let seed = 0; seed < count; seed++) {
    if (facets[seed] !== 0xffffffff) continue
    const facet = next++
    facets[seed] = facet
    const n = seed * 3
    stack[0] = seed
    let height = 1
    while (height > 0) {
      const at = stack[--height]! * 3
      for (let k = at; k < at + 3; k++)
        for (let other = across.first[k]!; other >= 0; other = across.next[other]!) {
          const t = Math.trunc(other / 3)
          if (facets[t] !== 0xffffffff || regionOf[t] !== regionOf[seed]) continue
          const m = t * 3
          const agree =
            normals[n]! * normals[m]! + normals[n + 1]! * normals[m + 1]! + normals[n + 2]! * normals[m + 2]!
          if (agree < least) continue
          facets[t] = facet
          stack[height++] = t
        }
    }
  }
  return facets
}

/**
 * The triangle edges that lie on the same two points, as linked lists in rising order: `first` of
 * an edge (triangle * 3 + side) starts its list, `next` goes on; -1 ends it.
 */
function neighboursAcrossEdges(triangles: Uint32Array): { first: Int32Array; next: Int32Array } {
  const first = new Int32Array(triangles.length)
  const next = new Int32Array(triangles.length).fill(-1)
  const table = new PairTable(triangles.length)
  const last = new Int32Array(triangles.length)
  for (let e = 0; e < triangles.length; e++) {
    const a = triangles[e]!
    const b = triangles[e % 3 === 2 ? e - 2 : e + 1]!
    const head = table.claim(Math.min(a, b), Math.max(a, b), e)
    if (head !== e) next[last[head]!] = e
    last[head] = e
    first[e] = head
  }
  return { first, next }
}

/** Numbers under pairs of numbers, by open addressing (Knuth, The Art of Computer Programming 3, 6.4). */
class PairTable {
  private readonly mask: number
  /** Two numbers of a pair and one more than what stands under it, a slot; 0 where none is. */
  private readonly slots: Uint32Array

  constructor(most: number) {
    // two thirds full at most
    const size = 2 ** Math.ceil(Math.log2(Math.max(1, most) * 1.5))
    this.mask = size - 1
    this.slots = new Uint32Array(size * 3)
  }

  /** The number the pair has; if it has none yet, it takes this one. */
  claim(a: number, b: number, value: number): number {
    const { slots, mask } = this
    const mixed = Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca6b)
    let slot = (mixed ^ (mixed >>> 15)) & mask
    for (; slots[slot * 3 + 2] !== 0; slot = (slot + 1) & mask)
      if (slots[slot * 3] === a && slots[slot * 3 + 1] === b) return slots[slot * 3 + 2]! - 1
    slots[slot * 3] = a
    slots[slot * 3 + 1] = b
    slots[slot * 3 + 2] = value + 1
    return value
  }
}

/** One corner for each pair of point and facet. */
export function splitCorners(
  triangles: Uint32Array,
  facets: Facets,
): { cornerPoints: Uint32Array; indices: Uint32Array } {
  const table = new PairTable(triangles.length)
  const cornerPoints = new Uint32Array(triangles.length)
  const indices = new Uint32Array(triangles.length)
  let count = 0
  for (let t = 0; t < facets.length; t++)
    for (let i = t * 3; i < t * 3 + 3; i++) {
      const point = triangles[i]!
      const corner = table.claim(point, facets[t]!, count)
      if (corner === count) cornerPoints[count++] = point
      indices[i] = corner
    }
  return { cornerPoints: cornerPoints.slice(0, count), indices }
}
