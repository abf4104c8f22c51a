/** A seed for a shuffle that the person asked for. */
export function randomSeed(): number {
  return crypto.getRandomValues(new Uint32Array(1))[0]! & 0x7fffffff
}
