/** Lists of neighbours packed into two arrays: those of i are `items[starts[i] .. starts[i + 1]]`. */
export interface Packed {
  starts: Uint32Array
  items: Uint32Array
}

function pack(lists: Iterable<number>[]): Packed {
  const starts = new Uint32Array(lists.length + 1)
  const items: number[] = []
  lists.forEach((list, i) => {
    items.push(...list)
    starts[i + 1] = items.length
  })
  return { starts, items: Uint32Array.from(items) }
}

/** Which rows of a table name each of so many values, in the order of the rows; as often as they do. */
export function transposed({ starts, items }: Packed, values: number): Packed {
  const ends = new Uint32Array(values + 1)
  for (let i = 0; i < items.length; i++) ends[items[i]! + 1]!++
  for (let v = 0; v < values; v++) ends[v + 1]! += ends[v]!
  const rows: Packed = { starts: ends.slice(), items: new Uint32Array(items.length) }
  for (let row = 0; row < starts.length - 1; row++)
    for (let i = starts[row]!; i < starts[row + 1]!; i++) rows.items[ends[items[i]!]!++] = row
  return rows
}

/** The points joined to each point by an edge, ascending. */
export function pointNeighbours(triangles: Uint32Array, points: number): Packed {
  const sets = Array.from({ length: points }, () => new Set<number>())
  for (let t = 0; t < triangles.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const a = triangles[t + k]!
      const b = triangles[t + ((k + 1) % 3)]!
      sets[a]!.add(b)
      sets[b]!.add(a)
    }
  return pack(sets.map((s) => [...s].sort((a, b) => a - b)))
}

/** What a check of a surface's edges found. */
export interface EdgeReport {
  /** Directed edges without a partner, as pairs of points. */
  open: [number, number][]
  /** Edges with more than two triangles, or two that run the same way. */
  nonManifold: [number, number][]
}

/** Classifies the edges of a triangle list; O(triangles). */
export function checkEdges(triangles: Uint32Array, points: number): EdgeReport {
  const uses = new Map<number, number>()
  const key = (a: number, b: number) => a * points + b
  for (let t = 0; t < triangles.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const e = key(triangles[t + k]!, triangles[t + ((k + 1) % 3)]!)
      uses.set(e, (uses.get(e) ?? 0) + 1)
    }
  const report: EdgeReport = { open: [], nonManifold: [] }
  for (const [e, count] of uses) {
    const a = Math.floor(e / points)
    const b = e % points
    const back = uses.get(key(b, a)) ?? 0
    if (count > 1 || back > 1) report.nonManifold.push([a, b])
    else if (back === 0) report.open.push([a, b])
  }
  return report
}

/** Splits triangles into pieces joined by shared points: the piece index of each point, and how many there are. */
export function connectedPieces(triangles: Uint32Array, points: number): { pieceOf: Uint32Array; count: number } {
  const root = Uint32Array.from({ length: points }, (_, i) => i)
  const find = (i: number): number => {
    while (root[i] !== i) i = root[i] = root[root[i]!]!
    return i
  }
  for (let t = 0; t < triangles.length; t += 3) {
    const a = find(triangles[t]!)
    root[find(triangles[t + 1]!)] = a
    root[find(triangles[t + 2]!)] = a
  }
  const names = new Map<number, number>()
  const pieceOf = new Uint32Array(points)
  for (let i = 0; i < points; i++) {
    const r = find(i)
    if (!names.has(r)) names.set(r, names.size)
    pieceOf[i] = names.get(r)!
  }
  return { pieceOf, count: names.size }
}

/** Volume enclosed by triangles, cubic metres; positive when they wind outward (sum of signed tetrahedra). */
export function signedVolume(positions: ArrayLike<number>, triangles: Uint32Array): number {
  let six = 0
  for (let t = 0; t < triangles.length; t += 3) {
    const a = triangles[t]! * 3
    const b = triangles[t + 1]! * 3
    const c = triangles[t + 2]! * 3
    six +=
      positions[a]! * (positions[b + 1]! * positions[c + 2]! - positions[b + 2]! * positions[c + 1]!) +
      positions[a + 1]! * (positions[b + 2]! * positions[c]! - positions[b]! * positions[c + 2]!) +
      positions[a + 2]! * (positions[b]! * positions[c + 1]! - positions[b + 1]! * positions[c]!)
  }
  return six / 6
}
