import { sides } from '../recipe/instances.ts'
import type { SliderValue } from '../recipe/schema.ts'
import type { Morph } from '../mesh/Mesh.ts'
import { halvesOf } from './halves.ts'
import { landmarkMoves, type PreparedBody } from './PreparedBody.ts'

/** A movement of the body and how strongly it acts. Everything that moves a body is one of these. */
export interface ActiveDelta {
  delta: Morph
  weight: number
}

/**
 * What sliders ask of a body, as the deltas that act: a value above zero plays `up`, one below plays
 * `down`; unequal sides play halves; correctives play by the product of their sliders. Deltas
 * without effect are left out.
 */
export function activeDeltas(body: PreparedBody, sliders: Readonly<Record<string, SliderValue>>): ActiveDelta[] {
  const { mesh, def } = body.model
  const weights = new Map<Morph, number>()
  const add = (morph: string | undefined, [left, right]: [number, number]) => {
    const delta = morph === undefined ? undefined : mesh.morphs[body.morphIndex.get(morph) ?? -1]
    if (!delta) return
    if (left === right) weights.set(delta, (weights.get(delta) ?? 0) + left)
    else {
      const halves = halvesOf(mesh, delta)
      weights.set(halves.left, (weights.get(halves.left) ?? 0) + left)
      weights.set(halves.right, (weights.get(halves.right) ?? 0) + right)
    }
  }
  const values = new Map<string, readonly [number, number]>()
  for (const slider of def.sliders) {
    const [left, right] = sides(Object.hasOwn(sliders, slider.id) ? sliders[slider.id]! : slider.default)
    values.set(slider.id, [left, right])
    if (slider.down === undefined)
      add(slider.up, [left, right]) // the lower end mirrors the upper
    else {
      add(slider.up, [Math.max(0, left), Math.max(0, right)])
      add(slider.down, [Math.max(0, -left), Math.max(0, -right)])
    }
  }
  for (const { morph, when } of def.correctives ?? []) {
    const product: [number, number] = [1, 1]
    for (const { slider, end } of when) {
      const value = values.get(slider) ?? [0, 0]
      for (let k = 0; k < 2; k++) product[k]! *= Math.max(0, end === 'up' ? value[k]! : -value[k]!)
    }
    add(morph, product)
  }
  return [...weights].filter(([, weight]) => weight !== 0).map(([delta, weight]) => ({ delta, weight }))
}

/**
 * Base positions plus weighted sparse deltas, into `out`. Allocates nothing; cost is that of one
 * copy plus the points that move.
 */
export function applyDeltas(base: Float32Array, active: readonly ActiveDelta[], out: Float32Array): void {
  out.set(base)
  for (let m = 0; m < active.length; m++) {
    const { delta, weight } = active[m]!
    addDelta(delta, weight, out)
  }
}

/** Adds one weighted delta to positions. */
export function addDelta({ points, deltas }: Morph, weight: number, out: Float32Array): void {
  for (let i = 0, d = 0; i < points.length; i++, d += 3) {
    const o = points[i]! * 3
    out[o]! += weight * deltas[d]!
    out[o + 1]! += weight * deltas[d + 1]!
    out[o + 2]! += weight * deltas[d + 2]!
  }
}

/** Landmarks of the shaped body, xyz each, metres, into `out`. */
export function shapeLandmarks(body: PreparedBody, active: readonly ActiveDelta[], out: Float32Array): void {
  out.set(body.landmarks)
  for (const { delta, weight } of active) {
    const moves = landmarkMoves(body, delta)
    for (let i = 0; i < out.length; i++) out[i]! += weight * moves[i]!
  }
}
