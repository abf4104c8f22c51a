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
  const { mesh } = body.model
  const played = playedBy(body)
  const weights = new Map<Morph, number>()
  const add = (delta: Morph | undefined, left: number, right: number) => {
    if (!delta || (left === 0 && right === 0)) return
    if (left === right) weights.set(delta, (weights.get(delta) ?? 0) + left)
    else {
      const halves = halvesOf(mesh, delta)
      weights.set(halves.left, (weights.get(halves.left) ?? 0) + left)
      weights.set(halves.right, (weights.get(halves.right) ?? 0) + right)
    }
  }
  const values = new Float64Array(played.sliders.length * 2)
  for (let s = 0; s < played.sliders.length; s++) {
    const { id, usual, up, down, mirrors } = played.sliders[s]!
    const value = Object.hasOwn(sliders, id) ? sliders[id]! : usual
    // most are: with every step of a hand all of them are gone through
    if (value === 0) continue
    const [left, right] = sides(value)
    values[s * 2] = left
    values[s * 2 + 1] = right
    if (mirrors) add(up, left, right)
    else {
      add(up, Math.max(0, left), Math.max(0, right))
      add(down, Math.max(0, -left), Math.max(0, -right))
    }
  }
  for (const { delta, when } of played.correctives) {
    let left = 1
    let right = 1
    for (const { slider, sign } of when) {
      left *= Math.max(0, slider < 0 ? 0 : sign * values[slider * 2]!)
      right *= Math.max(0, slider < 0 ? 0 : sign * values[slider * 2 + 1]!)
    }
    add(delta, left, right)
  }
  return [...weights].filter(([, weight]) => weight !== 0).map(([delta, weight]) => ({ delta, weight }))
}

/** What each slider and corrective of a body plays. */
interface Played {
  /** `mirrors`: the lower end is the upper one the other way. */
  sliders: { id: string; usual: SliderValue; up?: Morph; down?: Morph; mirrors: boolean }[]
  /** Sliders by their place in that list, -1 for one that is not there. */
  correctives: { delta?: Morph; when: { slider: number; sign: 1 | -1 }[] }[]
}

const playedKnown = new WeakMap<PreparedBody, Played>()

function playedBy(body: PreparedBody): Played {
  let played = playedKnown.get(body)
  if (played) return played
  const { mesh, def } = body.model
  const deltaOf = (morph: string) => mesh.morphs[body.morphIndex.get(morph) ?? -1]
  const place = new Map(def.sliders.map(({ id }, s) => [id, s]))
  played = {
    sliders: def.sliders.map((slider) => ({
      id: slider.id,
      usual: slider.default,
      up: deltaOf(slider.up),
      ...(slider.down !== undefined && { down: deltaOf(slider.down) }),
      mirrors: slider.down === undefined,
    })),
    correctives: (def.correctives ?? []).map(({ morph, when }) => ({
      delta: deltaOf(morph),
      when: when.map(({ slider, end }) => ({ slider: place.get(slider) ?? -1, sign: end === 'up' ? 1 : -1 })),
    })),
  }
  playedKnown.set(body, played)
  return played
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
