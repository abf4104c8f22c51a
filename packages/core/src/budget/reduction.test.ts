import { beforeAll, describe, expect, it } from 'vitest'
import { build, type Figure } from '../build.ts'
import { prepareBody } from '../body/PreparedBody.ts'
import { assembleOutfit } from '../dress/outfit.ts'
import { Surface } from '../mesh/Surface.ts'
import { triangleNormal } from '../mesh/normals.ts'
import { pointTriangles } from '../mesh/Mesh.ts'
import { demoKit, dressed, instances, MAREN, TARGETS } from '../testing/demoKits.ts'
import { mergeOutfit } from './mergeOutfit.ts'
import { outerShell } from './outerShell.ts'
import { reducerReady } from './reduceMesh.ts'
import { sinkCovered, type RestShape } from './sinkCovered.ts'
import { stretchByCare } from './stretchByCare.ts'
import { markViewed } from './viewedTriangles.ts'

const kit = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([kit, tide].map((k) => [k.manifest.id, k]))
const [crowd, far] = ['crowd', 'far'].map((id) => TARGETS.find((t) => t.id === id)!) as [
  (typeof TARGETS)[number],
  (typeof TARGETS)[number],
]
const maren = dressed(kit, 'human', MAREN)

beforeAll(() => reducerReady)

/** A box with outward winding, as points and triangles. */
function box(half: number, from = 0): { positions: number[]; triangles: number[] } {
  const positions = [...Array(8).keys()].flatMap((i) => [1, 2, 4].map((bit) => (i & bit ? half : -half)))
  const quads = [
    [0, 2, 3, 1],
    [4, 5, 7, 6],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 4, 6, 2],
    [1, 3, 7, 5],
  ]
  return {
    positions,
    triangles: quads.flatMap(([a, b, c, d]) => [a!, b!, c!, a!, c!, d!].map((v) => v + from)),
  }
}

describe('what is seen from around', () => {
  it('is the outer of two boxes, and both when one side is open', () => {
    const [outer, inner] = [box(1), box(0.5, 8)]
    const positions = Float32Array.from([...outer.positions, ...inner.positions])
    const all = Uint32Array.from([...outer.triangles, ...inner.triangles])
    const seen = new Uint8Array(24)
    markViewed(positions, all, seen)
    expect([...seen.subarray(0, 12)]).toEqual(Array(12).fill(1))
    expect([...seen.subarray(12)]).toEqual(Array(12).fill(0))
    const open = all.filter((_, i) => i < 6 || i >= 12)
    const through = new Uint8Array(22)
    markViewed(positions, open, through)
    expect([...through.subarray(10)].some(Boolean)).toBe(true)
  })

  it('of a dressed figure leaves out cloth linings and the legs in a coat, never the face', () => {
    const body = prepareBody(kit.bodies.get('human')!)
    /** What a closed mouth hides. */
    const inside = ['mouth', 'teeth', 'tongue']
    const outfit = assembleOutfit(body, instances(kit, [...MAREN, 'eyes-open']))
    const merged = mergeOutfit(outfit)
    const { dropped, moves } = outerShell(outfit, merged)
    merged.lining.forEach((inner, t) => inner && expect(dropped[t]).toBe(1))
    expect(dropped.reduce((s, d) => s + d, 0)).toBeGreaterThan(merged.lining.reduce((s, l) => s + l, 0) * 1.2)
    const triangles = pointTriangles(merged.mesh)
    const eyes = merged.pieces.find((p) => p.slot === 'eyes')!
    const eyePoints = merged.rest.subarray(eyes.points[0] * 3, eyes.points[1] * 3)
    const eyeDistance = (at: number[]) => {
      let least = Infinity
      for (let i = 0; i < eyePoints.length; i += 3)
        least = Math.min(least, Math.hypot(...[0, 1, 2].map((k) => at[k]! - eyePoints[i + k]!)))
      return least
    }
    for (let t = 0; t < dropped.length; t++) {
      const center = [0, 1, 2].map((k) =>
        [0, 1, 2].reduce((s, c) => s + merged.rest[triangles[t * 3 + c]! * 3 + k]! / 3, 0),
      )
      const piece = merged.pieces.find((p) => t >= p.triangles[0] && t < p.triangles[1])!
      // behind the plates of an eye and in a closed mouth there is nothing to see
      const { regions, regionNames, indices } = merged.mesh
      if (inside.includes(regionNames[regions[indices[t * 3]!]!]!)) continue
      if (
        piece.slot === 'body' &&
        center[1]! > 1.45 &&
        center[1]! < 1.6 &&
        center[2]! > 0.1 &&
        eyeDistance(center) > 0.035
      )
        expect(dropped[t]).toBe(0)
    }
    // what lies on the face comes forward, and nothing of the face sinks
    const forward = Array.from(
      { length: eyes.points[1] - eyes.points[0] },
      (_, i) => moves[(eyes.points[0] + i) * 3 + 2]!,
    )
    expect(forward.reduce((s, z) => s + z, 0) / forward.length).toBeGreaterThan(0.003)
    const faceMoves = merged.pieces[0]!
    for (let p = faceMoves.points[0]; p < faceMoves.points[1]; p++)
      if (merged.rest[p * 3 + 1]! > 1.45 && merged.rest[p * 3 + 2]! > 0.1) expect(moves[p * 3 + 2]).toBe(0)
  })
})

describe('sinking', () => {
  it('moves what lies under cloth inward, and nothing else', () => {
    const shape = (size: number, lies: RestShape['lies']): RestShape => {
      const { positions, triangles } = box(size)
      return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles), lies }
    }
    const skin = shape(1, 'beneath')
    const moves = sinkCovered([skin, shape(1.02, 'over'), shape(1.3, 'over')], 1)
    for (let p = 0; p < 8; p++)
      expect(moves[p * 3]! * skin.positions[p * 3]! + moves[p * 3 + 1]! * skin.positions[p * 3 + 1]!).toBeLessThan(0)
    // the outermost is far above both
    expect([...moves.subarray(24)].every((m) => m === 0)).toBe(true)
    for (const lies of ['on', 'free'] as const)
      expect([...sinkCovered([skin, shape(1.02, lies)], 1)].every((m) => m === 0)).toBe(true)
  })

  it('is the same in whatever company, and again', () => {
    const body = prepareBody(kit.bodies.get('human')!)
    const shellOf = (parts: string[]) => {
      const outfit = assembleOutfit(body, instances(kit, parts))
      return [...outerShell(outfit, mergeOutfit(outfit)).moves]
    }
    const first = shellOf([...MAREN, 'eyes-open'])
    shellOf(MAREN.slice(2))
    expect(shellOf([...MAREN, 'eyes-open'])).toEqual(first)
    expect(first.filter((m) => m !== 0).length).toBeGreaterThan(1000)
  })
})

describe('care', () => {
  it('stretches what hangs on a bone and single pieces, and leaves the rest', () => {
    const mesh = {
      positions: Float32Array.from([0, 0, 0, 0, 2, 0, 5, 0, 0, 7, 0, 0]),
      joints: new Uint16Array([0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]),
      weights: Float32Array.from([1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0]),
    }
    const out = stretchByCare(mesh, [{ points: [0, 2] }, { points: [2, 4] }], {
      ofBones: Float32Array.from([1, 3]),
      centers: Float32Array.from([0, 0, 0, 0, 1, 0]),
      ofPieces: Float32Array.from([1, 2]),
    })
    expect([...out]).toEqual([0, 0, 0, 0, 4, 0, 4, 0, 0, 8, 0, 0])
  })
})

describe('a figure reduced for a crowd', () => {
  const reduced = (recipe: typeof maren, target: typeof crowd): Figure =>
    build(recipe, kits, target, { reduce: true }).figure!

  it('still has eyes and brows, and every piece is one run of triangles', () => {
    for (const recipe of [maren, dressed(kit, 'human', ['smock', 'waders', 'cap-knit', 'hair-curls'])]) {
      const { pieces, mesh, costs } = reduced(recipe, crowd)
      for (const [slot, least] of [
        ['eyes', 16],
        ['brows', 4],
      ] as const)
        expect(pieces.find((p) => p.slot === slot)!.triangles.reduce((a, b) => b - a)).toBeGreaterThanOrEqual(least)
      let at = 0
      for (const { triangles, points } of pieces) {
        expect(triangles[0]).toBe(at)
        at = triangles[1]
        for (let t = triangles[0]; t < triangles[1]; t++)
          for (let k = 0; k < 3; k++) {
            const p = mesh.cornerPoints[mesh.indices[t * 3 + k]!]!
            expect(p).toBeGreaterThanOrEqual(points[0])
            expect(p).toBeLessThan(points[1])
          }
      }
      expect(at).toBe(costs.triangles)
    }
  })

  it('shows no trousers through a coat: seen from around, cloth beneath stays beneath', () => {
    const { mesh, pieces } = reduced(maren, crowd)
    const triangles = pointTriangles(mesh)
    const coat = pieces.find((p) => p.slot === 'over')!
    const legs = pieces.find((p) => p.slot === 'legs')!
    const outer = new Surface(mesh.positions, triangles.slice(coat.triangles[0] * 3, coat.triangles[1] * 3))
    let [poking, looked] = [0, 0]
    for (let t = legs.triangles[0]; t < legs.triangles[1]; t++) {
      const p = [0, 1, 2].map((k) => triangles[t * 3 + k]!) as [number, number, number]
      const n = triangleNormal(mesh.positions, ...p)
      const c = [0, 1, 2].map((k) => p.reduce((s, q) => s + mesh.positions[q * 3 + k]! / 3, 0))
      looked++
      // the coat close behind a face of the trousers, and nothing of it in front: they have changed places
      const behind = outer.castRay(c[0]!, c[1]!, c[2]!, -n[0], -n[1], -n[2], 0, 0.012)
      const before = outer.castRay(c[0]!, c[1]!, c[2]!, n[0], n[1], n[2], 0, 0.1)
      if (behind < Infinity && before === Infinity) poking++
    }
    expect(looked).toBeGreaterThan(5)
    expect(poking / looked).toBeLessThan(0.05)
  })

  it('stands on its feet even at 250 triangles', () => {
    for (const recipe of [maren, dressed(tide, 'ottern', ['scarf-striped'])]) {
      const { mesh, costs } = reduced(recipe, far)
      expect(costs.triangles).toBeLessThanOrEqual(250)
      const low = [...mesh.cornerPoints].filter((p) => mesh.positions[p * 3 + 1]! < 0.03)
      for (const side of [1, -1]) expect(low.some((p) => Math.sign(mesh.positions[p * 3]!) === side)).toBe(true)
    }
  })
})
