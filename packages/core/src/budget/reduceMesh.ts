import { MeshoptSimplifier } from 'meshoptimizer/simplifier'
import { pointTriangles, triangleCount, type Mesh, type Morph } from '../mesh/Mesh.ts'
import { computeNormals, createNormalScratch, pointNormals } from '../mesh/normals.ts'
import { findFacets, splitCorners } from '../mesh/splitCorners.ts'

export interface ReduceOptions {
  /** The most triangles the result may have. */
  triangles: number
  /** How much finer than the rest each point's surroundings are kept; 1 is ordinary, xyz center beside it. */
  emphasis?: { share: Float32Array; center: readonly [number, number, number]; scale: number }
  /** Joints by bone, so that skinning counts as shape; xyz each. */
  joints?: Float32Array
  /** Movements that must survive (sliders, expressions): their largest ones count as shape. */
  protect?: readonly Morph[]
}

export interface Reduced {
  mesh: Mesh
  /** For each point of the result the point it was. */
  cameFrom: Uint32Array
  /** Largest deviation, as a share of the figure's size (the optimizer's own estimate). */
  error: number
}

const NORMAL_WEIGHT = 0.12
const SKIN_WEIGHT = 0.25
const MORPH_WEIGHT = 1
const MOST_MORPHS = 6
/** Facets of a reduced mesh: triangles this close to one plane are shaded as one, radians. */
const FACET_ANGLE = 0.2

/** Must have resolved before `reduceMesh` is called. */
export const reducerReady: Promise<void> = MeshoptSimplifier.ready

/**
 * Reduces a mesh to a triangle limit with meshoptimizer (Kapoulkine; quadrics after Garland &
 * Heckbert 1998). Only existing points are kept, so their weights and morph deltas stay exactly
 * true. Vertices are split where color regions meet, which the optimizer treats as seams: borders
 * keep their course. A figure already within the limit comes back unchanged.
 */
export function reduceMesh(mesh: Mesh, options: ReduceOptions): Reduced {
  if (triangleCount(mesh) <= options.triangles)
    return { mesh, cameFrom: Uint32Array.from({ length: mesh.positions.length / 3 }, (_, i) => i), error: 0 }

  const triangles = pointTriangles(mesh)
  const { vertexOf, pointOf, regionOf } = splitByRegion(mesh, triangles)
  const positions = new Float32Array(pointOf.length * 3)
  const { emphasis } = options
  pointOf.forEach((p, v) => {
    const s = emphasis ? 1 + (emphasis.scale - 1) * emphasis.share[p]! : 1
    for (let k = 0; k < 3; k++) {
      const c = emphasis ? emphasis.center[k]! : 0
      positions[v * 3 + k] = c + (mesh.positions[p * 3 + k]! - c) * s
    }
  })
  const { attributes, weights, stride } = shapeAttributes(mesh, triangles, pointOf, options)
  const limit = options.triangles * 3
  let [indices, error] = MeshoptSimplifier.simplifyWithAttributes(vertexOf, positions, 3, attributes, stride, weights, null, limit, 1, ['RegularizeLight'])
  if (indices.length > limit)
    [indices, error] = MeshoptSimplifier.simplifyWithAttributes(vertexOf, positions, 3, attributes, stride, weights, null, limit, 1, ['Prune', 'Permissive'])
  if (indices.length > limit) [indices, error] = MeshoptSimplifier.simplifySloppy(vertexOf, positions, 3, null, limit, 1)
  return { ...rebuild(mesh, indices, pointOf, regionOf), error }
}

/** One vertex for each pair of point and color region. */
function splitByRegion(mesh: Mesh, triangles: Uint32Array) {
  const names = mesh.regionNames.length
  const vertices = new Map<number, number>()
  const pointOf: number[] = []
  const regionOf: number[] = []
  const vertexOf = Uint32Array.from(triangles, (point, i) => {
    const region = mesh.regions[mesh.indices[i]!]!
    const key = point * names + region
    let v = vertices.get(key)
    if (v === undefined) {
      v = pointOf.push(point) - 1
      regionOf.push(region)
      vertices.set(key, v)
    }
    return v
  })
  return { vertexOf, pointOf, regionOf }
}

/** What counts as shape besides position: facing, the center of a point's bones, its largest slider moves. */
function shapeAttributes(mesh: Mesh, triangles: Uint32Array, pointOf: readonly number[], options: ReduceOptions) {
  const normals = pointNormals(mesh.positions, triangles)
  const channels: { values: Float32Array; weight: number }[] = [0, 1, 2].map((k) => ({
    values: Float32Array.from(pointOf, (p) => normals[p * 3 + k]!),
    weight: NORMAL_WEIGHT,
  }))
  const { joints } = options
  if (joints)
    for (let k = 0; k < 3; k++)
      channels.push({
        values: Float32Array.from(pointOf, (p) => {
          let sum = 0
          for (let j = 0; j < 4; j++) sum += mesh.weights[p * 4 + j]! * (joints[mesh.joints[p * 4 + j]! * 3 + k] ?? 0)
          return sum
        }),
        weight: SKIN_WEIGHT,
      })
  const energy = (m: Morph) => m.deltas.reduce((s, d) => s + d * d, 0)
  const strongest = [...(options.protect ?? [])]
    .map((morph) => ({ morph, energy: energy(morph) }))
    .sort((a, b) => b.energy - a.energy || (a.morph.name < b.morph.name ? -1 : 1))
    .slice(0, MOST_MORPHS)
  for (const { morph } of strongest) {
    const full = new Float32Array(mesh.positions.length)
    morph.points.forEach((p, i) => full.set(morph.deltas.subarray(i * 3, i * 3 + 3), p * 3))
    channels.push({
      values: Float32Array.from(pointOf, (p) => full[p * 3]! + full[p * 3 + 1]! + full[p * 3 + 2]!),
      weight: MORPH_WEIGHT,
    })
  }
  const stride = channels.length
  const attributes = new Float32Array(pointOf.length * stride)
  channels.forEach(({ values }, c) => values.forEach((v, i) => (attributes[i * stride + c] = v)))
  return { attributes, weights: channels.map((c) => c.weight), stride }
}

/** A mesh of the surviving triangles with facets, corners and everything its points carried. */
function rebuild(mesh: Mesh, indices: Uint32Array, pointOf: readonly number[], regionOf: readonly number[]): { mesh: Mesh; cameFrom: Uint32Array } {
  const placed = new Map<number, number>()
  const cameFrom: number[] = []
  const triangles: number[] = []
  const triangleRegions: number[] = []
  for (let t = 0; t < indices.length; t += 3) {
    const p = [0, 1, 2].map((k) => pointOf[indices[t + k]!]!)
    if (p[0] === p[1] || p[1] === p[2] || p[2] === p[0]) continue
    for (const point of p) {
      if (!placed.has(point)) placed.set(point, cameFrom.push(point) - 1)
      triangles.push(placed.get(point)!)
    }
    triangleRegions.push(regionOf[indices[t]!]!)
  }
  const look = cornerLook(mesh)
  const out = selectPoints(mesh, cameFrom, placed)
  const packed = Uint32Array.from(triangles)
  const facets = findFacets(out.positions, packed, triangleRegions, FACET_ANGLE)
  const { cornerPoints, indices: corners } = splitCorners(packed, facets)
  const regions = new Uint8Array(cornerPoints.length)
  corners.forEach((corner, i) => (regions[corner] = triangleRegions[Math.floor(i / 3)]!))
  const shades = new Uint8Array(cornerPoints.length)
  const softness = new Uint8Array(cornerPoints.length)
  cornerPoints.forEach((p, c) => {
    const found = look.get(cameFrom[p]! * mesh.regionNames.length + regions[c]!)!
    shades[c] = Math.round(found.shade / found.count)
    softness[c] = Math.round(found.softness / found.count)
  })
  const result: Mesh = {
    ...out,
    cornerPoints,
    normals: new Float32Array(cornerPoints.length * 3),
    softness,
    shades,
    regions,
    regionNames: mesh.regionNames,
    uvs: new Float32Array(cornerPoints.length * 2),
    indices: corners,
  }
  computeNormals(result, result.positions, result.normals, createNormalScratch(result))
  return { mesh: result, cameFrom: Uint32Array.from(cameFrom) }
}

/** Mean shade and softness of the corners of each pair of point and region. */
function cornerLook(mesh: Mesh): Map<number, { shade: number; softness: number; count: number }> {
  const look = new Map<number, { shade: number; softness: number; count: number }>()
  mesh.cornerPoints.forEach((p, c) => {
    const key = p * mesh.regionNames.length + mesh.regions[c]!
    const now = look.get(key) ?? { shade: 0, softness: 0, count: 0 }
    now.shade += mesh.shades[c]!
    now.softness += mesh.softness[c]!
    now.count++
    look.set(key, now)
  })
  return look
}

function selectPoints(mesh: Mesh, cameFrom: readonly number[], placed: ReadonlyMap<number, number>) {
  const positions = new Float32Array(cameFrom.length * 3)
  const joints = new Uint8Array(cameFrom.length * 4)
  const weights = new Float32Array(cameFrom.length * 4)
  cameFrom.forEach((p, i) => {
    positions.set(mesh.positions.subarray(p * 3, p * 3 + 3), i * 3)
    joints.set(mesh.joints.subarray(p * 4, p * 4 + 4), i * 4)
    weights.set(mesh.weights.subarray(p * 4, p * 4 + 4), i * 4)
  })
  const morphs = mesh.morphs.map((morph): Morph => {
    const moved: { point: number; at: number }[] = []
    morph.points.forEach((p, at) => {
      const point = placed.get(p)
      if (point !== undefined) moved.push({ point, at })
    })
    moved.sort((a, b) => a.point - b.point)
    return {
      name: morph.name,
      points: Uint32Array.from(moved, (m) => m.point),
      deltas: Float32Array.from(moved.flatMap(({ at }) => [...morph.deltas.subarray(at * 3, at * 3 + 3)])),
    }
  })
  return { positions, joints, weights, morphs }
}
