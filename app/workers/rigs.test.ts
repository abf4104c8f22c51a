import { unzipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { readKit } from '@idle-tinker/core'
import { BLOCKS, blockFigure } from '../../packages/core/src/testing/blockFigure.ts'
import { demoKit } from '../../packages/core/src/testing/demoKits.ts'
import { openMesh, rigMesh, settle } from './rigs.ts'

const folk = await demoKit('saltwick-folk')
const kits = new Map([['saltwick-folk', folk]])
const { piece, joints } = blockFigure(BLOCKS.tall!)
const text = [
  ...Array.from(
    { length: piece.positions.length / 3 },
    (_, p) => `v ${piece.positions.subarray(p * 3, p * 3 + 3).join(' ')}`,
  ),
  ...Array.from(
    { length: piece.triangles.length / 3 },
    (_, t) => `f ${[...piece.triangles.subarray(t * 3, t * 3 + 3)].map((v) => v + 1).join(' ')}`,
  ),
].join('\n')
const files = [['blocks.obj', new TextEncoder().encode(text)]] as const

describe('a mesh that lies open', () => {
  it('is none before it was brought in: nothing settles, and nothing is made of it', async () => {
    expect((await openMesh({ files: null, given: {} })).mesh).toBeNull()
    expect(settle([0, 1, 0], 2)).toBeNull()
    const made = await rigMesh(kits, { id: 'mine', name: 'Mine', landmarks: [], chains: [] })
    expect([made.zip, made.problems[0]!.code]).toEqual([null, 'mesh-gone'])
  })

  it('is looked at, settles landmarks in the middle of limbs, and becomes a kit that reads', async () => {
    const { mesh, problems } = await openMesh({ files, given: {} })
    expect(problems).toEqual([])
    expect(mesh!.placing).toMatchObject({ up: 'y', front: 'z', unit: 'm' })
    expect(mesh!.view.mesh.indices).toHaveLength(piece.triangles.length)
    const elbow = joints.get('leftLowerArm')!
    // set from the front, far ahead of the arm: it goes back into the middle of it, to within a cell
    const there = settle([elbow[0], elbow[1], 0.4], 2)!
    expect([there[0], there[1]]).toEqual([elbow[0], elbow[1]])
    expect(Math.abs(there[2] - elbow[2])).toBeLessThan(0.025)
    // where nothing is behind it, it stays
    expect(settle([3, 1, 0.4], 2)).toEqual([3, 1, 0.4])
    const made = await rigMesh(kits, { id: 'mine', name: 'Mine', landmarks: mesh!.landmarks, chains: [] })
    const kit = await readKit(new Map(Object.entries(unzipSync(made.zip!))))
    expect(kit.problems).toEqual([])
    expect([...kit.value!.bodies.values()][0]!.plan.id).toBe('biped')
  })

  it('is looked at anew as a person says it lies, and may have no landmarks then', async () => {
    const turned = await openMesh({ files: null, given: { up: 'y', front: '-z' } })
    expect(turned.mesh!.placing).toMatchObject({ front: '-z', sure: { front: 1 } })
    const lying = await openMesh({ files: null, given: { up: 'x' } })
    expect(lying.mesh!.landmarks).toEqual([])
    expect(lying.problems.map((p) => p.code)).toContain('rig-plan')
  })

  it('is none where its file cannot be read; and no kit comes of it where no body is here', async () => {
    const bad = await openMesh({ files: [['a.glb', new Uint8Array(8)]], given: {} })
    expect([bad.mesh, bad.problems.length > 0]).toEqual([null, true])
    const { mesh } = await openMesh({ files, given: {} })
    const made = await rigMesh(new Map(), { id: 'mine', name: 'Mine', landmarks: mesh!.landmarks, chains: [] })
    expect(made.problems[0]!.code).toBe('body-none')
  })
})
