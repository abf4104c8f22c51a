import { hiddenOfBody, hiddenOfPart } from '../../dress/cover.ts'
import { Reducer } from '../../budget/reduceMesh.ts'
import { careOf } from '../../budget/careOf.ts'
import { stretchByCare } from '../../budget/stretchByCare.ts'
import type { Piece } from '../../budget/mergeOutfit.ts'
import type { Mesh } from '../../mesh/Mesh.ts'
import { Surface } from '../../mesh/Surface.ts'
import { slotsFor } from '../../kit/library.ts'
import type { Kits } from '../../recipe/resolve.ts'
import type { Standing } from './standing.ts'

/** The body, or what one option puts on: what is loaded and drawn by itself. */
export interface PackedPiece {
  /** null for the body. */
  option: number | null
  /** The point of the standing mesh each vertex is: one vertex a point, color region and place in a picture. */
  points: Uint32Array
  /** Color region, and place in its picture, a vertex. */
  regions: Uint16Array
  uvs: Float32Array
  /** Vertex and the first vertex at the same point, in pairs, where there are several. */
  same: Uint16Array
  /** Vertex and the vertex of the body it is one with, in pairs, along a seam. */
  welds: Uint16Array
  /** Vertices that stand on the ground while they are drawn. */
  ground: Uint16Array
  /** The finest first. */
  levels: PackedLevel[]
}

export interface PackedLevel {
  /** The vertex under each corner. */
  corners: Uint16Array
  shades: Uint8Array
  softness: Uint8Array
  /** Corners of triangles, patch by patch. */
  indices: Uint16Array
  patches: Patch[]
}

/** Triangles that are drawn unless one of some options is worn. */
export interface Patch {
  triangles: number
  hiddenBy: number[]
}

/** A piece has no more vertices or corners than sixteen bits count. */
const MOST = 65_535

/**
 * Cuts what stands together into pieces, and each into patches by who hides it.
 *
 * @param painted regions with pictures
 * @param shares  of its triangles that a piece has on each coarser level
 */
export function cutPieces(
  standing: Standing,
  kits: Kits,
  painted: ReadonlySet<number>,
  shares: readonly number[],
): PackedPiece[] {
  const { merged, options, body } = standing
  const [own] = merged.pieces
  const first = new Map<number, number>()
  const cut = (piece: Piece, option: number | null, hiders: Hiders) => {
    const packed = layVertices(standing, piece, option, painted)
    if (packed.piece.points.length > MOST || piece.corners[1] - piece.corners[0] > MOST)
      throw new RangeError(`${piece.name}: too many vertices for a piece of a package`)
    if (option === null)
      packed.piece.points.forEach((p, v) => {
        if (!first.has(p)) first.set(p, v)
      })
    else packed.piece.welds = weldsOf(packed.piece.points, own!, first)
    packed.piece.levels = levelsOf(standing, kits, piece, packed, hiders, painted, shares)
    return packed.piece
  }
  const bound = options.map(({ layer }) => standing.outfit.layers[layer]!.bound)
  const all = [cut(own!, null, hidersOf(bound.map((b) => hiddenOfBody(body, b))))]
  options.forEach(({ piece }, i) => {
    const over = bound.map((outer) =>
      // of one slot one alone is worn
      outer.part.def.slot === bound[i]!.part.def.slot ? null : hiddenOfPart(body, bound[i]!, outer),
    )
    all.push(cut(piece, i, hidersOf(over)))
  })
  return all
}

/** By triangle of a piece, the options that hide it. */
type Hiders = (triangle: number) => number[]

const hidersOf =
  (hidden: readonly (Uint8Array | null)[]): Hiders =>
  (t) =>
    hidden.flatMap((h, i) => (h?.[t] ? [i] : []))

interface Laid {
  piece: PackedPiece
  vertexAt: (point: number, region: number, u: number, v: number) => number
}

/** One vertex for each pair of point and region, and in pictures for each place in them. */
function layVertices(
  { merged, ground }: Standing,
  piece: Piece,
  option: number | null,
  painted: ReadonlySet<number>,
): Laid {
  const { mesh } = merged
  const numbers = new Map<string, number>()
  const points: number[] = []
  const regions: number[] = []
  const uvs: number[] = []
  const keyOf = (point: number, region: number, u: number, v: number) =>
    painted.has(region) ? `${point} ${region} ${u} ${v}` : `${point} ${region}`
  const firstAt = new Map<number, number>()
  const same: number[] = []
  for (let c = piece.corners[0]; c < piece.corners[1]; c++) {
    const point = mesh.cornerPoints[c]!
    const region = mesh.regions[c]!
    const u = mesh.uvs[c * 2]!
    const v = mesh.uvs[c * 2 + 1]!
    const key = keyOf(point, region, u, v)
    if (numbers.has(key)) continue
    const vertex = points.push(point) - 1
    numbers.set(key, vertex)
    regions.push(region)
    uvs.push(u, v)
    if (firstAt.has(point)) same.push(vertex, firstAt.get(point)!)
    else firstAt.set(point, vertex)
  }
  const stands = new Set(ground)
  return {
    piece: {
      option,
      points: Uint32Array.from(points),
      regions: Uint16Array.from(regions),
      uvs: Float32Array.from(uvs),
      same: Uint16Array.from(same),
      welds: new Uint16Array(0),
      ground: Uint16Array.from(points.flatMap((p, v) => (stands.has(p) ? [v] : []))),
      levels: [],
    },
    // where a coarser level gives a corner a region that its point has not, any of the point's will do
    vertexAt: (point, region, u, v) => numbers.get(keyOf(point, region, u, v)) ?? firstAt.get(point)!,
  }
}

function weldsOf(points: Uint32Array, own: Piece, first: ReadonlyMap<number, number>): Uint16Array {
  return Uint16Array.from([...points].flatMap((p, v) => (p < own.points[1] && first.has(p) ? [v, first.get(p)!] : [])))
}

function levelsOf(
  standing: Standing,
  kits: Kits,
  piece: Piece,
  laid: Laid,
  hiders: Hiders,
  painted: ReadonlySet<number>,
  shares: readonly number[],
): PackedLevel[] {
  const { mesh } = standing.merged
  const [from, to] = piece.triangles
  const alone: Mesh = {
    ...mesh,
    joints: standing.joints,
    weights: standing.weights,
    morphs: standing.morphs.map((m) => m.morph),
    indices: mesh.indices.slice(from * 3, to * 3),
  }
  const finest = packLevel(alone, null, laid, hiders)
  if (shares.length === 0 || to === from) return [finest, ...shares.map(() => finest)]
  const whole = trianglesOf(alone)
  const surface = new Surface(mesh.positions, whole)
  const reducer = new Reducer(alone, {
    joints: Float32Array.from(standing.skeleton.bones.flatMap((b) => b.at)),
    protect: alone.morphs,
    measured: measuredOf(standing, kits, alone, piece),
    painted,
    pinned: pinnedOf(standing),
  })
  const levels = [finest]
  for (const share of shares) {
    const { mesh: less, cameFrom } = reducer.to(Math.max(2, Math.round((to - from) * share)))
    // what is so small that nothing would be left stays as it is on the level before
    if (less === alone || less.indices.length === 0) levels.push(levels.at(-1)!)
    else levels.push(packLevel(less, cameFrom, laid, hidersNear(less, surface, hiders)))
  }
  return levels
}

/** What deserves care counts for more, as in figures that are built whole. */
function measuredOf({ body, skeleton }: Standing, kits: Kits, alone: Mesh, piece: Piece): Float32Array {
  const slots = slotsFor(kits, { kit: body.model.kit, id: body.model.def.id })
  const care = careOf(body.model.def, skeleton, [piece], (slot) => slots.find((s) => s.id === slot)?.care ?? 1)
  return stretchByCare(alone, [piece], care)
}

const pins = new WeakMap<Standing, Uint8Array>()

/** Points where a part meets the body: both sides of a seam are reduced apart, and have to meet again. */
function pinnedOf(standing: Standing): Uint8Array {
  let pinned = pins.get(standing)
  if (pinned) return pinned
  const { merged } = standing
  const [own] = merged.pieces
  pinned = new Uint8Array(merged.mesh.positions.length / 3)
  merged.pieces.slice(1).forEach(({ corners: [start, end] }) => {
    for (let c = start; c < end; c++) {
      const p = merged.mesh.cornerPoints[c]!
      if (p < own!.points[1]) pinned![p] = 1
    }
  })
  pins.set(standing, pinned)
  return pinned
}

const trianglesOf = ({ indices, cornerPoints }: Mesh) => indices.map((c) => cornerPoints[c]!)

/** A coarser triangle is hidden by what hides the surface under all of a few places on it. */
function hidersNear({ positions, indices, cornerPoints }: Mesh, surface: Surface, hiders: Hiders): Hiders {
  const at = [0, 0, 0]
  return (t) => {
    const [a, b, c] = [0, 1, 2].map((k) => cornerPoints[indices[t * 3 + k]!]! * 3) as [number, number, number]
    let common: number[] | null = null
    for (const [u, v, w] of SAMPLES) {
      for (let k = 0; k < 3; k++) at[k] = u * positions[a + k]! + v * positions[b + k]! + w * positions[c + k]!
      const here = hiders(surface.nearest(at[0]!, at[1]!, at[2]!)!.triangle)
      common = common ? common.filter((o) => here.includes(o)) : here
      if (common.length === 0) break
    }
    return common!
  }
}
const SAMPLES = [
  [1 / 3, 1 / 3, 1 / 3],
  [0.8, 0.1, 0.1],
  [0.1, 0.8, 0.1],
  [0.1, 0.1, 0.8],
  [0.45, 0.45, 0.1],
  [0.1, 0.45, 0.45],
  [0.45, 0.1, 0.45],
] as const

function packLevel(mesh: Mesh, cameFrom: Uint32Array | null, { vertexAt }: Laid, hiders: Hiders): PackedLevel {
  const patches = new Map<string, { hiddenBy: number[]; triangles: number[] }>()
  for (let t = 0; t < mesh.indices.length / 3; t++) {
    const hiddenBy = hiders(t)
    const key = hiddenBy.join()
    if (!patches.has(key)) patches.set(key, { hiddenBy, triangles: [] })
    patches.get(key)!.triangles.push(t)
  }
  const number = new Map<number, number>()
  const corners: number[] = []
  const [shades, softness, indices]: number[][] = [[], [], []]
  for (const { triangles } of patches.values())
    for (const t of triangles)
      for (let k = 0; k < 3; k++) {
        const c = mesh.indices[t * 3 + k]!
        if (!number.has(c)) {
          number.set(c, corners.length)
          const p = mesh.cornerPoints[c]!
          corners.push(vertexAt(cameFrom ? cameFrom[p]! : p, mesh.regions[c]!, mesh.uvs[c * 2]!, mesh.uvs[c * 2 + 1]!))
          shades!.push(mesh.shades[c]!)
          softness!.push(mesh.softness[c]!)
        }
        indices!.push(number.get(c)!)
      }
  return {
    corners: Uint16Array.from(corners),
    shades: Uint8Array.from(shades!),
    softness: Uint8Array.from(softness!),
    indices: Uint16Array.from(indices!),
    patches: [...patches.values()].map(({ hiddenBy, triangles }) => ({ hiddenBy, triangles: triangles.length })),
  }
}
