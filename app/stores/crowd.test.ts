import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { newTarget, type Crowd, type Mix, type Recipe } from '@idle-tinker/core'
import { Refused } from './api.ts'
import { useCrowd } from './crowd.ts'
import { useProject, type MixEntry } from './project.ts'

const ask = vi.hoisted(() => vi.fn())
const worker = vi.hoisted(() => ({ crowd: vi.fn(), build: vi.fn(), loadKits: vi.fn() }))
const take = vi.hoisted(() => vi.fn())
vi.mock('./api', async (original) => ({ ...(await original<typeof import('./api.ts')>()), ask }))
vi.mock('../workers', () => ({ workshop: () => worker, POOL: ['pool 1', 'pool 2'] }))
vi.mock('../stage/Booth', () => ({ theBooth: () => ({ take }) }))

const mix: Mix = {
  format: 'idle-tinker-mix',
  version: 3,
  id: 'quay',
  name: 'Quay',
  count: 4,
  seed: 7,
  kinds: [
    {
      id: 'human',
      share: 1,
      body: { kit: 'k', kitVersion: '1.0.0', id: 'human' },
      slots: {},
      sliders: {},
      palettes: [],
      atMostOnce: [],
    },
  ],
  triangles: 900,
}
const variant = (n: number, pinned = false) => ({
  recipe: {
    format: 'idle-tinker-recipe',
    version: 2,
    name: `Quay ${n}`,
    body: mix.kinds[0]!.body,
    parts: [{ id: 'hat', slot: 'hat', part: { kit: 'k', kitVersion: '1.0.0', id: n % 2 ? 'cap' : 'hat' } }],
    sliders: { build: n / 100 },
    colors: {},
    locks: [],
  } satisfies Recipe,
  nearest: { index: 0, distance: 1 },
  pinned,
})
const crowdOf = (...numbers: number[]): Crowd => ({
  variants: numbers.map((n) => variant(n)),
  twins: [],
  problems: [],
})

const kept = new Map<string, string>()
const entryOf = (content: Mix, version: number): MixEntry => ({
  id: content.id,
  name: content.name,
  version,
  content,
  hasPicture: false,
  savedAt: '',
})

beforeEach(() => {
  setActivePinia(createPinia())
  vi.useFakeTimers()
  vi.stubGlobal('location', { origin: 'http://here' })
  ask
    .mockReset()
    .mockImplementation((_p: string, _m: string, { version, content }: { version: number; content: Mix }) =>
      Promise.resolve(entryOf(content, version + 1)),
    )
  vi.stubGlobal('localStorage', {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => kept.set(k, v),
    removeItem: (k: string) => kept.delete(k),
  })
  kept.clear()
  worker.crowd.mockReset().mockResolvedValue(crowdOf(1, 2, 3, 4))
  worker.build.mockReset().mockResolvedValue({ view: { costs: { triangles: 880 } }, problems: [] })
  worker.loadKits.mockReset().mockResolvedValue({ loaded: [], broken: [] })
  let shots = 0
  take.mockReset().mockImplementation(() => ({ toDataURL: () => `picture ${++shots}` }))
  useProject().documents.mix = [entryOf(mix, 3)]
})
afterEach(() => vi.useRealTimers())

async function made() {
  const crowd = useCrowd()
  crowd.open('quay')
  await crowd.make()
  return crowd
}

describe('a crowd', () => {
  it('is chosen, then built and drawn one by one', async () => {
    const crowd = await made()
    expect(crowd.phase).toBe('idle')
    expect(crowd.done).toBe(4)
    expect(crowd.cards.map((c) => c.picture).sort()).toEqual(['picture 1', 'picture 2', 'picture 3', 'picture 4'])
    expect(crowd.cards.every((c) => c.costs?.triangles === 880)).toBe(true)
    expect(crowd.partUse).toEqual([
      { part: 'k/cap', slot: 'hat', count: 2 },
      { part: 'k/hat', slot: 'hat', count: 2 },
    ])
  })

  it('builds within the mix’s own limit', async () => {
    const crowd = useCrowd()
    crowd.open('quay')
    crowd.changeRules({ ...mix, triangles: 640 })
    await crowd.make()
    expect(worker.build.mock.calls[0]![1]).toMatchObject({ limits: { triangles: 640 } })
    expect(crowd.target.limits.triangles).toBe(640)
  })

  it('draws only what changed when it is made again', async () => {
    const crowd = await made()
    const before = crowd.cards.map((c) => c.picture)
    worker.crowd.mockResolvedValue(crowdOf(1, 9, 3, 4))
    await crowd.make()
    expect(worker.build).toHaveBeenCalledTimes(5)
    expect(crowd.cards[0]!.picture).toBe(before[0])
    expect(crowd.cards[1]!.picture).toBe('picture 5')
  })

  it('draws everything anew for another limit', async () => {
    const crowd = await made()
    crowd.changeRules({ ...mix, triangles: 500 })
    await crowd.make()
    expect(worker.build).toHaveBeenCalledTimes(8)
  })

  it('is built for the target that fits its limit, or for the one that is chosen, never above its own limit', async () => {
    const of = (id: string, triangles: number) => {
      const target = newTarget(id, id)
      return { ...entryOf(mix, 1), id, content: { ...target, limits: { ...target.limits, triangles } } }
    }
    useProject().documents.target = [of('wide', 5000), of('slim', 950), of('tiny', 200)]
    const crowd = await made()
    expect([crowd.target.id, crowd.target.limits.triangles, crowd.measured.length]).toEqual(['slim', 900, 4])
    const measuring = crowd.setTarget('tiny')
    expect([crowd.target.limits.triangles, crowd.measured.length, crowd.phase]).toEqual([200, 0, 'drawing'])
    await measuring
    expect([crowd.measured.length, worker.build.mock.calls.length, crowd.phase]).toEqual([4, 8, 'idle'])
    expect(worker.build.mock.lastCall![1]).toMatchObject({ id: 'tiny' })
    expect(worker.crowd).toHaveBeenCalledTimes(1)
    // a worker that fails is told, and what was built for the other target is not shown for this one
    worker.build.mockRejectedValueOnce(new Error('The worker has ended.'))
    await crowd.setTarget('wide')
    expect([crowd.message, crowd.phase]).toEqual(['The worker has ended.', 'idle'])
    await crowd.setTarget('tiny')
    expect([crowd.message, crowd.measured.length]).toEqual(['', 4])
    // what was changed in its limits is not what the figures were built for
    useProject().documents.target = [of('wide', 5000), of('slim', 950), of('tiny', 150)]
    expect(crowd.measured).toEqual([])
  })

  it('stops when it is canceled, and shows what is there', async () => {
    const crowd = useCrowd()
    crowd.open('quay')
    let finish: ((v: unknown) => void)[] = []
    worker.build.mockImplementation(() => new Promise((resolve) => finish.push(resolve)))
    const making = crowd.make()
    await vi.waitFor(() => expect(finish.length).toBeGreaterThan(0))
    crowd.cancel()
    for (const f of finish) f({ view: { costs: { triangles: 1 } }, problems: [] })
    finish = []
    await making
    expect(crowd.phase).toBe('idle')
    expect(crowd.cards).toHaveLength(4)
    expect(crowd.cards.every((c) => c.picture === null)).toBe(true)
  })

  it('tells how far the choosing is, and stops it when it is canceled', async () => {
    const crowd = useCrowd()
    crowd.open('quay')
    let watch: (share: number) => boolean = () => true
    worker.crowd.mockImplementationOnce((_mix: Mix, watching: typeof watch) => {
      watch = watching
      return new Promise((resolve) => setTimeout(() => resolve(null), 50))
    })
    const making = crowd.make()
    await vi.advanceTimersByTimeAsync(1)
    expect([crowd.phase, watch(0.4), crowd.chosen]).toEqual(['choosing', true, 0.4])
    crowd.cancel()
    expect([watch(0.6), crowd.chosen]).toEqual([false, 0.4])
    await vi.advanceTimersByTimeAsync(60)
    await making
    expect([crowd.phase, crowd.cards]).toEqual(['idle', []])
    expect(worker.build).not.toHaveBeenCalled()
  })

  it('says why it could not be made', async () => {
    worker.crowd.mockRejectedValueOnce(new Error('kit k is not loaded'))
    const crowd = await made()
    expect(crowd.phase).toBe('idle')
    expect(crowd.message).toBe('kit k is not loaded')
  })
})

describe('pins and places made anew', () => {
  it('are saved with the mix', async () => {
    const crowd = await made()
    crowd.pin(2)
    expect(crowd.cards[2]!.pinned).toBe(true)
    await vi.advanceTimersByTimeAsync(700)
    expect(ask.mock.calls[0]![2]).toMatchObject({ version: 3, content: { pins: { 2: { name: 'Quay 3' } } } })
    expect(crowd.version).toBe(4)
    await crowd.reroll(0)
    expect(worker.crowd.mock.calls[1]![0]).toMatchObject({ rerolls: [0], pins: { 2: {} } })
    await vi.advanceTimersByTimeAsync(700)
    expect(ask.mock.calls[1]![2]).toMatchObject({ version: 4, content: { rerolls: [0] } })
  })

  it('let go leave nothing behind', async () => {
    const crowd = await made()
    crowd.pin(1)
    crowd.pin(1)
    expect(crowd.mix!.pins).toEqual({})
    expect(crowd.cards[1]!.pinned).toBe(false)
  })

  it('does not make a pinned place anew', async () => {
    const crowd = await made()
    crowd.pin(1)
    await crowd.reroll(1)
    expect(worker.crowd).toHaveBeenCalledTimes(1)
    expect(crowd.mix!.rerolls).toBeUndefined()
  })

  it('forgets places made anew when the rules change, and keeps the pins', async () => {
    const crowd = await made()
    crowd.pin(1)
    await crowd.reroll(0)
    crowd.changeRules({ ...crowd.mix!, seed: 8 })
    expect(crowd.mix!.rerolls).toBeUndefined()
    expect(crowd.mix!.pins).toHaveProperty('1')
  })
})

describe('saving a mix', () => {
  it('waits for the last of several changes', async () => {
    const crowd = useCrowd()
    crowd.open('quay')
    for (const seed of [1, 2, 3]) crowd.changeRules({ ...mix, seed })
    await vi.advanceTimersByTimeAsync(700)
    expect(ask).toHaveBeenCalledTimes(1)
    expect(ask.mock.calls[0]![2]).toMatchObject({ content: { seed: 3 } })
    expect(useProject().mixes[0]!.content.seed).toBe(3)
  })

  it('says when the server is away and saves when it is back, of itself', async () => {
    const crowd = useCrowd()
    crowd.open('quay')
    ask.mockRejectedValueOnce(new TypeError('fetch failed'))
    crowd.changeRules({ ...mix, seed: 9 })
    await vi.advanceTimersByTimeAsync(700)
    expect(crowd.save).toBe('away')
    await vi.advanceTimersByTimeAsync(3000)
    expect(crowd.save).toBe('saved')
    expect(useProject().mixes[0]!.content.seed).toBe(9)
  })

  it('does not lose a change when another mix is opened at once', async () => {
    const crowd = useCrowd()
    useProject().documents.mix = [entryOf(mix, 3), entryOf({ ...mix, id: 'night' }, 8)]
    crowd.open('quay')
    crowd.changeRules({ ...mix, seed: 11 })
    crowd.open('night')
    crowd.changeRules({ ...mix, id: 'night', seed: 12 })
    await vi.advanceTimersByTimeAsync(2000)
    const sent = ask.mock.calls.map(
      ([path, , body]) => [path as string, body as { version: number; content: Mix }] as const,
    )
    expect(sent.map(([path, body]) => [path, body.version, body.content.seed])).toEqual([
      ['/api/documents/mix/quay', 3, 11],
      ['/api/documents/mix/night', 8, 12],
    ])
    expect(crowd.version).toBe(9)
  })

  it('after a conflict takes theirs, or keeps mine as a mix of its own', async () => {
    const crowd = useCrowd()
    const theirs = entryOf({ ...mix, seed: 77 }, 9)
    const conflict = async () => {
      crowd.open('quay')
      ask.mockRejectedValueOnce(new Refused(409, 'Another window has saved this mix.', []))
      crowd.changeRules({ ...crowd.mix!, seed: 10 })
      await vi.advanceTimersByTimeAsync(700)
      expect(crowd.save).toBe('conflict')
      ask.mockImplementation((_path: string, method = 'GET', body?: Mix) =>
        Promise.resolve(method === 'POST' ? entryOf(body!, 1) : theirs),
      )
    }
    await conflict()
    await crowd.resolveConflict(false)
    expect([crowd.mix!.seed, crowd.version, crowd.save]).toEqual([77, 9, 'saved'])
    await conflict()
    await crowd.resolveConflict(true)
    expect(crowd.mix).toMatchObject({ id: 'quay-mine', name: 'Quay (mine)', seed: 10 })
    expect(useProject().mixes.map((m) => [m.id, m.content.seed])).toEqual([
      ['quay', 77],
      ['quay-mine', 10],
    ])
  })

  it('is undone and redone step by step, a drag as one, pins as well', async () => {
    const crowd = await made()
    for (const seed of [1, 2, 3]) crowd.changeRules({ ...crowd.mix!, seed }, 'seed')
    crowd.pin(1)
    crowd.undo()
    expect(crowd.cards[1]!.pinned).toBe(false)
    crowd.undo()
    expect(crowd.mix!.seed).toBe(7)
    expect(crowd.canUndo).toBe(false)
    crowd.redo()
    crowd.redo()
    expect([crowd.mix!.seed, crowd.cards[1]!.pinned, crowd.canRedo]).toEqual([3, true, false])
  })

  it('opens the first mix there is when its own is deleted, or none', () => {
    const crowd = useCrowd()
    useProject().documents.mix = [entryOf(mix, 3), entryOf({ ...mix, id: 'night' }, 8)]
    crowd.open('quay')
    useProject().documents.mix = [entryOf({ ...mix, id: 'night' }, 8)]
    crowd.close()
    expect(crowd.mix!.id).toBe('night')
    useProject().documents.mix = []
    crowd.close()
    expect([crowd.mix, crowd.id, crowd.cards]).toEqual([null, null, []])
  })
})
