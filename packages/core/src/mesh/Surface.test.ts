import { Line3, Ray, Triangle, Vector3 } from 'three'
import { ExtendedTriangle } from 'three-mesh-bvh'
import { describe, expect, it } from 'vitest'
import { createRandom, type Random } from '../recipe/random.ts'
import { Surface } from './Surface.ts'

// a tree of boxes must find what going through all triangles finds; these are enough for many branches
interface Soup {
  positions: Float32Array
  triangles: Uint32Array
}
const corners = ({ positions, triangles }: Soup, t: number) =>
  [0, 1, 2].map((k) => new Vector3().fromArray(positions, triangles[t * 3 + k]! * 3)) as [Vector3, Vector3, Vector3]
const ids = ({ triangles }: Soup) => [...Array(triangles.length / 3).keys()]
const point = (random: Random) => new Vector3(random.between(-1, 1), random.between(-1, 1), random.between(-1, 1))

/** Small triangles anywhere. */
function scattered(random: Random, count: number): Soup {
  const positions = Float32Array.from(
    Array.from({ length: count }, () => point(random)).flatMap((at) =>
      [0, 1, 2].flatMap(() => point(random).multiplyScalar(0.2).add(at).toArray()),
    ),
  )
  return { positions, triangles: Uint32Array.from({ length: count * 3 }, (_, i) => i) }
}

/** A sheet of squares in one plane, every edge along an axis: many places are equally near to several triangles. */
function sheet(side: number, axis: number): Soup {
  const at = (u: number, v: number) => {
    const place = [u / 4 - 1, v / 4 - 1]
    place.splice(axis, 0, 0.25)
    return place
  }
  const row = side + 1
  const cells = Array.from({ length: side * side }, (_, i) => [i % side, Math.floor(i / side)] as const)
  return {
    positions: Float32Array.from(Array.from({ length: row * row }, (_, i) => at(i % row, Math.floor(i / row))).flat()),
    triangles: Uint32Array.from(
      cells.flatMap(([u, v]) => {
        const p = v * row + u
        return [p, p + 1, p + row, p + 1, p + row + 1, p + row]
      }),
    ),
  }
}

/** Triangles that are points or lines, among others. */
function thin(random: Random, count: number): Soup {
  const soup = scattered(random, count)
  for (let t = 0; t < count; t += 3) soup.triangles[t * 3 + 1] = soup.triangles[t * 3]!
  for (let t = 0; t < count; t += 5) soup.triangles.fill(soup.triangles[t * 3]!, t * 3, t * 3 + 3)
  return soup
}

const soups = (random: Random): [string, Soup][] => [
  ['one triangle', scattered(random, 1)],
  ['many', scattered(random, 400)],
  ['a sheet across x', sheet(8, 0)],
  ['a sheet across y', sheet(8, 1)],
  ['a sheet across z', sheet(8, 2)],
  ['thin ones', thin(random, 120)],
]

/** Along axes as often as not, and from round places: on the sides of boxes. */
function someRay(random: Random): { from: Vector3; d: Vector3 } {
  const round = (v: number) => Math.round(v * 4) / 4
  const from = point(random)
  const d = point(random)
  if (random.between(0, 1) < 0.5) {
    from.set(round(from.x), round(from.y), round(from.z))
    const along = Math.floor(random.between(0, 3))
    d.set(0, 0, 0).setComponent(along, random.between(-1, 1) < 0 ? -1 : 1)
  }
  return { from, d: d.normalize() }
}

describe('a surface asked through its tree of boxes', () => {
  it('finds the nearest place that going through all triangles finds, the first of two as near', () => {
    const random = createRandom(31)
    for (const [name, soup] of soups(random)) {
      const surface = new Surface(soup.positions, soup.triangles)
      for (let round = 0; round < 150; round++) {
        const at = point(random).multiplyScalar(1.5)
        const only = round % 3 === 0 ? (t: number) => t % 4 === 1 : undefined
        const far = round % 5 === 0 ? 0.3 : Infinity
        let best = far * far
        let expected = -1
        for (const t of ids(soup)) {
          if (only && !only(t)) continue
          const d = new Triangle(...corners(soup, t)).closestPointToPoint(at, new Vector3()).distanceToSquared(at)
          if (d < best) [best, expected] = [d, t]
        }
        const found = surface.nearest(at.x, at.y, at.z, far, only)
        expect(found?.distance ?? -1, name).toBe(expected < 0 ? -1 : Math.sqrt(best))
        // of triangles exactly as near, boxes may leave out some before their turn
        if (found) {
          const own = new Triangle(...corners(soup, found.triangle)).closestPointToPoint(at, new Vector3())
          expect(own.distanceToSquared(at), name).toBe(best)
          expect(only?.(found.triangle) ?? true).toBe(true)
        }
      }
    }
  })

  it('stops a ray where going through all triangles stops it, and knows whether anything is in its way', () => {
    const random = createRandom(32)
    let [hits, misses, blocked, open] = [0, 0, 0, 0]
    for (const [name, soup] of soups(random)) {
      const surface = new Surface(soup.positions, soup.triangles)
      const hints = new Int32Array(1).fill(-1)
      for (let round = 0; round < 250; round++) {
        const { from, d } = someRay(random)
        const ray = new Ray(from, d)
        const near = round % 4 === 0 ? 0.2 : 0
        const far = round % 3 === 0 ? 0.6 : Infinity
        const all = ids(soup).flatMap((t) => {
          const at = ray.intersectTriangle(...corners(soup, t), false, new Vector3())
          return at ? [at.distanceTo(from)] : []
        })
        const first = Math.min(...all.filter((v) => v >= near && v <= far))
        expect(surface.castRay(...from.toArray(), ...d.toArray(), near, far), name).toBe(first)
        if (near === 0 && far === Infinity) {
          const hit = surface.firstHit(...from.toArray(), ...d.toArray())
          const at = hit < 0 ? null : ray.intersectTriangle(...corners(soup, hit), false, new Vector3())
          expect(at?.distanceTo(from) ?? Infinity, name).toBe(first)
        }
        if (first === Infinity) misses++
        else hits++
        // along an edge, the one way to ask a triangle says hit and the other missed
        const onEdge = ids(soup).some((t) => nearEdge(ray, corners(soup, t)))
        if (onEdge) continue
        const any = all.some((v) => v <= far)
        // what was hit last, by whatever ray, is only tried first
        expect(surface.blocks(...from.toArray(), ...d.toArray(), far, hints, 0), name).toBe(any)
        if (any) blocked++
        else open++
      }
    }
    expect(Math.min(hits, misses, blocked, open)).toBeGreaterThan(100)
  })

  it('meets another triangle in as many stretches as going through all triangles finds', () => {
    const random = createRandom(33)
    let [met, apart] = [0, 0]
    for (const [name, soup] of soups(random)) {
      const surface = new Surface(soup.positions, soup.triangles)
      for (let round = 0; round < 60; round++) {
        const other = scattered(random, 1)
        const asked = new ExtendedTriangle(...corners(other, 0)) as ExtendedTriangle & {
          intersectsTriangle(own: Triangle, stretch: Line3, quiet: boolean): boolean
        }
        const stretch = new Line3()
        const expected = ids(soup).filter(
          (t) =>
            asked.intersectsTriangle(new ExtendedTriangle(...corners(soup, t)), stretch, true) &&
            !stretch.start.equals(stretch.end),
        ).length
        let found = 0
        surface.meets(other.positions, other.triangles, () => ++found < 0)
        expect(found, name).toBe(expected)
        if (found) met++
        else apart++
      }
    }
    expect(Math.min(met, apart)).toBeGreaterThan(30)
  })
})

describe('a surface of nothing', () => {
  it.each([
    ['no points', Float32Array.of(), Uint32Array.of()],
    ['no triangles', Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0), Uint32Array.of()],
    ['a corner that is nowhere', Float32Array.of(NaN, 0, 0, 1, 0, 0, 0, 1, 0), Uint32Array.of(0, 1, 2)],
  ])('is near nobody and in nobody’s way: %s', (_, positions, triangles) => {
    const surface = new Surface(positions, triangles)
    expect(surface.nearest(0.1, 0.1, 1)).toBeNull()
    expect(surface.castRay(0.1, 0.1, 1, 0, 0, -1, 0, Infinity)).toBe(Infinity)
    expect(surface.blocks(0.1, 0.1, 1, 0, 0, -1, 5, Int32Array.of(-1), 0)).toBe(false)
  })
})

/** Whether the line of a ray passes an edge of a triangle closer than a hair, or lies in its plane. */
function nearEdge({ origin, direction }: Ray, [a, b, c]: [Vector3, Vector3, Vector3]): boolean {
  const flat = b.clone().sub(a).cross(c.clone().sub(a))
  if (flat.length() < 1e-9 || Math.abs(flat.normalize().dot(direction)) < 1e-5) return true
  const away = new Ray(origin.clone().addScaledVector(direction, -10), direction)
  const pairs: [Vector3, Vector3][] = [
    [a, b],
    [b, c],
    [c, a],
  ]
  return pairs.some(([p, q]) => away.distanceSqToSegment(p, q) < 1e-10)
}
