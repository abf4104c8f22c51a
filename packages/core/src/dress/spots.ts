import { Matrix4, Vector3 } from 'three'
import { Surface } from '../mesh/Surface.ts'
import { triangleNormal } from '../mesh/normals.ts'
import type { Spot } from '../recipe/schema.ts'

/** The body of a figure, or what an instance wears, as it stands: something that other things can be put on. */
export interface StandingSurface {
  /** The instance's id in the recipe; null for the body. */
  instance: string | null
  /** The kit's name for the part; null for the body. */
  part: string | null
  /** xyz a point, metres. */
  positions: Float32Array
  /** Three points a triangle. */
  triangles: Uint32Array
}

type Place = readonly [number, number, number]

/** The spot of a surface that is nearest to a place on the figure. */
export function spotNear({ instance, part, positions, triangles }: StandingSurface, at: Place): Spot {
  const { triangle, weights } = new Surface(positions, triangles).nearest(...at)!
  const shares = weights.map((w) => Math.round(Math.max(0, w) * 1e4) / 1e4) as [number, number, number]
  return { ...(instance !== null && { on: { instance, part: part! } }), triangle, shares }
}

/** Where a spot is on the figure. */
export function placeOfSpot({ positions, triangles }: StandingSurface, { triangle, shares }: Spot): Place {
  const sum = shares.reduce((s, v) => s + v, 0)
  return [0, 1, 2].map((k) =>
    shares.reduce((s, v, i) => s + (v / sum) * positions[triangles[triangle * 3 + i]! * 3 + k]!, 0),
  ) as unknown as Place
}

/** The spot some way along the surface, metres to its own right and up, as it looks out. */
export function spotBeside(surface: StandingSurface, spot: Spot, [right, up]: readonly [number, number]): Spot {
  const [a, b, c] = [0, 1, 2].map((k) => surface.triangles[spot.triangle * 3 + k]!) as [number, number, number]
  const turn = standingOut(triangleNormal(surface.positions, a, b, c).slice(0, 3) as unknown as Place)
  const to = new Vector3(right, up, 0).applyMatrix4(turn).add(new Vector3(...placeOfSpot(surface, spot)))
  return spotNear(surface, to.toArray())
}

/** The spot on the other side of the figure. */
export function spotAcross(surface: StandingSurface, spot: Spot): Spot {
  const [x, y, z] = placeOfSpot(surface, spot)
  return spotNear(surface, [-x, y, z])
}

/** A spot that is asked for: nearest to a place or another spot, and from there some way along, or across the figure. */
export interface SpotAsk {
  /** What it lies on: an instance, or null for the body. */
  on: string | null
  from: Place | Spot
  /** Metres to the spot's own right and up; or to the other side of the figure. */
  then?: { beside: readonly [number, number] } | 'across'
}

/** The spot asked for; null where the figure has no such surface. */
export function spotFor(surfaces: readonly StandingSurface[], { on, from, then }: SpotAsk): Spot | null {
  const surface = surfaces.find((s) => s.instance === on)
  if (!surface) return null
  const isSpot = (value: Place | Spot): value is Spot => 'triangle' in value
  if (isSpot(from) && from.triangle * 3 >= surface.triangles.length) return null
  const first = isSpot(from) ? from : spotNear(surface, from)
  if (!then) return first
  return then === 'across' ? spotAcross(surface, first) : spotBeside(surface, first, then.beside)
}

/** A frame on a surface: its front looks out along the normal, its top as far up as that allows. */
export function standingOut(normal: Place): Matrix4 {
  const front = new Vector3(...normal)
  const up = Math.abs(front.y) < 0.95 ? new Vector3(0, 1, 0) : new Vector3(0, 0, -Math.sign(front.y))
  const side = new Vector3().crossVectors(up, front).normalize()
  return new Matrix4().makeBasis(side, new Vector3().crossVectors(front, side), front)
}
