import { MeshoptSimplifier } from 'meshoptimizer/simplifier'
import { triangleCount, type Mesh, type Morph } from '../mesh/Mesh.ts'
import { computeNormals, createNormalScratch } from '../mesh/normals.ts'
import { findFacets, splitCorners } from '../mesh/splitCorners.ts'
import { reductionInput, type ReduceOptions, type ReductionInput } from './reductionInput.ts'

export interface Reduced {
  mesh: Mesh
  /** For each point of the result the point it was. */
  cameFrom: Uint32Array
  /** Largest deviation, as a share of the figure's size (the optimizer's own estimate). */
  error: number
}

/** Facets of a reduced mesh: triangles this close to one plane are shaded as one, radians. */
const FACET_ANGLE = 0.2

/** Must have resolved before anything is reduced. */
export const reducerReady: Promise<void> = MeshoptSimplifier.ready

/**
 * Reduces a mesh to triangle limits with meshoptimizer (Kapoulkine; quadrics after Garland &
 * Heckbert 1998). Only existing points are kept, so their weights and morph deltas stay exactly
 * true. Vertices are split where color regions meet, which the optimizer treats as seams: borders
 * keep their course. What it needs to know of the mesh is gathered once, whatever the number of
 * levels.
 */
export class Reducer {
  private readonly mesh: Mesh
  private readonly options: ReduceOptions
  private input: ReductionInput | null = null

  constructor(mesh: Mesh, options: ReduceOptions) {
    this.mesh = mesh
    this.options = options
  }

  /** The mesh with at most as many triangles; one that is within the limit comes back unchanged. */
  to(triangles: number): Reduced {
    const { mesh } = this
    if (triangleCount(mesh) <= triangles)
      return { mesh, cameFrom: Uint32Array.from({ length: mesh.positions.length / 3 }, (_, i) => i), error: 0 }

    const input = (this.input ??= reductionInput(mesh, this.options))
    const { vertexOf, positions, attributes, weights, stride, lock } = input
    const limit = triangles * 3
    const simplify = (flags: ('RegularizeLight' | 'Prune' | 'Permissive')[]) =>
      MeshoptSimplifier.simplifyWithAttributes(
        vertexOf,
        positions,
        3,
        attributes,
        stride,
        weights,
        lock,
        limit,
        1,
        flags,
      )
    let [indices, error] = simplify(['RegularizeLight', 'Prune'])
    if (indices.length > limit) [indices, error] = simplify(['Prune', 'Permissive'])
    if (indices.length > limit)
      [indices, error] = MeshoptSimplifier.simplifySloppy(vertexOf, positions, 3, null, limit, 1)
    return { ...rebuild(mesh, indices, input), error }
  }
}

/** A mesh of the surviving triangles with facets, corners and everything its points carried; points keep their order. */
function rebuild(
  mesh: Mesh,
  indices: Uint32Array,
  { pointOf, regionOf, uvs, shades, softness }: ReductionInput,
): { mesh: Mesh; cameFrom: Uint32Array } {
  const { vertices, kept, placed } = surviving(indices, pointOf, mesh.positions.length / 3)
  const triangles = newPoints(vertices, pointOf, placed)
  const triangleRegions = new Uint16Array(vertices.length / 3)
  for (let t = 0; t < triangleRegions.length; t++) triangleRegions[t] = regionOf[vertices[t * 3]!]!
  const out = selectPoints(mesh, kept, placed)
  const facets = findFacets(out.positions, triangles, triangleRegions, FACET_ANGLE)
  // corners by vertex, not by point: a facet may run over a seam of its picture
  const { cornerPoints: cornerVertices, indices: corners } = splitCorners(vertices, facets)
  const result: Mesh = {
    ...out,
    cornerPoints: newPoints(cornerVertices, pointOf, placed),
    normals: new Float32Array(cornerVertices.length * 3),
    softness: pick(softness, cornerVertices, new Uint8Array(cornerVertices.length)),
    shades: pick(shades, cornerVertices, new Uint8Array(cornerVertices.length)),
    regions: pick(regionOf, cornerVertices, new Uint16Array(cornerVertices.length)),
    regionNames: mesh.regionNames,
    uvs: uvs ? uvsOf(cornerVertices, uvs) : new Float32Array(cornerVertices.length * 2),
    indices: corners,
  }
  computeNormals(result, result.positions, result.normals, createNormalScratch(result, triangles))
  return { mesh: result, cameFrom: kept }
}

/** @returns the vertices of triangles that still have three points, those points, and the new number of each old one, or -1 */
function surviving(indices: Uint32Array, pointOf: Uint32Array, points: number) {
  const vertices = new Uint32Array(indices.length)
  const placed = new Int32Array(points).fill(-1)
  let count = 0
  for (let t = 0; t < indices.length; t += 3) {
    const a = pointOf[indices[t]!]!
    const b = pointOf[indices[t + 1]!]!
    const c = pointOf[indices[t + 2]!]!
    if (a === b || b === c || c === a) continue
    for (let k = 0; k < 3; k++) vertices[count++] = indices[t + k]!
    placed[a] = placed[b] = placed[c] = 0
  }
  const kept = new Uint32Array(points)
  let next = 0
  for (let p = 0; p < points; p++) {
    if (placed[p]! < 0) continue
    kept[next] = p
    placed[p] = next++
  }
  return { vertices: vertices.subarray(0, count), kept: kept.slice(0, next), placed }
}

function newPoints(vertices: Uint32Array, pointOf: Uint32Array, placed: Int32Array): Uint32Array {
  const out = new Uint32Array(vertices.length)
  for (let i = 0; i < vertices.length; i++) out[i] = placed[pointOf[vertices[i]!]!]!
  return out
}

/** Writes what each of so many vertices has. */
function pick<T extends Uint8Array | Uint16Array>(values: T, vertices: Uint32Array, out: T): T {
  for (let c = 0; c < vertices.length; c++) out[c] = values[vertices[c]!]!
  return out
}

function uvsOf(vertices: Uint32Array, uvs: Float32Array): Float32Array {
  const out = new Float32Array(vertices.length * 2)
  vertices.forEach((v, c) => out.set(uvs.subarray(v * 2, v * 2 + 2), c * 2))
  return out
}

/** @param placed for each old point its new number, or -1 */
function selectPoints({ positions, joints, weights, morphs }: Mesh, cameFrom: Uint32Array, placed: Int32Array) {
  const most = morphs.reduce((n, { points }) => Math.max(n, points.length), 0)
  const scratch = { points: new Uint32Array(most), deltas: new Float32Array(most * 3) }
  return {
    positions: pickRows(positions, 3, cameFrom, new Float32Array(cameFrom.length * 3)),
    joints: pickRows(joints, 4, cameFrom, new Uint16Array(cameFrom.length * 4)),
    weights: pickRows(weights, 4, cameFrom, new Float32Array(cameFrom.length * 4)),
    morphs: morphs.map((morph) => selectMoves(morph, placed, scratch)),
  }
}

/** Writes what each of so many points has: so many numbers each. */
function pickRows<T extends Uint16Array | Float32Array>(values: T, size: number, points: Uint32Array, out: T): T {
  for (let i = 0, o = 0; i < points.length; i++)
    for (let v = points[i]! * size, end = v + size; v < end; v++) out[o++] = values[v]!
  return out
}

/** The moves of the points that are kept; as points keep their order, so do their moves. */
function selectMoves(morph: Morph, placed: Int32Array, scratch: Omit<Morph, 'name'>): Morph {
  const { points, deltas } = morph
  let moved = 0
  for (let i = 0; i < points.length; i++) {
    const point = placed[points[i]!]!
    if (point < 0) continue
    scratch.points[moved] = point
    scratch.deltas[moved * 3] = deltas[i * 3]!
    scratch.deltas[moved * 3 + 1] = deltas[i * 3 + 1]!
    scratch.deltas[moved * 3 + 2] = deltas[i * 3 + 2]!
    moved++
  }
  return { name: morph.name, points: scratch.points.slice(0, moved), deltas: scratch.deltas.slice(0, moved * 3) }
}
