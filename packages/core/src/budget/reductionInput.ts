import { pointTriangles, type Mesh, type Morph } from '../mesh/Mesh.ts'
import { pointNormals } from '../mesh/normals.ts'

export interface ReduceOptions {
  /** Where each point counts as being when deviations are measured, xyz; its own place if absent. */
  measured?: Float32Array
  /** Joints by bone, so that skinning counts as shape; xyz each. */
  joints?: Float32Array
  /** Movements that must survive (sliders, expressions): all of them count as shape. */
  protect?: readonly Morph[]
  /** Regions whose texture coordinates must survive, by number; those of the others are lost. */
  painted?: ReadonlySet<number>
  /** Points that have to stay where they are, by 1. */
  pinned?: Uint8Array
}

/** Judged by eye on the cast at 900 and 250 triangles: with facing at 0.1, boots and calves crumple to spikes. */
const NORMAL_WEIGHT = 0.3
const SKIN_WEIGHT = 0.15
const MORPH_WEIGHT = 1
/** Moves of more morphs than these channels hold are mixed into them. */
const MORPH_CHANNELS = 12
/** A step across half a picture weighs like a step of this share of the figure. */
const UV_WEIGHT = 0.25

export type ReductionInput = ReturnType<typeof reductionInput>

/** What the optimizer is given for a mesh: its vertices, what counts as shape, and which must stay. */
export function reductionInput(mesh: Mesh, options: ReduceOptions) {
  const { triangles, split, looks } = splitOf(mesh, options.painted)
  const { pointOf } = split
  const positions = new Float32Array(pointOf.length * 3)
  gather(options.measured ?? mesh.positions, pointOf, positions, 0, 3)
  const shape = shapeAttributes(mesh, triangles, split, options)
  return { ...split, ...looks, positions, ...shape, lock: lockedVertices(mesh.positions, pointOf, options.pinned) }
}

function lockedVertices(positions: Float32Array, pointOf: Uint32Array, pinned: Uint8Array | undefined): Uint8Array {
  const lock = extremePoints(positions, pointOf)
  if (pinned) for (let v = 0; v < lock.length; v++) lock[v]! |= pinned[pointOf[v]!]!
  return lock
}

/**
 * Marks the vertices at the ends of the figure in 26 directions (toes, fingertips, brim, hem):
 * they stay, and with them the outline. Vertices that follow each other lie together: only the runs
 * are looked through whose box reaches further than what was found.
 */
function extremePoints(positions: Float32Array, pointOf: Uint32Array): Uint8Array {
  const boxes = boxesOfRuns(positions, pointOf)
  const ends = new Uint8Array(positions.length / 3)
  for (const axis of DIRECTIONS) ends[pointOf[furthest(positions, pointOf, boxes, axis)]!] = 1
  const locked = new Uint8Array(pointOf.length)
  for (let v = 0; v < locked.length; v++) locked[v] = ends[pointOf[v]!]!
  return locked
}

/** The first of the vertices that are furthest in a direction. */
function furthest(
  positions: Float32Array,
  pointOf: Uint32Array,
  boxes: Float32Array,
  [x, y, z]: readonly [number, number, number],
): number {
  // where a box has its end in this direction
  const sides = [x > 0 ? 3 : 0, y > 0 ? 4 : 1, z > 0 ? 5 : 2] as const
  let found = 0
  let most = -Infinity
  for (let run = 0, b = 0; b < boxes.length; run++, b += 6) {
    if (x * boxes[b + sides[0]]! + y * boxes[b + sides[1]]! + z * boxes[b + sides[2]]! <= most) continue
    const end = Math.min(pointOf.length, (run + 1) * RUN)
    for (let v = run * RUN; v < end; v++) {
      const p = pointOf[v]! * 3
      const reach = x * positions[p]! + y * positions[p + 1]! + z * positions[p + 2]!
      if (reach > most) {
        found = v
        most = reach
      }
    }
  }
  return found
}

/** Vertices in a run; with twice or half as many it takes as long. */
const RUN = 32

/** Least and most x, y, z of each run of vertices: six numbers a run. */
function boxesOfRuns(positions: Float32Array, pointOf: Uint32Array): Float32Array {
  const boxes = new Float32Array(Math.ceil(pointOf.length / RUN) * 6)
  for (let v = 0, b = 0; v < pointOf.length; b += 6) {
    const end = Math.min(pointOf.length, v + RUN)
    let minX = Infinity
    let minY = Infinity
    let minZ = Infinity
    let maxX = -Infinity
    let maxY = -Infinity
    let maxZ = -Infinity
    for (; v < end; v++) {
      const p = pointOf[v]! * 3
      const x = positions[p]!
      const y = positions[p + 1]!
      const z = positions[p + 2]!
      if (x < minX) minX = x
      if (x > maxX) maxX = x
      if (y < minY) minY = y
      if (y > maxY) maxY = y
      if (z < minZ) minZ = z
      if (z > maxZ) maxZ = z
    }
    boxes[b] = minX
    boxes[b + 1] = minY
    boxes[b + 2] = minZ
    boxes[b + 3] = maxX
    boxes[b + 4] = maxY
    boxes[b + 5] = maxZ
  }
  return boxes
}

/** To the 26 neighbours of a cell. */
const DIRECTIONS: readonly (readonly [number, number, number])[] = [-1, 0, 1]
  .flatMap((x) => [-1, 0, 1].flatMap((y) => [-1, 0, 1].map((z): [number, number, number] => [x, y, z])))
  .filter(([x, y, z]) => x !== 0 || y !== 0 || z !== 0)

type Vertices = Omit<ReturnType<typeof splitVertices>, 'numbers'>

interface Split {
  /** What it was made from besides the corners of the triangles. */
  from: readonly unknown[]
  /** Three points a triangle. */
  triangles: Uint32Array
  split: Vertices
  looks: ReturnType<typeof meanLooks>
}

/** By the corners of the triangles: they stay the same while sliders move, and what is reduced is reduced with every step. */
const splits = new WeakMap<Uint32Array, Split>()

function splitOf(mesh: Mesh, painted: ReadonlySet<number> | undefined): Split {
  // where nothing is painted, places in pictures have no part in it
  const key = [...(painted ?? [])].sort((a, b) => a - b).join()
  const from = [mesh.cornerPoints, mesh.regions, mesh.regionNames, mesh.shades, mesh.softness, key, key && mesh.uvs]
  const known = splits.get(mesh.indices)
  if (known?.from.every((part, i) => part === from[i])) return known
  const triangles = pointTriangles(mesh)
  const { numbers, ...split } = splitVertices(mesh, triangles, painted)
  const made = { from, triangles, split, looks: meanLooks(mesh, split, numbers) }
  splits.set(mesh.indices, made)
  return made
}

/** Shade and softness of each vertex: the mean over the corners of its point and region. */
function meanLooks(mesh: Mesh, { pointOf, regionOf }: Vertices, numbers: Int32Array) {
  const names = mesh.regionNames.length
  const sums = new Float32Array(pointOf.length * 3)
  for (let c = 0; c < mesh.cornerPoints.length; c++) {
    const o = numbers[mesh.cornerPoints[c]! * names + mesh.regions[c]!]! * 3
    if (o < 0) continue
    sums[o]! += mesh.shades[c]!
    sums[o + 1]! += mesh.softness[c]!
    sums[o + 2]! += 1
  }
  const shades = new Uint8Array(pointOf.length)
  const softness = new Uint8Array(pointOf.length)
  for (let v = 0; v < pointOf.length; v++) {
    const o = numbers[pointOf[v]! * names + regionOf[v]!]! * 3
    shades[v] = Math.round(sums[o]! / sums[o + 2]!)
    softness[v] = Math.round(sums[o + 1]! / sums[o + 2]!)
  }
  return { shades, softness }
}

/**
 * One vertex for each pair of point and color region; in painted regions one for each place in the
 * picture as well, so that its seams stay seams. `numbers` has the last vertex of each pair, at
 * point times regions plus region, or -1.
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
  return { vertexOf, pointOf: pointOf.subarray(0, count), regionOf: regionOf.subarray(0, count), uvs, numbers }
}

/** What counts as shape besides position: facing, the center of a point's bones, moves of morphs, places in pictures. */
function shapeAttributes(mesh: Mesh, triangles: Uint32Array, split: Vertices, options: ReduceOptions) {
  const { pointOf, uvs } = split
  const { joints, protect = [] } = options
  const points = mesh.positions.length / 3
  const shapes = [{ values: pointNormals(mesh.positions, triangles), weight: NORMAL_WEIGHT }]
  if (joints) shapes.push({ values: boneCenters(mesh, joints), weight: SKIN_WEIGHT })
  const moves = protect.length ? morphChannels(protect, points) : null
  const weights = shapes.flatMap(({ weight }) => [weight, weight, weight])
  const shaped = weights.length
  if (moves) weights.push(...Array<number>(moves.size).fill(MORPH_WEIGHT))
  if (uvs) weights.push(UV_WEIGHT, UV_WEIGHT)
  const stride = weights.length
  const attributes = standingAttributes(split, moves, { shaped, stride }).slice()
  shapes.forEach(({ values }, i) => gather(values, pointOf, attributes, i * 3, stride))
  return { attributes, weights, stride }
}

/** What stays of the attributes while a figure is shaped: moves of morphs, places in pictures. */
function standingAttributes(
  { pointOf, uvs }: Vertices,
  moves: MorphChannels | null,
  { shaped, stride }: { shaped: number; stride: number },
): Float32Array {
  const known = standing.get(pointOf)
  if (known?.moves === moves && known.stride === stride) return known.attributes
  const attributes = new Float32Array(pointOf.length * stride)
  if (moves)
    for (let v = 0, o = shaped; v < pointOf.length; v++, o += stride)
      attributes.set(moves.values.subarray(pointOf[v]! * moves.size, (pointOf[v]! + 1) * moves.size), o)
  if (uvs)
    for (let v = 0, o = stride - 2; v < pointOf.length; v++, o += stride) {
      attributes[o] = uvs[v * 2]!
      attributes[o + 1] = uvs[v * 2 + 1]!
    }
  standing.set(pointOf, { moves, stride, attributes })
  return attributes
}

/** By the vertices, which are the same with every step of a slider. */
const standing = new WeakMap<Uint32Array, { moves: MorphChannels | null; stride: number; attributes: Float32Array }>()

/** Copies xyz of points to where the vertices of those points have them. */
function gather(places: Float32Array, pointOf: Uint32Array, out: Float32Array, offset: number, stride: number): void {
  for (let v = 0, o = offset; v < pointOf.length; v++, o += stride) {
    const p = pointOf[v]! * 3
    out[o] = places[p]!
    out[o + 1] = places[p + 1]!
    out[o + 2] = places[p + 2]!
  }
}

/** The mean of the joints that carry each point, by their weights; xyz a point. */
function boneCenters({ joints: bones, weights }: Mesh, joints: Float32Array): Float32Array {
  const out = new Float32Array((weights.length / 4) * 3)
  for (let i = 0, o = 0; i < weights.length; i += 4, o += 3) {
    let x = 0
    let y = 0
    let z = 0
    for (let k = i; k < i + 4; k++) {
      const w = weights[k]!
      if (w === 0) continue
      const joint = bones[k]! * 3
      x = Math.fround(x + w * joints[joint]!)
      y = Math.fround(y + w * joints[joint + 1]!)
      z = Math.fround(z + w * joints[joint + 2]!)
    }
    out[o] = x
    out[o + 1] = y
    out[o + 2] = z
  }
  return out
}

/**
 * The moves of morphs at every point as a few numbers: x, y and z of each while there is room; else
 * each of them goes to two channels with signs that look random (the sparse projection of Kane &
 * Nelson 2014), so that none is left out and none can cancel itself: the length of what differs
 * stays the same on the whole.
 */
function morphChannels(morphs: readonly Morph[], points: number): MorphChannels {
  const known = channelsOf.get(morphs)
  if (known?.values.length === points * (known?.size ?? 0)) return known
  const found = findChannels(morphs, points)
  channelsOf.set(morphs, found)
  return found
}

interface MorphChannels {
  size: number
  values: Float32Array
}

/** By the list itself: a figure is reduced anew with every step of a slider, and what it keeps for the game is the same. */
const channelsOf = new WeakMap<readonly Morph[], MorphChannels>()

function findChannels(morphs: readonly Morph[], points: number): MorphChannels {
  const exact = morphs.length * 3 <= MORPH_CHANNELS
  const size = exact ? morphs.length * 3 : MORPH_CHANNELS
  const values = new Float32Array(points * size)
  for (let m = 0; m < morphs.length; m++) {
    const places = [0, 1, 2].flatMap((k) =>
      exact ? { channel: m * 3 + k, factor: 1 } : [placeOf(m * 3 + k, 0), placeOf(m * 3 + k, 1)],
    )
    addMoves(morphs[m]!, places, size, values)
  }
  return { size, values }
}

interface Place {
  channel: number
  factor: number
}

/** Adds the moves of a morph to the channels of its points; written out, as it runs for every move of every morph. */
function addMoves({ points, deltas }: Morph, places: readonly Place[], size: number, values: Float32Array): void {
  if (places.length === 3) {
    for (let i = 0; i < points.length; i++)
      for (let k = 0; k < 3; k++) values[points[i]! * size + places[k]!.channel]! += deltas[i * 3 + k]!
    return
  }
  const [c0, c1, c2, c3, c4, c5] = places.map((p) => p.channel) as [number, number, number, number, number, number]
  const [f0, f1, f2, f3, f4, f5] = places.map((p) => p.factor) as [number, number, number, number, number, number]
  for (let i = 0; i < points.length; i++) {
    const o = points[i]! * size
    const x = deltas[i * 3]!
    const y = deltas[i * 3 + 1]!
    const z = deltas[i * 3 + 2]!
    values[o + c0]! += f0 * x
    values[o + c1]! += f1 * x
    values[o + c2]! += f2 * y
    values[o + c3]! += f3 * y
    values[o + c4]! += f4 * z
    values[o + c5]! += f5 * z
  }
}

/** Where a row of moves goes within one half of the channels, and with which sign. */
function placeOf(row: number, half: 0 | 1): Place {
  let h = Math.imul(row + 1, 0x9e3779b1) ^ Math.imul(half + 1, 0x85ebca6b)
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d)
  h ^= h >>> 13
  const width = MORPH_CHANNELS / 2
  return { channel: half * width + ((h >>> 8) % width), factor: h & 64 ? Math.SQRT1_2 : -Math.SQRT1_2 }
}
