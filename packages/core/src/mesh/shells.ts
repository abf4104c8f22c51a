/** The points of each piece of a mesh that hangs together by its triangles, the largest first; points that no triangle uses are in none. */
export function shellsOf(triangles: Uint32Array, points: number): Uint32Array[] {
  const parent = Uint32Array.from({ length: points }, (_, p) => p)
  const root = (p: number): number => {
    while (parent[p] !== p) {
      parent[p] = parent[parent[p]!]!
      p = parent[p]!
    }
    return p
  }
  for (let t = 0; t < triangles.length; t += 3)
    for (let k = 1; k < 3; k++) parent[root(triangles[t + k]!)] = root(triangles[t]!)
  const groups = new Map<number, number[]>()
  for (const p of [...new Set(triangles)].sort((a, b) => a - b)) {
    const group = groups.get(root(p))
    if (group) group.push(p)
    else groups.set(root(p), [p])
  }
  return [...groups.values()].map((g) => Uint32Array.from(g)).sort((a, b) => b.length - a.length || a[0]! - b[0]!)
}
