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
  const edges = new Map<string, number[]>()
  const edgeKey = (a: number, b: number) => (a < b ? `${a} ${b}` : `${b} ${a}`)
  for (let t = 0; t < count; t++)
    for (let k = 0; k < 3; k++) {
      const e = edgeKey(triangles[t * 3 + k]!, triangles[t * 3 + ((k + 1) % 3)]!)
      const list = edges.get(e)
      if (list) list.push(t)
      else edges.set(e, [t])
    }
  const normals = Array.from({ length: count }, (_, t) =>
    triangleNormal(positions, triangles[t * 3]!, triangles[t * 3 + 1]!, triangles[t * 3 + 2]!),
  )
  const least = Math.cos(maxAngle)
  const facets = new Uint32Array(count).fill(0xffffffff)
  let next = 0
  for (let seed = 0; seed < count; seed++) {
    if (facets[seed] !== 0xffffffff) continue
    const facet = next++
    facets[seed] = facet
    const n = normals[seed]!
    const queue = [seed]
    for (let at = queue.pop(); at !== undefined; at = queue.pop())
      for (let k = 0; k < 3; k++)
        for (const other of edges.get(edgeKey(triangles[at * 3 + k]!, triangles[at * 3 + ((k + 1) % 3)]!))!) {
          if (facets[other] !== 0xffffffff || regionOf[other] !== regionOf[seed]) continue
          const m = normals[other]!
          if (n[0] * m[0] + n[1] * m[1] + n[2] * m[2] < least) continue
          facets[other] = facet
          queue.push(other)
        }
  }
  return facets
}

/** One corner for each pair of point and facet. */
export function splitCorners(triangles: Uint32Array, facets: Facets): { cornerPoints: Uint32Array; indices: Uint32Array } {
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
