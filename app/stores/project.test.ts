import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { newTarget, type Recipe, type Target } from '@idle-tinker/core'
import type { ShipmentOrder } from '../../server/jobs/shipmentOrder.ts'
import type { Entry } from '../documents/Keeper.ts'
import { Refused } from './api.ts'
import { forgetPool, inPool, useProject, type FigureEntry } from './project.ts'
import { useShip } from './ship.ts'
import { useView } from './view.ts'

const ask = vi.hoisted(() => vi.fn())
const worker = vi.hoisted(() => ({ loadKits: vi.fn(), open: vi.fn(), build: vi.fn() }))
vi.mock('./api', async (original) => ({ ...(await original<typeof import('./api.ts')>()), ask }))
const take = vi.hoisted(() => vi.fn())
vi.mock('../stage/Booth', () => ({ theBooth: () => ({ take }) }))
const asked = vi.hoisted((): string[] => [])
vi.mock('../workers', () => ({
  workshop: (name: string) => {
    asked.push(name)
    return worker
  },
  POOL: ['pool 1', 'pool 2'],
}))

const recipe = { name: 'Pim', parts: [] } as unknown as Recipe
const entry = (id: string, version = 1): FigureEntry => ({
  id,
  name: id,
  version,
  content: recipe,
  hasPicture: false,
  savedAt: '',
})
const of = (content: Target, version = 1): Entry<Target> => ({
  id: content.id,
  name: content.name,
  version,
  content,
  hasPicture: false,
  savedAt: '',
})
const kept = new Map<string, string>()

beforeEach(() => {
  setActivePinia(createPinia())
  kept.clear()
  vi.stubGlobal('markRaw', <T>(v: T) => v)
  vi.stubGlobal('location', { origin: 'http://here' })
  vi.stubGlobal('useRuntimeConfig', () => ({ app: { buildId: 'one' } }))
  vi.stubGlobal('localStorage', {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => kept.set(k, v),
    removeItem: (k: string) => kept.delete(k),
  })
  ask.mockReset()
  worker.loadKits.mockReset().mockResolvedValue({
    loaded: [{ manifest: { id: 'folk', name: 'Folk' }, regions: { hat: ['felt', 'band'] }, problems: [] }],
    broken: [{ id: 'torn', problems: [] }],
  })
  worker.open.mockReset()
})

describe('the project', () => {
  it('loads kits, figures and mixes, and knows regions by kit and part', async () => {
    ask.mockImplementation((path: string) =>
      Promise.resolve(
        path === '/api/kits'
          ? [{ id: 'folk', hash: 'h', files: [{ path: 'kit.json' }] }]
          : path === '/api/documents/figure'
            ? [entry('a')]
            : [],
      ),
    )
    const project = useProject()
    await project.load()
    expect(project.state).toBe('ready')
    const address = { id: 'folk', hash: 'h', files: ['kit.json'], reading: '/api/readings/folk/h?by=one' }
    expect(worker.loadKits).toHaveBeenCalledWith([address], 'http://here')
    expect(project.manifest('folk')).toMatchObject({ name: 'Folk' })
    expect(project.broken.map((b) => b.id)).toEqual(['torn'])
    expect(project.manifest('gone')).toBeUndefined()
    expect(project.regionsOf('folk', 'hat')).toEqual(['felt', 'band'])
    expect(project.regionsOf('folk', 'gone')).toEqual([])
  })

  it('shows no figure before the kits it is built from are there', async () => {
    ask.mockImplementation((path: string) => Promise.resolve(path === '/api/documents/figure' ? [entry('a')] : []))
    let arrive = (): void => undefined
    worker.loadKits.mockReturnValue(new Promise((resolve) => (arrive = () => resolve({ loaded: [], broken: [] }))))
    const project = useProject()
    const loading = project.load()
    await vi.waitFor(() => expect(worker.loadKits).toHaveBeenCalled())
    expect(project.figures).toEqual([])
    arrive()
    await loading
    expect(project.figures.map((f) => f.id)).toEqual(['a'])
  })

  it('says why it could not be loaded', async () => {
    ask.mockRejectedValue(new TypeError('fetch failed'))
    const project = useProject()
    await project.load()
    expect(project.state).toBe('failed')
    expect(project.message).toBe('fetch failed')
  })

  it('adds, removes and brings back figures', async () => {
    const project = useProject()
    ask.mockResolvedValueOnce(entry('a')).mockResolvedValueOnce(entry('b'))
    await project.add('figure', recipe)
    await project.add('figure', recipe)
    expect(project.figures.map((f) => f.id)).toEqual(['a', 'b'])
    ask.mockResolvedValueOnce({})
    await project.remove('figure', 'a')
    expect(project.figures.map((f) => f.id)).toEqual(['b'])
    ask.mockResolvedValueOnce([entry('a')])
    await project.loadDeleted('figure')
    expect(project.deleted.figure).toHaveLength(1)
    ask.mockResolvedValueOnce(entry('a', 2))
    await project.restore('figure', 'a')
    expect(project.deleted.figure).toEqual([])
    expect(project.figures.map((f) => f.id)).toEqual(['b', 'a'])
  })

  it('takes over a saved figure and its picture', async () => {
    const project = useProject()
    project.documents.figure = [entry('a'), entry('b')]
    project.saved('figure', entry('b', 5))
    expect(project.figures[1]!.version).toBe(5)
    ask.mockResolvedValueOnce({})
    await project.setPicture('a', new Blob(['x']))
    expect(project.figures.map((f) => f.hasPicture)).toEqual([true, false])
    expect(project.pictureVersion).toBe(1)
  })

  it('gives a copy the first free name, also where another window or a deleted one has it', async () => {
    const project = useProject()
    project.documents.target = [of(newTarget('far-off', 'Far off'))]
    project.deleted.target = [of(newTarget('far-off-2', 'Far off 2'))]
    ask
      .mockRejectedValueOnce(new Refused(409, 'There is one.', []))
      .mockImplementation((_p: string, _m: string, target: Target) => Promise.resolve(of(target)))
    const copy = await project.addNamed('target', newTarget('x', 'Far off'))
    expect(copy).toMatchObject({ id: 'far-off-4', name: 'Far off 4' })
    expect((await project.addNamed('target', newTarget('x', '—'))).id).toMatch(/^[a-z0-9]/)
    ask.mockReset().mockRejectedValue(new TypeError('away'))
    await expect(project.addNamed('target', newTarget('x', 'New'))).rejects.toBeInstanceOf(TypeError)
    expect(ask).toHaveBeenCalledTimes(1)
  })

  it('draws those figures that have no picture yet', async () => {
    const project = useProject()
    project.documents.figure = [entry('a'), { ...entry('b'), hasPicture: true }, entry('c')]
    worker.build.mockResolvedValue({ view: { n: 1 }, problems: [] })
    take.mockReturnValue({ toBlob: (done: (b: Blob) => void) => done(new Blob(['png'])) })
    ask.mockResolvedValueOnce({}).mockRejectedValueOnce(new TypeError('away'))
    await project.takeMissingPictures()
    expect(ask.mock.calls.map(([path]) => path as string)).toEqual([
      '/api/documents/figure/a/picture',
      '/api/documents/figure/c/picture',
    ])
    expect(project.figures.map((f) => f.hasPicture)).toEqual([true, true, false])
  })

  it('draws a missing picture once, however often the list is opened', async () => {
    const project = useProject()
    project.documents.figure = [entry('a')]
    worker.build.mockReset().mockResolvedValue({ view: { n: 1 }, problems: [] })
    take.mockReturnValue({ toBlob: (done: (b: Blob) => void) => done(new Blob(['png'])) })
    ask.mockResolvedValue({})
    await Promise.all([project.takeMissingPictures(), project.takeMissingPictures()])
    expect(worker.build).toHaveBeenCalledTimes(1)
    await project.takeMissingPictures()
    expect(worker.build).toHaveBeenCalledTimes(1)
  })

  it('gives new kits to the workers of the pool too, when they are next asked', async () => {
    ask.mockResolvedValue([])
    const project = useProject()
    await project.load()
    await inPool(() => Promise.resolve())
    await inPool(() => Promise.resolve())
    const before = worker.loadKits.mock.calls.length
    await project.load()
    await inPool(() => Promise.resolve())
    // one by the Bench, one by the first of the pool; the second has never been needed
    expect(worker.loadKits.mock.calls.length).toBe(before + 2)
  })

  it('asks the worker of the pool that has least to do, and starts a second only then', async () => {
    forgetPool()
    const finish: (() => void)[] = []
    const work = () => inPool(() => new Promise<void>((resolve) => finish.push(resolve)))
    const settled = () => new Promise((resolve) => setTimeout(resolve))
    const before = asked.length
    const all = [work(), work(), work()]
    await settled()
    expect(asked.slice(before).filter((name, i, names) => names.indexOf(name) === i)).toEqual(['pool 1', 'pool 2'])
    expect(asked.slice(before).filter((name) => name === 'pool 1').length).toBeGreaterThan(2)
    for (const f of finish) f()
    await Promise.all(all)
    const then = asked.length
    await inPool(() => Promise.resolve())
    expect(new Set(asked.slice(then))).toEqual(new Set(['pool 1']))
  })

  it('has kits read again by a worker that was started anew, and by one that could not read them', async () => {
    forgetPool()
    const loads = () => worker.loadKits.mock.calls.length
    worker.loadKits.mockRejectedValueOnce(new Error('the server is away'))
    await expect(inPool(() => Promise.resolve(1))).rejects.toThrow('away')
    const before = loads()
    expect(await inPool(() => Promise.resolve(1))).toBe(1)
    expect(loads()).toBe(before + 1)
    forgetPool('pool 2')
    await inPool(() => Promise.resolve())
    expect(loads()).toBe(before + 1)
    forgetPool('pool 1')
    await inPool(() => Promise.resolve())
    expect(loads()).toBe(before + 2)
  })

  it('opens a file as a figure, or refuses it with every problem', async () => {
    const project = useProject()
    const file = { name: 'x.glb', arrayBuffer: () => Promise.resolve(new ArrayBuffer(4)) } as unknown as File
    worker.open.mockResolvedValueOnce({ value: recipe, problems: [] })
    ask.mockResolvedValueOnce(entry('c'))
    expect((await project.openFile(file)).id).toBe('c')
    expect(ask).toHaveBeenCalledWith('/api/documents/figure', 'POST', recipe)
    worker.open.mockResolvedValueOnce({
      value: null,
      problems: [
        { code: 'glb-broken', severity: 'error', where: 'x.glb', message: 'It is cut off.', remedy: 'Copy it again.' },
      ],
    })
    const refusal = await project.openFile(file).catch((e: unknown) => e)
    expect(refusal).toBeInstanceOf(Refused)
    expect((refusal as Refused).message).toBe('x.glb: It is cut off. Copy it again.')
    expect(project.figures).toHaveLength(1)
  })
})

const targets = ['near', 'crowd'].map((id) => of(newTarget(id, id)))

describe('how the project is looked at', () => {
  // that both are found again after a reload is shown in a real browser
  it('begins in the light of the system, until the person chooses', () => {
    const classes = new Set<string>()
    vi.stubGlobal('document', {
      documentElement: { classList: { toggle: (c: string, on: boolean) => (on ? classes.add(c) : classes.delete(c)) } },
    })
    vi.stubGlobal('matchMedia', () => ({ matches: true }))
    const view = useView()
    view.start()
    expect(view.lamp).toBe(true)
    expect(classes.has('lamp')).toBe(true)
    view.setLamp(false)
    expect(classes.has('lamp')).toBe(false)
    view.start()
    expect([view.lamp, classes.has('lamp')]).toEqual([false, false])
    useProject().documents.target = targets
    view.setTarget('crowd')
    expect(view.target.id).toBe('crowd')
  })

  it('tries another skeleton on it, until it is the target’s own again or another target is chosen', () => {
    const view = useView()
    useProject().documents.target = targets
    view.setTarget('near')
    const own = view.target.detail
    view.trySkeleton({ detail: 'full' })
    view.trySkeleton({ chains: { tail: 6 } })
    expect(view.target).toMatchObject({ id: 'near', detail: 'full', chains: { tail: 6 } })
    expect(view.ownTarget.detail).toBe(own)
    expect(useProject().targets.find((t) => t.id === 'near')).not.toHaveProperty('chains')
    view.trySkeleton({ detail: own })
    expect(view.skeleton).not.toBeNull()
    view.trySkeleton({ chains: {} })
    expect(view.skeleton).toBeNull()
    view.trySkeleton({ detail: 'far' })
    view.setTarget('crowd')
    expect(view.target.detail).toBe(own)
  })

  it('takes the first target where the one chosen is not there, and for players’ figures the roomiest', () => {
    const view = useView()
    expect(view.target.id).toBe('start')
    const [small, ...others] = targets
    const roomy = newTarget('roomy', 'Roomy')
    roomy.limits.triangles = 9000
    useProject().documents.target = [small!, of(roomy), ...others]
    view.setTarget('moon')
    expect(view.target.id).toBe(small!.id)
    expect(view.picksTarget.id).toBe('roomy')
    view.picksTargetId = small!.id
    expect(view.picksTarget.id).toBe(small!.id)
  })
})

describe('shipping a crowd', () => {
  const job = (state: string, done = 0) => ({ id: 'j1', state, done, total: 3, result: null, error: null })
  const streams: FakeStream[] = []
  class FakeStream {
    static readonly CLOSED = 2
    onmessage: ((e: { data: string }) => void) | null = null
    onerror: (() => void) | null = null
    readyState = 0
    closed = false
    readonly url: string
    constructor(url: string) {
      this.url = url
      streams.push(this)
    }
    close() {
      this.closed = true
    }
    say(data: unknown) {
      this.onmessage?.({ data: JSON.stringify(data) })
    }
  }
  const ORDER: ShipmentOrder = {
    ...{ name: 'Quay', parcels: [], targets: [], formats: ['glb'], pattern: '', folders: '' },
    ...{ lods: false, insist: false },
  }
  beforeEach(() => {
    streams.length = 0
    vi.stubGlobal('EventSource', FakeStream)
  })

  it('follows the job until it is over', async () => {
    const ship = useShip()
    ask.mockResolvedValueOnce({ id: 'j1' })
    await ship.start(ORDER)
    expect(streams[0]!.url).toBe('/api/jobs/j1/events')
    streams[0]!.say(job('running', 2))
    expect(ship.busy).toBe(true)
    expect(ship.job!.done).toBe(2)
    streams[0]!.say(job('done', 3))
    expect(ship.busy).toBe(false)
    expect(streams[0]!.closed).toBe(true)
  })

  it('finds its job again after a reload, running or done', async () => {
    kept.set('tinker.job', 'j1')
    ask.mockResolvedValueOnce(job('running', 1))
    const ship = useShip()
    await ship.resume()
    expect(ship.busy).toBe(true)
    expect(streams).toHaveLength(1)
    setActivePinia(createPinia())
    ask.mockResolvedValueOnce(job('done', 3))
    await useShip().resume()
    expect(useShip().job!.state).toBe('done')
    expect(streams).toHaveLength(1)
  })

  it('forgets a job that the server no longer has', async () => {
    kept.set('tinker.job', 'gone')
    ask.mockRejectedValueOnce(new Refused(404, 'There is no such job.', []))
    const ship = useShip()
    await ship.resume()
    expect(ship.job).toBeNull()
    expect(kept.has('tinker.job')).toBe(false)
  })

  it('asks again until it knows how the job stands when its stream is refused', async () => {
    vi.useFakeTimers()
    try {
      const ship = useShip()
      ask.mockResolvedValueOnce({ id: 'j1' })
      await ship.start(ORDER)
      streams[0]!.say(job('running', 1))
      // a break that the browser mends by itself is none
      streams[0]!.onerror!()
      expect(ship.away).toBe(false)
      streams[0]!.readyState = FakeStream.CLOSED
      streams[0]!.onerror!()
      expect([ship.away, ship.busy]).toEqual([true, true])
      ask.mockRejectedValueOnce(new Refused(503, 'Database away', [])).mockResolvedValueOnce(job('running', 2))
      await vi.advanceTimersByTimeAsync(4500)
      expect([ship.away, ship.job!.done, streams.length]).toEqual([false, 2, 2])
      streams[1]!.readyState = FakeStream.CLOSED
      streams[1]!.onerror!()
      ask.mockRejectedValueOnce(new Refused(404, 'There is no such job.', []))
      await vi.advanceTimersByTimeAsync(2500)
      expect([ship.busy, ship.job, streams.length]).toEqual([false, null, 2])
    } finally {
      vi.useRealTimers()
    }
  })

  it('cancels on the server and stops listening', async () => {
    const ship = useShip()
    ask.mockResolvedValueOnce({ id: 'j1' })
    await ship.start(ORDER)
    streams[0]!.say(job('running'))
    ask.mockResolvedValueOnce(job('canceled'))
    await ship.cancel()
    expect(ask).toHaveBeenLastCalledWith('/api/jobs/j1/cancel', 'POST')
    expect(ship.busy).toBe(false)
    expect(streams[0]!.closed).toBe(true)
  })

  it('ships again what it shipped, as it is now, and as it was where that is gone', async () => {
    const project = useProject()
    const now = { ...recipe, name: 'Maren now' }
    project.documents.figure = [{ ...entry('f1'), content: now }]
    project.documents.target = [of({ ...newTarget('far', 'Far'), name: 'Far now' })]
    const order: ShipmentOrder = {
      ...ORDER,
      parcels: [
        { kind: 'figure', of: 'f1', recipe: { name: 'Maren then' } },
        { kind: 'figure', of: 'f2', recipe: { name: 'Gone' } },
        { kind: 'crowd', of: null, name: 'Pair', mix: null, recipes: [{ name: 'By hand' }] },
      ],
      targets: [
        { id: 'far', name: 'Far' },
        { id: 'lost', name: 'Lost' },
      ],
    }
    ask.mockResolvedValueOnce({ ...order, date: '2020-01-01' }).mockResolvedValueOnce({ id: 'j2' })
    await useShip().again('j1', true)
    expect(ask).toHaveBeenNthCalledWith(1, '/api/jobs/j1/order')
    expect(ask).toHaveBeenLastCalledWith('/api/shipments', 'POST', {
      ...order,
      parcels: [{ ...order.parcels[0], recipe: now }, ...order.parcels.slice(1)],
      targets: [{ ...newTarget('far', 'Far'), name: 'Far now' }, order.targets[1]],
      insist: true,
    })
    expect(streams[0]!.url).toBe('/api/jobs/j2/events')
  })

  it('forgets a shipment, also as the one it would take up again', async () => {
    const ship = useShip()
    ask.mockResolvedValueOnce({ id: 'j1' })
    await ship.start(ORDER)
    streams[0]!.say(job('done', 3))
    ship.list = [{ id: 'j1' }, { id: 'j0' }] as never
    ask.mockResolvedValueOnce(undefined)
    await ship.forget('j1')
    expect(ask).toHaveBeenLastCalledWith('/api/jobs/j1', 'DELETE')
    expect([ship.list.map((s) => s.id), ship.job, kept.has('tinker.job')]).toEqual([['j0'], null, false])
  })
})
