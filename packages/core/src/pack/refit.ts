import { Matrix3, Quaternion, Vector3 } from 'three'
import { prepareBody, type PreparedBody } from '../body/PreparedBody.ts'
import { activeDeltas, addDelta, applyDeltas } from '../body/shapeBody.ts'
import { bindPart, deltaOf, type BoundPart } from '../dress/bindPart.ts'
import { carryDelta } from '../dress/tie.ts'
import type { BodyModel, PartModel } from '../kit/Kit.ts'
import { shapeSlidersOf } from '../kit/movements.ts'
import { connectedPieces, pointNeighbours, type Packed } from '../mesh/adjacency.ts'
import { boundsOf, type Morph } from '../mesh/Mesh.ts'
import { pointNormals, triangleNormal } from '../mesh/normals.ts'
import { Surface } from '../mesh/Surface.ts'

/** A part carried from one body to another. */
export interface Refit {
  /** Where its points lie on the other body: xyz a point, metres. */
  positions: Float32Array
  /** How its moves turn and grow there, a quaternion and a factor a point: for what it moves by itself. */
  turns: Float32Array
  /** How it went. */
  report: RefitReport
}

export interface RefitReport {
  /** How far its points went, metres. */
  moved: { mean: number; most: number }
  /** Points where it was drawn out or squeezed more than twice, or that lie within the body though they did not before. */
  doubtful: number[]
  /** Share of its points that lie deeper in the body than before by more than 3 mm. */
  within: number
}

/** How far residuals are smoothed, round by round. */
const ROUNDS = [24, 14, 8, 5, 3, 2]
const FACING = 0.25
/** A bone counts for a point from this share on. */
const SHARED = 0.1
/** Pieces smaller than this share of the body's height keep their form, as do those that hang on one bone by so much. */
const KEPT = { size: 0.045, onBone: 0.9, scale: 0.25 }
/** Gaps up to this are kept; what lies deeper than that stays in; how much of a push its neighbours share; metres. */
const GAP = { kept: 0.006, deepest: 0.015, spread: 0.7, rounds: 4 }
const RATIO = { least: 0.3, most: 3.5 }

/**
 * Carries a part from one body to another that has bones of the same names: as each bone is longer, thicker and turned
 * the other way, then as the one skin comes to lie on the other (non-rigid registration by projection with residuals
 * smoothed less and less), and last out of the new body as far as it lay off the old one. Small pieces and those on one
 * bone keep their form.
 *
 * @returns null where the bodies share no bones, or the part takes the place of something
 */
export function refitPart(part: PartModel, fromModel: BodyModel, toModel: BodyModel): Refit | null {
  if (part.def.how === 'replaces') return null
  const [from, to] = [prepareBody(fromModel), prepareBody(toModel)]
  const bones = boneMaps(from, to)
  if (!bones) return null
  const bound = bindPart(from, part)
  const skin = fromModel.mesh
  const roughly = carried(skin.positions, skin, bones)
  const onto = registered(roughly, from, to)
  const positions = byTieAndBones(bound, carried(bound.rest, bound, bones), skin.positions, roughly, onto, from.scale)
  const pieces = connectedPieces(bound.triangles, positions.length / 3)
  const kept = keepForms(bound, positions, pieces, heightOf(from), heightOf(to))
  pushOut(bound, positions, from, to, kept.pieceOf)
  return { positions, turns: kept.turns, report: reportOn(bound, positions, from, to) }
}

/**
 * Near the body a part goes as the skin below it goes; what hangs far off goes as its bones go, and as the skin differs
 * from that.
 */
function byTieAndBones(
  bound: BoundPart,
  byBones: Float32Array,
  skin: Float32Array,
  roughly: Float32Array,
  onto: Float32Array,
  scale: number,
): Float32Array {
  const all = Uint32Array.from({ length: skin.length / 3 }, (_, p) => p)
  const moveOf = (from: Float32Array): Morph => ({
    name: 'refit',
    points: all,
    deltas: onto.map((v, i) => v - from[i]!),
  })
  const near = bound.rest.slice()
  addDelta(carryDelta(bound.tie, moveOf(skin)), 1, near)
  addDelta(carryDelta(bound.tie, moveOf(roughly)), 1, byBones)
  return near.map((v, i) => {
    const far = bound.distances[Math.floor(i / 3)]! / scale
    const share = Math.min(1, Math.max(0, (far - HANGS.from) / (HANGS.to - HANGS.from)))
    return v * (1 - share) + byBones[i]! * share
  })
}

/** How far off the body a point goes by its bones alone, metres of a grown person. */
const HANGS = { from: 0.05, to: 0.16 }

const heightOf = ({ model }: PreparedBody) => {
  const { min, max } = boundsOf(model.mesh.positions)
  return max[1] - min[1]
}

interface BoneMap {
  from: Vector3
  to: Vector3
  /** Along the bone on the first body. */
  axis: Vector3
  turn: Quaternion
  along: number
  across: number
}

/** What becomes of each bone of the first body on the other; null where they share none. */
function boneMaps(from: PreparedBody, to: PreparedBody): BoneMap[] | null {
  const there = new Map(to.model.bones.map((b, i) => [b.name, i]))
  const here = new Map(from.model.bones.map((b, i) => [b.name, i]))
  const shared = from.model.bones.filter((b) => there.has(b.name)).length
  if (shared === 0) return null
  const [a, b] = [shapesOfBones(from, there), shapesOfBones(to, here)]
  const maps: (BoneMap | null)[] = []
  from.model.bones.forEach((bone, i) => {
    const other = there.get(bone.name)
    if (other === undefined) {
      // what the other body has no bone for goes with what it hangs from
      maps.push(bone.parent === null ? null : (maps[here.get(bone.parent)!] ?? null))
      return
    }
    const [own, its] = [a[i]!, b[other]!]
    const ratio = (x: number, y: number) => Math.min(RATIO.most, Math.max(RATIO.least, x > 1e-4 ? y / x : 1))
    maps.push({
      ...{ from: own.joint, to: its.joint, axis: own.axis },
      turn: new Quaternion().setFromUnitVectors(own.axis, its.axis),
      along: ratio(own.length, its.length),
      across: ratio(own.radius, its.radius),
    })
  })
  const any = maps.find((m) => m !== null)!
  return maps.map((m) => m ?? any)
}

/** Where each bone starts, which way it goes and how long, and how thick the body is about it. */
function shapesOfBones({ model, landmarks, jointLandmarks }: PreparedBody, others: ReadonlyMap<string, number>) {
  const { positions, joints, weights } = model.mesh
  const jointAt = (b: number) => new Vector3().fromArray(landmarks, jointLandmarks[b]! * 3)
  const held = model.bones.map(() => [] as number[])
  for (let p = 0; p < positions.length / 3; p++)
    for (let k = 0; k < 4; k++) if (weights[p * 4 + k]! > 0.5) held[joints[p * 4 + k]!]!.push(p)
  return model.bones.map((bone, b) => {
    const joint = jointAt(b)
    const below = [...model.bones.keys()].filter(
      (i) => model.bones[i]!.parent === bone.name && others.has(model.bones[i]!.name),
    )
    const points = held[b]!.map((p) => new Vector3().fromArray(positions, p * 3))
    const middle = (list: readonly Vector3[]) =>
      list.reduce((sum, v) => sum.add(v), new Vector3()).divideScalar(list.length || 1)
    // bones that branch (hips, a chest) go to the middle of what hangs from them; the last of a chain to what it holds
    const tip = below.length ? middle(below.map(jointAt)) : points.length ? middle(points) : joint.clone()
    const axis = tip.sub(joint)
    const length = axis.length()
    if (length > 1e-5) axis.divideScalar(length)
    else axis.set(0, 1, 0)
    const across = points.map((p) => {
      const off = p.sub(joint)
      return Math.sqrt(Math.max(0, off.lengthSq() - off.dot(axis) ** 2))
    })
    return { joint, axis, length, radius: across.reduce((s, r) => s + r, 0) / (across.length || 1) }
  })
}

/** Points as their bones carry them, by shares. */
function carried(
  positions: Float32Array,
  { joints, weights }: Pick<BoundPart, 'joints' | 'weights'>,
  bones: readonly BoneMap[],
): Float32Array {
  const out = new Float32Array(positions.length)
  const [at, sum, along] = [new Vector3(), new Vector3(), new Vector3()]
  for (let p = 0; p < positions.length / 3; p++) {
    sum.set(0, 0, 0)
    let all = 0
    for (let k = 0; k < 4; k++) {
      const w = weights[p * 4 + k]!
      // bones that a part brings are none of the body's
      const map = w > 0 ? bones[joints[p * 4 + k]!] : undefined
      if (!map) continue
      at.fromArray(positions, p * 3).sub(map.from)
      along.copy(map.axis).multiplyScalar(at.dot(map.axis))
      at.sub(along).multiplyScalar(map.across).addScaledVector(along, map.along)
      at.applyQuaternion(map.turn).add(map.to)
      sum.addScaledVector(at, w)
      all += w
    }
    sum.multiplyScalar(1 / (all || 1)).toArray(out, p * 3)
  }
  return out
}

/** The first body's points, roughly on the other one, brought onto its surface. */
function registered(roughly: Float32Array, from: PreparedBody, to: PreparedBody): Float32Array {
  const out = roughly.slice()
  const count = out.length / 3
  const bonesOf = sharesByName(from)
  const theirs = sharesByName(to)
  const mine = Array.from({ length: count }, (_, p) => bonesOf(p))
  const faceBones = Array.from({ length: to.triangles.length / 3 }, (_, t) => {
    const names = new Set<string>()
    for (let k = 0; k < 3; k++) for (const name of theirs(to.triangles[t * 3 + k]!)) names.add(name)
    return names
  })
  const faceNormals = Array.from({ length: to.triangles.length / 3 }, (_, t) =>
    triangleNormal(
      to.model.mesh.positions,
      ...([0, 1, 2].map((k) => to.triangles[t * 3 + k]!) as [number, number, number]),
    ),
  )
  for (const passes of ROUNDS) {
    const normals = pointNormals(out, from.triangles)
    const open = new Float32Array(out.length)
    const known = new Uint8Array(count)
    for (let p = 0; p < count; p++) {
      const accept = (t: number) => {
        const n = faceNormals[t]!
        const facing = n[0] * normals[p * 3]! + n[1] * normals[p * 3 + 1]! + n[2] * normals[p * 3 + 2]!
        return facing > FACING && mine[p]!.some((name) => faceBones[t]!.has(name))
      }
      const place = to.surface.nearest(out[p * 3]!, out[p * 3 + 1]!, out[p * 3 + 2]!, Infinity, accept)
      if (!place) continue
      known[p] = 1
      for (let k = 0; k < 3; k++) open[p * 3 + k] = place.point[k]! - out[p * 3 + k]!
    }
    smooth(open, from.neighbours, passes, known)
    for (let i = 0; i < out.length; i++) out[i]! += open[i]!
  }
  return out
}

/** The names of the bones that hold a point. */
function sharesByName({ model }: PreparedBody): (point: number) => string[] {
  const { joints, weights } = model.mesh
  return (p) =>
    [0, 1, 2, 3].flatMap((k) => (weights[p * 4 + k]! >= SHARED ? [model.bones[joints[p * 4 + k]!]!.name] : []))
}

/** Each row becomes the mean of itself and its neighbours, as often as said; rows that are not known only take. */
function smooth(rows: Float32Array, { starts, items }: Packed, passes: number, known?: Uint8Array): void {
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

/**
 * Gives small pieces and those on one bone back their form: the similarity that lies nearest to where their points went.
 *
 * @returns the piece of each point where it keeps its form, -1 elsewhere; and how each point's moves turn
 */
function keepForms(
  bound: BoundPart,
  positions: Float32Array,
  { pieceOf, count }: { pieceOf: Uint32Array; count: number },
  fromHeight: number,
  toHeight: number,
) {
  const { rest, joints, weights } = bound
  const usual = Math.sqrt(toHeight / fromHeight)
  const members: number[][] = Array.from({ length: count }, () => [])
  pieceOf.forEach((piece, p) => members[piece]!.push(p))
  const stays = new Int32Array(pieceOf.length).fill(-1)
  const turns = new Float32Array(pieceOf.length * 4)
  for (let p = 0; p < pieceOf.length; p++) turns.set([0, 0, 0, 1], p * 4)
  const scales = new Float32Array(pieceOf.length).fill(usual)
  for (const [piece, points] of members.entries()) {
    const { min, max } = boundsOf(points.flatMap((p) => [...rest.subarray(p * 3, p * 3 + 3)]))
    const small = Math.hypot(...max.map((v, k) => v - min[k]!)) < KEPT.size * fromHeight
    const sums = new Map<number, number>()
    for (const p of points)
      for (let k = 0; k < 4; k++)
        sums.set(joints[p * 4 + k]!, (sums.get(joints[p * 4 + k]!) ?? 0) + weights[p * 4 + k]!)
    const onOne = Math.max(...sums.values()) >= KEPT.onBone * points.length
    if (points.length < 4 || !(small || onOne)) continue
    const fit = similarity(points, rest, positions, usual)
    for (const p of points) {
      stays[p] = piece
      fit.apply(rest, positions, p)
      turns.set(fit.turn.toArray(), p * 4)
      scales[p] = fit.scale
    }
  }
  // a quaternion's length says how much is grown
  for (let p = 0; p < pieceOf.length; p++) for (let k = 0; k < 4; k++) turns[p * 4 + k]! *= Math.sqrt(scales[p]!)
  return { pieceOf: stays, turns }
}

/** The similarity nearest to where points went, by least squares (Umeyama 1991; the turn by Newton's iteration for the polar factor). */
function similarity(points: readonly number[], rest: Float32Array, went: Float32Array, usual: number) {
  const mean = (list: Float32Array) =>
    points.reduce((s, p) => s.add(new Vector3().fromArray(list, p * 3)), new Vector3()).divideScalar(points.length)
  const [a, b] = [mean(rest), mean(went)]
  const m = new Matrix3().set(0, 0, 0, 0, 0, 0, 0, 0, 0)
  let spread = 0
  const [p, q] = [new Vector3(), new Vector3()]
  for (const i of points) {
    p.fromArray(rest, i * 3).sub(a)
    q.fromArray(went, i * 3).sub(b)
    spread += p.lengthSq()
    const [x, y] = [p.toArray(), q.toArray()]
    for (let r = 0; r < 3; r++) for (let c = 0; c < 3; c++) m.elements[c * 3 + r]! += y[r]! * x[c]!
  }
  const turn = polarTurn(m)
  // what was stretched is told by how far it went along the turn
  let along = 0
  for (const i of points) {
    p.fromArray(rest, i * 3)
      .sub(a)
      .applyQuaternion(turn)
    along += p.dot(q.fromArray(went, i * 3).sub(b))
  }
  const wanted = spread > 1e-12 ? along / spread : usual
  const scale = Math.min(usual * (1 + KEPT.scale), Math.max(usual * (1 - KEPT.scale), wanted))
  return {
    turn,
    scale,
    apply(from: Float32Array, to: Float32Array, i: number) {
      p.fromArray(from, i * 3)
        .sub(a)
        .applyQuaternion(turn)
        .multiplyScalar(scale)
        .add(b)
        .toArray(to, i * 3)
    },
  }
}

/** The turn in a matrix: none where it has no volume to tell it by. */
function polarTurn(m: Matrix3): Quaternion {
  const size = Math.max(...m.elements.map(Math.abs))
  const x = m.clone().multiplyScalar(1 / (size || 1))
  if (!(x.determinant() > 1e-9)) return new Quaternion()
  for (let i = 0; i < 30; i++) {
    const inverse = x.clone().invert().transpose()
    for (let e = 0; e < 9; e++) x.elements[e] = (x.elements[e]! + inverse.elements[e]!) / 2
  }
  const e = x.elements
  // trace method, from the columns of the matrix
  const [m00, m10, m20, m01, m11, m21, m02, m12, m22] = e as unknown as number[] & { length: 9 }
  const w = Math.sqrt(Math.max(0, 1 + m00! + m11! + m22!)) / 2
  const qx = (Math.sqrt(Math.max(0, 1 + m00! - m11! - m22!)) / 2) * Math.sign(m21! - m12! || 1)
  const qy = (Math.sqrt(Math.max(0, 1 - m00! + m11! - m22!)) / 2) * Math.sign(m02! - m20! || 1)
  const qz = (Math.sqrt(Math.max(0, 1 - m00! - m11! + m22!)) / 2) * Math.sign(m10! - m01! || 1)
  return new Quaternion(qx, qy, qz, w).normalize()
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

/** Pushes a part out of the new body to where it lay off the old one, small gaps at least; pieces that keep their form go as one. */
function pushOut(
  bound: BoundPart,
  positions: Float32Array,
  from: PreparedBody,
  to: PreparedBody,
  keeps: Int32Array,
): void {
  const count = positions.length / 3
  const neighbours = pointNeighbours(bound.triangles, count)
  const kept = GAP.kept * to.scale
  const wanted = Float32Array.from({ length: count }, (_, p) => Math.min(kept, offSurface(from, bound.rest, p).far))
  const moves = new Float32Array(positions.length)
  const sizes = new Map<number, number>()
  for (const piece of keeps) sizes.set(piece, (sizes.get(piece) ?? 0) + 1)
  for (let round = 0; round < GAP.rounds; round++) {
    moves.fill(0)
    // a piece that keeps its form goes by the mean of what all of its points want
    const byPiece = new Map<number, number[]>()
    for (let p = 0; p < count; p++) {
      if (wanted[p]! <= 0) continue
      const { far, out } = offSurface(to, positions, p)
      const short = wanted[p]! - far
      if (short <= 0 || far < -GAP.deepest * to.scale) continue
      for (let k = 0; k < 3; k++) moves[p * 3 + k] = out[k]! * short
      if (keeps[p]! < 0) continue
      const piece = byPiece.get(keeps[p]!) ?? [0, 0, 0]
      for (let k = 0; k < 3; k++) piece[k]! += (out[k]! * short) / sizes.get(keeps[p]!)!
      byPiece.set(keeps[p]!, piece)
    }
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

/** What has got into the body: deeper than it was, and no deeper than a side can be told (metres of a grown person). */
const isWithin = (now: number, before: number, scale: number) =>
  now < -WITHIN.from * scale && now > -WITHIN.to * scale && now < before - WITHIN.from * scale
const WITHIN = { from: 0.003, to: 0.06 }

function reportOn(bound: BoundPart, positions: Float32Array, from: PreparedBody, to: PreparedBody): RefitReport {
  const { rest, triangles } = bound
  const count = positions.length / 3
  const usual = Math.sqrt(heightOf(to) / heightOf(from))
  const doubtful = new Set<number>()
  const length = (list: Float32Array, a: number, b: number) =>
    Math.hypot(...[0, 1, 2].map((k) => list[a * 3 + k]! - list[b * 3 + k]!))
  for (let t = 0; t < triangles.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const [a, b] = [triangles[t + k]!, triangles[t + ((k + 1) % 3)]!]
      const ratio = length(positions, a, b) / (usual * Math.max(1e-6, length(rest, a, b)))
      if (ratio > 2 || ratio < 0.5) doubtful.add(a).add(b)
    }
  let [within, sum, most] = [0, 0, 0]
  for (let p = 0; p < count; p++) {
    const far = Math.hypot(...[0, 1, 2].map((k) => positions[p * 3 + k]! - rest[p * 3 + k]!))
    sum += far
    most = Math.max(most, far)
    const [before, now] = [offSurface(from, rest, p).far, offSurface(to, positions, p).far]
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
      const [skin, worn] = [new Float32Array(model.mesh.positions.length), new Float32Array(bound.rest.length)]
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
