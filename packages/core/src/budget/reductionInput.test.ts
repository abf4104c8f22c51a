import { isDeepStrictEqual } from 'node:util'
import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { build } from '../build.ts'
import { pointTriangles, type Mesh } from '../mesh/Mesh.ts'
import { triangleNormal } from '../mesh/normals.ts'
import { demoKit, demoTarget, dressed, MAREN } from '../testing/demoKits.ts'
import { Reducer, reducerReady } from './reduceMesh.ts'
import { reductionInput, type ReduceOptions } from './reductionInput.ts'

beforeAll(() => reducerReady)

const kit = await demoKit('saltwick-folk')
const target = { ...demoTarget('near'), keepSliders: ['build', 'stature'] }
const { mesh } = build(dressed(kit, 'human', MAREN), new Map([[kit.manifest.id, kit]]), target).figure!

const base: ReduceOptions = { protect: mesh.morphs }
/** Nothing can be remembered of arrays that are new. */
const unseen = <T>(value: T): T => structuredClone(value)

/** Right after the mesh itself a variant must come out as one that nobody has seen. */
function comesOutAsUnseen(variant: Partial<Mesh>, options = base): void {
  reductionInput(mesh, base)
  const one = { ...mesh, ...variant }
  const fresh = [unseen(one), unseen(options)] as const
  expect(isDeepStrictEqual(reductionInput(one, options), reductionInput(...fresh))).toBe(true)
  reductionInput(mesh, base)
  const reduced = [new Reducer(one, options), new Reducer(...fresh)].map((reducer) => reducer.to(900).mesh)
  expect(isDeepStrictEqual(reduced[0], reduced[1])).toBe(true)
}

/** Points in no order on a coarse grid, so that several are as far out; three of them a triangle, each triangle of a region. */
const soup = fc
  .array(fc.tuple(fc.nat(6), fc.nat(6), fc.nat(6)), { minLength: 6, maxLength: 200, size: 'max' })
  .map((places): Mesh => {
    const points = places.length - (places.length % 3)
    const order = Uint32Array.from({ length: points }, (_, i) => i)
    return {
      positions: Float32Array.from(places.slice(0, points).flat(), (v) => v - 3),
      joints: new Uint16Array(points * 4),
      weights: new Float32Array(points * 4),
      morphs: [],
      cornerPoints: order,
      normals: new Float32Array(points * 3),
      softness: new Uint8Array(points),
      shades: new Uint8Array(points),
      regions: Uint16Array.from({ length: points }, (_, i) => Math.floor(i / 3) % 2),
      regionNames: ['a', 'b'],
      uvs: new Float32Array(points * 2),
      indices: order,
    }
  })

/** Numbers that are the same but for what 32 bits cannot hold. */
const near = (values: ArrayLike<number>) => Array.from(values, (v): unknown => expect.closeTo(v, 5))

describe('what counts as shape', () => {
  const joints = Float32Array.from({ length: 600 }, (_, i) => Math.sin(i))
  const protect = mesh.morphs.toSorted((a, b) => b.points.length - a.points.length).slice(0, 2)
  const { attributes, weights, stride, pointOf, regionOf, vertexOf, ...rest } = reductionInput(mesh, {
    protect,
    joints,
  })

  it('is facing, the middle of the bones and where each morph goes, by vertex', () => {
    expect(weights).toEqual([0.3, 0.3, 0.3, 0.15, 0.15, 0.15, 1, 1, 1, 1, 1, 1])
    expect(stride).toBe(12)
    const triangles = pointTriangles(mesh)
    for (let v = 0; v < pointOf.length; v += 37) {
      const p = pointOf[v]!
      const facing = [0, 0, 0]
      for (let t = 0; t < triangles.length; t += 3) {
        const corners = [...triangles.subarray(t, t + 3)]
        if (!corners.includes(p)) continue
        const n = triangleNormal(mesh.positions, ...(corners as [number, number, number]))
        for (let k = 0; k < 3; k++) facing[k]! += n[k]! * n[3]
      }
      const bones = [0, 0, 0]
      for (let i = p * 4; i < p * 4 + 4; i++)
        for (let k = 0; k < 3; k++) bones[k]! += mesh.weights[i]! * joints[mesh.joints[i]! * 3 + k]!
      const moves = protect.flatMap(({ points, deltas }) => {
        const i = points.indexOf(p)
        return i < 0 ? [0, 0, 0] : [...deltas.subarray(i * 3, i * 3 + 3)]
      })
      const unit = facing.map((x) => x / Math.hypot(...facing))
      expect([...attributes.subarray(v * 12, v * 12 + 12)]).toEqual(near([...unit, ...bones, ...moves]))
      expect([...rest.positions.subarray(v * 3, v * 3 + 3)]).toEqual([...mesh.positions.subarray(p * 3, p * 3 + 3)])
    }
  })

  it('is of the point and the region of each corner', () => {
    vertexOf.forEach((v, i) => {
      const corner = mesh.indices[i]!
      if (pointOf[v] !== mesh.cornerPoints[corner] || regionOf[v] !== mesh.regions[corner]) expect.unreachable()
    })
    expect(new Set(Array.from(pointOf, (p, v) => `${p} ${regionOf[v]}`)).size).toBe(pointOf.length)
  })
})

describe('the look of what is left', () => {
  it('is the mean of what was at the point in the region', () => {
    const { mesh: reduced, cameFrom } = new Reducer(mesh, base).to(900)
    let mixed = 0
    for (let c = 0; c < reduced.cornerPoints.length; c++) {
      const from: number[] = []
      for (let o = 0; o < mesh.cornerPoints.length; o++)
        if (mesh.cornerPoints[o] === cameFrom[reduced.cornerPoints[c]!] && mesh.regions[o] === reduced.regions[c])
          from.push(o)
      const mean = (values: Uint8Array) => Math.round(from.reduce((sum, o) => sum + values[o]!, 0) / from.length)
      const expected = [mean(mesh.shades), mean(mesh.softness)]
      if (reduced.shades[c] !== expected[0] || reduced.softness[c] !== expected[1])
        expect([reduced.shades[c], reduced.softness[c]]).toEqual(expected)
      if (new Set(from.map((o) => mesh.shades[o])).size > 1) mixed++
    }
    expect(mixed).toBeGreaterThan(10)
  })

  it('is of a mesh without triangles of fewer than three points', () => {
    for (const limit of [1500, 900, 250, 60]) {
      const { mesh: reduced } = new Reducer(mesh, base).to(limit)
      expect(reduced.indices.length).toBeGreaterThan(0)
      const triangles = pointTriangles(reduced)
      for (let t = 0; t < triangles.length; t += 3) expect(new Set(triangles.subarray(t, t + 3)).size).toBe(3)
    }
  })
})

describe('what has to stay', () => {
  it('is the first of the points that are furthest in each of 26 directions, and what is pinned', () => {
    let ties = 0
    fc.assert(
      fc.property(soup, (one) => {
        const pinned = new Uint8Array(one.positions.length / 3)
        pinned[4] = 1
        const expected = new Set([4])
        for (let n = 0; n < 27; n++) {
          const to = [(n % 3) - 1, (Math.floor(n / 3) % 3) - 1, Math.floor(n / 9) - 1]
          const reach = Array.from(pinned, (_, p) => to.reduce((sum, w, k) => sum + w * one.positions[p * 3 + k]!, 0))
          if (n === 13) continue
          expected.add(reach.indexOf(Math.max(...reach)))
          if (reach.indexOf(Math.max(...reach)) !== reach.lastIndexOf(Math.max(...reach))) ties++
        }
        const { lock, pointOf } = reductionInput(one, { pinned })
        expect(new Set([...pointOf].filter((_, v) => lock[v]))).toEqual(expected)
      }),
    )
    expect(ties).toBeGreaterThan(100)
  })
})

describe('what is remembered of triangles', () => {
  it('is of use for a mesh of another shape, and the same as for one that nobody has seen', () => {
    expect(mesh.morphs.length).toBeGreaterThan(1)
    const before = reductionInput(mesh, base)
    const positions = mesh.positions.map((v, i) => v * (i % 3 === 0 ? 1.1 : 0.97))
    const after = reductionInput({ ...mesh, positions }, base)
    expect(after.vertexOf).toBe(before.vertexOf)
    expect(after.attributes).not.toBe(before.attributes)
    comesOutAsUnseen({ positions })
  })

  it('is not taken for another look, other moves, other places in pictures', () => {
    const joints = Float32Array.from({ length: 600 }, (_, i) => Math.sin(i))
    const painted = new Set([0, 2])
    const { morphs } = mesh
    comesOutAsUnseen({ shades: mesh.shades.map((v) => 255 - v) })
    comesOutAsUnseen({ softness: mesh.softness.map((v) => 255 - v) })
    comesOutAsUnseen({ regions: mesh.regions.map((r) => (r === 1 ? 0 : r)) })
    comesOutAsUnseen({ regionNames: [...mesh.regionNames, 'one more'] })
    comesOutAsUnseen({}, { protect: morphs.toReversed() })
    comesOutAsUnseen({}, { protect: morphs, joints })
    comesOutAsUnseen({}, { joints })
    comesOutAsUnseen({}, {})
    comesOutAsUnseen({}, { protect: morphs, painted })
  })

  it('of painted regions is not taken for other places in their pictures', () => {
    const options = { protect: mesh.morphs, painted: new Set([0, 2]) }
    reductionInput(mesh, options)
    const moved = { ...mesh, uvs: mesh.uvs.map((v, i) => v + (i % 7) / 50) }
    expect(isDeepStrictEqual(reductionInput(moved, options), reductionInput(unseen(moved), options))).toBe(true)
    reductionInput(mesh, options)
    const fewer = { ...options, painted: new Set([0]) }
    expect(isDeepStrictEqual(reductionInput(mesh, fewer), reductionInput(unseen(mesh), fewer))).toBe(true)
  })
})
