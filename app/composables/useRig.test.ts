import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, effectScope, ref, shallowRef } from 'vue'
import { landmarkFile, type Landmark, type Point } from '@idle-tinker/core'
import { useRig } from './useRig'

const { openMesh, settle, rigMesh, loadKits } = vi.hoisted(() => ({
  ...{ openMesh: vi.fn(), settle: vi.fn(), rigMesh: vi.fn(), loadKits: vi.fn() },
}))
const ended = vi.hoisted(() => vi.fn())
vi.mock('../stage/Booth', () => ({ theBooth: vi.fn() }))
vi.mock('../workers', () => ({
  workshop: () => ({ openMesh, settle, rigMesh, loadKits }),
  endWorker: ended,
  onWorkerEnd: () => () => undefined,
  POOL: [],
}))

const at = (id: Landmark['id'], x: number, y: number, z: number): Landmark => ({ id, at: [x, y, z], sure: 0.4 })
const LANDMARKS = [at('neck', 0.1, 1.4, 0), at('leftElbow', 0.5, 1.1, 0), at('rightElbow', -0.3, 1.1, 0)]
const file = new File(['x'], 'mesh.obj')
const settled = () => vi.waitFor(() => expect(rig.busy.value).toBe(''))
let rig: ReturnType<typeof useRig>
let height = 1.7

beforeEach(async () => {
  setActivePinia(createPinia())
  vi.stubGlobal('computed', computed)
  vi.stubGlobal('ref', ref)
  vi.stubGlobal('shallowRef', shallowRef)
  vi.stubGlobal('onBeforeUnmount', () => undefined)
  vi.stubGlobal('location', { origin: 'http://here' })
  openMesh
    .mockReset()
    .mockImplementation(() => Promise.resolve({ mesh: { landmarks: LANDMARKS, placing: { height } }, problems: [] }))
  settle.mockReset().mockResolvedValue(null)
  rigMesh.mockReset().mockResolvedValue({ zip: new Uint8Array(3), problems: [] })
  height = 1.7
  rig = effectScope().run(() => useRig())!
  rig.open([file])
  await vi.waitFor(() => expect(rig.landmarks.value).toHaveLength(3))
})
const placeOf = (id: Landmark['id']) => rig.landmarks.value.find((l) => l.id === id)!

describe('a mesh that is given bones', () => {
  it('has both sides moved together about its own middle, or one alone; what is moved is sure', () => {
    rig.put('leftElbow', [0.6, 1, 0.1])
    expect(placeOf('leftElbow')).toMatchObject({ at: [0.6, 1, 0.1], sure: 1 })
    expect(placeOf('rightElbow').at.map((v) => Math.round(v * 1e6) / 1e6)).toEqual([-0.4, 1, 0.1])
    rig.mirrored.value = false
    rig.put('rightElbow', [-0.1, 0.9, 0])
    expect(placeOf('leftElbow').at).toEqual([0.6, 1, 0.1])
    // what is on the middle stays there as long as both sides are alike
    rig.put('neck', [0.3, 1.5, 0])
    expect(placeOf('neck').at[0]).toBe(0.3)
    rig.mirrored.value = true
    rig.put('neck', [0.9, 1.6, 0])
    expect(placeOf('neck').at).toEqual([0.3, 1.6, 0])
  })

  it('has moves taken back, one after another', () => {
    rig.keep()
    rig.put('leftElbow', [0.6, 1, 0])
    rig.keep()
    rig.put('leftElbow', [0.7, 1, 0])
    rig.undo()
    expect(placeOf('leftElbow').at[0]).toBe(0.6)
    rig.undo()
    rig.undo()
    expect(placeOf('leftElbow').at[0]).toBe(0.5)
  })

  it('lets a landmark settle, unless it was moved on meanwhile', async () => {
    let answer: (at: Point) => void = () => undefined
    settle.mockImplementation(() => new Promise((resolve) => (answer = resolve)))
    const first = rig.settle('leftElbow', 2)
    answer([0.5, 1.1, -0.2])
    await first
    expect(placeOf('leftElbow').at[2]).toBe(-0.2)
    const second = rig.settle('leftElbow', 2)
    rig.put('leftElbow', [0.8, 1.2, 0])
    answer([0.5, 1.1, 9])
    await second
    expect(placeOf('leftElbow').at).toEqual([0.8, 1.2, 0])
  })

  it('goes on being made while something settles, and says that its worker is lost where it cannot', async () => {
    let made: (answer: object) => void = () => undefined
    rigMesh.mockImplementationOnce(() => new Promise((resolve) => (made = resolve)))
    const zip = rig.make('mine', 'Mine')
    await vi.waitFor(() => expect(rigMesh).toHaveBeenCalled())
    await rig.settle('leftElbow', 2)
    expect(rig.busy.value).toContain('Making')
    made({ zip: new Uint8Array(7), problems: [] })
    expect(await zip).toHaveLength(7)
    settle.mockRejectedValueOnce(new Error('A worker of this page has ended.'))
    await rig.settle('leftElbow', 2)
    expect(placeOf('leftElbow').at).toEqual([0.5, 1.1, 0])
    expect(rig.problems.value.map((p) => p.message)).toEqual(['A worker of this page has ended.'])
  })

  it('lies as a file of landmarks says before it takes their places', async () => {
    const file = landmarkFile({
      placing: { up: 'z', front: '-y', unit: 'cm' },
      landmarks: [at('leftElbow', 0.4, 1, 0)],
    })
    await rig.take(file)
    expect(openMesh.mock.lastCall![0].given).toEqual({ up: 'z', front: '-y', unit: 'cm', legs: 2 })
    expect(placeOf('leftElbow')).toMatchObject({ at: [0.4, 1, 0], sure: 1 })
    expect(placeOf('neck').sure).toBe(0.4)
  })

  it('is looked at anew as a person says it lies, without sending its files again; and read again after its worker was lost', async () => {
    rig.give({ up: 'z' })
    await settled()
    expect(openMesh.mock.lastCall![0]).toEqual({ files: null, given: { up: 'z' } })
    openMesh.mockRejectedValueOnce(new Error('A worker of this page has ended.'))
    rig.give({ front: 'x' })
    await vi.waitFor(() => expect(rig.problems.value[0]?.message).toContain('has ended'))
    rig.put('leftElbow', [0.6, 1, 0])
    await rig.make('mine', 'Mine')
    // what was put right is not lost with the worker
    expect(rigMesh.mock.lastCall![0].landmarks.find((l: Landmark) => l.id === 'leftElbow').at).toEqual([0.6, 1, 0])
    expect(openMesh.mock.lastCall![0].files).toHaveLength(1)
    expect(openMesh.mock.lastCall![0].given).toEqual({ up: 'z', front: 'x' })
  })

  it('keeps what was put right when it becomes larger, and not when it is turned', async () => {
    rig.put('leftElbow', [0.6, 1, 0.2])
    height = 3.4
    rig.give({ unit: 'm' })
    await vi.waitFor(() => expect(placeOf('leftElbow').at[1]).toBe(2))
    expect(placeOf('leftElbow')).toMatchObject({ at: [1.2, 2, 0.4], sure: 1 })
    rig.give({ up: 'z' })
    await vi.waitFor(() => expect(placeOf('leftElbow')).toMatchObject({ at: [0.5, 1.1, 0], sure: 0.4 }))
  })

  it('becomes a kit by its landmarks, and tells why not', async () => {
    expect(await rig.make('mine', 'Mine')).toHaveLength(3)
    expect(rigMesh.mock.lastCall![0]).toEqual({ id: 'mine', name: 'Mine', landmarks: LANDMARKS, chains: [] })
    rigMesh.mockResolvedValueOnce({
      zip: null,
      problems: [{ code: 'x', severity: 'error', where: '', message: 'No.', remedy: '' }],
    })
    expect(await rig.make('mine', 'Mine')).toBeNull()
    expect(rig.problems.value[0]!.message).toBe('No.')
  })

  it('has chains drawn on it, place after place; each is taken back, one that is done taken away, all go into the kit', async () => {
    rig.draw('ear', true)
    settle.mockImplementation((place: Point) => Promise.resolve([place[0], place[1], 0.05]))
    await rig.drawTo([0.1, 1.7, 0], 2)
    expect(rig.isDrawn.value).toBe(false)
    await rig.drawTo([0.15, 1.8, 0], 2)
    // twice at one place is once
    await rig.drawTo([0.15, 1.8, 0], 2)
    expect(rig.drawing.value!.points).toEqual([
      [0.1, 1.7, 0.05],
      [0.15, 1.8, 0.05],
    ])
    await rig.drawTo([0.2, 1.9, 0], 2)
    rig.undo()
    expect(rig.drawing.value!.points).toHaveLength(2)
    rig.endDrawing()
    // a leg ends by itself where it can have no more; what is drawn near the middle is on it
    rig.draw('leg', false)
    for (let i = 0; i < 5; i++) await rig.drawTo([0.105, 1 - i * 0.2, 0], 2)
    expect(rig.drawing.value).toBeNull()
    expect(rig.chains.value.map((c) => [c.kind, c.mirrored, c.points.length])).toEqual([
      ['ear', true, 2],
      ['leg', false, 5],
    ])
    expect(rig.chains.value[1]!.points[0]![0]).toBe(0.1)
    await rig.make('mine', 'Mine')
    expect(rigMesh.mock.lastCall![0].chains).toHaveLength(2)
    rig.removeChain(0)
    expect(rig.chains.value.map((c) => c.kind)).toEqual(['leg'])
    rig.undo()
    expect(rig.chains.value).toHaveLength(2)
    // larger, they are as much larger; seen otherwise, they are gone
    height = 3.4
    rig.give({ unit: 'foot' })
    await settled()
    expect(rig.chains.value[0]!.points[0]).toEqual([0.2, 3.4, 0.1])
    rig.give({ legs: 4 })
    await settled()
    expect(rig.chains.value).toEqual([])
  })

  it('has a place that is left half drawn forgotten, and one that no worker settles where it was put', async () => {
    settle.mockRejectedValueOnce(new Error('gone'))
    rig.draw('tail', false)
    await rig.drawTo([0.5, 1, 0.3], 0)
    expect(rig.drawing.value!.points).toEqual([[0.5, 1, 0.3]])
    rig.endDrawing()
    expect(rig.chains.value).toEqual([])
  })

  it('keeps a tail from a file that nobody had seen when it becomes larger, and adds no step back for a place set twice', async () => {
    const seen = [at('nose', 0, 1, 0.5)]
    openMesh.mockImplementation(() => Promise.resolve({ mesh: { landmarks: seen, placing: { height } }, problems: [] }))
    const tail = at('tailTip', 0, 0.5, -0.4)
    await rig.take(landmarkFile({ placing: { up: 'y', front: 'z', unit: 'm' }, landmarks: [...seen, tail] }))
    height = 3.4
    rig.give({ unit: 'foot' })
    await settled()
    expect(placeOf('tailTip')).toEqual({ id: 'tailTip', at: [0, 1, -0.8], sure: 1 })
    rig.draw('ear', true)
    await rig.drawTo([0.3, 1, 0], 2)
    const steps = rig.before.value.length
    await rig.drawTo([0.3, 1, 0], 2)
    expect(rig.before.value).toHaveLength(steps)
  })
})
