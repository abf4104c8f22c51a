import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus'
import { uniformFloat64 } from 'pure-rand/distribution/uniformFloat64'

/** A stream of random numbers that is the same for the same seed, everywhere. */
export interface Random {
  /** In [0, 1). */
  next(): number
  /** In [min, max). */
  between(min: number, max: number): number
  /** One item; throws on an empty list. */
  pick<T>(items: readonly T[]): T
}

/** Another seed, far from those of its neighbours: small seeds begin alike (finalizer of MurmurHash3, Appleby 2011). */
export function scatterSeed(seed: number): number {
  let h = seed | 0
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b)
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35)
  return h ^ (h >>> 16)
}

export function createRandom(seed: number): Random {
  const generator = xoroshiro128plus(seed | 0)
  const next = () => uniformFloat64(generator)
  return {
    next,
    between: (min, max) => min + (max - min) * next(),
    pick<T>(items: readonly T[]): T {
      if (items.length === 0) throw new RangeError('nothing to pick from')
      return items[Math.floor(next() * items.length)]!
    },
  }
}
