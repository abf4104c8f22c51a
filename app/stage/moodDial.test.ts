import { describe, expect, it } from 'vitest'
import { placeAt, placeOf, pointOf, sharesAt } from './moodDial'

describe('the dial of moods', () => {
  it('has its first mood at the top and goes round clockwise', () => {
    expect(placeAt(0, -1)).toEqual({ turn: 0, strength: 1 })
    expect(placeAt(1, 0).turn).toBeCloseTo(0.25, 9)
    expect(placeAt(-1, 0).turn).toBeCloseTo(0.75, 9)
    expect(placeAt(0, 3).strength).toBe(1)
  })

  it('is at rest in the middle', () => {
    expect(sharesAt(placeAt(0.02, 0.03), 12)).toEqual([])
  })

  it('plays one mood alone near it, and two half way between', () => {
    expect(sharesAt({ turn: 3 / 12, strength: 0.5 }, 12)).toEqual([{ index: 3, share: 0.5 }])
    expect(sharesAt({ turn: 3.1 / 12, strength: 1 }, 12)).toEqual([{ index: 3, share: 1 }])
    const [a, b] = sharesAt({ turn: 3.5 / 12, strength: 0.8 }, 12)
    expect(a).toEqual({ index: 3, share: expect.closeTo(0.4, 9) as number })
    expect(b).toEqual({ index: 4, share: expect.closeTo(0.4, 9) as number })
  })

  it('goes from the last mood to the first', () => {
    expect(sharesAt({ turn: 11.5 / 12, strength: 1 }, 12).map((s) => s.index)).toEqual([11, 0])
  })

  it('gives back the point of a place', () => {
    for (const [x, y] of [
      [0.3, -0.4],
      [-0.7, 0.1],
      [0.2, 0.9],
    ] as const) {
      const back = pointOf(placeAt(x, y))
      expect(back.x).toBeCloseTo(x, 9)
      expect(back.y).toBeCloseTo(y, 9)
    }
  })

  it('finds the place where moods play so, and none where they are no neighbours', () => {
    const of = (turn: number, strength: number) => {
      const shares = new Array<number>(12).fill(0)
      for (const { index, share } of sharesAt({ turn, strength }, 12)) shares[index] = share
      return placeOf(shares)!
    }
    for (const turn of [0, 3 / 12, 3.3 / 12, 3.8 / 12, 11.5 / 12, 11.3 / 12])
      expect(of(turn, 0.7)).toEqual({
        turn: expect.closeTo(turn, 9) as number,
        strength: expect.closeTo(0.7, 9) as number,
      })
    // near a mood it is that one
    expect(of(3.1 / 12, 1).turn).toBe(3 / 12)
    expect(placeOf([0, 0, 0])).toEqual({ turn: 0, strength: 0 })
    expect(placeOf([0.2, 0, 0.2, 0, 0])).toBeNull()
    expect(placeOf([0.2, 0.1, 0.2, 0])).toBeNull()
    expect(placeOf([0.9, 0.9, 0, 0])).toBeNull()
  })
})
