import { followDelta, isFollowed, sparseMorph, type Following } from '../body/followers.ts'
import type { Packed } from '../mesh/adjacency.ts'
import type { Morph } from '../mesh/Mesh.ts'

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
export function createTie(sources: number, following: Following, neighbours: Packed, share: Float32Array): Tie {
  return { sources, following, hanging: hangingOf(neighbours, share), known: new WeakMap() }
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
    carried = isFollowed(tie.following, tie.sources, delta) ? carry(tie, delta) : { ...NOWHERE, name: delta.name }
    tie.known.set(delta, carried)
  }
  return carried
}

const NOWHERE: Omit<Morph, 'name'> = { points: new Uint32Array(0), deltas: new Float32Array(0) }

function carry(tie: Tie, delta: Morph): Morph {
  const moves = followDelta(tie.following, tie.sources, delta)
  if (tie.hanging) shareWithNeighbours(moves, 3, tie.hanging)
  return sparseMorph(delta.name, moves)
}

/**
 * Draws each free row towards the mean of its neighbours by its own share, a few rounds (Jacobi). A small move is
 * shared by few: rows are taken in as it reaches them.
 */
export function shareWithNeighbours(values: Float32Array, stride: number, hanging: Hanging): void {
  const { neighbours, share, free, placeOf } = hanging
  const { starts, items } = neighbours
  const next = new Float32Array(free.length * stride)
  const { columns, rows: live } = usedOf(values, stride)
  const front = new Uint32Array(free.length)
  const taken = new Uint8Array(free.length)
  let count = 0
  const takeAround = (p: number) => {
    const own = placeOf[p]!
    if (own >= 0 && !taken[own]) {
      taken[own] = 1
      front[count++] = own
    }
    for (let i = starts[p]!; i < starts[p + 1]!; i++) {
      const at = placeOf[items[i]!]!
      if (at < 0 || taken[at]) continue
      taken[at] = 1
      front[count++] = at
    }
  }
  for (let p = 0; p < live.length; p++) if (live[p]) takeAround(p)
  for (let round = 0; round < ROUNDS; round++) {
    const reached = count
    for (let n = 0; n < reached; n++) {
      const at = front[n]!
      const p = free[at]!
      const from = starts[p]!
      const to = starts[p + 1]!
      const s = share[p]!
      const part = s / (to - from)
      if (stride === 3) {
        // moves, which a hand waits for: three sums at once
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
        continue
      }
      for (const k of columns) {
        let sum = 0
        for (let i = from; i < to; i++) sum += values[items[i]! * stride + k]!
        next[at * stride + k] = values[p * stride + k]! * (1 - s) + sum * part
      }
    }
    for (let n = 0; n < reached; n++) {
      const at = front[n]!
      const p = free[at]!
      if (stride === 3) {
        values[p * 3] = next[at * 3]!
        values[p * 3 + 1] = next[at * 3 + 1]!
        values[p * 3 + 2] = next[at * 3 + 2]!
      } else for (const k of columns) values[p * stride + k] = next[at * stride + k]!
      if (live[p]) continue
      live[p] = 1
      takeAround(p)
    }
  }
}

/** The columns and rows of a table in which anything stands; of a table of bones most columns are empty. */
function usedOf(values: Float32Array, stride: number): { columns: number[]; rows: Uint8Array } {
  const used = new Uint8Array(stride)
  const rows = new Uint8Array(values.length / stride)
  for (let row = 0, i = 0; row < rows.length; row++)
    for (let k = 0; k < stride; k++, i++)
      if (values[i] !== 0) {
        used[k] = 1
        rows[row] = 1
      }
  return { columns: [...used.keys()].filter((k) => used[k]), rows }
}
