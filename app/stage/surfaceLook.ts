import { schemeSet3 } from 'd3'
import { Color, Vector3 } from 'three'
import type { FigureView } from '../workers/protocol'
import { weightColor } from './weightRamp'

/** How the surface of a figure is shown. */
export const SURFACES = ['made', 'facets', 'smooth', 'wire', 'regions', 'changes'] as const
export type SurfaceKind = (typeof SURFACES)[number]

/** From here on a change is as large as the ramp shows, metres. */
export const MOST_CHANGE = 0.1

/** The color of a region of the body, by its place in the list. */
export const regionColor = (region: number): string => schemeSet3[region % schemeSet3.length]!

/** Normals that are one at each place, whatever faces meet there: xyz a vertex. */
export function smoothNormals({ positions, indices }: Pick<FigureView['mesh'], 'positions' | 'indices'>): Float32Array {
  const sums = new Map<string, Vector3>()
  const keyOf = (v: number) => [0, 1, 2].map((k) => Math.round(positions[v * 3 + k]! * 1e5)).join()
  const keys = Array.from({ length: positions.length / 3 }, (_, v) => keyOf(v))
  const [a, b, c] = [new Vector3(), new Vector3(), new Vector3()]
  for (let t = 0; t < indices.length; t += 3) {
    const corners = [indices[t]!, indices[t + 1]!, indices[t + 2]!] as const
    a.fromArray(positions, corners[0] * 3)
    // as long as the triangle is large
    const out = b
      .fromArray(positions, corners[1] * 3)
      .sub(a)
      .cross(c.fromArray(positions, corners[2] * 3).sub(a))
    for (const v of corners) {
      const sum = sums.get(keys[v]!)
      if (sum) sum.add(out)
      else sums.set(keys[v]!, out.clone())
    }
  }
  for (const sum of sums.values()) sum.normalize()
  const normals = new Float32Array(positions.length)
  keys.forEach((key, v) => (sums.get(key) ?? b.set(0, 1, 0)).toArray(normals, v * 3))
  return normals
}

/** A color a vertex, rgb in linear light, after the region of the bone that holds it most; pale where none does. */
export function regionColors(
  { mesh, bones }: FigureView,
  regions: readonly { bones: readonly string[] }[],
): Float32Array {
  const pale = new Color('#d8d4c8')
  const colors = bones.map(({ name }) => {
    // a bone that was folded away is held by the one above it
    const region = regions.findIndex((r) => r.bones.includes(name))
    return region < 0 ? pale : new Color(regionColor(region))
  })
  const out = new Float32Array(mesh.positions.length)
  for (let v = 0; v < out.length / 3; v++) {
    let best = 0
    for (let k = 1; k < 4; k++) if (mesh.weights[v * 4 + k]! > mesh.weights[v * 4 + best]!) best = k
    const color = colors[mesh.joints[v * 4 + best]!] ?? pale
    color.toArray(out, v * 3)
  }
  return out
}

/** A color a vertex by how far it is from where it is on the plain figure; null where the two have other vertices. */
export function changeColors({ mesh }: FigureView, plain: Float32Array): Float32Array | null {
  const { positions } = mesh
  if (plain.length !== positions.length) return null
  const ramp = Array.from({ length: 256 }, (_, i) => new Color(weightColor(i / 255)))
  const out = new Float32Array(positions.length)
  for (let i = 0; i < positions.length; i += 3) {
    const far = Math.hypot(
      positions[i]! - plain[i]!,
      positions[i + 1]! - plain[i + 1]!,
      positions[i + 2]! - plain[i + 2]!,
    )
    ramp[Math.round(Math.min(1, far / MOST_CHANGE) * 255)]!.toArray(out, i)
  }
  return out
}
