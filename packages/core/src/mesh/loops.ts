import { checkEdges, connectedPieces } from './adjacency.ts'
import { Surface } from './Surface.ts'

/** Some triangles of a surface and the one closed loop of points around them. */
export interface Area {
  /** In the order in which the area's own triangles run along it. */
  loop: number[]
  /** 1 for each triangle that belongs to it. */
  faces: Uint8Array
}

/** How near a place of a list lies to the vertex it means, metres: kits write tenths of a millimetre. */
const WRITTEN = 1e-4

/**
 * The border of some triangles against the others as one closed loop that runs with them; empty where it is none, or
 * more than one. Open edges of the surface itself are no border.
 *
 * @param points how many points the surface has
 */
export function borderOf(triangles: Uint32Array, faces: Uint8Array, points: number): number[] {
  const own = checkEdges(
    triangles.filter((_, i) => faces[Math.floor(i / 3)]),
    points,
  )
  const open = new Set(checkEdges(triangles, points).open.map(([a, b]) => a * points + b))
  const border = own.open.filter(([a, b]) => !open.has(a * points + b))
  const loops = closedLoops(border)
  return loops.length === 1 && loops[0]!.length === border.length ? loops[0]! : []
}

/** The open edges of a surface as closed loops that run with its triangles; those that cross themselves are left out. */
export function openLoops(triangles: Uint32Array, points: number): number[][] {
  return closedLoops(checkEdges(triangles, points).open)
}

function closedLoops(edges: readonly (readonly [number, number])[]): number[][] {
  const next = new Map<number, number>()
  const crossed = new Set<number>()
  for (const [a, b] of edges) {
    if (next.has(a)) crossed.add(a)
    next.set(a, b)
  }
  const loops: number[][] = []
  const seen = new Set<number>()
  for (const start of [...next.keys()].sort((a, b) => a - b)) {
    const loop: number[] = []
    let at: number | undefined = start
    while (at !== undefined && !seen.has(at)) {
      seen.add(at)
      loop.push(at)
      at = next.get(at)
    }
    if (loop.length >= 3 && at === start && !loop.some((p) => crossed.has(p))) loops.push(loop)
  }
  return loops
}

/**
 * The part of a surface on that side of a loop on which a place lies.
 *
 * @param points places of vertices in order, xyz, metres, each joined to the next by an edge
 * @param within the place, metres: the triangle nearest to it belongs to the area
 * @returns null where the points are no closed loop of the surface's edges
 */
export function areaWithin(
  positions: Float32Array,
  triangles: Uint32Array,
  points: readonly (readonly number[])[],
  within: readonly [number, number, number],
): Area | null {
  const around = points.map((at) => vertexAt(positions, at))
  if (around.length < 3 || around.includes(-1)) return null
  const fence = new Set(around.map((a, i) => edgeKey(a, around[(i + 1) % around.length]!)))
  const beside = new Map<string, number[]>()
  const edgesOf = (t: number) => [0, 1, 2].map((k) => edgeKey(triangles[t * 3 + k]!, triangles[t * 3 + ((k + 1) % 3)]!))
  for (let t = 0; t < triangles.length / 3; t++)
    for (const key of edgesOf(t)) beside.set(key, [...(beside.get(key) ?? []), t])
  const faces = new Uint8Array(triangles.length / 3)
  const open = [new Surface(positions, triangles).nearest(...within)!.triangle]
  faces[open[0]!] = 1
  while (open.length)
    for (const key of edgesOf(open.pop()!)) {
      if (fence.has(key)) continue
      for (const other of beside.get(key)!) {
        if (faces[other]) continue
        faces[other] = 1
        open.push(other)
      }
    }
  // where the fence has a gap, the flood runs past it
  const loop = borderOf(triangles, faces, positions.length / 3)
  const known = new Set(loop)
  if (loop.length !== around.length || !around.every((p) => known.has(p))) return null
  takeLoosePieces(positions, triangles, faces, loop)
  return { loop, faces }
}

/** Pieces apart from the surface (ears, claws) belong to the area if the place nearest to their middle does. */
function takeLoosePieces(positions: Float32Array, triangles: Uint32Array, faces: Uint8Array, loop: number[]): void {
  const { pieceOf, count } = connectedPieces(triangles, positions.length / 3)
  if (count === 1) return
  const main = pieceOf[loop[0]!]!
  const isMain = (t: number) => pieceOf[triangles[t * 3]!] === main
  const surface = new Surface(positions, triangles)
  const middles = Array.from({ length: count }, (): [number, number, number] => [0, 0, 0])
  const sizes = new Uint32Array(count)
  pieceOf.forEach((piece, p) => {
    sizes[piece]!++
    for (let k = 0; k < 3; k++) middles[piece]![k]! += positions[p * 3 + k]!
  })
  const inside = middles.map((sum, i) => {
    const [x, y, z] = sum.map((v) => v / sizes[i]!) as [number, number, number]
    return faces[surface.nearest(x, y, z, Infinity, isMain)!.triangle]
  })
  for (let t = 0; t < faces.length; t++) if (!isMain(t) && inside[pieceOf[triangles[t * 3]!]!]) faces[t] = 1
}

function vertexAt(positions: Float32Array, at: readonly number[]): number {
  for (let p = 0; p < positions.length / 3; p++) {
    const x = positions[p * 3]! - at[0]!
    const y = positions[p * 3 + 1]! - at[1]!
    const z = positions[p * 3 + 2]! - at[2]!
    if (x * x + y * y + z * z <= WRITTEN * WRITTEN) return p
  }
  return -1
}

/** An edge either way about, under one name. */
const edgeKey = (a: number, b: number): string => (a < b ? `${a} ${b}` : `${b} ${a}`)
