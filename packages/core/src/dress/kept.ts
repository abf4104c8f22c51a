import type { Arrays } from '../base/Shelf.ts'
import type { PreparedBody } from '../body/PreparedBody.ts'

/** How a result is written as arrays, and read back. */
export interface Codec<T> {
  to(value: T): Arrays
  from(arrays: Arrays): T
}

/**
 * A result that depends on a body and some parts alone: from the body's shelf if it is there, else
 * made, and put there.
 *
 * @param hashes what it depends on besides the body
 */
export function kept<T>(
  body: PreparedBody,
  kind: string,
  hashes: readonly string[],
  { to, from }: Codec<T>,
  make: () => T,
): T {
  const { shelf } = body
  if (!shelf) return make()
  const key = [kind, body.model.hash, ...hashes].join(' ')
  const there = shelf.get(key)
  if (there) return from(there)
  const value = make()
  shelf.put(key, to(value))
  return value
}

/** Lists of bytes, one a pose. */
export const BITS: Codec<Uint8Array[]> = {
  to: (list) => Object.fromEntries(list.map((bits, i) => [`p${i}`, bits])),
  from: (arrays) => Object.values(arrays) as Uint8Array[],
}
