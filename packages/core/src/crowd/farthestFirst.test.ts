import { describe, expect, it } from 'vitest'
import { createRandom } from '../recipe/random.ts'
import { demoKit } from '../testing/demoKits.ts'
import { createPortraitist, type Portrait } from './distance.ts'
import { FarthestFirst } from './FarthestFirst.ts'

const folk = await demoKit('saltwick-folk')
const { distance } = createPortraitist(new Map([[folk.manifest.id, folk]]), { kit: folk.manifest.id, id: 'human' })

function portraits(seed: number, count: number): Portrait[] {
  const random = createRandom(seed)
  return Array.from({ length: count }, () => ({
    parts: Int32Array.from({ length: 4 }, () => Math.floor(random.between(0, 3))),
    // few different values, so that ties come up
    coordinates: Float32Array.from({ length: 3 }, () => Math.round(random.between(0, 3)) / 4),
  }))
}

/** The same selection with every distance measured anew. */
function byHand(candidates: readonly Portrait[], chosen: readonly Portrait[], struck: ReadonlySet<number>): number {
  let [best, farthest] = [-1, -Infinity]
  candidates.forEach((candidate, c) => {
    if (struck.has(c)) return
    const nearest = Math.min(...chosen.map((other) => distance(candidate, other)))
    if (nearest > farthest) [best, farthest] = [c, nearest]
  })
  return best
}

describe('farthest first', () => {
  it.each([1, 2, 3, 4, 5, 6, 7, 8])('chooses what measuring everything would choose, seed %i', (seed) => {
    const candidates = portraits(seed, 90)
    const [first] = portraits(seed + 100, 1)
    const chosen = [first!]
    const struck = new Set<number>()
    const running = new FarthestFirst(candidates, distance)
    running.choose(first!)
    const random = createRandom(seed)
    for (let n = 0; n < 60; n++) {
      if (n % 7 === 0) {
        const c = Math.floor(random.between(0, 90))
        struck.add(c)
        running.strikeOut(c)
      }
      const best = byHand(candidates, chosen, struck)
      expect(running.next()).toBe(best)
      if (best < 0) break
      struck.add(best)
      chosen.push(candidates[best]!)
      running.choose(candidates[best]!)
    }
  })

  it('gives every candidate once, then says that there is none', () => {
    const candidates = portraits(3, 20)
    const running = new FarthestFirst(candidates, distance)
    const order = candidates.map(() => {
      const c = running.next()
      running.choose(candidates[c]!)
      return c
    })
    expect(order[0]).toBe(0)
    expect([...order].sort((a, b) => a - b)).toEqual([...candidates.keys()])
    expect(running.next()).toBe(-1)
    expect(new FarthestFirst([], distance).next()).toBe(-1)
  })

  it('never gives what was struck out', () => {
    const running = new FarthestFirst(portraits(4, 10), distance)
    for (const c of [0, 3, 9]) running.strikeOut(c)
    const left = Array.from({ length: 7 }, () => running.next())
    expect(left.sort((a, b) => a - b)).toEqual([1, 2, 4, 5, 6, 7, 8])
    expect(running.next()).toBe(-1)
  })
})

describe('the distance between two figures', () => {
  const [a, b] = portraits(11, 2) as [Portrait, Portrait]

  it('is nothing to itself, the same both ways, and at most the way round', () => {
    const all = portraits(12, 12)
    for (const x of all) {
      expect(distance(x, x)).toBe(0)
      for (const y of all) {
        expect(distance(x, y)).toBe(distance(y, x))
        for (const z of all) expect(distance(x, z)).toBeLessThanOrEqual(distance(x, y) + distance(y, z) + 1e-9)
      }
    }
  })

  it('is given up once it is known to be more than a limit', () => {
    const d = distance(a, b)
    expect(d).toBeGreaterThan(0)
    expect(distance(a, b, d + 1e-6)).toBe(d)
    expect(distance(a, b, d - 1e-6)).toBe(Infinity)
  })
})
