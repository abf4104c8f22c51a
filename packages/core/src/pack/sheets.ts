import { sizeOf } from './pieceOf.ts'

/** A piece as one surface: vertices at one place are one point, whatever shading or color splits there. */
export interface Sheet {
  /** Vertex to point. */
  pointOf: Uint32Array
  /** xyz a point. */
  points: Float32Array
  /** Three points a triangle, in the order of the piece's. */
  faces: Uint32Array
  /** Triangles that have no area to speak of. */
  flat: Set<number>
  /** Triangles that lie on an earlier one and face the same way. */
  doubled: Set<number>
  /** Triangles that lie on an earlier one and face the other way: the backs of sheets, which some games want. */
  backs: Set<number>
  /** Edges of all other triangles: the triangles at each, and whether they run along it upwards. */
  edges: Map<number, EdgeUse[]>
  /** Patches of those triangles that hang together by edges of two. */
  patches: Patch[]
}

export interface EdgeUse {
  face: number
  /** Whether the triangle goes from the point with the smaller number to the other. */
  up: boolean
}

export interface Patch {
  faces: number[]
  /** Those that are turned against most of the patch. */
  against: number[]
  /** Whether it has no rim. */
  closed: boolean
}

/** Vertices as near as this are one, as a share of the piece's size. */
const WELD = 1e-5
/** What has no more area than this, as a share of its size squared, or of the longest edge squared, is flat. */
const FLAT = { piece: 1e-9, edge: 5e-5 }

/** Looks at a piece as at a surface. O(triangles). */
export function sheetOf(positions: Float32Array, triangles: Uint32Array): Sheet {
  const size = sizeOf({ positions })
  const { pointOf, points } = weldPlaces(positions)
  const faces = Uint32Array.from(triangles, (v) => pointOf[v]!)
  const sheet: Sheet = {
    ...{ pointOf, points, faces },
    ...{ flat: new Set(), doubled: new Set(), backs: new Set(), edges: new Map(), patches: [] },
  }
  /** By the edge at its least corner: the third corner of each triangle there, and which ways those face. */
  const seen = new Map<number, { third: number; ways: boolean[] }[]>()
  for (let t = 0; t < faces.length / 3; t++) {
    const [a, b, c] = cornersAt(faces, t)
    if (a === b || b === c || c === a || isFlat(points, [a, b, c], size)) {
      sheet.flat.add(t)
      continue
    }
    // where its least corner stands first, a triangle that faces the same way reads the same
    const least = Math.min(a, b, c)
    const [second, third] = a === least ? [b, c] : b === least ? [c, a] : [a, b]
    const key = edgeOf(sheet, least, Math.min(second, third))
    const there = seen.get(key)
    const same = there?.find((one) => one.third === Math.max(second, third))
    const way = second < third
    if (same) {
      ;(same.ways.includes(way) ? sheet.doubled : sheet.backs).add(t)
      same.ways.push(way)
      continue
    }
    const one = { third: Math.max(second, third), ways: [way] }
    if (there) there.push(one)
    else seen.set(key, [one])
    for (const [p, q] of [
      [a, b],
      [b, c],
      [c, a],
    ] as const) {
      const edge = edgeOf(sheet, p, q)
      const uses = sheet.edges.get(edge)
      if (uses) uses.push({ face: t, up: p < q })
      else sheet.edges.set(edge, [{ face: t, up: p < q }])
    }
  }
  sheet.patches = patchesOf(sheet)
  return sheet
}

export const cornersAt = (faces: Uint32Array, t: number): [number, number, number] => [
  faces[t * 3]!,
  faces[t * 3 + 1]!,
  faces[t * 3 + 2]!,
]

/** An edge by its two points, either way round. */
export const edgeOf = ({ points }: Sheet, p: number, q: number): number =>
  Math.min(p, q) * (points.length / 3) + Math.max(p, q)

/** The points of an edge, the smaller number first. */
export const endsOf = ({ points }: Sheet, edge: number): [number, number] => [
  Math.floor(edge / (points.length / 3)),
  edge % (points.length / 3),
]

/** Vertices at one place, as far as a piece of that size has places, become one point: the first of them. */
export function weldPlaces(positions: Float32Array): { pointOf: Uint32Array; points: Float32Array } {
  const far = WELD * sizeOf({ positions })
  const pointOf = new Uint32Array(positions.length / 3)
  const points: number[] = []
  // cells by a number that others may share: what is found there is measured
  const cells = new Map<number, number[]>()
  const keyOf = (x: number, y: number, z: number) =>
    Math.imul(x, 73_856_093) ^ Math.imul(y, 19_349_663) ^ Math.imul(z, 83_492_791)
  // twice as wide as what is near: what is near lies in the cell or in those on the sides it is close to
  const cell = Math.max(far * 2, Number.MIN_VALUE)
  const [own, beside] = [
    [0, 0, 0],
    [0, 0, 0],
  ] as [number[], number[]]
  for (let v = 0; v < pointOf.length; v++) {
    const at = v * 3
    for (let k = 0; k < 3; k++) {
      const x = positions[at + k]! / cell
      own[k] = Math.floor(x)
      beside[k] = own[k]! + (x - own[k]! < 0.5 ? -1 : 1)
    }
    let found = -1
    for (let corner = 0; corner < 8 && found < 0; corner++) {
      const list = cells.get(
        keyOf(corner & 1 ? beside[0]! : own[0]!, corner & 2 ? beside[1]! : own[1]!, corner & 4 ? beside[2]! : own[2]!),
      )
      if (!list) continue
      for (const p of list)
        if (
          Math.abs(points[p * 3]! - positions[at]!) <= far &&
          Math.abs(points[p * 3 + 1]! - positions[at + 1]!) <= far &&
          Math.abs(points[p * 3 + 2]! - positions[at + 2]!) <= far
        ) {
          found = p
          break
        }
    }
    if (found < 0) {
      found = points.length / 3
      points.push(positions[at]!, positions[at + 1]!, positions[at + 2]!)
      const key = keyOf(own[0]!, own[1]!, own[2]!)
      const inCell = cells.get(key)
      if (inCell) inCell.push(found)
      else cells.set(key, [found])
    }
    pointOf[v] = found
  }
  return { pointOf, points: Float32Array.from(points) }
}

/** Twice the area of a triangle as a vector that stands on it. */
export function crossOf(points: Float32Array, [a, b, c]: readonly [number, number, number]): [number, number, number] {
  const [ax, ay, az] = [points[a * 3]!, points[a * 3 + 1]!, points[a * 3 + 2]!]
  const [ux, uy, uz] = [points[b * 3]! - ax, points[b * 3 + 1]! - ay, points[b * 3 + 2]! - az]
  const [vx, vy, vz] = [points[c * 3]! - ax, points[c * 3 + 1]! - ay, points[c * 3 + 2]! - az]
  return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
}

/** The length of a triangle's longest edge. */
export function longestEdge(points: Float32Array, corners: readonly [number, number, number]): number {
  let longest = 0
  for (let k = 0; k < 3; k++) {
    const p = corners[k]! * 3
    const q = corners[(k + 1) % 3]! * 3
    longest = Math.max(
      longest,
      Math.hypot(points[p]! - points[q]!, points[p + 1]! - points[q + 1]!, points[p + 2]! - points[q + 2]!),
    )
  }
  return longest
}

function isFlat(points: Float32Array, corners: [number, number, number], size: number): boolean {
  const doubled = Math.hypot(...crossOf(points, corners))
  const longest = longestEdge(points, corners)
  return doubled / 2 < FLAT.piece * size * size || doubled / 2 < FLAT.edge * longest * longest
}

/** Goes from triangle to triangle over edges that two share, and sees which are turned against the others. */
function patchesOf(sheet: Sheet): Patch[] {
  const { faces, edges } = sheet
  const turn = new Int8Array(faces.length / 3).fill(-1)
  const patches: Patch[] = []
  const skipped = (t: number) => sheet.flat.has(t) || sheet.doubled.has(t) || sheet.backs.has(t)
  for (let start = 0; start < turn.length; start++) {
    if (turn[start]! >= 0 || skipped(start)) continue
    turn[start] = 0
    const own = [start]
    let closed = true
    for (const t of own) {
      const corners = cornersAt(faces, t)
      for (let k = 0; k < 3; k++) {
        const uses = edges.get(edgeOf(sheet, corners[k]!, corners[(k + 1) % 3]!))!
        if (uses.length !== 2) {
          closed = false
          continue
        }
        const [mine, other] = uses[0]!.face === t ? [uses[0]!, uses[1]!] : [uses[1]!, uses[0]!]
        if (turn[other.face]! >= 0) continue
        // neighbours that are turned alike run along their edge in opposite ways
        turn[other.face] = mine.up === other.up ? 1 - turn[t]! : turn[t]!
        own.push(other.face)
      }
    }
    const turned = own.filter((t) => turn[t] === 1)
    const against = turned.length * 2 > own.length ? own.filter((t) => turn[t] === 0) : turned
    patches.push({ faces: own, against, closed })
  }
  return patches
}

/** Loops of edges that have a triangle on one side only, each as its points in the order in which a face that closes it goes. */
export function rimsOf(sheet: Sheet): number[][] {
  const next = new Map<number, number[]>()
  const against = new Set(sheet.patches.flatMap((p) => p.against))
  for (const [edge, uses] of sheet.edges) {
    if (uses.length !== 1) continue
    const [low, high] = endsOf(sheet, edge)
    const up = uses[0]!.up !== against.has(uses[0]!.face)
    // what closes it runs the other way
    const [from, to] = up ? [high, low] : [low, high]
    const list = next.get(from)
    if (list) list.push(to)
    else next.set(from, [to])
  }
  const loops: number[][] = []
  for (const start of [...next.keys()].sort((a, b) => a - b))
    while (next.get(start)?.length) {
      const path = [start]
      const placeOf = new Map([[start, 0]])
      for (let at = next.get(start)!.pop(); at !== undefined; at = next.get(at)?.pop()) {
        const before = placeOf.get(at)
        if (before !== undefined) {
          // rims that meet in a point are two
          const loop = path.splice(before)
          for (const p of loop) placeOf.delete(p)
          loops.push(loop)
          if (before === 0) break
        }
        placeOf.set(at, path.length)
        path.push(at)
      }
    }
  return loops
}
