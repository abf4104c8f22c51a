import { isDeepStrictEqual } from 'node:util'
import { beforeAll, describe, expect, it } from 'vitest'
import { build } from '../build.ts'
import type { Mesh } from '../mesh/Mesh.ts'
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
