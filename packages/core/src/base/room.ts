/** What `roomFor` can give. */
interface Row {
  length: number
  fill(value: number, start?: number, end?: number): this
}

/**
 * A row for what is needed only until the next call: the one given if it is long enough, else a new one. Zero as far as
 * it is asked for, and possibly longer. What a hand waits for would else make, and let go of, a thousand a second.
 */
export function roomFor<T extends Row>(given: T, length: number, make: new (length: number) => T): T {
  if (given.length < length) return new make(length)
  return given.fill(0, 0, length)
}
