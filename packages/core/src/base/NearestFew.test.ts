import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { NearestFew } from './NearestFew.ts'

describe('the nearest few', () => {
  it('are the first of all in order of distance, and of number where that is the same', () => {
    // few distances, so that many are the same
    const offers = fc.uniqueArray(fc.tuple(fc.nat(500), fc.integer({ min: 0, max: 6 })), { selector: ([n]) => n })
    fc.assert(
      fc.property(offers, fc.integer({ min: 1, max: 9 }), (list, most) => {
        const few = new NearestFew(most)
        for (const [number, distance] of list) few.offer(number, distance)
        const sorted = list.toSorted(([n, d], [m, e]) => d - e || n - m).slice(0, most)
        expect(few.numbers).toEqual(sorted.map(([n]) => n))
        expect(few.far).toEqual(sorted.map(([, d]) => d))
        expect(few.bound).toBe(sorted.length < most ? Infinity : sorted.at(-1)![1])
      }),
    )
  })
})
