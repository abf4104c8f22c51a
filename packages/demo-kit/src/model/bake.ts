import { Surface } from '@idle-tinker/core'
import type { Face, Sculpt } from './Sculpt.ts'
import { along, cross, mean, scale, sub, unit, type V3 } from './vector.ts'

const RAYS = 28
const RADIUS = 13 // body units
const STRENGTH = 0.62

/** Directions spread over a hemisphere around +y, denser towards it (Fibonacci spiral, cosine weighted). */
const HEMISPHERE: V3[] = Array.from({ length: RAYS }, (_, i) => {
  const r = Math.sqrt((i + 0.5) / RAYS)
  const a = i * Math.PI * (3 - Math.sqrt(5))
  return [r * Math.cos(a), Math.sqrt(1 - r * r), r * Math.sin(a)]
})

export function triangulate(s: Sculpt): { triangles: number[]; faceOf: number[] } {
  const triangles: number[] = []
  const faceOf: number[] = []
  s.faces.forEach((f, i) => {
    for (const t of cut(s, f)) {
      triangles.push(...t)
      faceOf.push(i)
    }
  })
  return { triangles, faceOf }
}

/** A quad is cut along its shorter diagonal; on a tie the one at its lower-numbered point. */
function cut(s: Sculpt, f: Face): number[][] {
  const [a, b, c, d] = f.v as [number, number, number, number | undefined]
  if (d === undefined) return [[a, b, c]]
  const length = (p: number, q: number) => Math.hypot(...s.at(p).map((v, k) => v - s.at(q)[k]!))
  const [ac, bd] = [length(a, c), length(b, d)]
  return ac <= bd + 1e-9
    ? [
        [a, b, c],
        [a, c, d],
      ]
    : [
        [a, b, d],
        [b, c, d],
      ]
}

export function surfaceOf(...sculpts: Sculpt[]): Surface {
  const positions: number[] = []
  const triangles: number[] = []
  for (const s of sculpts) {
    const base = positions.length / 3
    positions.push(...s.points.flatMap((p) => [...p.at]))
    triangles.push(...triangulate(s).triangles.map((i) => i + base))
  }
  return new Surface(Float32Array.from(positions), Uint32Array.from(triangles))
}

/**
 * Light each face gets: occlusion by everything around (28 rays), the same over a whole quad, and
 * a small difference from face to face, as of hand-cut planes. 0..1.
 */
export function bakeShades(s: Sculpt, around: Surface): number[] {
  return s.faces.map((f, i) => {
    const pieces = cut(s, f)
    const open =
      pieces.reduce(
        (sum, t) =>
          sum +
          openness(
            t.map((p) => s.at(p)),
            around,
          ),
        0,
      ) / pieces.length
    const strength = f.tag === 'head' ? STRENGTH * 0.45 : STRENGTH
    const grain = 1 + 0.05 * (2 * hash(i) - 1)
    return Math.min(1, Math.max(0.2, (1 - strength * (1 - open)) * grain - 0.03))
  })
}

/** Share of the light that reaches the middle of a triangle, 0..1. */
function openness(corners: V3[], around: Surface): number {
  const n = unit(cross(sub(corners[1]!, corners[0]!), sub(corners[2]!, corners[0]!)))
  const side = unit(Math.abs(n[1]) < 0.9 ? cross(n, [0, 1, 0]) : cross(n, [1, 0, 0]))
  const up = cross(side, n)
  const at = along(mean(corners), n, 0.12)
  let blocked = 0
  for (const [x, y, z] of HEMISPHERE) {
    const d = unit(along(along(scale(n, y), side, x), up, z))
    const hit = around.castRay(at[0], at[1], at[2], d[0], d[1], d[2], 0, RADIUS)
    if (hit < RADIUS) blocked += 1 - (hit / RADIUS) * 0.8
  }
  return 1 - blocked / RAYS
}

/** A repeatable number in [0, 1) for a whole number (integer hash after Wang 2007). */
export function hash(i: number): number {
  let h = Math.imul(i ^ 61 ^ (i >>> 16), 9)
  h = h ^ (h >>> 4)
  h = Math.imul(h, 0x27d4eb2d)
  h = h ^ (h >>> 15)
  return (h >>> 0) / 4294967296
}
