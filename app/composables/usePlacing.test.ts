import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { addPart, newRecipe, partReference, type Recipe, type SpotAsk } from '@idle-tinker/core'
import { demoKit } from '../../packages/core/src/testing/demoKits.ts'
import { useFigure } from '../stores/figure.ts'
import { useProject } from '../stores/project.ts'
import { useView } from '../stores/view.ts'

const worker = vi.hoisted(() => ({ spot: vi.fn(), build: vi.fn() }))
vi.mock('../workers', () => ({ workshop: () => worker, POOL: ['pool 1'] }))
vi.mock('../documents/keptSteps', () => ({
  keepSteps: vi.fn(),
  stepsOf: () => Promise.resolve(null),
  flushSteps: vi.fn(),
}))

const tide = await demoKit('tide-creatures')
const spot = { triangle: 7, shares: [1, 0, 0] as [number, number, number] }
const horn = { kit: 'tide-creatures', id: 'growth-horn' }
let hands: ReturnType<(typeof import('./usePlacing.ts'))['usePlacing']>
const asks = () => worker.spot.mock.calls.map(([, ask]) => ask as SpotAsk)
const placed = () => useFigure().recipe!.parts.filter((p) => p.slot === 'growths')
const settled = () => new Promise((resolve) => setTimeout(resolve, 10))

beforeEach(async () => {
  vi.resetModules()
  vi.stubGlobal('shallowRef', <T>(value: T) => ({ value }))
  vi.stubGlobal('markRaw', <T>(v: T) => v)
  vi.stubGlobal('useLocalStorage', (_: string, value: unknown) => value)
  vi.stubGlobal('localStorage', { getItem: () => null, setItem: () => undefined, removeItem: () => undefined })
  setActivePinia(createPinia())
  worker.build.mockReset().mockResolvedValue({ view: null, problems: [] })
  worker.spot.mockReset().mockImplementation(() => Promise.resolve(spot))
  const figure = useFigure()
  useProject().kits = [{ manifest: tide.manifest, hash: 'h', regions: {}, problems: [] }]
  const recipe: Recipe = addPart(newRecipe(tide, 'ottern', 'Any'), 'growths', partReference(tide, 'growth-horn'), {
    place: { at: spot, turn: [1, 2, 3] },
  })
  figure.$patch({ id: 'a', history: { past: [], now: recipe, future: [], mark: null } as never })
  vi.spyOn(figure, 'keep').mockImplementation(() => undefined)
  hands = (await import('./usePlacing.ts')).usePlacing()
})

describe('placing by hand', () => {
  it('does all that it is told, however quickly', async () => {
    hands.copy('growths')
    hands.copyAcross('growths')
    hands.add('growths', horn)
    hands.step('growths', 1, 0)
    hands.step('growths', 0, 1)
    await settled()
    expect(placed()).toHaveLength(4)
    // without anything in the middle of the view it goes where its kit puts it
    expect(asks().map((a) => a.then)).toEqual([
      { beside: [0.024, 0] },
      'across',
      { beside: [0.006, 0] },
      { beside: [0, 0.006] },
    ])
    expect(placed().find((p) => p.place?.mirrored)!.place).toMatchObject({ turn: [1, -2, -3] })
  })

  it('leaves out where a drawing hand was only in passing', async () => {
    const to = (x: number) => hands.moveTo('growths', { on: null, at: [x, 0, 0] }, 'move')
    await Promise.all([0, 1, 2, 3, 4].map(to))
    const seen = asks().map(({ from }) => (Array.isArray(from) ? (from as number[])[0] : null))
    expect(seen.length).toBeLessThan(4)
    expect(seen.at(-1)).toBe(4)
  })

  it('changes nothing of another figure, and goes on after the worker has ended', async () => {
    worker.spot.mockImplementationOnce(() => {
      useFigure().$patch({ id: 'b' })
      return Promise.resolve({ ...spot, triangle: 9 })
    })
    hands.step('growths', 1, 0)
    await settled()
    expect(placed()[0]!.place!.at).toEqual(spot)
    worker.spot.mockRejectedValueOnce(new Error('it has ended'))
    hands.copy('growths')
    await settled()
    expect(placed()).toHaveLength(1)
    expect(useFigure().problems.map((p) => p.message)).toContain('it has ended')
    hands.copy('growths')
    await settled()
    expect(placed()).toHaveLength(2)
  })

  it('takes one off, which is then no longer worked on', () => {
    const view = useView()
    view.instance = 'growths'
    hands.remove('growths')
    expect([placed(), view.instance]).toEqual([[], null])
  })
})
