import type { Mesh } from '../mesh/Mesh.ts'
import { rgbOf, type Atlas } from './atlas.ts'

/** Some of a mesh's triangles, each region in a color of its own, or as its atlas has them. */
export interface Drawn {
  mesh: Pick<Mesh, 'positions' | 'indices' | 'cornerPoints' | 'regions' | 'shades' | 'uvs'>
  /** First and last triangle. */
  triangles: readonly [number, number]
  /** Triangles that are left out, by 1, counted from the first. */
  without?: Uint8Array
  look: ((region: number) => string) | Pick<Atlas, 'size' | 'pixels'>
}

/** A view without perspective: how far it is turned to the side and from above, what it looks at, and how much it shows. */
export interface MeshView {
  turn: number // degrees, to the figure's left
  tilt: number // degrees, from above
  middle: readonly [number, number, number]
  /** Half of what it shows, metres. */
  reach: number
}

/** Pixels are made of so many by so many samples. */
const SAMPLES = 3
/** Where light comes from, as one sees it: from the upper left, ahead. */
const LIGHT = unit([-0.5, 0.75, 0.6])
const AMBIENT = 0.58

/**
 * Draws triangles to a picture with a clear background: RGBA, 8 bits, sRGB, rows from the top. Plain z-buffer, flat light;
 * the same bytes on every machine.
 */
export function drawMesh(things: readonly Drawn[], view: MeshView, size: number): Uint8Array {
  const side = size * SAMPLES
  const depth = new Float32Array(side * side).fill(-Infinity)
  const colors = new Uint8Array(side * side * 3)
  for (const thing of things) drawThing(thing, view, side, depth, colors)
  const out = new Uint8Array(size * size * 4)
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const sum = [0, 0, 0]
      let hit = 0
      for (let i = 0; i < SAMPLES * SAMPLES; i++) {
        const at = (y * SAMPLES + Math.floor(i / SAMPLES)) * side + x * SAMPLES + (i % SAMPLES)
        if (depth[at] === -Infinity) continue
        hit++
        for (let k = 0; k < 3; k++) sum[k]! += colors[at * 3 + k]!
      }
      const o = (y * size + x) * 4
      if (hit) for (let k = 0; k < 3; k++) out[o + k] = Math.round(sum[k]! / hit)
      out[o + 3] = Math.round((255 * hit) / (SAMPLES * SAMPLES))
    }
  return out
}

/** The axes of a view in the figure's space: to the right, up, and towards the one who looks. */
export function axesOf({ turn, tilt }: Pick<MeshView, 'turn' | 'tilt'>): readonly [number[], number[], number[]] {
  const [a, b] = [(turn * Math.PI) / 180, (tilt * Math.PI) / 180]
  const towards = [Math.sin(a) * Math.cos(b), Math.sin(b), Math.cos(a) * Math.cos(b)]
  const right = [Math.cos(a), 0, -Math.sin(a)]
  const up = [-Math.sin(a) * Math.sin(b), Math.cos(b), -Math.cos(a) * Math.sin(b)]
  return [right, up, towards]
}

function drawThing(
  { mesh, triangles: [from, to], without, look }: Drawn,
  view: MeshView,
  side: number,
  depth: Float32Array,
  colors: Uint8Array,
): void {
  const [right, up, towards] = axesOf(view)
  const scale = side / (2 * view.reach)
  const at = [new Float64Array(3), new Float64Array(3), new Float64Array(3)] as const
  for (let t = from; t < to; t++) {
    if (without?.[t - from]) continue
    const corner = mesh.indices[t * 3]!
    for (let k = 0; k < 3; k++) {
      const p = mesh.cornerPoints[mesh.indices[t * 3 + k]!]! * 3
      const d = [0, 1, 2].map((i) => mesh.positions[p + i]! - view.middle[i]!)
      const along = (axis: readonly number[]) => axis[0]! * d[0]! + axis[1]! * d[1]! + axis[2]! * d[2]!
      at[k]![0] = side / 2 + along(right) * scale
      at[k]![1] = side / 2 - along(up) * scale
      at[k]![2] = along(towards) * scale
    }
    const [a, b, c] = at
    const u = [b[0]! - a[0]!, b[1]! - a[1]!, b[2]! - a[2]!]
    const v = [c[0]! - a[0]!, c[1]! - a[1]!, c[2]! - a[2]!]
    const area = u[0]! * v[1]! - u[1]! * v[0]!
    // turned away: rows go down, so what goes round against the clock counts below 0
    if (area >= 0) continue
    const normal = unit([u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, area])
    const facing = -normal[0]! * LIGHT[0]! + normal[1]! * LIGHT[1]! - normal[2]! * LIGHT[2]!
    const light = AMBIENT + (1 - AMBIENT) * Math.max(0, facing)
    const shade = (light * mesh.shades[corner]!) / 255
    const flat = typeof look === 'function' ? rgbOf(look(mesh.regions[corner]!)) : null
    const [p, q, r] = [0, 1, 2].map((k) => mesh.indices[t * 3 + k]! * 2) as [number, number, number]
    /** A color where the three corners weigh so much. */
    const colorAt = (wa: number, wb: number, wc: number): ArrayLike<number> => {
      if (typeof look === 'function') return flat!
      const { size, pixels } = look
      const [u, v] = [0, 1].map((k) => wa * mesh.uvs[p + k]! + wb * mesh.uvs[q + k]! + wc * mesh.uvs[r + k]!)
      const cell = (x: number) => Math.min(size - 1, Math.max(0, Math.floor(x * size)))
      const o = (cell(v!) * size + cell(u!)) * 4
      return pixels.subarray(o, o + 3)
    }
    fill(at, area, colorAt, Math.min(1, shade), side, depth, colors)
  }
}

function fill(
  [a, b, c]: readonly [Float64Array, Float64Array, Float64Array],
  area: number,
  colorAt: (wa: number, wb: number, wc: number) => ArrayLike<number>,
  shade: number,
  side: number,
  depth: Float32Array,
  colors: Uint8Array,
): void {
  const low = (k: number) => Math.max(0, Math.floor(Math.min(a[k]!, b[k]!, c[k]!)))
  const high = (k: number) => Math.min(side - 1, Math.ceil(Math.max(a[k]!, b[k]!, c[k]!)))
  for (let y = low(1); y <= high(1); y++)
    for (let x = low(0); x <= high(0); x++) {
      const px = x + 0.5
      const py = y + 0.5
      const edge = (p: Float64Array, q: Float64Array) =>
        ((q[0]! - p[0]!) * (py - p[1]!) - (q[1]! - p[1]!) * (px - p[0]!)) / area
      const wa = edge(b, c)
      const wb = edge(c, a)
      const wc = edge(a, b)
      if (wa < 0 || wb < 0 || wc < 0) continue
      const z = wa * a[2]! + wb * b[2]! + wc * c[2]!
      const o = y * side + x
      if (z <= depth[o]!) continue
      depth[o] = z
      const rgb = colorAt(wa, wb, wc)
      for (let k = 0; k < 3; k++) colors[o * 3 + k] = Math.round(rgb[k]! * shade)
    }
}

function unit(v: readonly number[]): number[] {
  const length = Math.hypot(...v) || 1
  return v.map((n) => n / length)
}
