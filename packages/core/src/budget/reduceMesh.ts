import { MeshoptSimplifier } from 'meshoptimizer/simplifier'
import { pointTriangles, triangleCount, type Mesh, type Morph } from '../mesh/Mesh.ts'
import { computeNormals, createNormalScratch, pointNormals } from '../mesh/normals.ts'
import { findFacets, splitCorners } from '../mesh/splitCorners.ts'

export interface ReduceOptions {
  /** The most triangles the result may have. */
  triangles: number
  /** Where each point counts as being when deviations are measured, xyz; its own place if absent. */
  measured?: Float32Array
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

/** Judged by eye on the cast at 900 and 250 triangles: with facing at 0.1, boots and calves crumple to spikes. */
const NORMAL_WEIGHT = 0.3
const SKIN_WEIGHT = 0.15
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
  const measured = options.measured ?? mesh.positions
  for (let v = 0; v < pointOf.length; v++)
    for (let k = 0; k < 3; k++) positions[v * 3 + k] = measured[pointOf[v]! * 3 + k]!
  const { attributes, weights, stride } = shapeAttributes(mesh, triangles, pointOf, options)
  const lock = extremePoints(mesh.positions, pointOf)
  const limit = options.triangles * 3
  let [indices, error] = MeshoptSimplifier.simplifyWithAttributes(
    vertexOf,
    positions,
    3,
    attributes,
    stride,
    weights,
    lock,
    limit,
    1,
    ['RegularizeLight', 'Prune'],
  )
  if (indices.length > limit)
    [indices, error] = MeshoptSimplifier.simplifyWithAttributes(
      vertexOf,
      positions,
      3,
      attributes,
      stride,
      weights,
      lock,
      limit,
      1,
      ['Prune', 'Permissive'],
    )
  if (indices.length > limit)
    [indices, error] = MeshoptSimplifier.simplifySloppy(vertexOf, positions, 3, null, limit, 1)
  return { ...rebuild(mesh, indices, pointOf, regionOf), error }
}

/**
 * Marks the vertices at the ends of the figure in 26 directions (toes, fingertips, brim, hem):
 * they stay, and with them the outline.
 */
function extremePoints(positions: Float32Array, pointOf: Uint32Array): Uint8Array {
  const ends = new Uint8Array(positions.length / 3)
  for (const [x, y, z] of AXES) {
    let [top, highest, bottom, lowest] = [-1, -Infinity, -1, Infinity]
    for (let v = 0; v < pointOf.length; v++) {
      const point = pointOf[v]!
      const reach = x * positions[point * 3]! + y * positions[point * 3 + 1]! + z * positions[point * 3 + 2]!
      if (reach > highest) {
        top = point
        highest = reach
      }
      if (reach < lowest) {
        bottom = point
        lowest = reach
      }
    }
    ends[top] = ends[bottom] = 1
  }
  const locked = new Uint8Array(pointOf.length)
  for (let v = 0; v < locked.length; v++) locked[v] = ends[pointOf[v]!]!
  return locked
}

/** Thirteen axes through the 26 neighbours of a cell. */
const AXES: readonly (readonly [number, number, number])[] = [-1, 0, 1]
  .flatMap((x) => [-1, 0, 1].flatMap((y) => [-1, 0, 1].map((z): [number, number, number] => [x, y, z])))
  .slice(14)

/** One vertex for each pair of point and color region. */
function splitByRegion(mesh: Mesh, triangles: Uint32Array) {
  const names = mesh.regionNames.length
  const numbers = new Int32Array((mesh.positions.length / 3) * names).fill(-1)
  const vertexOf = new Uint32Array(triangles.length)
  const pointOf = new Uint32Array(triangles.length)
  const regionOf = new Uint8Array(triangles.length)
  let count = 0
  for (let i = 0; i < triangles.length; i++) {
    const region = mesh.regions[mesh.indices[i]!]!
    const key = triangles[i]! * names + region
    if (numbers[key]! < 0) {
      numbers[key] = count
      pointOf[count] = triangles[i]!
      regionOf[count++] = region
    }
    vertexOf[i] = numbers[key]!
  }
  return { vertexOf, pointOf: pointOf.subarray(0, count), regionOf: regionOf.subarray(0, count) }
}

/** What counts as shape besides position: facing, the center of a point's bones, its largest slider moves. */
function shapeAttributes(mesh: Mesh, triangles: Uint32Array, pointOf: Uint32Array, options: ReduceOptions) {
  const { joints } = options
  const morphs = strongestMorphs(options.protect ?? [])
  const weights = [
    ...[0, 1, 2].map(() => NORMAL_WEIGHT),
    ...(joints ? [0, 1, 2].map(() => SKIN_WEIGHT) : []),
    ...morphs.map(() => MORPH_WEIGHT),
  ]
  const stride = weights.length
  const normals = pointNormals(mesh.positions, triangles)
  const ofPoint = new Float32Array((mesh.positions.length / 3) * stride)
  for (let p = 0, o = 0; p < mesh.positions.length / 3; p++, o += stride) {
    for (let k = 0; k < 3; k++) ofPoint[o + k] = normals[p * 3 + k]!
    if (!joints) continue
    for (let j = 0; j < 4; j++) {
      const w = mesh.weights[p * 4 + j]!
      if (w === 0) continue
      const joint = mesh.joints[p * 4 + j]! * 3
      ofPoint[o + 3]! += w * joints[joint]!
      ofPoint[o + 4]! += w * joints[joint + 1]!
      ofPoint[o + 5]! += w * joints[joint + 2]!
    }
  }
  morphs.forEach(({ points, deltas }, m) => {
    const channel = stride - morphs.length + m
    for (let i = 0; i < points.length; i++)
      ofPoint[points[i]! * stride + channel] = deltas[i * 3]! + deltas[i * 3 + 1]! + deltas[i * 3 + 2]!
  })
  const attributes = new Float32Array(pointOf.length * stride)
  for (let v = 0; v < pointOf.length; v++)
    for (let k = 0, from = pointOf[v]! * stride; k < stride; k++) attributes[v * stride + k] = ofPoint[from + k]!
  return { attributes, weights, stride }
}

const energies = new WeakMap<Float32Array, number>()

/** How much a morph moves in all: the sum of its squared deltas, kept with them. */
function energyOf({ deltas }: Morph): number {
  let sum = energies.get(deltas)
  if (sum === undefined) {
    sum = 0
    for (let i = 0; i < deltas.length; i++) sum += deltas[i]! * deltas[i]!
    energies.set(deltas, sum)
  }
  return sum
}

function strongestMorphs(morphs: readonly Morph[]): Morph[] {
  return [...morphs].sort((a, b) => energyOf(b) - energyOf(a) || (a.name < b.name ? -1 : 1)).slice(0, MOST_MORPHS)
}

/** A mesh of the surviving triangles with facets, corners and everything its points carried. */
function rebuild(
  mesh: Mesh,
  indices: Uint32Array,
  pointOf: Uint32Array,
  regionOf: Uint8Array,
): { mesh: Mesh; cameFrom: Uint32Array } {
  const placed = new Int32Array(mesh.positions.length / 3).fill(-1)
  const cameFrom = new Uint32Array(indices.length)
  const triangles = new Uint32Array(indices.length)
  const triangleRegions = new Uint8Array(indices.length / 3)
  let [points, count] = [0, 0]
  for (let t = 0; t < indices.length; t += 3) {
    const a = pointOf[indices[t]!]!
    const b = pointOf[indices[t + 1]!]!
    const c = pointOf[indices[t + 2]!]!
    if (a === b || b === c || c === a) continue
    triangleRegions[count / 3] = regionOf[indices[t]!]!
    for (let k = 0; k < 3; k++) {
      const point = k === 0 ? a : k === 1 ? b : c
      if (placed[point]! < 0) {
        placed[point] = points
        cameFrom[points++] = point
      }
      triangles[count++] = placed[point]!
    }
  }
  const kept = cameFrom.slice(0, points)
  const packed = triangles.slice(0, count)
  const out = selectPoints(mesh, kept, placed)
  const facets = findFacets(out.positions, packed, triangleRegions, FACET_ANGLE)
  const { cornerPoints, indices: corners } = splitCorners(packed, facets)
  const regions = new Uint8Array(cornerPoints.length)
  for (let i = 0; i < corners.length; i++) regions[corners[i]!] = triangleRegions[Math.floor(i / 3)]!
  const { shades, softness } = meanLook(mesh, cornerPoints, regions, kept)
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
  return { mesh: result, cameFrom: kept }
}

/** Shade and softness of new corners: the mean over the old corners of the same point and region. */
function meanLook(mesh: Mesh, cornerPoints: Uint32Array, regions: Uint8Array, cameFrom: Uint32Array) {
  const names = mesh.regionNames.length
  const sums = new Float32Array((mesh.positions.length / 3) * names * 3)
  for (let c = 0; c < mesh.cornerPoints.length; c++) {
    const o = (mesh.cornerPoints[c]! * names + mesh.regions[c]!) * 3
    sums[o]! += mesh.shades[c]!
    sums[o + 1]! += mesh.softness[c]!
    sums[o + 2]! += 1
  }
  const shades = new Uint8Array(cornerPoints.length)
  const softness = new Uint8Array(cornerPoints.length)
  for (let c = 0; c < cornerPoints.length; c++) {
    const o = (cameFrom[cornerPoints[c]!]! * names + regions[c]!) * 3
    shades[c] = Math.round(sums[o]! / sums[o + 2]!)
    softness[c] = Math.round(sums[o + 1]! / sums[o + 2]!)
  }
  return { shades, softness }
}

/** @param placed for each old point its new number, or -1 */
function selectPoints(mesh: Mesh, cameFrom: Uint32Array, placed: Int32Array) {
  const positions = new Float32Array(cameFrom.length * 3)
  const joints = new Uint8Array(cameFrom.length * 4)
  const weights = new Float32Array(cameFrom.length * 4)
  for (let i = 0; i < cameFrom.length; i++) {
    const p = cameFrom[i]!
    for (let k = 0; k < 3; k++) positions[i * 3 + k] = mesh.positions[p * 3 + k]!
    for (let k = 0; k < 4; k++) {
      joints[i * 4 + k] = mesh.joints[p * 4 + k]!
      weights[i * 4 + k] = mesh.weights[p * 4 + k]!
    }
  }
  const row = new Int32Array(cameFrom.length)
  const morphs = mesh.morphs.map((morph): Morph => {
    // where each new point's delta stands, then gathered in rising order of points
    row.fill(-1)
    let moved = 0
    for (let i = 0; i < morph.points.length; i++) {
      const point = placed[morph.points[i]!]!
      if (point < 0) continue
      row[point] = i
      moved++
    }
    const points = new Uint32Array(moved)
    const deltas = new Float32Array(moved * 3)
    for (let point = 0, at = 0; at < moved; point++) {
      const i = row[point]!
      if (i < 0) continue
      points[at] = point
      for (let k = 0; k < 3; k++) deltas[at * 3 + k] = morph.deltas[i * 3 + k]!
      at++
    }
    return { name: morph.name, points, deltas }
  })
  return { positions, joints, weights, morphs }
}
