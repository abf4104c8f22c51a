import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import * as vue from 'vue'
import { BIPED, Builder, keysOnto, newClip, poseAt, readClip, type Clip, type KeptClip } from '@idle-tinker/core'
import { clipsOf } from '../../packages/core/src/ship/clips.ts'
import { demoKit, demoTarget, dressed } from '../../packages/core/src/testing/demoKits.ts'
import pointing from '../../tests/fixtures/clips/v1-pointing.clip.json'
import type { Entry } from '../documents/Keeper.ts'
import { viewOf } from '../stage/testing/viewOf.ts'
import { useClip } from '../stores/clip.ts'
import { useProject } from '../stores/project.ts'
import { useKeys } from './useKeys.ts'

const ask = vi.hoisted(() => vi.fn())
const raf = vi.hoisted(() => ({ tick: null as null | ((at: { timestamp: number }) => void), on: false }))
const worker = vi.hoisted(() => ({ playKeys: vi.fn(), faces: vi.fn() }))
vi.mock('../stores/api', async (original) => ({ ...(await original<typeof import('../stores/api.ts')>()), ask }))
vi.mock('../workers', () => ({ workshop: () => worker, POOL: [] }))
vi.mock('../stage/Booth', () => ({ theBooth: vi.fn() }))
vi.mock('@vueuse/core', async (original) => ({
  ...(await original<typeof import('@vueuse/core')>()),
  useRafFn: (tick: (at: { timestamp: number }) => void) => {
    raf.tick = tick
    return { pause: () => (raf.on = false), resume: () => (raf.on = true) }
  },
}))
const figure = vi.hoisted(() => ({ view: null as unknown, recipe: null as unknown }))
vi.mock('../stores/figure', () => ({ useFigure: () => figure }))
vi.mock('../stores/view', () => ({ useView: () => ({ target: {}, reduced: false }) }))
const kit = vi.hoisted(() => ({ body: null as unknown }))
vi.mock('./useKit', () => ({ useKit: () => ({ body: { value: kit.body } }) }))

const folk = await demoKit('saltwick-folk')
const kits = new Map([[folk.manifest.id, folk]])
const human = folk.bodies.get('human')!
const recipe = dressed(folk, 'human', [])
const built = new Builder(kits).build(recipe, demoTarget('near')).figure!
const kept = readClip(pointing).value!
const entryOf = (id: string, content: KeptClip): Entry<KeptClip> => ({
  ...{ id, name: content.name, version: 1, content, hasPicture: false, savedAt: '' },
})
let scope: vue.EffectScope
let count = 0
const scrubbed: number[] = []

beforeEach(() => {
  setActivePinia(createPinia())
  for (const name of ['ref', 'shallowRef', 'computed', 'reactive', 'watch', 'onScopeDispose'] as const)
    vi.stubGlobal(name, vue[name])
  vi.stubGlobal('usePlan', () => vue.ref(BIPED))
  vi.stubGlobal('localStorage', { getItem: () => null, setItem: () => undefined, removeItem: () => undefined })
  figure.view = viewOf(built)
  figure.recipe = recipe
  kit.body = human.def
  count = 0
  scrubbed.length = 0
  worker.faces.mockReset().mockResolvedValue({})
  worker.playKeys.mockReset().mockImplementation((_recipe, _target, clip: KeptClip) => {
    const { value, problems } = keysOnto(clip, built.skeleton, human)
    return Promise.resolve({ clip: value, numbers: null, problems })
  })
  ask.mockReset().mockImplementation((_path: string, method: string, body: unknown) => {
    if (method === 'POST') return Promise.resolve(entryOf(`c${++count}`, body as KeptClip))
    const { version, content } = body as { version: number; content: KeptClip }
    return Promise.resolve({ ...entryOf('c1', content), version: version + 1 })
  })
  scope = vue.effectScope()
})
// what is still to be kept would come back in the midst of the next test
afterEach(async () => {
  scope.stop()
  await settled()
})
const settled = () => new Promise((go) => setTimeout(go, 0))
const start = () => scope.run(() => useKeys((t) => scrubbed.push(t)))!
/** A clip of one's own that is worked on. */
async function opened(content: KeptClip = kept) {
  useProject().documents.clip = [entryOf('a', content)]
  const keys = start()
  keys.chosen.value = 'a'
  await settled()
  return keys
}
const handAt = (keys: ReturnType<typeof useKeys>) =>
  keys.hands.handles.value.find((h) => h.handle.id === 'end-leftHand')!.at
const times = (keys: ReturnType<typeof useKeys>) => keys.kept.value!.poses.map((k) => k.at)
const reach = (y: number) => ({ handle: 'end-leftHand', to: [0.4, y, 0.3] as const })
const tick = (ms: number) => raf.tick!({ timestamp: 5_000 + ms })

describe('a clip of one’s own', () => {
  it('becomes a key where it stands by what a hand does, and goes back in one step', async () => {
    const keys = await opened()
    const before = times(keys)
    keys.time.value = 0.25
    keys.hands.grab()
    for (const y of [1.1, 1.2, 1.3]) keys.hands.drag(reach(y))
    expect(keys.clip.value!.loop).toBe(false)
    expect(handAt(keys)[1]).toBeCloseTo(1.3, 2)
    await keys.hands.release()
    await settled()
    expect(times(keys)).toEqual([...before, 0.25].sort((a, b) => a - b))
    expect(keys.selected.value).toEqual({ track: 'poses', at: 0.25 })
    // as the worker plays it now
    expect(handAt(keys)[1]).toBeCloseTo(1.3, 2)
    useClip().undo()
    await settled()
    expect([times(keys), useClip().canUndo]).toEqual([before, false])
  })

  it('takes up what a hand does while it is recorded, over what else moves', async () => {
    const keys = await opened({ ...newClip('New', 'biped'), loop: false, poses: [] })
    keys.record()
    expect([keys.recording.value, raf.on]).toEqual([true, true])
    tick(0)
    keys.hands.grab()
    for (let ms = 100; ms <= 1000; ms += 50) {
      keys.hands.drag(reach(0.9 + ms / 2500))
      tick(ms)
    }
    await keys.hands.release()
    tick(1400)
    expect(scrubbed.at(-1)).toBeCloseTo(1.4, 6)
    tick(2500)
    expect([keys.recording.value, raf.on, scrubbed.at(-1)]).toEqual([false, false, 2])
    await settled()
    const made = times(keys)
    expect([made[0], made.at(-1)]).toEqual([expect.closeTo(0.1, 2), expect.closeTo(1, 2)])
    expect(made.length).toBeLessThan(12)
    keys.time.value = 0.6
    expect(handAt(keys)[1]).toBeCloseTo(0.9 + 600 / 2500, 1)
    useClip().undo()
    await settled()
    expect(keys.kept.value!.poses).toEqual([])
  })

  it('leaves what else moves as it was, and takes up every time the hand takes hold', async () => {
    const keys = await opened()
    const clip = keys.played.value!.clip
    keys.record()
    tick(0)
    for (const [from, to] of [
      [300, 600],
      [900, 1300],
    ] as const) {
      keys.hands.grab()
      for (let ms = from; ms <= to; ms += 50) {
        keys.hands.drag(reach(1 + ms / 4000))
        tick(ms)
      }
      await keys.hands.release()
    }
    keys.stop()
    const made = keys.kept.value!.poses
    for (const [from, to] of [
      [0.3, 0.6],
      [0.9, 1.3],
    ] as const) {
      const inside = made.filter(({ at }) => at >= from - 0.001 && at <= to + 0.001)
      expect([inside[0]?.at, inside.at(-1)?.at]).toEqual([expect.closeTo(from, 2), expect.closeTo(to, 2)])
      // the other arm goes on as the clip has it
      const right = built.skeleton.bones.findIndex((b) => b.name === 'rightUpperArm')
      for (const { at, turns } of inside) {
        const there = poseAt(clip, at).turns.subarray(right * 4, right * 4 + 4)
        turns.rightUpperArm!.forEach((v, k) => expect(v, `${at} ${k}`).toBeCloseTo(there[k]!, 4))
      }
    }
  })

  it('plays the newest there is, however many changes come while the worker is at it', async () => {
    const keys = await opened()
    let go = () => undefined as void
    worker.playKeys.mockImplementationOnce(async () => {
      await new Promise<void>((done) => (go = done))
      return { clip: null, numbers: null, problems: [] }
    })
    keys.setDuration(3, false)
    await settled()
    keys.setDuration(5, false)
    go()
    await settled()
    expect(keys.played.value!.clip.duration).toBe(5)
  })

  it('keeps nothing twice of a hand that still holds when the clip has come to its end', async () => {
    const keys = await opened({ ...newClip('New', 'biped'), duration: 0.5, poses: [] })
    keys.record()
    tick(0)
    keys.hands.grab()
    for (const ms of [100, 200, 300, 400, 600]) {
      keys.hands.drag(reach(1 + ms / 2000))
      tick(ms)
    }
    await settled()
    const after = JSON.stringify(keys.kept.value)
    keys.hands.drag(reach(0.5))
    await keys.hands.release()
    await settled()
    expect(JSON.stringify(keys.kept.value)).toBe(after)
    expect(keys.recording.value).toBe(false)
  })

  it('records a face, and sets one where it stands; looks stay when moods change', async () => {
    const keys = await opened({ ...newClip('New', 'biped'), duration: 1 })
    const { moods } = keys
    keys.time.value = 0.5
    keys.lookAt(16, 0)
    keys.setFace(moods.value, { glad: 0.5 }, 'mood')
    keys.releaseFace()
    expect(keys.kept.value!.faces).toEqual([{ at: 0.5, ease: 'soft', shares: { 'look-left': 0.5, glad: 0.5 } }])
    keys.time.value = 0
    keys.record()
    tick(0)
    keys.grabFace()
    for (let ms = 50; ms <= 700; ms += 50) {
      keys.setFace(moods.value, { grim: ms / 1000 }, 'mood')
      tick(ms)
    }
    keys.releaseFace()
    keys.stop()
    const { faces } = keys.kept.value!
    expect(faces[0]!.at).toBeCloseTo(0.05, 2)
    expect(faces.at(-1)!.shares).toEqual({ grim: expect.closeTo(0.7, 1) as number, 'look-left': 0.5 })
    expect(faces.some((k) => k.shares.glad)).toBe(false)
  })

  it('moves, copies, puts, eases and removes keys; one drag is one step and loses none on the way', async () => {
    const keys = await opened()
    const before = times(keys)
    keys.takeKey()
    // over every other key and back
    for (const t of [0.5, 1, 2, 0.1]) keys.moveKey({ track: 'poses', at: 0 }, t)
    keys.dropKey()
    expect(times(keys)).toEqual([0.1, ...before.slice(1)])
    useClip().undo()
    expect([times(keys), useClip().canUndo]).toEqual([before, false])
    const second = { track: 'poses' as const, at: before[1]! }
    keys.copyKey(second)
    keys.time.value = 0.05
    keys.pasteKey()
    expect(keys.kept.value!.poses[1]).toEqual({ ...kept.poses[1], at: 0.05 })
    keys.ease({ track: 'poses', at: 0.05 }, 'flow')
    expect(keys.kept.value!.poses[1]!.ease).toBe('flow')
    keys.removeKey({ track: 'poses', at: 0.05 })
    expect(keys.kept.value).toEqual(kept)
  })

  it('says when it has as many keys as it may have, and shows what is kept', async () => {
    const faces = Array.from({ length: 300 }, (_, i) => ({ at: i / 100, ease: 'even' as const, shares: {} }))
    const keys = await opened({ ...kept, duration: 5, faces })
    keys.time.value = 4
    keys.setFace(keys.moods.value, { glad: 1 }, 'mood')
    keys.releaseFace()
    expect(keys.said.value).toEqual([expect.stringContaining('as many keys')])
    expect([keys.shares.value.glad ?? 0, keys.kept.value!.faces.length]).toEqual([0, 300])
    keys.time.value = 1
    keys.setFace(keys.moods.value, { glad: 1 }, 'mood')
    keys.releaseFace()
    expect([keys.said.value, keys.shares.value.glad]).toEqual([[], 1])
    expect(await keys.copy()).toBe('c1')
    expect(useProject().documents.clip.map((c) => c.content.name)).toEqual([kept.name, `${kept.name} 2`])
  })

  it('mirrors all of it, and twice is as it was', async () => {
    const keys = await opened()
    keys.mirror()
    expect(keys.kept.value!.poses[1]!.turns.leftUpperArm).not.toEqual(kept.poses[1]!.turns.leftUpperArm)
    keys.mirror()
    keys.kept.value!.poses.forEach((key, i) => {
      for (const [bone, turn] of Object.entries(kept.poses[i]!.turns))
        turn.forEach((v, k) => expect(Math.abs(key.turns[bone]?.[k] ?? 0), `${i} ${bone}`).toBeCloseTo(Math.abs(v), 3))
    })
  })

  it('is made of a pose at rest, or of a clip of the kit, by a name of its own', async () => {
    const keys = start()
    expect(await keys.make(null)).toBe('c1')
    const walk: Clip = clipsOf(built, kits, recipe).find((c) => c.id === 'walk')!
    expect(await keys.make(walk)).toBe('c2')
    expect(await keys.make(walk)).toBe('c3')
    const { clip } = useProject().documents
    expect(clip.map((c) => c.content.name)).toEqual(['New clip', 'Walk, mine', 'Walk, mine 2'])
    expect(clip[1]!.content).toMatchObject({ loop: true, plan: 'biped' })
  })

  it('says what cannot be kept or read, and what is for others', async () => {
    const keys = start()
    const file = (name: string, content: unknown) =>
      ({ name, text: () => Promise.resolve(JSON.stringify(content)) }) as unknown as File
    const first = await keys.bring([
      file('a', kept),
      file('b', { format: 'x' }),
      file('c', { ...kept, plan: 'hopper' }),
    ])
    expect(first).toBe('c1')
    expect(keys.said.value).toHaveLength(2)
    expect([keys.own.value.length, keys.others.value]).toEqual([1, 1])
    ask.mockRejectedValue(new TypeError('away'))
    expect(await keys.make(null)).toBeNull()
    expect(keys.said.value).toEqual(['away'])
    await keys.remove(keys.own.value[0]!)
    expect([keys.said.value, keys.own.value.length, keys.removed.value]).toEqual([['away'], 1, null])
  })

  it('is measured once hands rest, not at every change', async () => {
    const keys = await opened()
    for (const seconds of [3, 4, 5]) {
      keys.setDuration(seconds, false)
      await settled()
    }
    const measured = () => worker.playKeys.mock.calls.filter((call) => call[3] === true)
    expect([measured().length, worker.playKeys.mock.calls.length]).toEqual([0, 4])
    await vi.waitFor(() => expect(measured().map((call) => (call[2] as KeptClip).duration)).toEqual([5]), 3000)
  })

  it('tells when the worker is gone, and plays what there is when it is back', async () => {
    worker.playKeys.mockRejectedValueOnce(new Error('the worker has ended'))
    const keys = await opened()
    expect([keys.told.value, keys.clip.value]).toEqual([['the worker has ended'], null])
    keys.setLoop(true)
    keys.setLoop(false)
    await settled()
    expect(keys.told.value).toEqual([])
    expect(keys.clip.value!.name).toBe('Pointing, glad')
  })

  it('stops what is recorded when another is chosen, and keeps that with its own', async () => {
    useProject().documents.clip = [entryOf('a', { ...newClip('A', 'biped') }), entryOf('b', kept)]
    const keys = start()
    keys.chosen.value = 'a'
    await settled()
    keys.record()
    tick(0)
    keys.hands.grab()
    for (const ms of [100, 200, 300]) {
      keys.hands.drag(reach(1 + ms / 1000))
      tick(ms)
    }
    keys.chosen.value = 'b'
    await settled()
    const [a, b] = useProject().documents.clip
    expect(a!.content.poses.length).toBeGreaterThan(1)
    expect(b!.content).toEqual(kept)
    expect([keys.recording.value, useClip().id]).toEqual([false, 'b'])
  })
})
