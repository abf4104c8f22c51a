import { prepareBody, type PreparedBody } from '../body/PreparedBody.ts'
import { activeDeltas, applyDeltas } from '../body/shapeBody.ts'
import { bindPart, deltaOf, type BoundPart } from '../dress/bindPart.ts'
import type { BodyModel, PartModel } from '../kit/Kit.ts'
import { shapeSlidersOf } from '../kit/movements.ts'
import { pointNeighbours, type Packed } from '../mesh/adjacency.ts'
import { boundsOf } from '../mesh/Mesh.ts'
import { pointNormals } from '../mesh/normals.ts'
import { Surface } from '../mesh/Surface.ts'

/*
 * How a part sits on a body: what of it is within, how it is pushed out, and how it went.
 */

export interface RefitReport {
  /** How far its points went, metres. */
  moved: { mean: number; most: number }
  /** Points where it was drawn out or squeezed more than twice, or that lie within the body though they did not before. */
  doubtful: number[]
  /** Share of its points that lie deeper in the body than before by more than 3 mm. */
  within: number
}

/** What a person changes about how a part lies on the other body. */
export interface RefitAdjust {
  /** Further off the body, or nearer, metres. */
  looser?: number
  /** Further up, or down, metres. */
  higher?: number
  /** Further to the front, or back, metres. */
  further?: number
  /** About its own middle; 1 as it comes. */
  larger?: number
}

/** Gaps up to this are kept; what lies deeper than that stays in; how much of a push its neighbours share; metres. */
const GAP = { kept: 0.006, deepest: 0.015, spread: 0.7, rounds: 4 }

export const heightOf = ({ model }: PreparedBody) => {
  const { min, max } = boundsOf(model.mesh.positions)
  return max[1] - min[1]
}

type Skin = Pick<PreparedBody, 'surface' | 'normals' | 'triangles'>

/** How far a point lies off a body's surface, negative within it, and the way out there. */
function offSurface(body: Skin, positions: Float32Array, p: number) {
  const place = body.surface.nearest(positions[p * 3]!, positions[p * 3 + 1]!, positions[p * 3 + 2]!)!
  const t = place.triangle * 3
  const n = [0, 0, 0]
  // smooth: the nearest place may be an edge
  for (let c = 0; c < 3; c++)
    for (let k = 0; k < 3; k++) n[k]! += place.weights[c]! * body.normals[body.triangles[t + c]! * 3 + k]!
  const length = Math.hypot(...n) || 1
  const out = n.map((v) => v / length) as [number, number, number]
  const side = [0, 1, 2].reduce((s, k) => s + out[k]! * (positions[p * 3 + k]! - place.point[k]!), 0)
  return { far: side < 0 ? -place.distance : place.distance, out }
}

/** Moves a part as a person has said; pieces that keep their form go as one. */
export function adjusted(
  positions: Float32Array,
  { looser = 0, higher = 0, further = 0, larger = 1 }: RefitAdjust,
  bound: BoundPart,
  to: PreparedBody,
  keeps: Int32Array,
): void {
  const { min, max } = boundsOf(positions)
  const shift = [0, higher, further]
  for (let i = 0; i < positions.length; i++) {
    const middle = (min[i % 3]! + max[i % 3]!) / 2
    positions[i] = middle + (positions[i]! - middle) * larger + shift[i % 3]!
  }
  if (looser === 0) return
  const count = positions.length / 3
  const moves = new Float32Array(positions.length)
  for (let p = 0; p < count; p++)
    moves.set(
      offSurface(to, positions, p).out.map((v) => v * looser),
      p * 3,
    )
  // the ways out differ from point to point: the cloth goes evenly, and as far as was said; where they
  // part, as under an arm, none is the right one and it goes less
  smooth(moves, pointNeighbours(bound.triangles, count), 2)
  for (let p = 0; p < count; p++) {
    const length = Math.hypot(...moves.subarray(p * 3, p * 3 + 3))
    if (length === 0) continue
    const grown = Math.min(Math.abs(looser) / length, 2)
    for (let k = 0; k < 3; k++) moves[p * 3 + k]! *= grown
  }
  const byPiece = meansByPiece(moves, keeps)
  for (let i = 0; i < positions.length; i++)
    positions[i]! += byPiece.get(keeps[Math.floor(i / 3)]!)?.[i % 3] ?? moves[i]!
}

/** The mean of each piece's rows; -1 is none. */
function meansByPiece(rows: Float32Array, keeps: Int32Array): Map<number, number[]> {
  const sums = new Map<number, number[]>()
  keeps.forEach((piece, p) => {
    if (piece < 0) return
    const sum = sums.get(piece) ?? [0, 0, 0, 0]
    for (let k = 0; k < 3; k++) sum[k]! += rows[p * 3 + k]!
    sum[3]!++
    sums.set(piece, sum)
  })
  return new Map([...sums].map(([piece, [x, y, z, n]]) => [piece, [x! / n!, y! / n!, z! / n!]]))
}

/**
 * Pushes a part out of the new body to where it lay off the old one, small gaps at least; pieces that keep their form go
 * as one.
 *
 * @param nearer how much nearer than that it may lie, metres, zero or less
 */
export function pushOut(
  bound: BoundPart,
  positions: Float32Array,
  from: PreparedBody,
  to: PreparedBody,
  keeps: Int32Array,
  nearer = 0,
): void {
  const count = positions.length / 3
  const neighbours = pointNeighbours(bound.triangles, count)
  const kept = GAP.kept * to.scale
  const wanted = Float32Array.from(
    { length: count },
    (_, p) => Math.min(kept, offSurface(from, bound.rest, p).far) + nearer,
  )
  const moves = new Float32Array(positions.length)
  for (let round = 0; round < GAP.rounds; round++) {
    moves.fill(0)
    for (let p = 0; p < count; p++) {
      if (wanted[p]! <= 0) continue
      const { far, out } = offSurface(to, positions, p)
      const short = wanted[p]! - far
      if (short <= 0 || far < -GAP.deepest * to.scale) continue
      for (let k = 0; k < 3; k++) moves[p * 3 + k] = out[k]! * short
    }
    // a piece that keeps its form goes by the mean of what all of its points want
    const byPiece = meansByPiece(moves, keeps)
    const shared = moves.slice()
    smooth(shared, neighbours, 2)
    for (let p = 0; p < count; p++) {
      const piece = byPiece.get(keeps[p]!)
      for (let k = 0; k < 3; k++) {
        const own = moves[p * 3 + k]!
        positions[p * 3 + k]! += keeps[p]! >= 0 ? (piece?.[k] ?? 0) : own !== 0 ? own : GAP.spread * shared[p * 3 + k]!
      }
    }
  }
}

/** Each row becomes the mean of itself and its neighbours, as often as said; rows that are not known only take. */
export function smooth(rows: Float32Array, { starts, items }: Packed, passes: number, known?: Uint8Array): void {
  const next = new Float32Array(rows.length)
  const live = known?.slice()
  for (let pass = 0; pass < passes; pass++) {
    const before = live?.slice()
    for (let p = 0; p < rows.length / 3; p++) {
      let all = before && !before[p] ? 0 : 1
      for (let k = 0; k < 3; k++) next[p * 3 + k] = all ? rows[p * 3 + k]! : 0
      for (let i = starts[p]!; i < starts[p + 1]!; i++) {
        const q = items[i]!
        if (before && !before[q]) continue
        for (let k = 0; k < 3; k++) next[p * 3 + k]! += rows[q * 3 + k]!
        all++
      }
      if (all === 0) continue
      if (live) live[p] = 1
      for (let k = 0; k < 3; k++) next[p * 3 + k]! /= all
    }
    rows.set(next)
  }
}

/** What has got into the body: deeper than it was, and no deeper than a side can be told (metres of a grown person). */
const isWithin = (now: number, before: number, scale: number) =>
  now < -WITHIN.from * scale && now > -WITHIN.to * scale && now < before - WITHIN.from * scale
const WITHIN = { from: 0.003, to: 0.06 }

export function reportOn(bound: BoundPart, positions: Float32Array, from: PreparedBody, to: PreparedBody): RefitReport {
  const { rest, triangles } = bound
  const count = positions.length / 3
  const usual = Math.sqrt(heightOf(to) / heightOf(from))
  const doubtful = new Set<number>()
  const length = (list: Float32Array, a: number, b: number) =>
    Math.hypot(...[0, 1, 2].map((k) => list[a * 3 + k]! - list[b * 3 + k]!))
  for (let t = 0; t < triangles.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const a = triangles[t + k]!
      const b = triangles[t + ((k + 1) % 3)]!
      const ratio = length(positions, a, b) / (usual * Math.max(1e-6, length(rest, a, b)))
      if (ratio > 2 || ratio < 0.5) doubtful.add(a).add(b)
    }
  let [within, sum, most] = [0, 0, 0]
  for (let p = 0; p < count; p++) {
    const far = Math.hypot(...[0, 1, 2].map((k) => positions[p * 3 + k]! - rest[p * 3 + k]!))
    sum += far
    most = Math.max(most, far)
    const before = offSurface(from, rest, p).far
    const now = offSurface(to, positions, p).far
    if (isWithin(now, before, to.scale)) {
      within++
      doubtful.add(p)
    }
  }
  return {
    moved: { mean: sum / count, most },
    doubtful: [...doubtful].sort((a, b) => a - b),
    within: within / count,
  }
}

/** How a part sits on its body at the ends of some sliders: the end at which most of it gets into the body. */
export interface WorstEnd {
  slider: string
  end: 'up' | 'down'
  /** Share of its points that lie deeper in the body than at rest by more than 3 mm. */
  within: number
}

/** Shapes a body to each end of its sliders and looks how a part follows; null where it has no sliders. */
export function worstEnd(model: BodyModel, part: PartModel): WorstEnd | null {
  const body = prepareBody(model)
  const bound = bindPart(body, part)
  const count = bound.rest.length / 3
  const before = Float32Array.from({ length: count }, (_, p) => offSurface(body, bound.rest, p).far)
  let worst: WorstEnd | null = null
  for (const slider of shapeSlidersOf(model.def))
    for (const [end, value] of [
      ['up', slider.max],
      ['down', slider.min],
    ] as const) {
      if (value === 0) continue
      const active = activeDeltas(body, { [slider.id]: value })
      const skin = new Float32Array(model.mesh.positions.length)
      const worn = new Float32Array(bound.rest.length)
      applyDeltas(model.mesh.positions, active, skin)
      applyDeltas(
        bound.rest,
        active.map(({ delta, weight }) => ({ delta: deltaOf(bound, delta), weight })),
        worn,
      )
      const { triangles } = body
      const shaped: Skin = { triangles, surface: new Surface(skin, triangles), normals: pointNormals(skin, triangles) }
      let within = 0
      for (let p = 0; p < count; p++) {
        const { far } = offSurface(shaped, worn, p)
        if (isWithin(far, before[p]!, body.scale)) within++
      }
      if (!worst || within / count > worst.within) worst = { slider: slider.id, end, within: within / count }
    }
  return worst
}
