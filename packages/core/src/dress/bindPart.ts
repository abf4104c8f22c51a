import { Matrix4, Vector3 } from 'three'
import { NearestFew } from '../base/NearestFew.ts'
import { packFollowing, type Following } from '../body/followers.ts'
import { halfOf, halvesOf } from '../body/halves.ts'
import { mlsWeights } from '../body/mlsWeights.ts'
import type { PreparedBody } from '../body/PreparedBody.ts'
import { seamArea } from '../body/seams.ts'
import type { PartBone, PartModel } from '../kit/Kit.ts'
import { pointNeighbours, type Packed } from '../mesh/adjacency.ts'
import { pointTriangles, type Morph } from '../mesh/Mesh.ts'
import { pointNormals, triangleNormal, triangleNormals } from '../mesh/normals.ts'
import type { NearestPlace } from '../mesh/Surface.ts'
import { carriedTable, type CarriedTable } from './carriedTable.ts'
import { carrySkin, denseSkin, type DenseSkin } from './carrySkin.ts'
import { easeSkin } from './easeSkin.ts'
import { keepLegsApart } from './keepLegsApart.ts'
import { APART, joinSeam, type Joined } from './joinSeam.ts'
import { kept, type Codec } from './kept.ts'
import { PairMemory } from '../base/PairMemory.ts'
import { standingOut } from './spots.ts'
import { followWhole } from './followWhole.ts'
import { carryDelta, createTie, hangingOf, shareWithNeighbours, type Tie } from './tie.ts'

/** A part made to follow one body: worked out once a pair, used by every figure. */
export interface BoundPart {
  /** Of one that meets a seam: with its edge drawn on to it, if it had to be. */
  part: PartModel
  /** Where the part lies on the body's rest shape: xyz a point, metres. */
  rest: Float32Array
  /** Three points a triangle. */
  triangles: Uint32Array
  tie: Tie
  /** Moves the part makes of its own where the tie would make others, by the delta's name. */
  own: ReadonlyMap<string, Morph>
  /** Four bones a point: the body's by their numbers, the part's own after them. */
  joints: Uint16Array
  weights: Float32Array
  /** The bones the part brings, where they stand on the body's rest shape. */
  bones: PartBone[]
  /** How the joints of these bones follow the body; null without any. */
  jointTie: Tie | null
  /** Distance to the body in the rest shape, metres; how freely the point hangs. */
  distances: Float32Array
  /** How it meets its seam; null where it has none, or does not. */
  joined: Joined | null
}

/** A point this far from a grown person's body follows its neighbours more than the surface below it, metres. */
const HANGING = 0.035
const NEIGHBOURS = 14

const bound = new WeakMap<PreparedBody, WeakMap<PartModel, BoundPart>>()

export function bindPart(body: PreparedBody, part: PartModel): BoundPart {
  let parts = bound.get(body)
  if (!parts) bound.set(body, (parts = new WeakMap()))
  let ready = parts.get(part)
  if (!ready) {
    ready = part.def.how === 'attached' ? bindAttached(body, part) : bindToSurface(body, part)
    parts.set(part, ready)
  }
  return ready
}

const riders = new PairMemory<PartModel, BoundPart, BoundPart>()

/** A part that sits on a spot of another, as a button on a coat: it goes where that spot goes. */
export function bindRider(body: PreparedBody, part: PartModel, host: BoundPart): BoundPart {
  return riders.get(part, host, () => bindAttached(body, part, seatOnPart(body, part.spot!, host)))
}

/** The part's delta for one of the body's. */
export function deltaOf(bound: BoundPart, delta: Morph): Morph {
  if (bound.own.size === 0) return carryDelta(bound.tie, delta)
  const half = halfOf(delta)
  const own = bound.own.get(half?.whole ?? delta.name)
  if (!own) return carryDelta(bound.tie, delta)
  return half ? halvesOf({ positions: bound.rest }, own, half.fade)[half.side] : own
}

type Place = readonly [number, number, number]
interface Row {
  sources: number[]
  weights: number[]
}

/**
 * Ties every point of a worn part to the body's surface: to the nearest place that faces the same
 * way, in the regions the part says it follows, and from there to the points around it by moving
 * least squares. Because the tie is linear, the body's sliders become sliders of the part.
 * Points that hang free (a coat's skirt) share their ties with their neighbours.
 */
function bindToSurface(body: PreparedBody, given: PartModel): BoundPart {
  const joined = joinSeam(body, given)
  const part = joined?.part ?? given
  const { mesh } = part
  const triangles = pointTriangles(mesh)
  const tied = kept(body, 'tie', [part.hash], TIED, () =>
    part.def.how === 'replaces' && part.def.fit === 'shape'
      ? tieToShape(body, part, triangles, joined)
      : tieToSurface(body, part, triangles, joined),
  )
  const { neighbours, share, joints, weights, distances, rows } = tied
  return {
    part,
    rest: mesh.positions,
    triangles,
    tie: createTie(
      body.model.mesh.positions.length / 3,
      rows,
      neighbours,
      share,
      carriedTable(body, 'carried', [part.hash]),
    ),
    own: ownDeltas(part),
    joints,
    weights,
    ...tieBones(body, part),
    distances,
    joined,
  }
}

/** What binding works out, as far as it is worth keeping. */
interface Tied extends Pick<BoundPart, 'joints' | 'weights' | 'distances'> {
  rows: Following
  neighbours: Packed
  share: Float32Array
}

const TIED: Codec<Tied> = {
  to: ({ rows, neighbours, ...rest }) => ({
    ...rest,
    rowStarts: rows.starts,
    rowSources: Uint16Array.from(rows.sources),
    rowWeights: rows.weights,
    nearStarts: neighbours.starts,
    nearItems: Uint16Array.from(neighbours.items),
  }),
  from: (a) => ({
    joints: a.joints as Uint16Array,
    weights: a.weights as Float32Array,
    distances: a.distances as Float32Array,
    share: a.share as Float32Array,
    rows: {
      starts: a.rowStarts as Uint32Array,
      // no model has more points than sixteen bits count (kit/readModel.ts)
      sources: Uint32Array.from(a.rowSources!),
      weights: a.rowWeights as Float32Array,
    },
    neighbours: { starts: a.nearStarts as Uint32Array, items: Uint32Array.from(a.nearItems!) },
  }),
}

function tieToSurface(body: PreparedBody, part: PartModel, triangles: Uint32Array, joined: Joined | null): Tied {
  const { mesh } = part
  const { mesh: skin, def } = body.model
  const count = mesh.positions.length / 3
  const normals = pointNormals(mesh.positions, triangles)
  const binds = part.def.how === 'worn' && part.def.binds?.length ? new Set(part.def.binds) : null
  const allowed = (t: number) => !binds || binds.has(def.regions[body.regionOf[t]!]?.id ?? '')
  const seam = part.def.how === 'replaces' && !joined ? (seamArea(body, part.def.seam)?.loop ?? []) : []

  const rows: Row[] = []
  const distances = new Float32Array(count)
  const dense = denseSkin(count, body.model.bones.length, part.bones.length)
  for (let p = 0; p < count; p++) {
    const at = placeOf(mesh.positions, p)
    const onSeam = joined ? joined.weld[p]! : (seam.find((s) => distanceTo(skin.positions, s, at) < 1e-4) ?? APART)
    if (onSeam !== APART) {
      rows.push({ sources: [onSeam], weights: [1] })
      carrySkin(dense, p, skin, [onSeam], [1])
      continue
    }
    const facing = (t: number) => {
      const n = normalOf(body, t)
      return n[0] * normals[p * 3]! + n[1] * normals[p * 3 + 1]! + n[2] * normals[p * 3 + 2]!
    }
    const place = nearestFacing(body, at, allowed, facing)
    distances[p] = place.distance
    const corners = cornersOf(body, place.triangle)
    rows.push(surfaceRow(body, at, place, corners))
    carrySkin(dense, p, skin, corners, place.weights)
  }
  const neighbours = pointNeighbours(triangles, count)
  const reach = HANGING * body.scale
  const share = Float32Array.from(distances, (d) => Math.min(0.9, Math.max(0, (d - reach) / (3 * reach))))
  const hanging = hangingOf(neighbours, share)
  if (hanging) shareWithNeighbours(dense.shares, dense.stride, hanging)
  if (part.def.how === 'worn') {
    keepLegsApart(body, mesh.positions, triangles, dense)
    easeSkin(dense, mesh.positions, neighbours, body.scale)
  }
  const skinned = ownSkin(body, part) ?? dense.strongest(mesh)
  return { rows: packFollowing(rows), neighbours, share, ...skinned, distances }
}

/** The skin a part's model came with, by the body's bones; null where it has none, or the body lacks one of them. */
function ownSkin(body: PreparedBody, { skin, mesh }: PartModel): Pick<BoundPart, 'joints' | 'weights'> | null {
  if (!skin || mesh.weights.some((w) => w > 0)) return null
  const index = new Map(body.model.bones.map((b, i) => [b.name, i]))
  const boneOf = skin.names.map((name) => index.get(name))
  if (skin.weights.some((w, i) => w > 0 && boneOf[skin.joints[i]!] === undefined)) return null
  for (let p = 0; p < skin.weights.length; p += 4) if (skin.weights[p] === 0) return null
  return { joints: skin.joints.map((j, i) => (skin.weights[i]! > 0 ? boneOf[j]! : 0)), weights: skin.weights }
}

const placeOf = (positions: ArrayLike<number>, p: number): Place => [
  positions[p * 3]!,
  positions[p * 3 + 1]!,
  positions[p * 3 + 2]!,
]

const normalsOf = new WeakMap<PreparedBody, Float32Array>()

function normalOf(body: PreparedBody, t: number): Place {
  let normals = normalsOf.get(body)
  if (!normals) normalsOf.set(body, (normals = triangleNormals(body.model.mesh.positions, body.triangles)))
  return placeOf(normals, t)
}

function surfaceRow(body: PreparedBody, at: Place, place: NearestPlace, corners: readonly number[]): Row {
  const { positions } = body.model.mesh
  const ring = ringOf(body, place.triangle, corners)
  const few = new NearestFew(NEIGHBOURS)
  for (let i = 0; i < ring.length; i++) few.offer(ring[i]!, distanceTo(positions, ring[i]!, place.point))
  const { numbers: sources, far } = few
  const width = Math.max(far[Math.min(5, far.length - 1)]!, place.distance * 0.8, 1e-4)
  return { sources, weights: mlsWeights(at, positions, sources, width) }
}

/** Morph targets of the part's own model stand for the body's of the same name. */
function ownDeltas({ mesh }: PartModel): ReadonlyMap<string, Morph> {
  return new Map(mesh.morphs.map((m) => [m.name, m]))
}

/** The part's bones follow the surface nearest to their joints. */
function tieBones(body: PreparedBody, part: PartModel): Pick<BoundPart, 'bones' | 'jointTie'> {
  if (part.bones.length === 0) return { bones: [], jointTie: null }
  const { bones, mesh } = body.model
  const { rows, corners } = kept(body, 'bones', [part.hash], JOINTED, () => {
    const near = part.bones.map(({ at }) => body.surface.nearest(...at)!)
    return {
      rows: packFollowing(
        near.map((place, i) => surfaceRow(body, part.bones[i]!.at, place, cornersOf(body, place.triangle))),
      ),
      corners: Uint32Array.from(near, ({ triangle }) => cornersOf(body, triangle)[0]!),
    }
  })
  const cornerOf = new Map(part.bones.map((bone, i) => [bone, corners[i]!]))
  const under = (bone: PartBone) => bones[mesh.joints[cornerOf.get(bone)! * 4]!]!.name
  return {
    bones: hungFrom(body, part, under),
    jointTie: plainTie(body, rows, carriedTable(body, 'carried joints', [part.hash])),
  }
}

/** How the joints of a part's bones follow the body, and a point of the body next to each. */
const JOINTED: Codec<{ rows: Following; corners: Uint32Array }> = {
  to: ({ rows, corners }) => ({ ...rows, corners }),
  from: ({ starts, sources, weights, corners }) => ({
    rows: { starts: starts as Uint32Array, sources: sources as Uint32Array, weights: weights as Float32Array },
    corners: corners as Uint32Array,
  }),
}

/** A tie in which every row stands by itself. */
function plainTie(body: PreparedBody, rows: Following, table: CarriedTable | null = null): Tie {
  const count = rows.starts.length - 1
  const nobody = { starts: new Uint32Array(count + 1), items: new Uint32Array(0) }
  const points = body.model.mesh.positions.length / 3
  return createTie(points, rows, nobody, new Float32Array(count), table)
}

/** Nearest allowed place that faces the same way; failing that, the nearest allowed; failing that, the nearest. */
function nearestFacing(
  body: PreparedBody,
  at: Place,
  allowed: (t: number) => boolean,
  facing: (t: number) => number,
): NearestPlace {
  const [x, y, z] = at
  const any = body.surface.nearest(x, y, z, Infinity, allowed) ?? body.surface.nearest(x, y, z)!
  if (facing(any.triangle) > 0.2) return any
  // a lining or a rim faces away from the surface it lies on: only a near match is worth a detour
  const far = any.distance * 1.6 + 0.01 * body.scale
  return body.surface.nearest(x, y, z, far, (t) => allowed(t) && facing(t) > 0.2) ?? any
}

function distanceTo(positions: ArrayLike<number>, p: number, at: readonly number[]): number {
  const x = positions[p * 3]! - at[0]!
  const y = positions[p * 3 + 1]! - at[1]!
  const z = positions[p * 3 + 2]! - at[2]!
  return Math.sqrt(x * x + y * y + z * z)
}

const rings = new WeakMap<PreparedBody, Map<number, number[]>>()

/** The corners of a triangle of the body and the points within two edges of them. */
function ringOf(body: PreparedBody, triangle: number, corners: readonly number[]): number[] {
  let known = rings.get(body)
  if (!known) rings.set(body, (known = new Map()))
  let ring = known.get(triangle)
  if (!ring) {
    const { starts, items } = body.neighbours
    const found = new Set(corners)
    for (let round = 0; round < 2; round++)
      for (const p of [...found]) for (let i = starts[p]!; i < starts[p + 1]!; i++) found.add(items[i]!)
    known.set(triangle, (ring = [...found]))
  }
  return ring
}

/** Ties a part to what it replaces as a whole: see `followWhole`. */
function tieToShape(body: PreparedBody, part: PartModel, triangles: Uint32Array, joined: Joined | null): Tied {
  const { mesh, def, bones } = part
  const count = mesh.positions.length / 3
  const area = def.how === 'replaces' ? seamArea(body, def.seam) : null
  if (!area) return tieToSurface(body, part, triangles, joined)
  const dense = denseSkin(count, body.model.bones.length, bones.length)
  const rows = followWhole(body, area, part, joined, dense)
  return {
    rows: packFollowing(rows),
    neighbours: pointNeighbours(triangles, count),
    share: new Float32Array(count),
    ...dense.strongest(mesh),
    distances: new Float32Array(count).fill(1),
  }
}

/** Where an attached part sits: its origin, how it is turned, the points it follows and the bones it hangs on. */
interface Seat {
  at: Place
  turn: Matrix4 | null
  held: number[]
  /** How all of it follows the body, where that is settled. */
  whole?: Row
  skin: (dense: DenseSkin, point: number) => void
}

function seatOf(body: PreparedBody, { def, spot }: PartModel): Seat {
  if (spot) return seatOnSurface(body, spot)
  return seatAtSocket(body, def.how === 'attached' ? def.socket : '')
}

/**
 * A part on a socket is modeled about the socket and goes with the socket's bone; on a spot of the
 * surface it stands out along the normal and goes with the skin there. With fit `shape` it also
 * takes on the form of the body around: every delta's least-squares affine map of the points there.
 */
function bindAttached(body: PreparedBody, part: PartModel, seat = seatOf(body, part)): BoundPart {
  const { def, mesh } = part
  if (def.how !== 'attached') throw new TypeError(`${def.id} is not attached`)
  const triangles = pointTriangles(mesh)
  const count = mesh.positions.length / 3
  const seated = (positions: Float32Array, moves = false) => {
    const out = new Float32Array(positions.length)
    for (let i = 0; i < positions.length; i += 3) {
      const v = new Vector3().fromArray(positions, i)
      if (seat.turn) v.applyMatrix4(seat.turn)
      if (!moves) v.add(new Vector3(...seat.at))
      v.toArray(out, i)
    }
    return out
  }
  const rest = seated(mesh.positions)
  const { positions } = body.model.mesh
  const followAt = (place: Place) => rowAt(positions, seat, place)
  const whole = seat.whole ?? followAt(seat.at)
  const rigid = def.fit === 'rigid' || seat.whole
  const rows = Array.from({ length: count }, (_, p) => (rigid ? whole : followAt(placeOf(rest, p))))
  const dense = denseSkin(count, body.model.bones.length, part.bones.length)
  for (let p = 0; p < count; p++) seat.skin(dense, p)
  const bones = hungFrom(body, part, () => boneUnder(seat, body)).map((bone) => ({
    ...bone,
    at: [...placeOf(seated(Float32Array.from(bone.at)), 0)] as [number, number, number],
  }))
  return {
    part,
    rest,
    triangles,
    tie: plainTie(body, packFollowing(rows)),
    own: new Map(mesh.morphs.map((m) => [m.name, { ...m, deltas: seated(m.deltas, true) }])),
    ...dense.strongest(mesh),
    bones,
    jointTie: bones.length ? plainTie(body, packFollowing(bones.map(() => whole))) : null,
    distances: new Float32Array(count).fill(1),
    joined: null,
  }
}

/**
 * A part's bones, the first of them hung from a bone that the body has: the one the kit names, or what the part sits on
 * where there is none of that name, or where hands have put it elsewhere.
 */
function hungFrom(body: PreparedBody, { bones, spot }: PartModel, under: (bone: PartBone) => string): PartBone[] {
  const own = new Set(bones.map((b) => b.name))
  const has = new Set(body.model.bones.map((b) => b.name))
  const stays = (parent: string | null) => parent !== null && (own.has(parent) || (!spot && has.has(parent)))
  return bones.map((bone) => (stays(bone.parent) ? bone : { ...bone, parent: under(bone) }))
}

/** The bone on which most of what sits there hangs. */
function boneUnder(seat: Seat, { model }: PreparedBody): string {
  const dense = denseSkin(1, model.bones.length, 0)
  seat.skin(dense, 0)
  const { joints } = dense.strongest({ joints: new Uint16Array(4), weights: new Float32Array(4) })
  return model.bones[joints[0]!]!.name
}

function seatAtSocket(body: PreparedBody, id: string): Seat {
  const { model } = body
  const socket = model.def.sockets.find((s) => s.id === id)
  if (!socket) throw new TypeError(`${model.def.id} has no socket ${id}`)
  const bone = model.bones.findIndex((b) => b.name === socket.bone)
  const { joints, weights, positions } = model.mesh
  const all = Array.from({ length: positions.length / 3 }, (_, p) => p)
  const held = all.filter((p) => joints[p * 4] === bone && weights[p * 4]! > 0.5)
  return {
    at: socket.at,
    turn: null,
    held: held.length >= 4 ? held : all,
    skin: (dense, p) => dense.add(p, bone, 1),
  }
}

/** How a place goes by the points of the body that a seat holds on to. */
function rowAt(positions: Float32Array, { held }: Seat, place: Place): Row {
  const width = held.reduce((s, p) => s + distanceTo(positions, p, place), 0) / held.length
  return { sources: held, weights: mlsWeights(place, positions, held, Math.max(width, 1e-3)) }
}

const socketRows = new WeakMap<PreparedBody, Row[]>()

/**
 * Where the sockets of a body are once it is shaped: xyz a socket, metres.
 *
 * @param shaped xyz a point of the body
 */
export function socketPlaces(body: PreparedBody, shaped: Float32Array): [number, number, number][] {
  const { def, mesh } = body.model
  let rows = socketRows.get(body)
  if (!rows)
    socketRows.set(body, (rows = def.sockets.map(({ id, at }) => rowAt(mesh.positions, seatAtSocket(body, id), at))))
  return def.sockets.map(({ at }, s) => {
    const { sources, weights } = rows[s]!
    return at.map((v, k) =>
      sources.reduce((sum, p, i) => sum + weights[i]! * (shaped[p * 3 + k]! - mesh.positions[p * 3 + k]!), v),
    ) as [number, number, number]
  })
}

type Spot = NonNullable<PartModel['spot']>

const pointOn = (positions: ArrayLike<number>, corners: readonly number[], shares: readonly number[]): Place =>
  [0, 1, 2].map((k) => corners.reduce((s, c, i) => s + shares[i]! * positions[c * 3 + k]!, 0)) as unknown as Place

function seatOnSurface(body: PreparedBody, { triangle, shares }: Spot): Seat {
  const corners = cornersOf(body, triangle)
  return {
    at: pointOn(body.model.mesh.positions, corners, shares),
    turn: standingOut(normalOf(body, triangle)),
    held: ringOf(body, triangle, corners),
    skin: (dense, p) => carrySkin(dense, p, body.model.mesh, corners, shares),
  }
}

/** On a part it follows the body as the spot there does, and hangs on the bones that the spot hangs on. */
function seatOnPart(body: PreparedBody, { triangle, shares }: Spot, host: BoundPart): Seat {
  const corners = cornersOf(host, triangle)
  const { starts, sources, weights } = host.tie.following
  const sums = new Map<number, number>()
  corners.forEach((c, i) => {
    for (let n = starts[c]!; n < starts[c + 1]!; n++)
      sums.set(sources[n]!, (sums.get(sources[n]!) ?? 0) + shares[i]! * weights[n]!)
  })
  const at = pointOn(host.rest, corners, shares)
  const [a, b, c] = corners as [number, number, number]
  // the bones of the host are its own affair: what hangs on them alone goes with the skin below
  const bones = body.model.bones.length
  const onBody = corners.some((p) =>
    [0, 1, 2, 3].some((j) => host.joints[p * 4 + j]! < bones && host.weights[p * 4 + j]! > 0),
  )
  const below = onBody ? null : body.surface.nearest(...at)!
  return {
    at,
    turn: standingOut(triangleNormal(host.rest, a, b, c).slice(0, 3) as unknown as Place),
    held: [],
    whole: { sources: [...sums.keys()], weights: [...sums.values()] },
    skin: (dense, p) => {
      if (below) carrySkin(dense, p, body.model.mesh, cornersOf(body, below.triangle), below.weights)
      else carrySkin(dense, p, withoutBonesFrom(host, bones), corners, shares)
    },
  }
}

/** A skin without what hangs on bones from a number on. */
const withoutBonesFrom = ({ joints, weights }: BoundPart, bones: number) => ({
  joints,
  weights: weights.map((w, i) => (joints[i]! < bones ? w : 0)),
})

/** The three points of a triangle. */
export function cornersOf({ triangles }: { triangles: Uint32Array }, triangle: number): number[] {
  return [0, 1, 2].map((k) => triangles[triangle * 3 + k]!)
}
