import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { newRecipe, type KitManifest, type Recipe, type SliderDef } from '@idle-tinker/core'
import { demoKit } from '../../packages/core/src/testing/demoKits.ts'
import type { Framing } from '../stage/Booth.ts'
import type { FigureView } from '../workers/protocol.ts'

const base = vi.hoisted(() => ({ kept: new Map<string, unknown>(), broken: false }))
vi.mock('idb-keyval', async () => (await import('../testing/database.ts')).databaseOf(base))
const worker = vi.hoisted(() => ({ loadKits: vi.fn(), build: vi.fn() }))
const take = vi.hoisted(() => vi.fn())
const figure = vi.hoisted(() => ({ recipe: null as unknown }))
vi.mock('../workers', () => ({ workshop: () => worker, POOL: ['pool 1'] }))
vi.mock('../stage/Booth', () => ({ theBooth: () => ({ take }) }))
vi.mock('../stores/figure', () => ({ useFigure: () => figure }))

const kit = await demoKit('saltwick-folk')
const slider = (id: string): SliderDef => (kit.manifest as KitManifest).bodies[0]!.sliders.find((s) => s.id === id)!
const settled = () => new Promise((resolve) => setTimeout(resolve, 5))
const viewOf = (...positions: number[]) => ({ mesh: { positions: Float32Array.from(positions) } }) as FigureView
let ends: typeof import('./useEnds.ts')

beforeEach(async () => {
  vi.resetModules()
  vi.unstubAllGlobals()
  base.kept.clear()
  base.broken = false
  vi.stubGlobal('reactive', <T>(v: T) => v)
  vi.stubGlobal('markRaw', <T>(v: T) => v)
  vi.stubGlobal('location', { origin: 'http://here' })
  setActivePinia(createPinia())
  worker.loadKits.mockReset().mockResolvedValue({ loaded: [], broken: [] })
  // one point moves as far to the side as the slider says, another stays
  worker.build.mockReset().mockImplementation((recipe: Recipe) => {
    const value = recipe.sliders.nose as number
    return Promise.resolve({ view: viewOf(0, 1.5, 0.1, 0.02 * value, 1.6, 0.15) })
  })
  let taken = 0
  take.mockReset().mockImplementation(() => ({ toDataURL: () => `picture ${++taken}` }))
  figure.recipe = newRecipe(kit, 'human', 'Somebody')
  ends = await import('./useEnds.ts')
})

describe('where two views differ', () => {
  it('is the box of what moves, large enough to know it again', () => {
    const { box } = ends.differenceOf(viewOf(0, 1, 0, 0.5, 1, 0), viewOf(0, 1, 0, 0.51, 1, 0))!
    expect(box.min.x).toBeCloseTo(0.44, 3)
    expect(box.max.x).toBeCloseTo(0.57, 3)
    expect(box.max.y - box.min.y).toBeCloseTo(0.13, 6)
  })

  it('is seen from the side where it goes to the front, from behind where it is behind', () => {
    const turn = (z: number, d: number) => ends.differenceOf(viewOf(0, 1, z), viewOf(0, 1, z + d))!.turn
    expect(turn(0.1, 0.05)).toBeGreaterThan(0.8)
    expect(turn(0.1, 0.05)).toBeLessThan(1.6)
    expect(turn(-0.1, -0.05)).toBeGreaterThan(1.8)
    expect(ends.differenceOf(viewOf(0, 1, 0), viewOf(0.05, 1, 0))!.turn).toBeLessThan(0.6)
  })

  it('is nowhere where nothing moves, and between figures that are not alike', () => {
    expect(ends.differenceOf(viewOf(0, 1, 0), viewOf(0, 1, 0))).toBeNull()
    expect(ends.differenceOf(viewOf(0, 1, 0), viewOf(0, 1, 0, 1, 1, 1))).toBeNull()
  })
})

describe('pictures of both ends', () => {
  it('are taken of the figure at each end, in one framing, once for one figure', async () => {
    const { show, endsOf } = ends.useEnds()
    show(slider('nose'))
    show(slider('nose'))
    await settled()
    expect(endsOf(slider('nose'))).toEqual(['picture 1', 'picture 2'])
    expect(worker.build.mock.calls.map(([r]) => (r as Recipe).sliders.nose)).toEqual([-1, 1])
    const [low, high] = take.mock.calls.map((c) => c[3] as Framing)
    expect(low).toEqual(high)
  })

  it('are taken anew for another figure, and those still to come of the last one are left', async () => {
    const { show, endsOf } = ends.useEnds()
    show(slider('nose'))
    await settled()
    figure.recipe = { ...(figure.recipe as Recipe), name: 'Another' }
    show(slider('nose'))
    figure.recipe = { ...(figure.recipe as Recipe), name: 'A third' }
    show(slider('nose'))
    await settled()
    expect(endsOf(slider('nose'))).toEqual(['picture 3', 'picture 4'])
  })

  it('that were being built when another figure came do not become that one’s', async () => {
    const { show, endsOf, forget } = ends.useEnds()
    const build = worker.build.getMockImplementation()!
    worker.build.mockImplementation((recipe: Recipe) => {
      if (recipe.sliders.nose === 1) forget()
      return build(recipe) as unknown
    })
    show(slider('nose'))
    await settled()
    expect(worker.build).toHaveBeenCalledTimes(2)
    expect(endsOf(slider('nose'))).toBeUndefined()
  })

  it('are none where the graphics are away, and are forgotten with the figure', async () => {
    take.mockReturnValue(null)
    const { show, endsOf, forget } = ends.useEnds()
    show(slider('nose'))
    await settled()
    expect(endsOf(slider('nose'))).toBeUndefined()
    take.mockReturnValue({ toDataURL: () => 'picture' })
    // once they are back it is enough that the row is seen again
    show(slider('nose'))
    await settled()
    expect(endsOf(slider('nose'))).toEqual(['picture', 'picture'])
    forget()
    expect(endsOf(slider('nose'))).toBeUndefined()
  })
})

describe('pictures of both ends that were taken on an earlier visit', () => {
  const visit = async (build = 'one') => {
    vi.resetModules()
    vi.stubGlobal('indexedDB', {})
    vi.stubGlobal('useRuntimeConfig', () => ({ app: { buildId: build } }))
    setActivePinia(createPinia())
    worker.build.mockClear()
    const { show, endsOf } = (await import('./useEnds.ts')).useEnds()
    show(slider('nose'))
    await settled()
    return endsOf(slider('nose'))
  }

  it('are there again without anything being built, wherever that slider stands and whatever the figure is called', async () => {
    expect(await visit()).toEqual(['picture 1', 'picture 2'])
    figure.recipe = { ...(figure.recipe as Recipe), name: 'Renamed', sliders: { nose: 0.4 } }
    expect(await visit()).toEqual(['picture 1', 'picture 2'])
    expect(worker.build).not.toHaveBeenCalled()
  })

  it('are not taken for those of another figure, nor of another build, whose own are dropped', async () => {
    await visit()
    figure.recipe = { ...(figure.recipe as Recipe), sliders: { stature: 0.4 } }
    expect(await visit()).toEqual(['picture 3', 'picture 4'])
    expect(await visit('two')).toEqual(['picture 5', 'picture 6'])
    expect([...base.kept.keys()].map((key) => key.split(' ')[0])).toEqual(['two'])
  })

  it('are taken anew where the browser keeps nothing', async () => {
    await visit()
    base.broken = true
    expect(await visit()).toEqual(['picture 3', 'picture 4'])
  })

  it('are the newest: older ones give way', async () => {
    vi.stubGlobal('indexedDB', {})
    vi.stubGlobal('useRuntimeConfig', () => ({ app: { buildId: 'one' } }))
    const { keptPictures } = await import('./keptPictures.ts')
    const few = keptPictures('few', 3)
    const clock = vi.spyOn(Date, 'now')
    for (const at of [1, 2, 3, 4, 5, 6]) {
      clock.mockReturnValue(at)
      await few.keep(`${at}`, ['picture'])
    }
    clock.mockRestore()
    expect([...base.kept.keys()]).toEqual(['one 4', 'one 5', 'one 6'])
    expect([await few.get('2'), await few.get('5')]).toEqual([undefined, ['picture']])
  })
})
