import { describe, expect, it } from 'vitest'
import { createRandom } from '../recipe/random.ts'
import type { Portrait } from './distance.ts'
import { FarthestFirst } from './FarthestFirst.ts'
import { Gallery } from './Gallery.ts'

const WEIGHTS = [1, 0.36, 0.16, 0.09]

function portraits(seed: number, count: number, length = 3): Portrait[] {
  const random = createRandom(seed)
  return Array.from({ length: count }, () => ({
    // three things for each slot
    parts: Int32Array.from(WEIGHTS, (_, slot) => slot * 3 + Math.floor(random.between(0, 3))),
    // few different values, so that ties come up
    coordinates: Float32Array.from({ length }, () => Math.round(random.between(0, 3)) / 4),
  }))
}

/** The distance as it is documented, written out. */
function distance(a: Portrait, b: Portrait): number {
  const worn = WEIGHTS.filter((_, slot) => a.parts[slot] !== b.parts[slot]).reduce((sum, w) => sum + w, 0)
  return Math.sqrt([...a.coordinates].reduce((sum, v, i) => sum + (v - b.coordinates[i]!) ** 2, worn))
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
    const hung = new Gallery(WEIGHTS)
    hung.hang(first!)
    const running = new FarthestFirst(candidates, hung)
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
      hung.hang(candidates[best]!)
    }
  })

  it('gives every candidate once, then says that there is none', () => {
    const candidates = portraits(3, 20)
    const hung = new Gallery(WEIGHTS)
    const running = new FarthestFirst(candidates, hung)
    const order = candidates.map(() => {
      const c = running.next()
      hung.hang(candidates[c]!)
      return c
    })
    expect(order[0]).toBe(0)
    expect([...order].sort((a, b) => a - b)).toEqual([...candidates.keys()])
    expect(running.next()).toBe(-1)
    expect(new FarthestFirst([], new Gallery(WEIGHTS)).next()).toBe(-1)
  })

  it('never gives what was struck out', () => {
    const running = new FarthestFirst(portraits(4, 10), new Gallery(WEIGHTS))
    for (const c of [0, 3, 9]) running.strikeOut(c)
    const left = Array.from({ length: 7 }, () => running.next())
    expect(left.sort((a, b) => a - b)).toEqual([1, 2, 4, 5, 6, 7, 8])
    expect(running.next()).toBe(-1)
  })
})

// few coordinates and more than lie together
describe.each([3, 16, 40])('the distance between two figures of %i coordinates', (length) => {
  const all = portraits(12, 16, length)
  const gallery = new Gallery(WEIGHTS)
  for (const portrait of all) gallery.hang(portrait)
  const from = (sitter: Portrait) => {
    gallery.seat(sitter)
    return all.map((_, i) => gallery.distance(i))
  }

  it('is what is written out, whoever sat before, also for one who wears what no other does', () => {
    const stranger: Portrait = { ...all[0]!, parts: Int32Array.of(40, 41, 42, 43) }
    for (const sitter of [...all, stranger, all[3]!, all[3]!, stranger])
      from(sitter).forEach((d, i) => expect(d).toBeCloseTo(distance(sitter, all[i]!), 6))
  })

  it('knows what is hung while someone sits', () => {
    const few = new Gallery(WEIGHTS)
    few.seat(all[0]!)
    for (const portrait of all) few.hang(portrait)
    all.forEach((one, i) => expect(few.distance(i)).toBeCloseTo(distance(all[0]!, one), 6))
    expect(few.size).toBe(all.length)
  })

  it('is nothing to itself, the same both ways, and at most the way round', () => {
    const table = all.map(from)
    for (const a of all.keys()) {
      expect(table[a]![a]).toBe(0)
      for (const b of all.keys()) {
        expect(table[a]![b]).toBe(table[b]![a])
        for (const c of all.keys()) expect(table[a]![c]).toBeLessThanOrEqual(table[a]![b]! + table[b]![c]! + 1e-9)
      }
    }
  })

  it('is given up once it is known to be more than a limit', () => {
    const d = from(all[0]!)[1]!
    expect(d).toBeGreaterThan(0)
    expect(gallery.distance(1, d + 1e-6)).toBe(d)
    expect(gallery.distance(1, d - 1e-6)).toBe(Infinity)
  })

  it('is least to the nearest, from wherever one looks on', () => {
    const table = from(all[5]!)
    for (const first of [0, 6, 15, 16]) expect(gallery.nearest(first)).toBe(Math.min(...table.slice(first), Infinity))
    expect(gallery.nearest(6, 1e-3)).toBe(Math.min(1e-3, ...table.slice(6)))
  })
})
