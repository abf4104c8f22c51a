import type { Morph } from '../mesh/Mesh.ts'
import type { BodyDef } from '../kit/schema.ts'
import type { PreparedBody } from './PreparedBody.ts'

/** How strongly each morph of a body acts; same order as the mesh's morphs. */
export type MorphStrengths = Float32Array

/** Slider values to morph strengths: a value above zero plays `up`, one below plays `down`. */
export function morphStrengths(body: PreparedBody, sliders: Readonly<Record<string, number>>): MorphStrengths {
  const out = new Float32Array(body.model.mesh.morphs.length)
  for (const slider of body.model.def.sliders) {
    const value = sliders[slider.id] ?? slider.default
    const [morph, strength] = strengthOf(slider, value)
    const index = morph === undefined ? undefined : body.morphIndex.get(morph)
    if (index !== undefined) out[index]! += strength
  }
  return out
}

function strengthOf(slider: BodyDef['sliders'][number], value: number): [string | undefined, number] {
  if (value >= 0) return [slider.up, value]
  // without a form of its own, the lower end mirrors the upper
  return slider.down === undefined ? [slider.up, value] : [slider.down, -value]
}

/**
 * Base positions plus the weighted sparse morphs, into `out`. Allocates nothing; cost is that of
 * one copy plus the points that move.
 */
export function applyMorphs(
  base: Float32Array,
  morphs: readonly Morph[],
  strengths: MorphStrengths,
  out: Float32Array,
): void {
  out.set(base)
  for (let m = 0; m < morphs.length; m++) {
    const s = strengths[m]!
    if (s === 0) continue
    const { points, deltas } = morphs[m]!
    for (let i = 0, d = 0; i < points.length; i++, d += 3) {
      const o = points[i]! * 3
      out[o]! += s * deltas[d]!
      out[o + 1]! += s * deltas[d + 1]!
      out[o + 2]! += s * deltas[d + 2]!
    }
  }
}

/** Landmarks of the shaped body, xyz each, metres, into `out`. */
export function shapeLandmarks(body: PreparedBody, strengths: MorphStrengths, out: Float32Array): void {
  out.set(body.landmarks)
  for (let m = 0; m < strengths.length; m++) {
    const s = strengths[m]!
    if (s === 0) continue
    const moves = body.landmarkMoves[m]!
    for (let i = 0; i < out.length; i++) out[i]! += s * moves[i]!
  }
}
