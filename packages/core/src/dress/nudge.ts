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
  for (let i = 0; i < moved.length; i++) {
    const o = moved[i]! * 3
    const x = wanted[o]! - surface.positions[o]!
    const y = wanted[o + 1]! - surface.positions[o + 1]!
    const z = wanted[o + 2]! - surface.positions[o + 2]!
    const f = i * 9
    const along = offsetOf(frames[f]! * x + frames[f + 1]! * y + frames[f + 2]! * z)
    const across = offsetOf(frames[f + 3]! * x + frames[f + 4]! * y + frames[f + 5]! * z)
    const out = offsetOf(frames[f + 6]! * x + frames[f + 7]! * y + frames[f + 8]! * z)
    if (along * along + across * across + out * out < LEAST * LEAST) continue
    points.push(moved[i]!)
    offsets.push(along, across, out)
  }
  return points.length ? { ...(on !== undefined && { on }), topology, points, offsets } : null
}

/** As far as the format of recipes goes, millimetres. */
const FARTHEST = 500

/** Metres as recipes have them: millimetres to the hundredth. */
const offsetOf = (metres: number) => Math.round(Math.max(-FARTHEST, Math.min(FARTHEST, metres * 1000)) * 100) / 100 || 0
