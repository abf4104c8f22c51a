import { triangleNormal } from '../mesh/normals.ts'
import { Surface } from '../mesh/Surface.ts'
import type { LayerShape } from './clearance.ts'

/** How far out a garment still hides what is beneath it, on a grown person, metres. */
const REACH = 0.16
/** Where on a triangle to look from, barycentric: near its corners and at its middle. */
const SAMPLES = [
  [0.9, 0.05, 0.05],
  [0.05, 0.9, 0.05],
  [0.05, 0.05, 0.9],
  [1 / 3, 1 / 3, 1 / 3],
] as const
/** How far the side rays lean from the normal (tangent of the angle). */
const LEAN = 0.7
/** Under something that stands farther off, metres, one can look in from the side: rays lean more. */
const CLOSE = 0.032
const FAR_LEAN = 1.8
/** Rays start this far inside, so that a garment lying on the skin is met, metres. */
const START = 0.002
export const SAMPLE_COUNT = SAMPLES.length

/**
 * Which samples of each inner triangle an outer layer covers: one bit a sample, set when the ray
 * along the normal and four leaning ones all meet the outer layer. Bits of several outer layers
 * can be joined by OR; a triangle whose bits are all set cannot be seen.
 *
 * @param scale of the body
 * @param among only samples whose bits are set here are looked at, and only along the normal; the rest stay clear
 * @returns one byte a triangle of `inner`
 */
export function coverageBits(inner: LayerShape, outer: Surface, scale: number, among?: Uint8Array): Uint8Array {
  const reach = REACH * scale
  const inside = START * scale
  const bits = new Uint8Array(inner.triangles.length / 3)
  const box = outerBox(outer, reach)
  const { positions, triangles } = inner
  // by direction: straight, straight and close, four leaning ones
  const hints = new Int32Array(6).fill(-1)
  let lastOpen = 0
  for (let t = 0; t < bits.length; t++) {
    if (among && among[t] === 0) continue
    const a = triangles[t * 3]!
    const b = triangles[t * 3 + 1]!
    const c = triangles[t * 3 + 2]!
    if (!near(box, positions, a) && !near(box, positions, b) && !near(box, positions, c)) continue
    const n = triangleNormal(positions, a, b, c)
    // two directions across the normal
    const side = Math.abs(n[1]) < 0.9 ? normalize(n[2], 0, -n[0]) : normalize(0, -n[2], n[1])
    const up = [n[1] * side[2] - n[2] * side[1], n[2] * side[0] - n[0] * side[2], n[0] * side[1] - n[1] * side[0]]
    for (let s = 0; s < SAMPLE_COUNT; s++) {
      if (among && !(among[t]! & (1 << s))) continue
      const wa = SAMPLES[s]![0]
      const wb = SAMPLES[s]![1]
      const wc = SAMPLES[s]![2]
      // start a hair inside, so that a garment lying on the skin is met
      const x = wa * positions[a * 3]! + wb * positions[b * 3]! + wc * positions[c * 3]! - n[0] * inside
      const y = wa * positions[a * 3 + 1]! + wb * positions[b * 3 + 1]! + wc * positions[c * 3 + 1]! - n[1] * inside
      const z = wa * positions[a * 3 + 2]! + wb * positions[b * 3 + 2]! + wc * positions[c * 3 + 2]! - n[2] * inside
      if (!outer.blocks(x, y, z, n[0], n[1], n[2], reach, hints, 0)) continue
      if (!among) {
        // under something that stands off one can look in more from the side; all four lean alike, so their length is one
        const close = outer.blocks(x, y, z, n[0], n[1], n[2], CLOSE * scale, hints, 1)
        const lean = close ? LEAN : FAR_LEAN
        const unit = 1 / Math.sqrt(1 + lean * lean)
        // beginning with where one could look in last, as one mostly still can
        let open = false
        for (let i = 0; i < 4 && !open; i++) {
          const way = (lastOpen + i) % 4
          const u = way === 0 ? lean : way === 1 ? -lean : 0
          const v = way === 2 ? lean : way === 3 ? -lean : 0
          open = !outer.blocks(
            x,
            y,
            z,
            (n[0] + u * side[0] + v * up[0]!) * unit,
            (n[1] + u * side[1] + v * up[1]!) * unit,
            (n[2] + u * side[2] + v * up[2]!) * unit,
            reach,
            hints,
            2 + way,
          )
          if (open) lastOpen = way
        }
        if (open) continue
      }
      bits[t]! |= 1 << s
    }
  }
  return bits
}

function normalize(x: number, y: number, z: number): [number, number, number] {
  const length = Math.hypot(x, y, z) || 1
  return [x / length, y / length, z / length]
}

function outerBox(outer: Surface, reach: number): { min: number[]; max: number[] } {
  const min = [Infinity, Infinity, Infinity]
  const max = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < outer.positions.length; i++) {
    const v = outer.positions[i]!
    if (v < min[i % 3]!) min[i % 3] = v
    if (v > max[i % 3]!) max[i % 3] = v
  }
  return { min: min.map((v) => v - reach), max: max.map((v) => v + reach) }
}

function near(box: { min: number[]; max: number[] }, positions: Float32Array, p: number): boolean {
  for (let k = 0; k < 3; k++) {
    const v = positions[p * 3 + k]!
    if (v < box.min[k]! || v > box.max[k]!) return false
  }
  return true
}

/** The triangles all of whose samples are covered by the layers' bits together. */
export function coveredTriangles(layers: readonly Uint8Array[], count: number): Uint8Array {
  const all = (1 << SAMPLE_COUNT) - 1
  const covered = new Uint8Array(count)
  for (let t = 0; t < count; t++) {
    let bits = 0
    for (const layer of layers) bits |= layer[t]!
    if (bits === all) covered[t] = 1
  }
  return covered
}
