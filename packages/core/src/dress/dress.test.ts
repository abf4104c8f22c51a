import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { pointNeighbours } from '../mesh/adjacency.ts'
import { Surface } from '../mesh/Surface.ts'
import { foldSkin } from '../rig/Skeleton.ts'
import { anchorPoints, letOut, pushClear, type LayerShape } from './clearance.ts'
import { coverageBits, coveredTriangles } from './coverage.ts'
import { innerWall } from './innerWall.ts'
import { even } from '../testing/even.ts'

/** A level square of `cells` x `cells` quads at a height, facing up; 0.2 m a side around a center. */
function sheet(height: number, cells = 4, side = 0.2, x0 = 0, z0 = 0): LayerShape {
  const positions: number[] = []
  const triangles: number[] = []
  const n = cells + 1
  for (let i = 0; i < n; i++)
    for (let k = 0; k < n; k++) positions.push(x0 + (k / cells - 0.5) * side, height, z0 + (i / cells - 0.5) * side)
  for (let i = 0; i < cells; i++)
    for (let k = 0; k < cells; k++) {
      const a = i * n + k
      triangles.push(a, a + n, a + n + 1, a, a + n + 1, a + 1)
    }
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles) }
}
const surface = (s: LayerShape) => new Surface(s.positions, s.triangles)

describe('clearance', () => {
  const ground = sheet(0)

  it('lifts what has sunk to the gap and leaves the rest alone', () => {
    fc.assert(
      fc.property(even(-0.003, 0.03), (h) => {
        const cloth = sheet(0.01)
        const anchors = anchorPoints(cloth, surface(ground), 0.004, 0.006, 1)
        const now = sheet(h).positions
        pushClear(now, ground.positions, anchors)
        // points on the rim may lie beside the plane; the inner ones are all held
        for (const p of anchors.points)
          expect(now[p * 3 + 1]!).toBeGreaterThanOrEqual(Math.min(h, 0.004) < 0.004 ? 0.004 - 1e-6 : h - 1e-6)
      }),
    )
  })

  it('leaves alone what is sunk on purpose or far away', () => {
    expect(anchorPoints(sheet(-0.02), surface(ground), 0.004, 0.006, 1).points).toHaveLength(0)
    expect(anchorPoints(sheet(0.3), surface(ground), 0.004, 0.006, 1).points).toHaveLength(0)
  })

  it('follows the inner surface where that moves', () => {
    const cloth = sheet(0.005)
    const anchors = anchorPoints(cloth, surface(ground), 0.004, 0.006, 1)
    const raised = sheet(0.05).positions
    const now = cloth.positions.slice()
    expect(pushClear(now, raised, anchors)).toBe(anchors.points.length)
    for (const p of anchors.points) expect(now[p * 3 + 1]!).toBeCloseTo(0.054, 5)
  })

  it('lets a sunk layer out evenly, so that it keeps its thickness', () => {
    const belt: LayerShape = sheet(-0.004)
    const lift = letOut(
      belt,
      pointNeighbours(belt.triangles, belt.positions.length / 3),
      surface(ground),
      0.005,
      0.03,
      1,
    )!
    const inner = [6, 7, 8, 11, 12, 13, 16, 17, 18]
    for (const p of inner) expect(lift[p * 3 + 1]!).toBeCloseTo(0.009, 5)
    expect(
      letOut(sheet(0.02), pointNeighbours(belt.triangles, belt.positions.length / 3), surface(ground), 0.005, 0.03, 1),
    ).toBeNull()
  })
})

// two walls of 4 mm, joined nowhere: what moves one must not leave the other behind
const wall = (y: number, down: boolean) => {
  const { positions, triangles } = sheet(y)
  return { positions, triangles: down ? triangles.slice().reverse() : triangles }
}
const walls = (inner: number, thick: number): LayerShape => {
  const [low, high] = [wall(inner, true), wall(inner + thick, false)]
  const count = low.positions.length / 3
  return {
    positions: Float32Array.from([...low.positions, ...high.positions]),
    triangles: Uint32Array.from([...low.triangles, ...high.triangles.map((p) => p + count)]),
  }
}

describe('thick cloth', () => {
  const ground = sheet(0, 8, 0.4)
  it.each([-0.012, -0.006, -0.002])(
    'keeps its walls as far apart as they were, where it is let out: sunk %f m',
    (at) => {
      const cloth = walls(at, 0.004)
      const lift = letOut(cloth, pointNeighbours(cloth.triangles, cloth.positions.length / 3), surface(ground), 0.005, 0.03, 1)! // prettier-ignore
      const count = cloth.positions.length / 6
      for (const p of [6, 7, 8, 11, 12, 13, 16, 17, 18]) {
        const [inner, outer] = [p, p + count].map((i) => cloth.positions[i * 3 + 1]! + lift[i * 3 + 1]!) as [
          number,
          number,
        ]
        expect(inner).toBeCloseTo(0.005, 5)
        expect(outer - inner).toBeCloseTo(0.004, 3)
      }
    },
  )
})

describe('thick cloth over thick cloth', () => {
  it('is left where it is, if it lies clear: the inner walls of both face the same way', () => {
    const both = walls(0.01, 0.004)
    const beneath = walls(0, 0.004)
    const neighbours = pointNeighbours(both.triangles, both.positions.length / 3)
    expect(letOut(both, neighbours, surface(beneath), 0.005, 0.03, 1)).toBeNull()
    // and let out whole where the other has come out through it
    const sunk = walls(0.003, 0.004)
    const lift = letOut(sunk, neighbours, surface(beneath), 0.005, 0.03, 1)!
    const count = sunk.positions.length / 6
    for (const p of [6, 7, 8, 11, 12, 13, 16, 17, 18]) {
      const [inner, outer] = [p, p + count].map((i) => sunk.positions[i * 3 + 1]! + lift[i * 3 + 1]!) as [
        number,
        number,
      ]
      expect(inner).toBeGreaterThan(0.0085)
      expect(outer).toBeGreaterThan(inner)
    }
  })
})

describe('coverage', () => {
  const skin = sheet(0, 2, 0.04)

  it('is whole under a wide sheet close above, and none under nothing', () => {
    const all = coverageBits(skin, surface(sheet(0.01, 4, 0.4)), 1)
    expect([...coveredTriangles([all], 8)]).toEqual(Array(8).fill(1))
    expect([...coveredTriangles([], 8)]).toEqual(Array(8).fill(0))
  })

  it('is lost where one can look in from the side: a small sheet, or one that stands far off', () => {
    const small = coverageBits(skin, surface(sheet(0.01, 4, 0.03)), 1)
    expect([...coveredTriangles([small], 8)].every((v) => v === 0)).toBe(true)
    const brim = coverageBits(skin, surface(sheet(0.08, 4, 0.2)), 1)
    expect([...coveredTriangles([brim], 8)].every((v) => v === 0)).toBe(true)
  })

  it('of two sheets joins to what neither covers alone', () => {
    const wide = sheet(0, 1, 0.04)
    const left = coverageBits(wide, surface(sheet(0.004, 8, 0.2, -0.094)), 1)
    const right = coverageBits(wide, surface(sheet(0.006, 8, 0.2, 0.094)), 1)
    const count = (layers: Uint8Array[]) => coveredTriangles(layers, 2).reduce((s, v) => s + v, 0)
    expect([count([left]), count([right]), count([left, right])]).toEqual([0, 0, 2])
  })

  it('in a further pose is only looked for where it was before', () => {
    const among = coverageBits(skin, surface(sheet(0.01, 4, 0.4)), 1)
    among[0] = 0
    expect(coverageBits(skin, surface(sheet(0.01, 4, 0.4)), 1, among)[0]).toBe(0)
  })
})

describe('the inner wall of cloth', () => {
  it('is the side that faces the body with the other close behind', () => {
    const outer = sheet(0.02)
    const inner = sheet(0.012)
    const base = outer.positions.length / 3
    const cloth: LayerShape = {
      positions: Float32Array.from([...outer.positions, ...inner.positions]),
      triangles: Uint32Array.from([...outer.triangles, ...[...inner.triangles].reverse().map((p) => p + base)]),
    }
    const walls = innerWall(cloth, surface(cloth), surface(sheet(0)), 1)
    const half = walls.length / 2
    expect(walls.subarray(0, half).every((v) => v === 0)).toBe(true)
    expect(walls.subarray(half).every((v) => v === 1)).toBe(true)
  })
})

describe('skin on fewer bones', () => {
  it('keeps at most the influences asked for and sums to one, whatever comes in', () => {
    const point = fc.tuple(
      fc.array(fc.integer({ min: 0, max: 5 }), { minLength: 4, maxLength: 4 }),
      fc.array(even(0, 1), { minLength: 4, maxLength: 4 }),
    )
    fc.assert(
      fc.property(point, fc.constantFrom(1, 2, 4), ([bones, raw], influences) => {
        const total = raw.reduce((s, v) => s + v, 0)
        const weights = Float32Array.from(raw, (v) => (total > 0 ? v / total : 0))
        const out = foldSkin(Uint16Array.from(bones), weights, Uint16Array.from([0, 1, 1, 2, 2, 0]), influences)
        expect(out.weights.reduce((s, w) => s + w, 0)).toBeCloseTo(1, 4)
        expect([...out.weights].filter((w) => w > 0).length).toBeLessThanOrEqual(influences)
        for (let k = 1; k < 4; k++) expect(out.weights[k]!).toBeLessThanOrEqual(out.weights[k - 1]! + 1e-6)
        expect(Math.max(...out.joints)).toBeLessThanOrEqual(2)
      }),
    )
  })

  it('adds up what folds onto one bone', () => {
    const { joints, weights } = foldSkin(
      Uint16Array.of(1, 2, 3, 0),
      Float32Array.of(0.3, 0.3, 0.4, 0),
      Uint16Array.of(0, 1, 1, 2),
      4,
    )
    expect(joints[0]).toBe(1)
    expect(weights[0]).toBeCloseTo(0.6)
  })
})
