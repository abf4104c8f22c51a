import fc from 'fast-check'

const STEPS = 1_000_000

/**
 * Numbers spread evenly from one to another, both ends and what is at rest more often. The doubles of fast-check are spread
 * evenly over their bits: of those from −1 to 1 nine in ten are nearer to zero than a hundredth.
 */
export function even(min: number, max: number): fc.Arbitrary<number> {
  const ends = [min, max, ...(min < 0 && max > 0 ? [0] : [])]
  return fc.oneof(
    { weight: 8, arbitrary: fc.integer({ min: 0, max: STEPS }).map((i) => min + ((max - min) * i) / STEPS) },
    { weight: 1, arbitrary: fc.constantFrom(...ends) },
  )
}
