import { isDeepStrictEqual } from 'node:util'
import fc from 'fast-check'
import { Triangle, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { createRandom } from '../recipe/random.ts'
import { checkEdges, connectedPieces, pointNeighbours, signedVolume } from './adjacency.ts'
import { boundsOf } from './Mesh.ts'
import { pointNormals, triangleNormal } from './normals.ts'
import { findFacets, splitCorners } from './splitCorners.ts'
import { Surface } from './Surface.ts'
import { weldRows } from './weld.ts'
import { even } from '../testing/even.ts'

const number = even(-1, 1)
const place = fc.tuple(number, number, number)
/** A handful of triangles anywhere, none of them flat. */
const soup = fc
  .array(fc.tuple(place, place, place), { minLength: 1, maxLength: 12 })
  .map((list) => ({
    positions: Float32Array.from(list.flat(2)),
    triangles: Uint32Array.from({ length: list.length * 3 }, (_, i) => i),
  }))
  .filter(({ positions, triangles }) =>
    [...Array(triangles.length / 3).keys()].every(
      (t) => triangleNormal(positions, t * 3, t * 3 + 1, t * 3 + 2)[3] > 1e-3,
    ),
  )

const corner = (positions: Float32Array, p: number) => new Vector3().fromArray(positions, p * 3)
const triangle = (positions: Float32Array, t: number) =>
  new Triangle(corner(positions, t * 3), corner(positions, t * 3 + 1), corner(positions, t * 3 + 2))

/** A closed ball of rings, outward: points and triangles. */
function ball(rings: number, columns: number): { positions: Float32Array; triangles: Uint32Array } {
  const positions: number[] = [0, 1, 0]
  for (let r = 1; r < rings; r++)
    for (let c = 0; c < columns; c++) {
      const [a, b] = [(Math.PI * r) / rings, (2 * Math.PI * c) / columns]
      positions.push(Math.sin(a) * Math.sin(b), Math.cos(a), Math.sin(a) * Math.cos(b))
    }
  positions.push(0, -1, 0)
  const last = positions.length / 3 - 1
  const at = (r: number, c: number) => (r === 0 ? 0 : r === rings ? last : 1 + (r - 1) * columns + (c % columns))
  const triangles: number[] = []
  for (let r = 0; r < rings; r++)
    for (let c = 0; c < columns; c++) {
      if (r > 0) triangles.push(at(r, c), at(r + 1, c), at(r, c + 1))
      if (r < rings - 1) triangles.push(at(r, c + 1), at(r + 1, c), at(r + 1, c + 1))
    }
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles) }
}

describe('the nearest place on a surface', () => {
  it('is the one that trying every triangle finds', () => {
    fc.assert(
      fc.property(soup, place, ({ positions, triangles }, at) => {
        const found = new Surface(positions, triangles).nearest(...at)!
        const point = new Vector3(...at)
        let best = Infinity
        for (let t = 0; t < triangles.length / 3; t++)
          best = Math.min(best, triangle(positions, t).closestPointToPoint(point, new Vector3()).distanceTo(point))
        expect(found.distance).toBeCloseTo(best, 4)
      }),
    )
  })

  it('has weights that lead to it and sum to one', () => {
    fc.assert(
      fc.property(soup, place, ({ positions, triangles }, at) => {
        const { triangle: t, weights, point } = new Surface(positions, triangles).nearest(...at)!
        expect(weights.reduce((s, w) => s + w, 0)).toBeCloseTo(1, 4)
        const led = new Vector3()
        weights.forEach((w, k) => led.addScaledVector(corner(positions, triangles[t * 3 + k]!), w))
        expect(led.distanceTo(new Vector3(...point))).toBeLessThan(2e-3)
      }),
    )
  })

  it('can be asked of some triangles only, and within some distance only', () => {
    fc.assert(
      fc.property(soup, place, ({ positions, triangles }, at) => {
        const surface = new Surface(positions, triangles)
        const first = surface.nearest(...at, Infinity, (t) => t === 0)!
        expect(first.triangle).toBe(0)
        const near = surface.nearest(...at)!
        if (near.distance > 1e-3) expect(surface.nearest(...at, near.distance * 0.5)).toBeNull()
        expect(surface.nearest(...at, Infinity, () => false)).toBeNull()
      }),
    )
  })
})

describe('a ray', () => {
  it('stops at the first of all the triangles in its way, from either side', () => {
    const random = createRandom(12)
    const somewhere = () => new Vector3(random.between(-1, 1), random.between(-1, 1), random.between(-1, 1))
    let [hits, misses] = [0, 0]
    for (let round = 0; round < 300; round++) {
      const positions = Float32Array.from({ length: 6 * 9 }, () => random.between(-1, 1))
      const from = somewhere()
      const d = somewhere().normalize()
      let best = Infinity
      let sure = true
      for (let t = 0; t < 6; t++) {
        const { a, b, c } = triangle(positions, t)
        const n = b.clone().sub(a).cross(c.clone().sub(a)).normalize()
        const distance = n.dot(a.clone().sub(from)) / n.dot(d)
        const bary = new Triangle(a, b, c).getBarycoord(from.clone().addScaledVector(d, distance), new Vector3())
        if (!bary || distance < 0) continue
        const inside = Math.min(bary.x, bary.y, bary.z)
        // too close to an edge to say
        if (Math.abs(inside) < 1e-3) sure = false
        else if (inside > 0) best = Math.min(best, distance)
      }
      if (!sure) continue
      const surface = new Surface(
        positions,
        Uint32Array.from({ length: 18 }, (_, i) => i),
      )
      const found = surface.castRay(from.x, from.y, from.z, d.x, d.y, d.z, 0, 100)
      if (best === Infinity) {
        expect(found).toBe(Infinity)
        misses++
      } else {
        expect(found).toBeCloseTo(best, 4)
        hits++
      }
    }
    expect(Math.min(hits, misses)).toBeGreaterThan(30)
  })

  it('from inside a ball meets it once, whatever the direction', () => {
    const { positions, triangles } = ball(8, 12)
    const surface = new Surface(positions, triangles)
    fc.assert(
      fc.property(place, (towards) => {
        const d = new Vector3(...towards)
        fc.pre(d.length() > 0.1)
        d.normalize()
        const hit = surface.castRay(0, 0, 0, d.x, d.y, d.z, 0, Infinity)
        expect(hit).toBeGreaterThan(0.85)
        expect(hit).toBeLessThanOrEqual(1.0001)
      }),
    )
  })
})

describe('where two surfaces meet', () => {
  const floor = new Surface(Float32Array.of(-5, 0, -5, 5, 0, -5, 5, 0, 5, -5, 0, 5), Uint32Array.of(0, 2, 1, 0, 3, 2))
  const all = Uint32Array.of(0, 1, 2)

  it('a triangle that stands through a floor cuts it in a stretch on the floor and on itself', () => {
    const random = createRandom(5)
    let [cut, clear] = [0, 0]
    for (let round = 0; round < 200; round++) {
      const positions = Float32Array.from({ length: 9 }, () => random.between(-1, 1))
      const heights = [1, 4, 7].map((i) => positions[i]!)
      const through = Math.min(...heights) < -1e-3 && Math.max(...heights) > 1e-3
      const ends: (readonly [number, number, number])[] = []
      const found = floor.meets(positions, all, (from, to) => ends.push(from, to) < 0)
      expect(found).toBe(false)
      expect(ends.length > 0).toBe(through)
      for (const [x, y, z] of ends) {
        expect(y).toBeCloseTo(0, 5)
        const own = new Surface(positions, all)
        expect(own.nearest(x, y, z)!.distance).toBeLessThan(1e-5)
      }
      if (through) cut++
      else clear++
    }
    expect(Math.min(cut, clear)).toBeGreaterThan(20)
  })

  it('only a stretch that counts is one, and the search ends there', () => {
    const upright = Float32Array.of(-1, -1, 0, 1, -1, 0, 0, 1, 0)
    let asked = 0
    expect(floor.meets(upright, all, () => ++asked > 0)).toBe(true)
    expect(asked).toBe(1)
    expect(floor.meets(upright, all, () => false)).toBe(false)
  })

  it('a triangle that lies in the floor has no stretch', () => {
    expect(floor.meets(Float32Array.of(0, 0, 0, 0, 0, 1, 1, 0, 0), all, () => true)).toBe(false)
  })
})

describe('a closed ball', () => {
  const sizes = fc.tuple(fc.integer({ min: 3, max: 9 }), fc.integer({ min: 3, max: 14 }))

  it('has no open edge, none with three faces, and one piece', () => {
    fc.assert(
      fc.property(sizes, ([rings, columns]) => {
        const { positions, triangles } = ball(rings, columns)
        const points = positions.length / 3
        expect(checkEdges(triangles, points)).toEqual({ open: [], nonManifold: [] })
        expect(connectedPieces(triangles, points).count).toBe(1)
        // Euler: points - edges + faces of a ball
        expect(points - (triangles.length / 3) * 1.5 + triangles.length / 3).toBe(2)
      }),
    )
  })

  it('encloses what it should: positive, growing towards that of a sphere, negative inside out', () => {
    const volume = (r: number, c: number) => {
      const { positions, triangles } = ball(r, c)
      return signedVolume(positions, triangles)
    }
    expect(volume(4, 6)).toBeGreaterThan(0)
    expect(volume(8, 12)).toBeGreaterThan(volume(4, 6))
    expect(volume(40, 60)).toBeCloseTo((4 / 3) * Math.PI, 1)
    const { positions, triangles } = ball(6, 8)
    const turned = triangles.map((_, i) => triangles[i - (i % 3) + ((3 - (i % 3)) % 3)]!)
    expect(signedVolume(positions, turned)).toBeCloseTo(-volume(6, 8), 5)
  })

  it('has normals that point away from its middle', () => {
    fc.assert(
      fc.property(sizes, ([rings, columns]) => {
        const { positions, triangles } = ball(rings, columns)
        const normals = pointNormals(positions, triangles)
        for (let p = 0; p < positions.length; p += 3)
          expect([0, 1, 2].reduce((s, k) => s + normals[p + k]! * positions[p + k]!, 0)).toBeGreaterThan(0.5)
      }),
    )
  })

  it('opened at one face tells of that face’s three edges', () => {
    const { positions, triangles } = ball(5, 7)
    const { open, nonManifold } = checkEdges(triangles.slice(3), positions.length / 3)
    expect(open).toHaveLength(3)
    expect(nonManifold).toEqual([])
  })

  it('beside another is two pieces', () => {
    const { positions, triangles } = ball(4, 5)
    const n = positions.length / 3
    const both = Uint32Array.from([...triangles, ...triangles.map((i) => i + n)])
    const { count, pieceOf } = connectedPieces(both, n * 2)
    expect(count).toBe(2)
    expect(new Set(pieceOf.subarray(0, n)).size).toBe(1)
    expect(pieceOf[0]).not.toBe(pieceOf[n])
  })

  it('knows its neighbours from both sides', () => {
    const { positions, triangles } = ball(5, 6)
    const { starts, items } = pointNeighbours(triangles, positions.length / 3)
    const of = (p: number) => [...items.subarray(starts[p], starts[p + 1])]
    for (let p = 0; p < positions.length / 3; p++) {
      expect(of(p)).toEqual([...new Set(of(p))].sort((a, b) => a - b))
      for (const q of of(p)) expect(of(q)).toContain(p)
    }
    expect(of(0)).toHaveLength(6)
  })
})

describe('facets and corners', () => {
  it('join what lies in one plane and nothing across regions', () => {
    // a strip of four triangles: two flat, then folded up
    const positions = Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0, 0, 2, 0.8, 1, 2, 0.8])
    const triangles = Uint32Array.from([0, 1, 2, 1, 3, 2, 2, 3, 4, 3, 5, 4])
    expect([...findFacets(positions, triangles, [0, 0, 0, 0], 0.1)]).toEqual([0, 0, 1, 1])
    expect([...findFacets(positions, triangles, [0, 1, 1, 1], 0.1)]).toEqual([0, 1, 2, 2])
    expect(new Set(findFacets(positions, triangles, [0, 0, 0, 0], 2)).size).toBe(1)
    expect(new Set(findFacets(positions, triangles, [0, 0, 0, 0], 0)).size).toBeGreaterThanOrEqual(2)
  })

  it('of any soup give every triangle corners on its own points', () => {
    fc.assert(
      fc.property(soup, even(0, 3), ({ positions, triangles }, angle) => {
        const facets = findFacets(positions, triangles, new Uint8Array(triangles.length / 3), angle)
        const { cornerPoints, indices } = splitCorners(triangles, facets)
        expect([...indices].map((c) => cornerPoints[c])).toEqual([...triangles])
        expect(Math.max(...indices)).toBe(cornerPoints.length - 1)
      }),
    )
  })
})

describe('corners', () => {
  it('are one for each pair of point and facet, in the order they come, however many there are', () => {
    for (const [count, points, facetCount] of [
      [1, 1, 1],
      [2, 3, 2],
      [700, 40, 30],
      [20_000, 9000, 6000],
    ] as const) {
      let seed = count
      const draw = (most: number) => (seed = (seed * 48271) % 0x7fffffff) % most
      const triangles = Uint32Array.from({ length: count * 3 }, () => draw(points))
      const facets = Uint32Array.from({ length: count }, () => draw(facetCount))
      const known = new Map<string, number>()
      const expected = Array.from(triangles, (p, i) => {
        const pair = `${p} ${facets[Math.floor(i / 3)]}`
        if (!known.has(pair)) known.set(pair, known.size)
        return known.get(pair)
      })
      const { cornerPoints, indices } = splitCorners(triangles, facets)
      expect(cornerPoints.length).toBe(known.size)
      expect(isDeepStrictEqual([...indices], expected)).toBe(true)
    }
  })
})

describe('welding', () => {
  it('gives equal rows one kind and others their own, in order of appearance', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 0, max: 3 }), fc.integer({ min: 0, max: 2 })), { minLength: 1 }),
        (rows) => {
          const { kindOf, first } = weldRows(Float32Array.from(rows.flat()), 2)
          const names = rows.map((r) => r.join())
          const kinds = [...new Set(names)]
          expect([...kindOf]).toEqual(names.map((n) => kinds.indexOf(n)))
          expect([...first]).toEqual(kinds.map((k) => names.indexOf(k)))
        },
      ),
    )
  })

  it('takes zero for zero, with or without a sign', () => {
    expect([...weldRows(Float32Array.from([0, -0, 1]), 1).kindOf]).toEqual([0, 0, 1])
  })
})

describe('bounds', () => {
  it('hold every point and touch some', () => {
    fc.assert(
      fc.property(fc.array(place, { minLength: 1 }), (points) => {
        const { min, max } = boundsOf(points.flat())
        for (const p of points)
          for (let k = 0; k < 3; k++) {
            expect(p[k]!).toBeGreaterThanOrEqual(min[k]!)
            expect(p[k]!).toBeLessThanOrEqual(max[k]!)
          }
        for (let k = 0; k < 3; k++) expect(points.some((p) => p[k] === min[k])).toBe(true)
      }),
    )
  })

  it('of nothing are a box at the origin', () => {
    expect(boundsOf([])).toEqual({ min: [0, 0, 0], max: [0, 0, 0] })
  })
})
