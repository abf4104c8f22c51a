import { roomFor } from '../base/room.ts'
import { followDelta, isFollowed, sparseMorph, type Following } from '../body/followers.ts'
import type { Packed } from '../mesh/adjacency.ts'
import type { Morph } from '../mesh/Mesh.ts'
import type { CarriedTable } from './carriedTable.ts'
import { usedColumns } from './carrySkin.ts'

/**
 * How a part follows a body: a linear operator from moves of the body's points to moves of the
 * part's, kept as the product of two sparse ones. Made once for a pair; any delta of the body
 * (slider, corrective, nudge, expression) goes through it.
 */
export interface Tie {
  /** How many points the body has. */
  sources: number
  /** Each point by the body's points around its place. */
  following: Following
  /** Points that hang free share their moves with their neighbours, round by round; null where none does. */
  hanging: Hanging | null
  /** What was worked out so far, by delta. */
  known: WeakMap<Morph, Morph>
  /** The same beyond this run; null where nothing is kept. */
  table: CarriedTable | null
}

export interface Hanging {
  neighbours: Packed
  /** 0: holds on to the body; towards 1: hangs from its neighbours; one a point. */
  share: Float32Array
  /** The points whose share is not zero. */
  free: Uint32Array
  /** Where each point stands among those; -1 where it does not. */
  placeOf: Int32Array
}

const ROUNDS = 12

/** @param share see `Hanging` */
export function createTie(
  sources: number,
  following: Following,
  neighbours: Packed,
  share: Float32Array,
  table: CarriedTable | null = null,
): Tie {
  return { sources, following, hanging: hangingOf(neighbours, share), known: new WeakMap(), table }
}

/** The points that hang and how; null where none does. */
export function hangingOf(neighbours: Packed, share: Float32Array): Hanging | null {
  const { starts } = neighbours
  const free = [...share.keys()].filter((p) => share[p]! > 0 && starts[p + 1]! > starts[p]!)
  if (free.length === 0) return null
  const placeOf = new Int32Array(share.length).fill(-1)
  free.forEach((p, at) => (placeOf[p] = at))
  return { neighbours, share, free: Uint32Array.from(free), placeOf }
}

/** The part's delta for one of the body's; the same object for the same delta. */
export function carryDelta(tie: Tie, delta: Morph): Morph {
  let carried = tie.known.get(delta)
  if (!carried) {
    carried = tie.table?.find(delta)
    if (!carried) {
      carried = isFollowed(tie.following, tie.sources, delta) ? carry(tie, delta) : { ...NOWHERE, name: delta.name }
      tie.table?.add(delta, carried)
    }
    tie.known.set(delta, carried)
  }
  return carried
}

const NOWHERE: Omit<Morph, 'name'> = { points: new Uint32Array(0), deltas: new Float32Array(0) }

/** Where moves are worked out, written over with every call: of all points, and of those that hang. */
let moves = new Float32Array(0)
let next = new Float32Array(0)
/** Which points a move has reached; of those that hang which are taken in, and in what order. */
let live = new Uint8Array(0)
let taken = new Uint8Array(0)
let front = new Uint32Array(0)

function carry(tie: Tie, delta: Morph): Morph {
  const points = tie.following.starts.length - 1
  moves = roomFor(moves, points * 3, Float32Array)
  followDelta(tie.following, tie.sources, delta, moves)
  if (tie.hanging) shareMoves(moves, tie.hanging)
  return sparseMorph(delta.name, moves, points)
}

/**
 * Draws each free row towards the mean of its neighbours by its own share, a few rounds (Jacobi).
 *
 * @param values so many numbers a point; those of the points that hold on stay as they are
 */
export function shareWithNeighbours(values: Float32Array, stride: number, hanging: Hanging): void {
  const points = values.length / stride
  // of a table of bones most columns are empty
  const used = usedColumns(values, stride)
  for (let k = 0; k < used.length; k += 3) {
    const three = used.slice(k, k + 3)
    moves = roomFor(moves, points * 3, Float32Array)
    for (let p = 0; p < points; p++) three.forEach((column, i) => (moves[p * 3 + i] = values[p * stride + column]!))
    shareMoves(moves, hanging)
    for (let p = 0; p < points; p++) three.forEach((column, i) => (values[p * stride + column] = moves[p * 3 + i]!))
  }
}

/** The same for three numbers a point. A small move is shared by few: rows are taken in as it reaches them. */
function shareMoves(values: Float32Array, hanging: Hanging): void {
  const { neighbours, share, free, placeOf } = hanging
  const { starts, items } = neighbours
  const points = placeOf.length
  next = roomFor(next, free.length * 3, Float32Array)
  front = roomFor(front, free.length, Uint32Array)
  taken = roomFor(taken, free.length, Uint8Array)
  live = roomFor(live, points, Uint8Array)
  let count = 0
  for (let p = 0, i = 0; p < points; p++, i += 3)
    if (values[i] !== 0 || values[i + 1] !== 0 || values[i + 2] !== 0) {
      live[p] = 1
      count = takeAround(hanging, p, count)
    }
  for (let round = 0; round < ROUNDS; round++) {
    const reached = count
    for (let n = 0; n < reached; n++) {
      const at = front[n]!
      const p = free[at]!
      const from = starts[p]!
      const to = starts[p + 1]!
      const s = share[p]!
      const part = s / (to - from)
      let x = 0
      let y = 0
      let z = 0
      for (let i = from; i < to; i++) {
        const q = items[i]! * 3
        x += values[q]!
        y += values[q + 1]!
        z += values[q + 2]!
      }
      next[at * 3] = values[p * 3]! * (1 - s) + x * part
      next[at * 3 + 1] = values[p * 3 + 1]! * (1 - s) + y * part
      next[at * 3 + 2] = values[p * 3 + 2]! * (1 - s) + z * part
    }
    for (let n = 0; n < reached; n++) {
      const at = front[n]!
      const p = free[at]!
      values[p * 3] = next[at * 3]!
      values[p * 3 + 1] = next[at * 3 + 1]!
      values[p * 3 + 2] = next[at * 3 + 2]!
      if (live[p] !== 0) continue
      live[p] = 1
      count = takeAround(hanging, p, count)
    }
  }
}

/** Takes in a point and its neighbours, as far as they hang; returns how many are taken in now. */
function takeAround({ neighbours: { starts, items }, placeOf }: Hanging, p: number, count: number): number {
  const own = placeOf[p]!
  if (own >= 0 && taken[own] === 0) {
    taken[own] = 1
    front[count++] = own
  }
  for (let i = starts[p]!; i < starts[p + 1]!; i++) {
    const at = placeOf[items[i]!]!
    if (at < 0 || taken[at] !== 0) continue
    taken[at] = 1
    front[count++] = at
  }
  return count
}
