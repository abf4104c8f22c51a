import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { setSlider, type Recipe } from '@idle-tinker/core'
import { Refused } from './api.ts'
import { useFigure } from './figure.ts'
import { useProject, type FigureEntry } from './project.ts'

const ask = vi.hoisted(() => vi.fn())
const build = vi.hoisted(() => vi.fn())
/** What the server has kept of each save; what else is asked of it goes to `ask`. */
const versions = vi.hoisted(() => vi.fn())
vi.mock('./api', async (original) => ({
  ...(await original<typeof import('./api.ts')>()),
  ask: (path: string, ...rest: unknown[]) => (path.endsWith('/versions') ? versions(path) : ask(path, ...rest)),
}))
vi.mock('../workers', () => ({ workshop: () => ({ build }) }))
const base = vi.hoisted(() => new Map<string, unknown>())
vi.mock('idb-keyval', () => ({
  get: (key: string) => Promise.resolve(base.get(key)),
  set: (key: string, value: unknown) => Promise.resolve(base.set(key, value)),
  del: (key: string) => Promise.resolve(base.delete(key)),
}))

const recipe: Recipe = {
  format: 'idle-tinker-recipe',
  version: 2,
  name: 'Pim',
  body: { kit: 'k', kitVersion: '1.0.0', id: 'human' },
  parts: [],
  sliders: {},
  colors: {},
  locks: [],
}
const entry = (version = 1, over: Partial<Recipe> = {}): FigureEntry => ({
  id: 'f1',
  name: 'Pim',
  version,
  content: { ...recipe, ...over },
  hasPicture: false,
  savedAt: '',
})
const range = { min: -1, max: 1, default: 0 }
const wider = (r: Recipe, v: number) => setSlider(r, 'shoulders', v, range)
const kept = new Map<string, string>()

beforeEach(() => {
  setActivePinia(createPinia())
  vi.useFakeTimers()
  kept.clear()
  base.clear()
  vi.stubGlobal('markRaw', <T>(v: T) => v)
  vi.stubGlobal('localStorage', {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => kept.set(k, v),
    removeItem: (k: string) => kept.delete(k),
  })
  versions.mockReset().mockResolvedValue([])
  build.mockReset().mockResolvedValue({ view: { costs: {} }, problems: [] })
  ask
    .mockReset()
    .mockImplementation((path: string, _method: string, body: { version: number; content: Recipe }) =>
      Promise.resolve({ ...entry(body.version + 1), id: path.split('/').at(-1)!, content: body.content }),
    )
})
afterEach(() => vi.useRealTimers())

describe('the figure on the Bench', () => {
  it('is saved once, half a second after the last of several edits', async () => {
    const figure = useFigure()
    figure.open(entry())
    for (const v of [0.1, 0.2, 0.3]) {
      figure.edit(wider(figure.recipe!, v), 'pull')
      await vi.advanceTimersByTimeAsync(100)
    }
    expect(ask).not.toHaveBeenCalled()
    await vi.advanceTimersByTimeAsync(600)
    expect(ask).toHaveBeenCalledTimes(1)
    expect(ask.mock.calls[0]![2]).toMatchObject({ version: 1, content: { sliders: { shoulders: 0.3 } } })
    expect(figure.save).toBe('saved')
    expect(figure.version).toBe(2)
    expect([...kept.keys()].some((k) => k.includes('unsaved'))).toBe(false)
  })

  it('joins a drag to one step of undo', () => {
    const figure = useFigure()
    figure.open(entry())
    for (const v of [0.1, 0.2, 0.3]) figure.edit(wider(figure.recipe!, v), 'pull')
    figure.settle()
    figure.undo()
    expect(figure.recipe!.sliders).toEqual({})
    figure.redo()
    expect(figure.recipe!.sliders.shoulders).toBe(0.3)
    expect(figure.canRedo).toBe(false)
  })

  it('saves again what was edited while a save was under way', async () => {
    const figure = useFigure()
    figure.open(entry())
    let finish: (v: unknown) => void = () => undefined
    ask.mockImplementationOnce(() => new Promise((resolve) => (finish = resolve)))
    figure.edit(wider(figure.recipe!, 0.1))
    await vi.advanceTimersByTimeAsync(600)
    figure.edit(wider(figure.recipe!, 0.2))
    finish(entry(2, { sliders: { shoulders: 0.1 } }))
    await vi.advanceTimersByTimeAsync(1200)
    expect(ask).toHaveBeenLastCalledWith(
      '/api/documents/figure/f1',
      'PUT',
      expect.objectContaining({
        version: 2,
        content: expect.objectContaining({ sliders: { shoulders: 0.2 } }) as unknown,
      }),
    )
    expect(figure.save).toBe('saved')
  })

  it('keeps the edit here while the server is away and tries until it is back', async () => {
    const figure = useFigure()
    figure.open(entry())
    ask
      .mockRejectedValueOnce(new TypeError('fetch failed'))
      .mockRejectedValueOnce(new Refused(503, 'Database away', []))
    figure.edit(wider(figure.recipe!, 0.4))
    await vi.advanceTimersByTimeAsync(600)
    expect(figure.save).toBe('away')
    expect(kept.get('tinker.unsaved.figure.f1')).toContain('0.4')
    await vi.advanceTimersByTimeAsync(5000)
    expect(figure.save).toBe('saved')
    expect(ask).toHaveBeenCalledTimes(3)
  })

  it('brings back an unsaved edit when the figure is opened again, also one kept by an older workshop', async () => {
    kept.set('tinker.unsaved.f1', JSON.stringify({ version: 3, recipe: { ...recipe, sliders: { build: 0.7 } } }))
    const figure = useFigure()
    figure.open(entry(3))
    expect(figure.recipe!.sliders.build).toBe(0.7)
    await vi.advanceTimersByTimeAsync(600)
    expect(ask.mock.calls[0]![2]).toMatchObject({ version: 3, content: { sliders: { build: 0.7 } } })
    expect([figure.save, figure.version, kept.size]).toEqual(['saved', 4, 1])
  })

  it('goes on saving a figure that is no longer the one on the Bench', async () => {
    const project = useProject()
    project.documents.figure = [entry(), { ...entry(5), id: 'f2' }]
    const figure = useFigure()
    figure.open(project.figures[0]!)
    let finish: (v: unknown) => void = () => undefined
    ask.mockImplementationOnce(() => new Promise((resolve) => (finish = resolve)))
    figure.edit(wider(figure.recipe!, 0.1))
    await vi.advanceTimersByTimeAsync(600)
    figure.edit(wider(figure.recipe!, 0.2))
    figure.open(project.figures[1]!)
    finish(entry(2, { sliders: { shoulders: 0.1 } }))
    await vi.advanceTimersByTimeAsync(600)
    expect(ask.mock.calls.at(-1)).toMatchObject([
      '/api/documents/figure/f1',
      'PUT',
      { version: 2, content: { sliders: { shoulders: 0.2 } } },
    ])
    expect([figure.id, figure.version, figure.save]).toEqual(['f2', 5, 'saved'])
    expect(project.figures[0]!.content.sliders.shoulders).toBe(0.2)
  })

  it('leaves no ghost when the last figure is deleted', async () => {
    const figure = useFigure()
    figure.open(entry())
    await vi.advanceTimersByTimeAsync(0)
    useProject().documents.figure = []
    figure.close()
    expect([figure.id, figure.recipe, figure.view, figure.save]).toEqual([null, null, null, 'saved'])
    await figure.rebuild()
    expect(figure.view).toBeNull()
  })

  it('tells of a save in another window, stops saving, and offers both ways out', async () => {
    const project = useProject()
    const figure = useFigure()
    project.documents.figure = [entry()]
    figure.open(project.figures[0]!)
    ask.mockRejectedValueOnce(new Refused(409, 'Changed elsewhere', []))
    figure.edit(wider(figure.recipe!, 0.5))
    await vi.advanceTimersByTimeAsync(600)
    expect(figure.save).toBe('conflict')
    figure.edit(wider(figure.recipe!, 0.6))
    await vi.advanceTimersByTimeAsync(2000)
    expect(ask).toHaveBeenCalledTimes(1)
    ask.mockImplementation((_path: string, method = 'GET', body?: Recipe) =>
      Promise.resolve(
        method === 'POST' ? { ...entry(1), id: 'f2', content: body } : entry(9, { sliders: { build: 1 } }),
      ),
    )
    await figure.resolveConflict(true)
    expect(figure.id).toBe('f2')
    expect(figure.recipe).toMatchObject({ name: 'Pim (mine)', sliders: { shoulders: 0.6 } })
    expect(project.figures.find((f) => f.id === 'f1')!.version).toBe(9)
  })

  it('shows a refused save and keeps the problems', async () => {
    const figure = useFigure()
    figure.open(entry())
    const problems = [{ code: 'schema', severity: 'error' as const, where: 'body', message: 'm', remedy: 'r' }]
    ask.mockRejectedValueOnce(new Refused(422, 'Not valid', problems))
    figure.edit(wider(figure.recipe!, 0.5))
    await vi.advanceTimersByTimeAsync(600)
    expect(figure.save).toBe('refused')
    expect(figure.problems).toEqual(problems)
    // a build that comes after has problems of its own, and takes none away
    await figure.rebuild()
    expect(figure.problems).toEqual(problems)
  })

  it('builds one at a time and only the newest of what waits', async () => {
    const figure = useFigure()
    const finish: ((v: unknown) => void)[] = []
    build.mockImplementation(() => new Promise((resolve) => finish.push(resolve)))
    figure.open(entry())
    for (const v of [0.1, 0.2, 0.3]) figure.edit(wider(figure.recipe!, v))
    expect(build).toHaveBeenCalledTimes(1)
    finish[0]!({ view: { n: 1 }, problems: [] })
    await vi.advanceTimersByTimeAsync(0)
    expect(build).toHaveBeenCalledTimes(2)
    expect((build.mock.calls[1]![0] as Recipe).sliders.shoulders).toBe(0.3)
    finish[1]!({ view: { n: 2 }, problems: [] })
    await vi.advanceTimersByTimeAsync(0)
    expect(figure.view).toEqual({ n: 2 })
  })

  it('has its steps again after a reload, goes back by a step of its own, and takes them with it when it goes', async () => {
    const figure = useFigure()
    figure.open(entry())
    await vi.advanceTimersByTimeAsync(0)
    for (const v of [0.1, 0.2, 0.3]) figure.edit(wider(figure.recipe!, v))
    figure.undo()
    await vi.advanceTimersByTimeAsync(2000)
    setActivePinia(createPinia())
    const again = useFigure()
    again.open(entry(4, { sliders: { shoulders: 0.2 } }))
    await vi.advanceTimersByTimeAsync(0)
    expect([again.canUndo, again.canRedo]).toEqual([true, true])
    again.jump(1)
    expect([again.recipe!.sliders, again.canRedo]).toEqual([{ shoulders: 0.1 }, false])
    again.undo()
    expect(again.recipe!.sliders).toEqual({ shoulders: 0.2 })
    await vi.advanceTimersByTimeAsync(2000)
    // changed elsewhere meanwhile: they are not the steps of what is there now
    setActivePinia(createPinia())
    const other = useFigure()
    other.open(entry(9, { sliders: { shoulders: 0.9 } }))
    await vi.advanceTimersByTimeAsync(0)
    expect(other.canUndo).toBe(false)
    // the server knows what led to it
    versions.mockResolvedValue([0.2, 0.5, 0.9].map((v) => wider(recipe, v)))
    setActivePinia(createPinia())
    const there = useFigure()
    there.open(entry(9, { sliders: { shoulders: 0.9 } }))
    await vi.advanceTimersByTimeAsync(0)
    expect(versions).toHaveBeenLastCalledWith('/api/documents/figure/f1/versions')
    expect(there.history!.past.map((r) => r.sliders.shoulders)).toEqual([0.2, 0.5])
    // an edit that is quicker than the browser is not taken back, and loses no steps
    setActivePinia(createPinia())
    const quick = useFigure()
    quick.open(entry(9, { sliders: { shoulders: 0.2 } }))
    quick.edit(wider(quick.recipe!, 0.7))
    await vi.advanceTimersByTimeAsync(0)
    expect([quick.recipe!.sliders, quick.history!.past.map((r) => r.sliders.shoulders)]).toEqual([
      { shoulders: 0.7 },
      [undefined, 0.1, 0.2],
    ])
    quick.close()
    await vi.advanceTimersByTimeAsync(2000)
    expect(base.size).toBe(0)
  })
})
