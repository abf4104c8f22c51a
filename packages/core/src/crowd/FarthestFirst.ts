import type { Portrait } from './distance.ts'
import type { Gallery } from './Gallery.ts'

/**
 * Candidates in the order of farthest-point selection (Gonzalez 1985). What is known of a candidate
 * is an upper bound of its distance to all that was chosen; only the one with the largest bound is
 * measured anew, and it is the farthest when its bound then still stands on top (lazy evaluation,
 * Minoux 1978). The same order as measuring all of them every time, ties to the lower number.
 */
export class FarthestFirst {
  private readonly candidates: readonly Portrait[]
  private readonly chosen: Gallery
  private readonly bounds: Float64Array
  /** How many of the chosen each bound has been measured against. */
  private readonly measured: Uint32Array
  private readonly out: Uint8Array
  /** A binary heap of candidates, the largest bound on top. */
  private readonly heap: Uint32Array
  private size: number

  /** @param chosen all that the candidates are measured against; who is chosen next is hung there by the caller */
  constructor(candidates: readonly Portrait[], chosen: Gallery) {
    this.candidates = candidates
    this.chosen = chosen
    this.size = candidates.length
    this.bounds = new Float64Array(this.size).fill(Infinity)
    this.measured = new Uint32Array(this.size)
    this.out = new Uint8Array(this.size)
    this.heap = Uint32Array.from({ length: this.size }, (_, i) => i)
  }

  /** Takes a candidate out of the running. */
  strikeOut(candidate: number): void {
    this.out[candidate] = 1
  }

  /** The candidate farthest from all chosen, taken out of the running; -1 if there is none left. */
  next(): number {
    while (this.size > 0) {
      const top = this.heap[0]!
      if (this.out[top]) this.drop()
      else if (this.measured[top] === this.chosen.size) {
        this.drop()
        return top
      } else {
        this.measure(top)
        this.sink(0)
      }
    }
    return -1
  }

  private measure(candidate: number): void {
    this.chosen.seat(this.candidates[candidate]!)
    this.bounds[candidate] = this.chosen.nearest(this.measured[candidate]!, this.bounds[candidate]!)
    this.measured[candidate] = this.chosen.size
  }

  private before(a: number, b: number): boolean {
    const [x, y] = [this.bounds[a]!, this.bounds[b]!]
    return x > y || (x === y && a < b)
  }

  private drop(): void {
    this.heap[0] = this.heap[--this.size]!
    this.sink(0)
  }

  private sink(from: number): void {
    const { heap, size } = this
    const moving = heap[from]!
    let at = from
    for (let child = 2 * at + 1; child < size; child = 2 * at + 1) {
      if (child + 1 < size && this.before(heap[child + 1]!, heap[child]!)) child++
      if (!this.before(heap[child]!, moving)) break
      heap[at] = heap[child]!
      at = child
    }
    heap[at] = moving
  }
}
