import type { Portrait } from './distance.ts'

/** So many coordinates of each portrait lie together: a line of the processor's cache. */
const FIRST = 16

/**
 * Portraits that one is measured against, side by side in memory, as millions of pairs are measured: what the one wears
 * is put into a table of all that is worn, and mostly that alone says of another that it is too far off.
 */
export class Gallery {
  private readonly weights: readonly number[]
  /** What each hung portrait wears, and its coordinates: a row each. Most are told apart by the first few of those. */
  private worn: Int32Array = new Int32Array(0)
  private first: Float32Array = new Float32Array(0)
  private others: Float32Array = new Float32Array(0)
  private count = 0
  /** For each thing worn the weight of its slot, and 0 for what the sitter wears. */
  private apart: Float64Array = new Float64Array(0)
  private sitter: Portrait | null = null

  /** @param weights of the slots, squared, as the portraitist says */
  constructor(weights: readonly number[]) {
    this.weights = weights
  }

  get size(): number {
    return this.count
  }

  hang(portrait: Portrait): void {
    const { parts, coordinates } = portrait
    const count = this.count++
    this.worn = withRow(this.worn, parts, count)
    this.first = withRow(this.first, coordinates.subarray(0, FIRST), count)
    this.others = withRow(this.others, coordinates.subarray(FIRST), count)
    this.know(portrait)
  }

  /** Says who is measured against the others from now on. */
  seat(portrait: Portrait): void {
    const before = this.sitter?.parts
    if (before) for (let slot = 0; slot < before.length; slot++) this.apart[before[slot]!] = this.weights[slot]!
    this.know(portrait)
    const { parts } = portrait
    for (let slot = 0; slot < parts.length; slot++) this.apart[parts[slot]!] = 0
    this.sitter = portrait
  }

  /**
   * How far a hung portrait is from the one that sits: the root of the summed squares of the weights of slots in which
   * they wear different things and of what their coordinates differ by. Infinity as soon as it is known to be more than
   * `limit`.
   */
  distance(index: number, limit = Infinity): number {
    const { apart, worn, first, others } = this
    const own = this.sitter!.coordinates
    const slots = this.weights.length
    const most = limit * limit
    let sum = 0
    for (let i = index * slots, end = i + slots; i < end; i++) sum += apart[worn[i]!]!
    if (sum > most) return Infinity
    const few = Math.min(FIRST, own.length)
    for (let i = 0, at = index * few; i < few; i++, at++) {
      const d = own[i]! - first[at]!
      sum += d * d
      if (sum > most) return Infinity
    }
    for (let i = few, at = index * (own.length - few); i < own.length; i++, at++) {
      const d = own[i]! - others[at]!
      sum += d * d
      if (sum > most) return Infinity
    }
    return Math.sqrt(sum)
  }

  /** The least distance of the one that sits to the portraits from `first` on, where it is less than `bound`; else `bound`. */
  nearest(first = 0, bound = Infinity): number {
    let least = bound
    for (let i = first; i < this.count; i++) least = Math.min(least, this.distance(i, least))
    return least
  }

  /** Room in the table for what someone wears. */
  private know({ parts }: Portrait): void {
    for (let slot = 0; slot < parts.length; slot++) {
      const thing = parts[slot]!
      this.apart = roomFor(this.apart, thing + 1)
      // what the sitter wears stays at nothing
      if (this.sitter?.parts[slot] !== thing) this.apart[thing] = this.weights[slot]!
    }
  }
}

/** The same numbers with room for so many, twice as many at a time. */
function roomFor<T extends Int32Array | Float32Array | Float64Array>(numbers: T, count: number): T {
  if (numbers.length >= count) return numbers
  const wider = new (numbers.constructor as new (length: number) => T)(count * 2)
  wider.set(numbers)
  return wider
}

/** The same table with one row more, of which it has so many. */
function withRow<T extends Int32Array | Float32Array>(table: T, row: T, count: number): T {
  const wider = roomFor(table, (count + 1) * row.length)
  wider.set(row, count * row.length)
  return wider
}
