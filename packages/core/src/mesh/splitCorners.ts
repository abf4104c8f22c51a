import { triangleNormal } from './normals.ts'

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
  const normals = new Float32Array(count * 3)
  for (let t = 0; t < count; t++) {
    const n = triangleNormal(positions, triangles[t * 3]!, triangles[t * 3 + 1]!, triangles[t * 3 + 2]!)
    normals.set(n.slice(0, 3), t * 3)
  }
  const least = Math.cos(maxAngle)
  const facets = new Uint32Array(count).fill(0xffffffff)
  let next = 0
  for (let seed = 0; seed < count; seed++) {
    if (facets[seed] !== 0xffffffff) continue
    const facet = next++
    facets[seed] = facet
    const n = seed * 3
    const queue = [seed]
    for (let at = queue.pop(); at !== undefined; at = queue.pop())
      for (let k = 0; k < 3; k++)
        for (let other = across.first[at * 3 + k]!; other >= 0; other = across.next[other]!) {
          const t = Math.floor(other / 3)
          if (facets[t] !== 0xffffffff || regionOf[t] !== regionOf[seed]) continue
          const m = t * 3
          const agree =
            normals[n]! * normals[m]! + normals[n + 1]! * normals[m + 1]! + normals[n + 2]! * normals[m + 2]!
          if (agree < least) continue
          facets[t] = facet
          queue.push(t)
        }
  }
  return facets
}

/**
 * The triangle edges that lie on the same two points, as linked lists in rising order: `first` of
 * an edge (triangle * 3 + side) starts its list, `next` goes on; -1 ends it.
 */
function neighboursAcrossEdges(triangles: Uint32Array): { first: Int32Array; next: Int32Array } {
  const heads = new Map<number, number>()
  const tails = new Map<number, number>()
  const first = new Int32Array(triangles.length)
  const next = new Int32Array(triangles.length).fill(-1)
  let points = 0
  for (let i = 0; i < triangles.length; i++) points = Math.max(points, triangles[i]! + 1)
  const keys = new Float64Array(triangles.length)
  for (let e = 0; e < triangles.length; e++) {
    const a = triangles[e]!
    const b = triangles[e % 3 === 2 ? e - 2 : e + 1]!
    const key = a < b ? a * points + b : b * points + a
    keys[e] = key
    const tail = tails.get(key)
    if (tail === undefined) heads.set(key, e)
    else next[tail] = e
    tails.set(key, e)
  }
  for (let e = 0; e < triangles.length; e++) first[e] = heads.get(keys[e]!)!
  return { first, next }
}

/** One corner for each pair of point and facet. */
export function splitCorners(
  triangles: Uint32Array,
  facets: Facets,
): { cornerPoints: Uint32Array; indices: Uint32Array } {
  const corners = new Map<number, number>()
  const cornerPoints: number[] = []
  const facetCount = facets.reduce((m, f) => Math.max(m, f + 1), 0)
  const indices = Uint32Array.from(triangles, (point, i) => {
    const key = point * facetCount + facets[Math.floor(i / 3)]!
    let corner = corners.get(key)
    if (corner === undefined) {
      corner = cornerPoints.push(point) - 1
      corners.set(key, corner)
    }
    return corner
  })
  return { cornerPoints: Uint32Array.from(cornerPoints), indices }
}
