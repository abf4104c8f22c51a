import type { Packed } from '../mesh/adjacency.ts'
import type { Morph } from '../mesh/Mesh.ts'
import { pointFrames } from '../mesh/pointFrames.ts'
import type { Nudge } from '../recipe/schema.ts'

/*
 * What a brush has moved on a body or part, kept as offsets in the surface's own frames: they go along with it when
 * sliders shape it.
 */

/** A surface that can be nudged, as it is without: shaped, but nothing nudged yet. */
export interface Nudgeable {
  /** xyz a point, metres. */
  positions: Float32Array
  /** Three points a triangle. */
  triangles: Uint32Array
  neighbours: Packed
}

/** Where a nudge moves the points of a shaped surface, metres. */
export function nudgeMoves(surface: Nudgeable, { points, offsets }: Nudge): Morph {
  const frames = pointFrames(surface.positions, surface.triangles, surface.neighbours, points)
  const deltas = new Float32Array(offsets.length)
  for (let i = 0; i < points.length; i++)
    for (let k = 0; k < 3; k++)
      for (let axis = 0; axis < 3; axis++)
        deltas[i * 3 + k]! += (offsets[i * 3 + axis]! / 1000) * frames[i * 9 + axis * 3 + k]!
  return { name: 'nudge', points: Uint32Array.from(points), deltas }
}

/** Shorter offsets are left out, millimetres. */
const LEAST = 0.02

/**
 * The nudge that moves points of a shaped surface to where they are wanted; null if that is where they are.
 *
 * @param wanted xyz a point, metres
 */
export function nudgeTo(
  surface: Nudgeable,
  wanted: Float32Array,
  on: string | undefined,
  topology: string,
): Nudge | null {
  const moved: number[] = []
  for (let p = 0; p < wanted.length / 3; p++)
    for (let i = p * 3; i < p * 3 + 3; i++)
      if (wanted[i] !== surface.positions[i]) {
        moved.push(p)
        break
      }
  const frames = pointFrames(surface.positions, surface.triangles, surface.neighbours, moved)
  const points: number[] = []
  const offsets: number[] = []
  moved.forEach((p, i) => {
    const own = [0, 1, 2].map((axis) => {
      let along = 0
      for (let k = 0; k < 3; k++)
        along += frames[i * 9 + axis * 3 + k]! * (wanted[p * 3 + k]! - surface.positions[p * 3 + k]!)
      return Math.round(Math.max(-FARTHEST, Math.min(FARTHEST, along * 1000)) * 100) / 100
    })
    if (Math.hypot(...own) < LEAST) return
    points.push(p)
    offsets.push(...own.map((v) => v || 0))
  })
  return points.length ? { ...(on !== undefined && { on }), topology, points, offsets } : null
}

/** As far as the format of recipes goes, millimetres. */
const FARTHEST = 500
