import { describe, expect, it } from 'vitest'
import { createRandom } from '../recipe/random.ts'
import { Winding } from './Winding.ts'

/** Solid angles by their arc tangents, one after another: nothing of this is shared with what is tested. */
function byAngles(positions: readonly number[], triangles: readonly number[], at: readonly number[]): number {
  const corner = (i: number) => [0, 1, 2].map((k) => positions[i * 3 + k]! - at[k]!)
  const dot = (a: number[], b: number[]) => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!
  let sum = 0
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => corner(triangles[t + k]!)) as [number[], number[], number[]]
    const cross = [b[1]! * c[2]! - b[2]! * c[1]!, b[2]! * c[0]! - b[0]! * c[2]!, b[0]! * c[1]! - b[1]! * c[0]!]
    const [la, lb, lc] = [a, b, c].map((v) => Math.hypot(...v)) as [number, number, number]
    sum += Math.atan2(dot(a, cross), la * lb * lc + dot(a, b) * lc + dot(b, c) * la + dot(c, a) * lb)
  }
  return sum / (2 * Math.PI)
}

/** A box of half sides 1, wound outward. */
const BOX = [-1, 1].flatMap((x) => [-1, 1].flatMap((y) => [-1, 1].flatMap((z) => [x, y, z])))
const SIDES = [
  ...[0, 1, 3, 0, 3, 2, 4, 6, 7, 4, 7, 5, 0, 4, 5, 0, 5, 1],
  ...[2, 3, 7, 2, 7, 6, 0, 2, 6, 0, 6, 4, 1, 5, 7, 1, 7, 3],
]

describe('the winding number', () => {
  it('is one inside of a box, nothing outside, two where two lie in each other, and turned about below nothing', () => {
    const at = (triangles: number[], x: number) => new Winding(triangles).at(BOX, x, 0.1, 0.2)
    expect(at(SIDES, 0)).toBeCloseTo(1, 9)
    expect(at(SIDES, 0.999)).toBeCloseTo(1, 9)
    expect(at(SIDES, 1.001)).toBeCloseTo(0, 9)
    expect(at([...SIDES, ...SIDES], 0.3)).toBeCloseTo(2, 9)
    expect(at([...SIDES].reverse(), 0.3)).toBeCloseTo(-1, 9)
    // half of the sides are half of the turns, seen from the middle
    expect(new Winding(SIDES.slice(0, 18)).at(BOX, 0, 0, 0)).toBeCloseTo(0.5, 9)
    expect(new Winding([]).at([], 0, 0, 0)).toBe(0)
  })

  it('is what adding every angle comes to, for any triangles from anywhere', () => {
    const random = createRandom(5)
    const place = () => [0, 1, 2].map(() => random.between(-3, 3))
    for (let run = 0; run < 400; run++) {
      const positions = Array.from({ length: 4 + (run % 30) }, place).flat()
      const points = Array.from({ length: positions.length / 3 }, (_, p) => p)
      // three different points each: any other lies in the plane of what it has
      const triangle = (): number[] => {
        const three = [0, 1, 2].map(() => random.pick(points))
        return new Set(three).size === 3 ? three : triangle()
      }
      const triangles = Array.from({ length: 1 + (run % 90) }, triangle).flat()
      const at = place() as [number, number, number]
      expect(new Winding(triangles).at(positions, ...at)).toBeCloseTo(byAngles(positions, triangles, at), 9)
    }
  })

  it('does not run out of numbers', () => {
    const many = Array.from({ length: 4000 }, () => SIDES).flat()
    expect(new Winding(many).at(BOX, 0.2, 0.1, 0)).toBeCloseTo(4000, 5)
    const tiny = BOX.map((v) => v * 1e-6)
    expect(new Winding(many).at(tiny, 2e-7, 1e-7, 0)).toBeCloseTo(4000, 5)
  })
})
