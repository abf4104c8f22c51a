import { Surface } from '@idle-tinker/core'
import type { Assembly } from '@idle-tinker/runtime'

/** How options lie over each other: garments with a higher layer over those with a lower one; null for what is no garment. */
export type LayerOf = (option: number) => number | null

/** One thing that comes out through another that lies over it. */
export interface Through {
  /** Options; null for the body itself. */
  inner: number | null
  outer: number
  /** Places that do, by their numbers, and how far each, metres: the same numbers as long as nothing is dressed anew. */
  places: Map<number, number>
}

/* Lengths are those of a grown person; the figure's own height is taken into account. */

export const GROWN = 1.75
/** What stands higher over a layer than this is meant to, as a collar is: it has not come through, metres. */
export const MOST = 0.012
/** Nobody sees less, metres. */
const LEAST = 0.002
/** A surface lies over a place if it faces the same way, at least by this cosine. */
const SAME_WAY = 0.3
/**
 * What of a look that is put together comes out through what lies over it. Corners and middles of all triangles that are
 * drawn, measured on them alone: nothing of how they came there is known. A cuff that is meant to lie over what lies over
 * it is through as well: compare with how it is made to be.
 *
 * @param asked which pairs are measured; all if not said
 * @param most  what stands out farther is not counted, metres on a grown person
 * @returns every pair that was measured, also those in which nothing comes out
 */
export function showsThrough(
  assembly: Assembly,
  layerOf: LayerOf,
  height: number,
  asked: (inner: number | null, outer: number) => boolean = () => true,
  most = MOST,
): Through[] {
  const scale = height / GROWN
  const { mesh, runs } = assembly
  const positions = mesh.position.slice(0, mesh.corners * 3)
  const layers = runs.map(({ option }) => (option === null ? -1 : layerOf(option)))
  const roofs = new Map<number, Roof>()
  const found: Through[] = []
  runs.forEach((inner, i) => {
    const below = layers[i]
    if (below === null || below === undefined || inner.to === inner.from) return
    let places: Place[] | null = null
    runs.forEach((outer, o) => {
      const above = layers[o]
      // plates on the face lie in the skin; of one layer neither is above
      if (above === null || above === undefined || above <= 0 || above <= below || outer.to === outer.from) return
      if (!asked(inner.option, outer.option!)) return
      let roof = roofs.get(o)
      if (!roof) roofs.set(o, (roof = roofOf(positions, mesh.index.slice(outer.from, outer.to))))
      places ??= placesOn(positions, mesh.index, inner)
      found.push({ inner: inner.option, outer: outer.option!, places: measure(places, roof, scale, most * scale) })
    })
  })
  return found
}

type Vector = readonly [number, number, number]

interface Place {
  at: Vector
  facing: Vector
}

/** What lies over something, with its normals, xyz a triangle, and the box around it. */
interface Roof {
  surface: Surface
  normals: Float32Array
  low: Vector
  high: Vector
}

function roofOf(positions: Float32Array, triangles: Uint32Array): Roof {
  const normals = new Float32Array(triangles.length)
  const low: [number, number, number] = [Infinity, Infinity, Infinity]
  const high: [number, number, number] = [-Infinity, -Infinity, -Infinity]
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = cornersOf(positions, triangles, t)
    normals.set(normalOf(a, b, c), t)
    for (const corner of [a, b, c])
      for (let k = 0; k < 3; k++) {
        low[k] = Math.min(low[k]!, corner[k]!)
        high[k] = Math.max(high[k]!, corner[k]!)
      }
  }
  return { surface: new Surface(positions, triangles), normals, low, high }
}

function cornersOf(positions: Float32Array, triangles: Uint32Array, t: number): [Vector, Vector, Vector] {
  const at = (k: number): Vector => {
    const p = triangles[t + k]! * 3
    return [positions[p]!, positions[p + 1]!, positions[p + 2]!]
  }
  return [at(0), at(1), at(2)]
}

function placesOn(positions: Float32Array, index: Uint32Array, { from, to }: { from: number; to: number }): Place[] {
  const places: Place[] = []
  const seen = new Set<number>()
  for (let t = from; t < to; t += 3) {
    const corners = cornersOf(positions, index, t)
    const [a, b, c] = corners
    const facing = normalOf(a, b, c)
    places.push({ at: [(a[0] + b[0] + c[0]) / 3, (a[1] + b[1] + c[1]) / 3, (a[2] + b[2] + c[2]) / 3], facing })
    corners.forEach((at, k) => {
      if (seen.has(index[t + k]!)) return
      seen.add(index[t + k]!)
      places.push({ at, facing })
    })
  }
  return places
}

function measure(places: readonly Place[], roof: Roof, scale: number, far: number): Through['places'] {
  const { surface, normals, low, high } = roof
  const through: Through['places'] = new Map()
  for (const [i, { at, facing }] of places.entries()) {
    if (at.some((v, k) => v < low[k]! - far || v > high[k]! + far)) continue
    const cosine = (t: number) =>
      normals[t * 3]! * facing[0] + normals[t * 3 + 1]! * facing[1] + normals[t * 3 + 2]! * facing[2]
    const place = surface.nearest(...at, far, (t) => cosine(t) > SAME_WAY)
    if (!place) continue
    const t = place.triangle * 3
    const rise = [0, 1, 2].reduce((sum, k) => sum + normals[t + k]! * (at[k]! - place.point[k]!), 0)
    // beside the triangle rather than above it: it is a rim that is looked past
    if (rise < Math.max(LEAST * scale, place.distance * 0.95)) continue
    through.set(i, rise)
  }
  return through
}

function normalOf(a: Vector, b: Vector, c: Vector): Vector {
  const [ux, uy, uz] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]]
  const [vx, vy, vz] = [c[0] - a[0], c[1] - a[1], c[2] - a[2]]
  const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
  const length = Math.hypot(x, y, z) || 1
  return [x / length, y / length, z / length]
}
