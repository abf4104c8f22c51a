import type { Arrays } from '../base/Shelf.ts'
import { halfOf, halvesOf } from '../body/halves.ts'
import type { PreparedBody } from '../body/PreparedBody.ts'
import type { Morph } from '../mesh/Mesh.ts'

/** What deltas of a body come to on something tied to it, as far as it is known; kept on the body's shelf. */
export interface CarriedTable {
  /** Undefined where it is not known, or the delta is not one of the body's own. */
  find(delta: Morph): Morph | undefined
  add(delta: Morph, carried: Morph): void
}

type Moves = Pick<Morph, 'points' | 'deltas'>

/**
 * The table of one tie; null where the body has no shelf.
 *
 * @param hashes what the tie depends on besides the body
 */
export function carriedTable(body: PreparedBody, kind: string, hashes: readonly string[]): CarriedTable | null {
  const { shelf, model } = body
  if (!shelf) return null
  const key = [kind, model.hash, ...hashes].join(' ')
  const known = new Map<number, Moves>()
  const there = shelf.get(key)
  if (there) readInto(known, there)
  const read = () => written(known)
  return {
    find(delta) {
      const moves = known.get(codeOf(body, delta))
      return moves && { name: delta.name, ...moves }
    },
    add(delta, { points, deltas }) {
      const code = codeOf(body, delta)
      if (code < 0) return
      known.set(code, { points, deltas })
      // as long as all comes from the shelf, nothing grows
      shelf.grow(key, read)
    },
  }
}

/** Which of the body's own deltas it is: three a morph, the whole, its left and its right; -1 for any other (a nudge). */
function codeOf({ model: { mesh }, morphIndex }: PreparedBody, delta: Morph): number {
  const half = halfOf(delta)
  const index = morphIndex.get(half?.whole ?? delta.name)
  if (index === undefined) return -1
  const whole = mesh.morphs[index]!
  if (!half) return whole === delta ? index * 3 : -1
  return halvesOf(mesh, whole)[half.side] === delta ? index * 3 + (half.side === 'left' ? 1 : 2) : -1
}

function written(known: ReadonlyMap<number, Moves>): Arrays {
  const entries = [...known].sort(([a], [b]) => a - b)
  const starts = new Uint32Array(entries.length + 1)
  entries.forEach(([, { points }], i) => (starts[i + 1] = starts[i]! + points.length))
  // no model has more points than sixteen bits count (kit/readModel.ts)
  const points = new Uint16Array(starts[entries.length]!)
  const deltas = new Float32Array(points.length * 3)
  entries.forEach(([, moves], i) => {
    points.set(moves.points, starts[i])
    deltas.set(moves.deltas, starts[i]! * 3)
  })
  return { codes: Uint32Array.from(entries, ([code]) => code), starts, points, deltas }
}

function readInto(known: Map<number, Moves>, { codes, starts, points, deltas }: Arrays): void {
  for (let i = 0; i < codes!.length; i++) {
    const from = starts![i]!
    const to = starts![i + 1]!
    known.set(codes![i]!, {
      points: Uint32Array.from(points!.subarray(from, to)),
      deltas: (deltas as Float32Array).subarray(from * 3, to * 3),
    })
  }
}
