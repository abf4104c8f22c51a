import { NearestFew } from '../base/NearestFew.ts'
import type { Shelf } from '../base/Shelf.ts'
import { pointNeighbours, type Packed } from '../mesh/adjacency.ts'
import { pointTriangles } from '../mesh/Mesh.ts'
import { pointNormals, triangleNormal } from '../mesh/normals.ts'
import { Surface } from '../mesh/Surface.ts'
import type { BodyModel } from '../kit/Kit.ts'
import type { Morph } from '../mesh/Mesh.ts'
import { followDelta, packFollowing, type Following } from './followers.ts'
import { mlsWeights } from './mlsWeights.ts'

/** What is worked out once for a body, however many figures are made from it. */
export interface PreparedBody {
  model: BodyModel
  /** Where results for this body are kept beyond this run, if they are. */
  shelf: Shelf | null
  /** Three points a triangle. */
  triangles: Uint32Array
  /** Made when first asked for, as are neighbours and normals: with a full shelf nobody does. */
  readonly surface: Surface
  readonly neighbours: Packed
  readonly normals: Float32Array // unit, xyz a point, of the rest shape
  /** Index into `def.regions` for each triangle, 255 where none claims it. */
  regionOf: Uint8Array
  /** Morph index by name. */
  morphIndex: Map<string, number>
  landmarkIndex: Map<string, number>
  landmarks: Float32Array // xyz a landmark, rest shape, metres
  /** How landmarks follow the surface around them. */
  following: Following
  /** Where each bone's joint stands: index into the landmarks. */
  jointLandmarks: Uint16Array
  /**
   * How large the body is beside a grown person, 1, in half octaves: lengths that are not the kit's
   * own (reaches, tolerances) are meant for 1 and multiplied by this.
   */
  scale: number
}

const prepared = new WeakMap<BodyModel, PreparedBody>()

/** How many points of the surface a landmark follows. */
const LANDMARK_NEIGHBOURS = 24

/** @param shelf where what is worked out for the body is looked for first, and put */
export function prepareBody(model: BodyModel, shelf: Shelf | null = null): PreparedBody {
  let ready = prepared.get(model)
  if (!ready) prepared.set(model, (ready = prepare(model, shelf)))
  if (shelf) ready.shelf = shelf
  return ready
}

/** A value that is made when it is first asked for. */
function lazy<T>(make: () => T): () => T {
  let made: { value: T } | null = null
  return () => (made ??= { value: make() }).value
}

function prepare(model: BodyModel, shelf: Shelf | null): PreparedBody {
  const { mesh, def } = model
  const triangles = pointTriangles(mesh)
  const points = mesh.positions.length / 3
  const landmarkIndex = new Map(def.landmarks.map((l, i) => [l.id, i]))
  const landmarks = Float32Array.from(def.landmarks.flatMap((l) => l.at))
  const surface = lazy(() => new Surface(mesh.positions, triangles))
  const neighbours = lazy(() => pointNeighbours(triangles, points))
  const normals = lazy(() => pointNormals(mesh.positions, triangles))
  return {
    model,
    shelf,
    triangles,
    get surface() {
      return surface()
    },
    get neighbours() {
      return neighbours()
    },
    get normals() {
      return normals()
    },
    regionOf: regionsOfTriangles(model, triangles),
    morphIndex: new Map(mesh.morphs.map((m, i) => [m.name, i])),
    landmarkIndex,
    landmarks,
    following: landmarkTies(model, shelf),
    jointLandmarks: Uint16Array.from(model.bones, (b) => landmarkIndex.get(b.name)!),
    scale: scaleOf(mesh.positions, triangles),
  }
}

function landmarkTies({ def, mesh, hash }: BodyModel, shelf: Shelf | null): Following {
  const key = `landmarks ${hash}`
  const there = shelf?.get(key)
  if (there) return there as unknown as Following
  const following = packFollowing(
    def.landmarks.map(({ at }) => {
      const sources = nearestPoints(mesh.positions, at, LANDMARK_NEIGHBOURS)
      const far = distance(mesh.positions, sources[Math.min(7, sources.length - 1)]!, at)
      return { sources, weights: mlsWeights(at, mesh.positions, sources, Math.max(far, 1e-4)) }
    }),
  )
  shelf?.put(key, { ...following })
  return following
}

/** The skin of a grown person, square metres: what scale 1 means. */
const GROWN = 1.9

function scaleOf(positions: Float32Array, triangles: Uint32Array): number {
  let doubled = 0
  for (let t = 0; t < triangles.length; t += 3)
    doubled += triangleNormal(positions, triangles[t]!, triangles[t + 1]!, triangles[t + 2]!)[3]
  const size = Math.sqrt(doubled / 2 / GROWN)
  // in steps, so that bodies about as large as each other are measured alike
  return size > 0 ? 2 ** (Math.round(Math.log2(size) * 2) / 2) : 1
}

const moves = new WeakMap<PreparedBody, WeakMap<Morph, Float32Array>>()

/** Moves of the landmarks under a delta of the body at full weight, xyz a landmark. */
export function landmarkMoves(body: PreparedBody, delta: Morph): Float32Array {
  let known = moves.get(body)
  if (!known) moves.set(body, (known = new WeakMap()))
  let ready = known.get(delta)
  if (!ready) {
    ready = new Float32Array(body.landmarks.length)
    followDelta(body.following, body.model.mesh.positions.length / 3, delta, ready)
    known.set(delta, ready)
  }
  return ready
}

/** Where the joints of a body's bones stand, given its landmarks; xyz a bone. */
export function jointsAt(body: PreparedBody, landmarks: Float32Array): Float32Array {
  const joints = new Float32Array(body.jointLandmarks.length * 3)
  body.jointLandmarks.forEach((l, b) => joints.set(landmarks.subarray(l * 3, l * 3 + 3), b * 3))
  return joints
}

/** The body's bones with their joints at rest, as posing wants them. */
export function restBones({ model, landmarks, jointLandmarks }: PreparedBody) {
  const index = new Map(model.bones.map((b, i) => [b.name, i]))
  return model.bones.map((bone, i) => {
    const o = jointLandmarks[i]! * 3
    return {
      name: bone.name,
      parent: bone.parent === null ? -1 : index.get(bone.parent)!,
      at: [landmarks[o]!, landmarks[o + 1]!, landmarks[o + 2]!] as [number, number, number],
    }
  })
}

function distance(positions: ArrayLike<number>, p: number, at: readonly number[]): number {
  return Math.hypot(positions[p * 3]! - at[0]!, positions[p * 3 + 1]! - at[1]!, positions[p * 3 + 2]! - at[2]!)
}

/** The so many points nearest to a place, the nearest first; of two as near the one that comes first. */
function nearestPoints(positions: ArrayLike<number>, at: readonly [number, number, number], count: number): number[] {
  const few = new NearestFew(count)
  // a hair more, squared: what lies beyond needs no exact distance
  let bound = Infinity
  for (let p = 0, i = 0; i < positions.length; p++, i += 3) {
    const dx = positions[i]! - at[0]
    const dy = positions[i + 1]! - at[1]
    const dz = positions[i + 2]! - at[2]
    if (dx * dx + dy * dy + dz * dz > bound) continue
    few.offer(p, distance(positions, p, at))
    bound = few.bound ** 2 * (1 + 1e-9)
  }
  return few.numbers
}

/** A triangle belongs to the region of the bone that weighs most over its three points. */
export function regionsOfTriangles(model: BodyModel, triangles: Uint32Array): Uint8Array {
  const regionOfBone = new Uint8Array(model.bones.length).fill(255)
  model.def.regions.forEach((region, r) => {
    for (const bone of region.bones) {
      const b = model.bones.findIndex((x) => x.name === bone)
      if (b >= 0) regionOfBone[b] = r
    }
  })
  const { joints, weights } = model.mesh
  const sums = new Float32Array(model.def.regions.length)
  return Uint8Array.from({ length: triangles.length / 3 }, (_, t) => {
    sums.fill(0)
    for (let k = 0; k < 3; k++) {
      const p = triangles[t * 3 + k]!
      for (let j = 0; j < 4; j++) {
        const region = regionOfBone[joints[p * 4 + j]!]!
        if (region !== 255) sums[region]! += weights[p * 4 + j]!
      }
    }
    let best = 255
    for (let r = 0; r < sums.length; r++) if (sums[r]! > (best === 255 ? 0.3 : sums[best]! + 1e-6)) best = r
    return best
  })
}
