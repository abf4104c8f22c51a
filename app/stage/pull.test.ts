import { describe, expect, it } from 'vitest'
import { pullBy } from './pull'

describe('pulling', () => {
  it('follows the pointer in both directions at once', () => {
    const [a, b] = [
      { x: 40, y: 10 },
      { x: -8, y: 32 },
    ]
    const [u, v] = pullBy({ x: 21, y: -17 }, [a, b]) as [number, number]
    expect(u * a.x + v * b.x).toBeCloseTo(21, 9)
    expect(u * a.y + v * b.y).toBeCloseTo(-17, 9)
  })

  it('moves one slider alone along its own direction, and nothing across it', () => {
    expect(pullBy({ x: 10, y: 0 }, [{ x: 20, y: 0 }])).toEqual([0.5])
    expect(pullBy({ x: 0, y: 30 }, [{ x: 20, y: 0 }])).toEqual([0])
  })

  it('keeps to the one that was grasped where two lie on one line', () => {
    const [u, v] = pullBy({ x: 10, y: 1 }, [
      { x: 20, y: 0 },
      { x: -18, y: 2 },
    ]) as [number, number]
    expect(u).toBeCloseTo(0.5, 9)
    expect(v).toBe(0)
  })
})
