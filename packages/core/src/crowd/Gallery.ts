import type { Portrait } from './distance.ts'

/**
 * Portraits that one is measured against, side by side in memory, as millions of pairs are measured: what the one wears
 * is put into a table of all that is worn, and mostly that alone says of another that it is too far off.
 */
export class Gallery {
  private readonly weights: readonly number[]
  /** What each hung portrait wears, and its coordinates: a row each. */
  private worn = new Int32Array(0)
  private coordinates = new Float32Array(0)
  private count = 0
  /** For each thing worn the weight of its slot, and 0 for what the sitter wears. */
  private apart = new Float64Array(0)
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
    this.worn = roomFor(this.worn, (this.count + 1) * parts.length)
    this.coordinates = roomFor(this.coordinates, (this.count + 1) * coordinates.length)
    this.worn.set(parts, this.count * parts.length)
    this.coordinates.set(coordinates, this.count * coordinates.length)
    this.count++
    this.know(portrait)
  }

  /** Says who is measured against the others from now on. */
  seat(portrait: Portrait): void {
    this.sitter?.parts.forEach((thing, slot) => (this.apart[thing] = this.weights[slot]!))
    this.know(portrait)
    for (const thing of portrait.parts) this.apart[thing] = 0
    this.sitter = portrait
  }

  /**
   * How far a hung portrait is from the one that sits: the root of the summed squares of the weights of slots in which
   * they wear different things and of what their coordinates differ by. Infinity as soon as it is known to be more than
   * `limit`.
   */
  distance(index: number, limit = Infinity): number {
    const { apart, worn, coordinates } = this
    const own = this.sitter!.coordinates
    const slots = this.weights.length
    const most = limit * limit
    let sum = 0
    for (let i = index * slots, end = i + slots; i < end; i++) sum += apart[worn[i]!]!
    if (sum > most) return Infinity
    for (let i = 0, at = index * own.length; i < own.length; i++, at++) {
      const d = own[i]! - coordinates[at]!
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
