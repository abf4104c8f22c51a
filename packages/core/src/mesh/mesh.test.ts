import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { checkEdges, connectedPieces, pointNeighbours, signedVolume } from './adjacency.ts'
import { boundsOf, type Mesh } from './Mesh.ts'
import { computeNormals, createNormalScratch } from './normals.ts'
import { findFacets, splitCorners } from './splitCorners.ts'
import { Surface } from './Surface.ts'
import { weldRows } from './weld.ts'
import { even } from '../testing/even.ts'

/** A unit cube, triangles outward. */
const CUBE = Float32Array.from([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 0, 0, 1, 1, 0, 1, 1, 1, 1, 0, 1, 1])
const QUADS = [
  [0, 3, 2, 1],
  [4, 5, 6, 7],
  [0, 1, 5, 4],
  [2, 3, 7, 6],
  [1, 2, 6, 5],
  [0, 4, 7, 3],
]
const TRIANGLES = Uint32Array.from(QUADS.flatMap(([a, b, c, d]) => [a!, b!, c!, a!, c!, d!]))

function cubeMesh(softness = 0): Mesh {
  const facets = findFacets(CUBE, TRIANGLES, new Uint8Array(12), 0.1)
  const { cornerPoints, indices } = splitCorners(TRIANGLES, facets)
  const n = cornerPoints.length
  return {
    positions: CUBE.slice(),
    joints: new Uint16Array(32),
    weights: new Float32Array(32),
    morphs: [],
    cornerPoints,
    indices,
    normals: new Float32Array(n * 3),
    softness: new Uint8Array(n).fill(softness),
    shades: new Uint8Array(n).fill(255),
    regions: new Uint16Array(n),
    regionNames: ['plain'],
    uvs: new Float32Array(n * 2),
  }
}

/** A ball of 400 points, faceted and smooth by turns, one corner in three leaning. */
function ballMesh(): Pick<Mesh, 'positions' | 'cornerPoints' | 'indices' | 'softness' | 'normals'> {
  const [rings, around] = [20, 20]
  const positions = new Float32Array(rings * around * 3)
  for (let p = 0; p < rings * around; p++) {
    const [up, turn] = [(Math.floor(p / around) / (rings - 1) - 0.5) * Math.PI, ((p % around) / around) * 2 * Math.PI]
    positions.set([Math.cos(up) * Math.cos(turn), Math.sin(up), Math.cos(up) * Math.sin(turn)], p * 3)
  }
  const triangles: number[] = []
  for (let r = 0; r < rings - 1; r++)
    for (let a = 0; a < around; a++) {
      const [p, q] = [r * around + a, r * around + ((a + 1) % around)]
      triangles.push(p, p + around, q, q, p + around, q + around)
    }
  const facets = findFacets(positions, Uint32Array.from(triangles), new Uint8Array(triangles.length / 3), 0.3)
  const { cornerPoints, indices } = splitCorners(Uint32Array.from(triangles), facets)
  const softness = Uint8Array.from(cornerPoints, (_, c) => (c % 3 ? 0 : (c * 37) % 256))
  return { positions, cornerPoints, indices, softness, normals: new Float32Array(cornerPoints.length * 3) }
}

describe('a mesh', () => {
  it('of a cube has six facets, a corner for each of their points, and flat normals', () => {
    const mesh = cubeMesh()
    expect(mesh.cornerPoints).toHaveLength(24)
    computeNormals(mesh, mesh.positions, mesh.normals, createNormalScratch(mesh))
    for (let c = 0; c < 24; c++)
      expect([...mesh.normals.subarray(c * 3, c * 3 + 3)].map(Math.abs).sort()).toEqual([0, 0, 1])
  })

  it('has the same normals to the last bit, whether worked out from nothing or from a shape that differs little', () => {
    const mesh = ballMesh()
    const scratch = createNormalScratch(mesh)
    const points = mesh.positions.length / 3
    const move = fc.record({
      point: fc.nat(points - 1),
      by: fc.tuple(...[0, 1, 2].map(() => even(-1, 1))),
    })
    fc.assert(
      fc.property(fc.array(fc.array(move, { maxLength: 60 }), { minLength: 2, maxLength: 4 }), (steps) => {
        let known = { positions: mesh.positions.slice(), normals: new Float32Array(mesh.normals.length) }
        computeNormals(mesh, known.positions, known.normals, scratch)
        for (const moves of steps) {
          const positions = known.positions.slice()
          for (const { point, by } of moves) by.forEach((d, k) => (positions[point * 3 + k]! += d!))
          const [fresh, renewed] = [new Float32Array(known.normals.length), new Float32Array(known.normals.length)]
          computeNormals(mesh, positions, fresh, createNormalScratch(mesh))
          computeNormals(mesh, positions, renewed, scratch, known)
          expect(renewed).toEqual(fresh)
          known = { positions, normals: renewed }
        }
      }),
      { numRuns: 30, seed: 5 },
    )
  })

  it('leans its normals to smooth where it is soft', () => {
    const mesh = cubeMesh(255)
    computeNormals(mesh, mesh.positions, mesh.normals, createNormalScratch(mesh))
    for (let c = 0; c < 24; c++) {
      const p = mesh.cornerPoints[c]!
      const out = [0, 1, 2].map((k) => CUBE[p * 3 + k]! - 0.5)
      const along = [0, 1, 2].reduce((s, k) => s + mesh.normals[c * 3 + k]! * out[k]!, 0) / Math.hypot(...out)
      expect(along).toBeGreaterThan(0.93)
    }
  })

  it('knows its bounds, volume, edges and pieces', () => {
    expect(boundsOf(CUBE)).toEqual({ min: [0, 0, 0], max: [1, 1, 1] })
    expect(boundsOf([])).toEqual({ min: [0, 0, 0], max: [0, 0, 0] })
    expect(signedVolume(CUBE, TRIANGLES)).toBeCloseTo(1)
    expect(signedVolume(CUBE, TRIANGLES.slice().reverse())).toBeCloseTo(-1)
    expect(checkEdges(TRIANGLES, 8)).toEqual({ open: [], nonManifold: [] })
    expect(checkEdges(TRIANGLES.slice(6), 8).open).toHaveLength(4)
    const doubled = Uint32Array.from([...TRIANGLES, ...TRIANGLES.subarray(0, 3)])
    expect(checkEdges(doubled, 8).nonManifold.length).toBeGreaterThan(0)
    expect(connectedPieces(TRIANGLES, 8).count).toBe(1)
    expect(connectedPieces(TRIANGLES.subarray(0, 3), 8).count).toBe(6)
    const { starts } = pointNeighbours(TRIANGLES, 8)
    expect(starts[8]).toBe(36)
  })

  it('finds where rays hit and what lies nearest, as a search by hand does', () => {
    const surface = new Surface(CUBE, TRIANGLES)
    expect(surface.castRay(0.3, 0.4, 3, 0, 0, -1, 0, 10)).toBeCloseTo(2)
    expect(surface.castRay(0.3, 0.4, 3, 0, 0, 1, 0, 10)).toBe(Infinity)
    expect(surface.castRay(0.3, 0.4, 3, 0, 0, -1, 0, 1.5)).toBe(Infinity)
    fc.assert(
      fc.property(fc.tuple(...[0, 1, 2].map(() => even(-2, 3))), ([x, y, z]) => {
        const place = surface.nearest(x!, y!, z!)!
        const outside = [x!, y!, z!].map((v) => Math.max(0, -v, v - 1))
        const inside = Math.min(...[x!, y!, z!].flatMap((v) => [v, 1 - v]))
        const expected = inside > 0 ? inside : Math.hypot(...outside)
        expect(place.distance).toBeCloseTo(expected, 4)
        expect(place.weights.reduce((s, w) => s + w, 0)).toBeCloseTo(1, 4)
      }),
    )
    expect(surface.nearest(5, 5, 5, 1)).toBeNull()
    expect(surface.nearest(0.5, 0.5, 0.9, Infinity, (t) => t < 2)!.point[2]).toBeCloseTo(0)
  })

  it('welds rows that are equal to the bit, minus zero too', () => {
    const { kindOf, first } = weldRows(Float32Array.from([1, 2, 0, 3, 1, 2, -0, 3]), 2)
    expect([...kindOf]).toEqual([0, 1, 0, 1])
    expect([...first]).toEqual([0, 1])
  })
})
