import { triangleCount, type Mesh } from '../mesh/Mesh.ts'
import type { Piece } from './mergeOutfit.ts'
import { Reducer } from './reduceMesh.ts'
import { stretchByCare, type CareOptions } from './stretchByCare.ts'

/** One level of detail of a figure. */
export interface Level {
  mesh: Mesh
  /** For each point the point of the whole mesh it was; null if nothing was reduced. */
  cameFrom: Uint32Array | null
  /** Largest deviation, as a share of the figure's size. */
  error: number
  /** Nothing but the outer shell was kept: inner walls of cloth are gone. */
  shell: boolean
}

export interface LevelOptions {
  joints: Float32Array
  care: CareOptions
  painted: ReadonlySet<number>
  /** The mesh without what cannot be seen from a distance, its layers kept apart; asked for when needed. */
  distant: () => Mesh
}

/** Below this share of its triangles a figure gives up all but its outer shell first. */
const KEEPS_INSIDE = 0.7

/** Reduces a whole figure to levels of detail; its morphs all survive. */
export class LevelMaker {
  private readonly base: Mesh
  private readonly pieces: readonly Piece[]
  private readonly options: LevelOptions
  private whole: Reducer | null = null
  private shell: Reducer | null = null

  constructor(base: Mesh, pieces: readonly Piece[], options: LevelOptions) {
    this.base = base
    this.pieces = pieces
    this.options = options
  }

  /** @param triangles the most, or Infinity to leave the mesh as it is */
  level(triangles: number): Level {
    const { base } = this
    if (triangles === Infinity) return { mesh: base, cameFrom: null, error: 0, shell: false }
    if (triangles >= KEEPS_INSIDE * triangleCount(base))
      return { ...(this.whole ??= this.reducer(base)).to(triangles), shell: false }
    return { ...(this.shell ??= this.reducer(this.options.distant())).to(triangles), shell: true }
  }

  private reducer(mesh: Mesh): Reducer {
    const { joints, care, painted } = this.options
    const measured = stretchByCare(mesh, this.pieces, care)
    return new Reducer(mesh, { joints, protect: this.base.morphs, measured, painted })
  }
}

/** The corners of triangles, less those of some. */
export function withoutTriangles(indices: Uint32Array, drop: Uint8Array): Uint32Array {
  const kept = new Uint32Array(indices.length)
  let count = 0
  for (let t = 0; t < drop.length; t++) {
    if (drop[t]) continue
    for (let k = t * 3; k < t * 3 + 3; k++) kept[count++] = indices[k]!
  }
  return kept.slice(0, count)
}

/**
 * The pieces of a reduced mesh. Reduction keeps triangles in their order and makes points and
 * corners as triangles need them, so each piece is one run of all three. A triangle belongs to the
 * last piece that any of its points comes from: what meets a seam shares points with the body.
 */
export function reducedPieces(mesh: Mesh, pieces: readonly Piece[], cameFrom: Uint32Array): Piece[] {
  const pointAt = (i: number) => cameFrom[mesh.cornerPoints[mesh.indices[i]!]!]!
  const origin = (triangle: number) =>
    Math.max(pointAt(triangle * 3), pointAt(triangle * 3 + 1), pointAt(triangle * 3 + 2))
  const total = triangleCount(mesh)
  let [point, corner, triangle] = [0, 0, 0]
  return pieces.map((piece) => {
    const [fromPoint, fromCorner, fromTriangle] = [point, corner, triangle]
    while (triangle < total && origin(triangle) < piece.points[1]) triangle++
    while (point < cameFrom.length && cameFrom[point]! < piece.points[1]) point++
    for (const c of mesh.indices.subarray(fromTriangle * 3, triangle * 3)) corner = Math.max(corner, c + 1)
    return { ...piece, points: [fromPoint, point], corners: [fromCorner, corner], triangles: [fromTriangle, triangle] }
  })
}
