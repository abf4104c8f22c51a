import { regionsOfTriangles } from '../body/PreparedBody.ts'
import type { BodyModel } from '../kit/Kit.ts'
import { signedVolume } from '../mesh/adjacency.ts'
import { boundsOf, pointTriangles } from '../mesh/Mesh.ts'
import { triangleNormal } from '../mesh/normals.ts'
import { Surface } from '../mesh/Surface.ts'
import { weldPlaces } from './sheets.ts'

/** Triangles by their points. */
export interface Soup {
  /** xyz a point. */
  positions: Float32Array
  triangles: Uint32Array
}

/** Places on a surface, spread evenly over its area, and the way out of it there. */
interface Samples {
  /** xyz a place. */
  at: Float32Array
  /** xyz a place, of length one. */
  out: Float32Array
}

/** What a body is to pieces that are tried on it. */
export interface BodySpace {
  body: BodyModel
  surface: Surface
  regionOf: Uint8Array
  /** Of each region the box it lies in: lowest x, y, z, then highest, metres. */
  boxes: Float32Array
  /** As many places in each region, and the region of each. */
  samples: Samples
  sampleRegions: Uint8Array
  /** Of each sample: front or back and upper or lower part of its region. */
  patchOf: Uint16Array
  /** How many samples each patch has. */
  patchSizes: Uint16Array
  /** Metres. */
  height: number
  floor: number
}

const REGION_SAMPLES = 48
const PIECE_SAMPLES = 200
/** How far off the body something still covers it, as a share of its height. */
const COVERS = 0.07

export function bodySpace(body: BodyModel): BodySpace {
  const { positions } = body.mesh
  const triangles = pointTriangles(body.mesh)
  const regionOf = regionsOfTriangles(body, triangles)
  const boxes = new Float32Array(body.def.regions.length * 6)
  const [at, out, region, patches]: number[][] = [[], [], [], []]
  body.def.regions.forEach((_, r) => {
    const own = triangles.filter((_, i) => regionOf[Math.floor(i / 3)] === r)
    if (own.length === 0) return
    const box = boundsOf(Float32Array.from([...own].flatMap((p) => [...positions.subarray(p * 3, p * 3 + 3)])))
    boxes.set([...box.min, ...box.max], r * 6)
    const samples = samplesOn({ positions, triangles: own }, REGION_SAMPLES)
    const heights = Array.from({ length: REGION_SAMPLES }, (_, i) => samples.at[i * 3 + 1]!)
    const middle = heights.slice().sort((a, b) => a - b)[REGION_SAMPLES >> 1]!
    at!.push(...samples.at)
    out!.push(...samples.out)
    heights.forEach((y, i) => {
      region!.push(r)
      patches!.push(r * 4 + (samples.out[i * 3 + 2]! > 0 ? 0 : 1) + (y >= middle ? 0 : 2))
    })
  })
  const patchSizes = new Uint16Array(body.def.regions.length * 4)
  for (const patch of patches!) patchSizes[patch]!++
  const { min, max } = boundsOf(positions)
  return {
    body,
    surface: new Surface(positions, triangles),
    regionOf,
    boxes,
    samples: { at: Float32Array.from(at!), out: Float32Array.from(out!) },
    sampleRegions: Uint8Array.from(region!),
    patchOf: Uint16Array.from(patches!),
    patchSizes,
    height: max[1] - min[1],
    floor: min[1],
  }
}

/** Places spread over a surface by area, the same each time (a sequence of the golden ratio within it). */
function samplesOn({ positions, triangles }: Soup, count: number): Samples {
  const ends: number[] = []
  let area = 0
  for (let t = 0; t < triangles.length; t += 3) {
    area += triangleNormal(positions, triangles[t]!, triangles[t + 1]!, triangles[t + 2]!)[3]
    ends.push(area)
  }
  const samples: Samples = {
    at: new Float32Array(count * 3),
    out: new Float32Array(count * 3),
  }
  let t = 0
  for (let i = 0; i < count; i++) {
    const wanted = ((i + 0.5) / count) * area
    while (t < ends.length - 1 && ends[t]! < wanted) t++
    const corners = [triangles[t * 3]!, triangles[t * 3 + 1]!, triangles[t * 3 + 2]!] as const
    let u = (i * 0.7548776662) % 1
    let v = (i * 0.5698402909) % 1
    if (u + v > 1) [u, v] = [1 - u, 1 - v]
    const normal = triangleNormal(positions, ...corners)
    for (let k = 0; k < 3; k++) {
      const [a, b, c] = corners.map((p) => positions[p * 3 + k]!) as [number, number, number]
      samples.at[i * 3 + k] = a + u * (b - a) + v * (c - a)
      samples.out[i * 3 + k] = normal[k]!
    }
  }
  return samples
}

/** How much each kind of measure may differ between things of one kind: what they are divided by. */
const SPREAD = { place: 0.06, near: 0.3, cover: 0.25, distance: 0.6, facing: 0.35, size: 0.8, within: 0.25 }

/** Of how far off a piece is, and where in the regions it lies: this share of it is nearer, or before that. */
const SHARES = [0.1, 0.5, 0.9]
/** How many measures each of a piece's own form counts as: they are the same whatever it lies on. */
const FORM = { open: 3, full: 2 }

/**
 * How a piece lies on a body, as measures that differ little between things worn in one place: between which heights
 * and sides, next to which regions and where in them, how much of each it covers, how close, on which side, how large;
 * and what form it has.
 *
 * @param piece in the body's own metres
 */
export function shapeOn(space: BodySpace, piece: Soup, quick = false): Float32Array {
  const { body, surface, regionOf, boxes, height, floor } = space
  const count = quick ? 60 : PIECE_SAMPLES
  const own = samplesOn(piece, count)
  const regions = body.def.regions.length
  const out: number[] = []
  const { min, max } = boundsOf(piece.positions)
  const middle = [0, 0, 0]
  const near = new Float32Array(regions)
  const facing = [0, 0, 0]
  const far: number[] = []
  // brows and a beard are a hand apart, which is little of a body and much of a head
  const within = [0, 1, 2].map(() => new Float64Array(count))
  let inRegions = 0
  for (let i = 0; i < count; i++) {
    const at = own.at.subarray(i * 3, i * 3 + 3)
    for (let k = 0; k < 3; k++) middle[k]! += at[k]! / count
    const place = surface.nearest(at[0]!, at[1]!, at[2]!)
    if (!place) continue
    const region = regionOf[place.triangle]!
    if (region !== 255) {
      near[region]! += 1 / count
      for (let k = 0; k < 3; k++) {
        const [low, high] = [boxes[region * 6 + k]!, boxes[region * 6 + 3 + k]!]
        const share = (at[k]! - low) / (high - low || 1)
        // to which side it lies is measured elsewhere: here, how far from the middle
        within[k]![inRegions] = k === 0 ? Math.abs(share - 0.5) : share
      }
      inRegions++
    }
    far.push(place.distance / height)
    const t = place.triangle * 3
    const normal = triangleNormal(
      surface.positions,
      surface.triangles[t]!,
      surface.triangles[t + 1]!,
      surface.triangles[t + 2]!,
    )
    for (let k = 0; k < 3; k++) facing[k]! += normal[k]! / count
  }
  for (const v of [min[1] - floor, max[1] - floor, middle[1]! - floor, min[0], max[0], min[2], max[2], middle[2]!])
    out.push(v / height / SPREAD.place)
  for (const v of near) out.push(v / SPREAD.near)
  const mean = far.reduce((sum, v) => sum + v / count, 0)
  const shares = sharesOf(Float64Array.from(far), Infinity)
  for (const v of [mean, Math.min(...far), ...shares]) out.push(Math.log(0.004 + v) / SPREAD.distance)
  for (const along of within) for (const v of sharesOf(along.subarray(0, inRegions), 0)) out.push(v / SPREAD.within)
  for (const v of facing) out.push(v / SPREAD.facing)
  const size = Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2]) / height
  out.push(Math.log(0.01 + size) / SPREAD.size)
  if (!quick) out.push(...coverOf(space, piece), ...formOf(piece))
  return Float32Array.from(out)
}

/** Sorts numbers, and gives those that SHARES of them lie before; where there are none, something else. */
function sharesOf(values: Float64Array, none: number): number[] {
  values.sort()
  return SHARES.map((share) => values[Math.round(share * (values.length - 1))] ?? none)
}

/** What a piece is by itself: an open sheet or a closed body, and how plump; each counts as so many measures. */
function formOf({ positions, triangles }: Soup): number[] {
  const { pointOf, points } = weldPlaces(positions)
  const faces = triangles.map((v) => pointOf[v]!)
  let area = 0
  const middle = [0, 0, 0]
  for (let t = 0; t < faces.length; t += 3) {
    const own = triangleNormal(points, faces[t]!, faces[t + 1]!, faces[t + 2]!)[3]
    area += own
    for (let k = 0; k < 9; k++) middle[k % 3]! += (own / 3) * points[faces[t + Math.floor(k / 3)]! * 3 + (k % 3)]!
  }
  if (!(area > 0)) return Array<number>(FORM.open + FORM.full).fill(0)
  // of a sheet the volume hangs on from where it is measured
  for (let i = 0; i < points.length; i++) points[i]! -= middle[i % 3]! / area
  return [
    ...Array<number>(FORM.open).fill(rimsOf(points, faces) / Math.sqrt(area)),
    ...Array<number>(FORM.full).fill((Math.abs(signedVolume(points, faces)) / area ** 1.5) * 10),
  ]
}

/** How long all edges of one triangle alone are, metres. Sorted numbers: of a large piece a map of its edges takes seconds. */
function rimsOf(points: Float32Array, faces: Uint32Array): number {
  const count = points.length / 3
  const edges = new Float64Array(faces.length)
  for (let c = 0; c < faces.length; c++) {
    const [a, b] = [faces[c]!, faces[c % 3 === 2 ? c - 2 : c + 1]!]
    edges[c] = Math.min(a, b) * count + Math.max(a, b)
  }
  edges.sort()
  let sum = 0
  for (let e = 0; e < edges.length; e++) {
    const edge = edges[e]!
    if (edges[e - 1] === edge || edges[e + 1] === edge) continue
    const [a, b] = [Math.floor(edge / count) * 3, (edge % count) * 3]
    sum += Math.hypot(points[a]! - points[b]!, points[a + 1]! - points[b + 1]!, points[a + 2]! - points[b + 2]!)
  }
  return sum
}

/** How much of each patch of the body a piece covers, and how far off each region it does. */
function coverOf({ body, samples, sampleRegions, patchOf, patchSizes, height }: BodySpace, piece: Soup): number[] {
  const covered = new Float32Array(patchSizes.length)
  const gaps = new Float32Array(body.def.regions.length)
  const hits = new Float32Array(body.def.regions.length)
  const cover = new Surface(piece.positions, piece.triangles)
  // from a little beneath the skin: what lies flat on it counts too
  const back = 0.004 * height
  for (let i = 0; i < patchOf.length; i++) {
    const a = samples.at.subarray(i * 3, i * 3 + 3)
    const o = samples.out.subarray(i * 3, i * 3 + 3)
    const from = [0, 1, 2].map((k) => a[k]! - o[k]! * back) as [number, number, number]
    const far = cover.castRay(...from, o[0]!, o[1]!, o[2]!, 0, COVERS * height + back)
    if (far === Infinity) continue
    covered[patchOf[i]!]! += 1 / patchSizes[patchOf[i]!]!
    gaps[sampleRegions[i]!]! += far / height
    hits[sampleRegions[i]!]!++
  }
  return [
    ...[...covered].map((v) => v / SPREAD.cover),
    ...[...gaps].map((v, r) => (hits[r] ? v / hits[r] / COVERS / SPREAD.cover : 0)),
  ]
}
