import { MeshoptSimplifier } from 'meshoptimizer/simplifier'
import { triangleCount, type Mesh, type Morph } from '../mesh/Mesh.ts'
import { pointTriangles } from '../mesh/Mesh.ts'
import { computeNormals, createNormalScratch, pointNormals } from '../mesh/normals.ts'
import { findFacets, splitCorners } from '../mesh/splitCorners.ts'

export interface ReduceOptions {
  /** The most triangles the result may have. */
  triangles: number
  /** Where each point counts as being when deviations are measured, xyz; its own place if absent. */
  measured?: Float32Array
  /** Joints by bone, so that skinning counts as shape; xyz each. */
  joints?: Float32Array
  /** Movements that must survive (sliders, expressions): all of them count as shape. */
  protect?: readonly Morph[]
  /** Regions whose texture coordinates must survive, by number; those of the others are lost. */
  painted?: ReadonlySet<number>
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
/** Moves of more morphs than these channels hold are mixed into them. */
const MORPH_CHANNELS = 12
/** A step across half a picture weighs like a step of this share of the figure. */
const UV_WEIGHT = 0.25
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

  const { vertexOf, pointOf, regionOf, uvs, positions, attributes, weights, stride, lock } = reductionInput(
    mesh,
    options,
  )
  const limit = options.triangles * 3
  const simplify = (flags: ('RegularizeLight' | 'Prune' | 'Permissive')[]) =>
    MeshoptSimplifier.simplifyWithAttributes(vertexOf, positions, 3, attributes, stride, weights, lock, limit, 1, flags)
  let [indices, error] = simplify(['RegularizeLight', 'Prune'])
  if (indices.length > limit) [indices, error] = simplify(['Prune', 'Permissive'])
  if (indices.length > limit)
    [indices, error] = MeshoptSimplifier.simplifySloppy(vertexOf, positions, 3, null, limit, 1)
  return { ...rebuild(mesh, indices, pointOf, regionOf, uvs), error }
}

/** What the optimizer is given for a mesh: its vertices, what counts as shape, and which must stay. */
export function reductionInput(mesh: Mesh, options: ReduceOptions) {
  const triangles = pointTriangles(mesh)
  const { vertexOf, pointOf, regionOf, uvs } = splitVertices(mesh, triangles, options.painted)
  const positions = new Float32Array(pointOf.length * 3)
  const measured = options.measured ?? mesh.positions
  for (let v = 0; v < pointOf.length; v++)
    for (let k = 0; k < 3; k++) positions[v * 3 + k] = measured[pointOf[v]! * 3 + k]!
  const shape = shapeAttributes(mesh, triangles, pointOf, uvs, options)
  return { vertexOf, pointOf, regionOf, uvs, positions, ...shape, lock: extremePoints(mesh.positions, pointOf) }
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

/**
 * One vertex for each pair of point and color region; in painted regions one for each place in the
 * picture as well, so that its seams stay seams.
 */
function splitVertices(mesh: Mesh, triangles: Uint32Array, painted: ReadonlySet<number> | undefined) {
  const names = mesh.regionNames.length
  const numbers = new Int32Array((mesh.positions.length / 3) * names).fill(-1)
  const vertexOf = new Uint32Array(triangles.length)
  const pointOf = new Uint32Array(triangles.length)
  const regionOf = new Uint16Array(triangles.length)
  const uvs = painted?.size ? new Float32Array(triangles.length * 2) : null
  // vertices of the same point and region follow each other through `next`
  const next = uvs ? new Int32Array(triangles.length).fill(-1) : null
  let count = 0
  for (let i = 0; i < triangles.length; i++) {
    const corner = mesh.indices[i]!
    const region = mesh.regions[corner]!
    const key = triangles[i]! * names + region
    const own = uvs && painted!.has(region)
    let vertex = numbers[key]!
    if (own)
      while (
        vertex >= 0 &&
        (uvs[vertex * 2] !== mesh.uvs[corner * 2] || uvs[vertex * 2 + 1] !== mesh.uvs[corner * 2 + 1])
      )
        vertex = next![vertex]!
    if (vertex < 0) {
      vertex = count++
      pointOf[vertex] = triangles[i]!
      regionOf[vertex] = region
      if (own) {
        uvs.set(mesh.uvs.subarray(corner * 2, corner * 2 + 2), vertex * 2)
        next![vertex] = numbers[key]!
      }
      numbers[key] = vertex
    }
    vertexOf[i] = vertex
  }
  return { vertexOf, pointOf: pointOf.subarray(0, count), regionOf: regionOf.subarray(0, count), uvs }
}

/** What counts as shape besides position: facing, the center of a point's bones, moves of morphs, places in pictures. */
function shapeAttributes(
  mesh: Mesh,
  triangles: Uint32Array,
  pointOf: Uint32Array,
  uvs: Float32Array | null,
  options: ReduceOptions,
) {
  const { joints } = options
  const morphs = morphChannels(options.protect ?? [], mesh.positions.length / 3)
  const three = (weight: number) => [weight, weight, weight]
  const weights = [
    ...three(NORMAL_WEIGHT),
    ...(joints ? three(SKIN_WEIGHT) : []),
    ...Array<number>(morphs.channels).fill(MORPH_WEIGHT),
    ...(uvs ? [UV_WEIGHT, UV_WEIGHT] : []),
  ]
  const stride = weights.length
  const morphsFrom = joints ? 6 : 3
  const normals = pointNormals(mesh.positions, triangles)
  const ofPoint = new Float32Array((mesh.positions.length / 3) * stride)
  for (let p = 0, o = 0; p < mesh.positions.length / 3; p++, o += stride) {
    for (let k = 0; k < 3; k++) ofPoint[o + k] = normals[p * 3 + k]!
    for (let k = 0; k < morphs.channels; k++) ofPoint[o + morphsFrom + k] = morphs.values[p * morphs.channels + k]!
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
  const attributes = new Float32Array(pointOf.length * stride)
  for (let v = 0; v < pointOf.length; v++) {
    for (let k = 0, from = pointOf[v]! * stride; k < stride; k++) attributes[v * stride + k] = ofPoint[from + k]!
    if (uvs) attributes.set(uvs.subarray(v * 2, v * 2 + 2), v * stride + stride - 2)
  }
  return { attributes, weights, stride }
}

/**
 * The moves of morphs at every point as a few numbers: x, y and z of each while there is room, else
 * mixed by signs that look random (after Achlioptas 2003), so that none is left out and none can
 * cancel itself: the length of what differs stays the same on the whole.
 */
function morphChannels(morphs: readonly Morph[], points: number): { channels: number; values: Float32Array } {
  const exact = morphs.length * 3 <= MORPH_CHANNELS
  const channels = exact ? morphs.length * 3 : MORPH_CHANNELS
  const values = new Float32Array(points * channels)
  const row = new Float64Array(channels * 3)
  for (let m = 0; m < morphs.length; m++) {
    for (let k = 0; k < 3; k++)
      for (let c = 0; c < channels; c++)
        row[k * channels + c] = exact ? Number(c === m * 3 + k) : signOf(m * 3 + k, c) / Math.sqrt(channels)
    addMixed(morphs[m]!, row, channels, values)
  }
  return { channels, values }
}

/** Adds the moves of one morph to the channels of its points; `row` says how much of x, y and z goes into each. */
function addMixed({ points, deltas }: Morph, row: Float64Array, channels: number, values: Float32Array): void {
  for (let i = 0; i < points.length; i++) {
    const o = points[i]! * channels
    const x = deltas[i * 3]!
    const y = deltas[i * 3 + 1]!
    const z = deltas[i * 3 + 2]!
    for (let c = 0; c < channels; c++)
      values[o + c]! += x * row[c]! + y * row[channels + c]! + z * row[2 * channels + c]!
  }
}

function signOf(row: number, column: number): 1 | -1 {
  let h = Math.imul(row + 1, 0x9e3779b1) ^ Math.imul(column + 1, 0x85ebca6b)
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d)
  return (h ^ (h >>> 13)) & 64 ? 1 : -1
}

/** A mesh of the surviving triangles with facets, corners and everything its points carried. */
function rebuild(
  mesh: Mesh,
  indices: Uint32Array,
  pointOf: Uint32Array,
  regionOf: Uint16Array,
  uvs: Float32Array | null,
): { mesh: Mesh; cameFrom: Uint32Array } {
  const placed = new Int32Array(mesh.positions.length / 3).fill(-1)
  const cameFrom = new Uint32Array(indices.length)
  const triangles = new Uint32Array(indices.length)
  const vertices = new Uint32Array(indices.length)
  const triangleRegions = new Uint16Array(indices.length / 3)
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
      vertices[count] = indices[t + k]!
      triangles[count++] = placed[point]!
    }
  }
  const kept = cameFrom.slice(0, points)
  const packed = triangles.slice(0, count)
  const out = selectPoints(mesh, kept, placed)
  const facets = findFacets(out.positions, packed, triangleRegions, FACET_ANGLE)
  // corners by vertex, not by point: a facet may run over a seam of its picture
  const { cornerPoints: cornerVertices, indices: corners } = splitCorners(vertices.subarray(0, count), facets)
  const cornerPoints = cornerVertices.map((v) => placed[pointOf[v]!]!)
  const regions = new Uint16Array(cornerPoints.length)
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
    uvs: uvs ? uvsOf(cornerVertices, uvs) : new Float32Array(cornerPoints.length * 2),
    indices: corners,
  }
  computeNormals(result, result.positions, result.normals, createNormalScratch(result))
  return { mesh: result, cameFrom: kept }
}

function uvsOf(vertices: Uint32Array, uvs: Float32Array): Float32Array {
  const out = new Float32Array(vertices.length * 2)
  vertices.forEach((v, c) => out.set(uvs.subarray(v * 2, v * 2 + 2), c * 2))
  return out
}

/** Shade and softness of new corners: the mean over the old corners of the same point and region. */
function meanLook(mesh: Mesh, cornerPoints: Uint32Array, regions: Uint16Array, cameFrom: Uint32Array) {
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
  const joints = new Uint16Array(cameFrom.length * 4)
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
  return { positions, joints, weights, morphs: mesh.morphs.map((morph) => selectMoves(morph, placed, row)) }
}

/** @param row scratch, one number a new point */
function selectMoves(morph: Morph, placed: Int32Array, row: Int32Array): Morph {
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
}
