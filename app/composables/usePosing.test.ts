import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import * as vue from 'vue'
import { BIPED, Builder, readPose, type KeptPose } from '@idle-tinker/core'
import { demoKit, demoTarget, dressed } from '../../packages/core/src/testing/demoKits.ts'
import reaching from '../../tests/fixtures/poses/v1-reaching.pose.json'
import type { Entry } from '../documents/Keeper.ts'
import { viewOf } from '../stage/testing/viewOf.ts'
import { usePose } from '../stores/pose.ts'
import { useProject } from '../stores/project.ts'
import { RESTS } from './rests.ts'
import { usePosing } from './usePosing.ts'

const ask = vi.hoisted(() => vi.fn())
vi.mock('../stores/api', async (original) => ({ ...(await original<typeof import('../stores/api.ts')>()), ask }))
vi.mock('../workers', () => ({ workshop: vi.fn(), POOL: [] }))
vi.mock('../stage/Booth', () => ({ theBooth: vi.fn() }))
const figure = vi.hoisted(() => ({ view: null as unknown, recipe: { name: 'Maren' } }))
vi.mock('../stores/figure', () => ({ useFigure: () => figure }))

const folk = await demoKit('saltwick-folk')
const kits = new Map([[folk.manifest.id, folk]])
const { figure: built } = new Builder(kits).build(dressed(folk, 'human', []), demoTarget('near'))
const kept = readPose(reaching).value!
const entryOf = (id: string, content: KeptPose, version = 1): Entry<KeptPose> => ({
  ...{ id, name: content.name, version, content, hasPicture: false, savedAt: '' },
})
/** Answers that are on their way until they are let go. */
let held: (() => void)[] | null = null
let away = false
let count = 0

beforeEach(() => {
  setActivePinia(createPinia())
  for (const name of ['ref', 'shallowRef', 'computed', 'reactive', 'watch', 'nextTick'] as const)
    vi.stubGlobal(name, vue[name])
  vi.stubGlobal('onScopeDispose', () => undefined)
  vi.stubGlobal('useOfFigure', () => ({ told: vue.ref([]), wanted: vue.ref(true) }))
  vi.stubGlobal('usePlan', () => vue.ref(BIPED))
  vi.stubGlobal('RESTS', RESTS)
  vi.stubGlobal('localStorage', { getItem: () => null, setItem: () => undefined, removeItem: () => undefined })
  figure.view = viewOf(built!)
  held = null
  away = false
  count = 0
  ask.mockReset().mockImplementation(async (_path: string, method: string, body: unknown) => {
    if (away) throw new TypeError('away')
    if (held) await new Promise<void>((go) => held!.push(go))
    if (method === 'POST') return entryOf(`p${++count}`, body as KeptPose)
    const { version, content } = body as { version: number; content: KeptPose }
    return entryOf('p1', content, version + 1)
  })
})
// what is still to be kept would come back in the midst of the next test, and with it the stores of this one
afterEach(async () => {
  usePose().close()
  await settled()
})
const own = () => useProject().documents.pose
const settled = () => new Promise((go) => setTimeout(go, 0))

/** A figure whose hand is taken, led to a place and let go. */
async function lift(posing: ReturnType<typeof usePosing>, y: number): Promise<void> {
  posing.grab()
  posing.drag({ handle: 'end-leftHand', to: [0.35, y, 0.3] })
  await posing.release()
}
const hand = (posing: ReturnType<typeof usePosing>) =>
  posing.handles.value.find((h) => h.handle.id === 'end-leftHand')!.at

describe('posing', () => {
  it('makes of the pose of rest one of one’s own with the first thing that is moved, and changes that from then on', async () => {
    const posing = usePosing()
    expect(posing.current.value!.id).toBe('built')
    await lift(posing, 1.2)
    expect(own().map((p) => p.name)).toEqual(['Pose 2'])
    expect([posing.chosen.value, usePose().id]).toEqual(['own p1', 'p1'])
    expect(hand(posing)[1]).toBeCloseTo(1.2, 3)
    await lift(posing, 1.0)
    expect(own()).toHaveLength(1)
    expect(hand(posing)[1]).toBeCloseTo(1.0, 3)
    usePose().undo()
    await settled()
    expect(hand(posing)[1]).toBeCloseTo(1.2, 3)
    expect(usePose().canUndo).toBe(false)
  })

  it('loses nothing that is moved while the first is on its way to be kept', async () => {
    const posing = usePosing()
    held = []
    const first = lift(posing, 1.2)
    await settled()
    const second = lift(posing, 1.05)
    await settled()
    expect(hand(posing)[1]).toBeCloseTo(1.05, 3)
    held.splice(0).forEach((go) => go())
    held = null
    await Promise.all([first, second])
    await settled()
    expect(own()).toHaveLength(1)
    expect(hand(posing)[1]).toBeCloseTo(1.05, 3)
    expect(usePose().canUndo).toBe(true)
  })

  it('changes no other pose, though one is chosen while the first is on its way', async () => {
    useProject().documents.pose = [entryOf('c', { ...kept, name: 'Calm' })]
    const posing = usePosing()
    held = []
    const first = lift(posing, 1.2)
    await settled()
    const second = lift(posing, 1.05)
    posing.chosen.value = 'own c'
    await settled()
    const calm = JSON.stringify(useProject().documents.pose[0]!.content)
    const letGo = setInterval(() => held?.splice(0).forEach((go) => go()), 1)
    await Promise.all([first, second])
    clearInterval(letGo)
    await settled()
    expect(JSON.stringify(useProject().documents.pose[0]!.content)).toBe(calm)
    // it is there all the same, with the second change in it, and what was chosen stays chosen
    expect([own().map((p) => p.name), posing.chosen.value, usePose().id]).toEqual([['Calm', 'Pose 2'], 'own c', 'c'])
    expect(ask).toHaveBeenLastCalledWith('/api/documents/pose/p1', 'PUT', expect.anything())
  })

  it('keeps what is let go as Motion is left', async () => {
    const posing = usePosing()
    await lift(posing, 1.2)
    const before = JSON.stringify(own()[0]!.content)
    posing.grab()
    posing.drag({ handle: 'end-leftHand', to: [0.35, 1.0, 0.3] })
    const left = posing.release()
    usePose().close()
    await left
    expect(own()).toHaveLength(1)
    expect(JSON.stringify(own()[0]!.content)).not.toBe(before)
  })

  it('says what could not be kept, shows it on, and keeps it when it can', async () => {
    const posing = usePosing()
    away = true
    await lift(posing, 1.1)
    expect([posing.said.value, posing.unkept.value, own()]).toEqual([['away'], true, []])
    expect(hand(posing)[1]).toBeCloseTo(1.1, 3)
    away = false
    posing.retry()
    await settled()
    await settled()
    expect([posing.unkept.value, own().length]).toEqual([false, 1])
    expect(hand(posing)[1]).toBeCloseTo(1.1, 3)
  })

  it('lists what is for this kind of figure, and tells of the others', async () => {
    useProject().documents.pose = [entryOf('a', kept), entryOf('b', { ...kept, plan: 'hopper' })]
    const posing = usePosing()
    expect(posing.listed.value.filter((p) => p.from === 'own').map((p) => p.id)).toEqual(['own a'])
    expect(posing.others.value).toBe(1)
    posing.chosen.value = 'own a'
    await settled()
    // as the file says: it was made on another body, so the hand is only near there
    expect(hand(posing)[1]).toBeGreaterThan(0.7)
    expect(usePose().id).toBe('a')
    posing.shown.value = false
    await settled()
    expect(usePose().id).toBeNull()
  })

  it('brings in pose files, and says what is no pose and what is for others', async () => {
    const posing = usePosing()
    const file = (name: string, content: unknown) =>
      ({ name, text: () => Promise.resolve(JSON.stringify(content)) }) as unknown as File
    const files = [file('a.json', kept), file('b.json', { format: 'x' }), file('c.json', { ...kept, plan: 'hopper' })]
    await posing.bring(files)
    expect(own().map((p) => p.content.plan)).toEqual(['biped', 'hopper'])
    expect(posing.said.value).toHaveLength(2)
    expect(posing.said.value[1]).toContain('another kind')
    // what is for others is not what is worked on
    expect(usePose().now?.plan).toBe('biped')
  })
})
