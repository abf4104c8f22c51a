import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { newRecipe, setNudge, type Recipe, type Stroke } from '@idle-tinker/core'
import { demoKit } from '../../packages/core/src/testing/demoKits.ts'
import { useFigure } from '../stores/figure.ts'
import { useProject } from '../stores/project.ts'
import { useView } from '../stores/view.ts'

const worker = vi.hoisted(() => ({ nudge: vi.fn(), unnudge: vi.fn(), build: vi.fn() }))
vi.mock('../workers', () => ({ workshop: () => worker, POOL: ['pool 1'] }))
vi.mock('../documents/keptSteps', () => ({
  keepSteps: vi.fn(),
  stepsOf: () => Promise.resolve(null),
  flushSteps: vi.fn(),
}))

const tide = await demoKit('tide-creatures')
let hands: ReturnType<(typeof import('./useNudging.ts'))['useNudging']>
/** As many points as strokes came before: what each begins from can be seen. */
const after = (recipe: Recipe): Recipe => {
  const count = (recipe.nudges?.[0]?.points.length ?? 0) + 1
  const points = Array.from({ length: count }, (_, i) => i)
  return setNudge(recipe, undefined, { topology: 'a'.repeat(32), points, offsets: points.flatMap(() => [0, 0, 1]) })
}
const strokes = () => worker.nudge.mock.calls.map(([, , stroke]) => stroke as Stroke)
const nudged = () => useFigure().recipe!.nudges?.[0]?.points.length ?? 0
const settled = () => new Promise((resolve) => setTimeout(resolve, 15))

beforeEach(async () => {
  vi.resetModules()
  vi.stubGlobal('markRaw', <T>(v: T) => v)
  vi.stubGlobal('localStorage', { getItem: () => null, setItem: () => undefined, removeItem: () => undefined })
  setActivePinia(createPinia())
  worker.build.mockReset().mockResolvedValue({ view: null, problems: [] })
  worker.nudge.mockReset().mockImplementation(async (recipe: Recipe) => {
    await new Promise((resolve) => setTimeout(resolve, 2))
    return after(recipe)
  })
  useProject().kits = [{ manifest: tide.manifest, hash: 'h', regions: {}, problems: [] }]
  const figure = useFigure()
  const history = { past: [], now: newRecipe(tide, 'ottern', 'Any'), future: [], mark: null }
  figure.$patch({ id: 'a', history: history as never })
  vi.spyOn(figure, 'keep').mockImplementation(() => undefined)
  useView().brush = { kind: 'swell', radius: 0.1, softness: 1, strength: 1, mirrored: false }
  hands = (await import('./useNudging.ts')).useNudging()
})

describe('the brush in the hand', () => {
  it('acts where it comes down, and then every so often along its way', async () => {
    hands.begin(undefined, [0, 1, 0])
    for (let x = 1; x <= 20; x++) hands.go([x * 0.0051, 1, 0])
    await hands.end()
    await settled()
    // a quarter of its radius apart: at 0 and just beyond 2.5, 5, 7.5 and 10 cm
    expect(strokes().flatMap((s) => s.path)).toHaveLength(5)
    expect(useFigure().history!.past).toHaveLength(1)
  })

  it('pulls from where it took hold, on the figure as it was then, however often the hand moves', async () => {
    useView().brush.kind = 'pull'
    hands.begin(undefined, [0, 1, 0])
    expect(worker.nudge).not.toHaveBeenCalled()
    for (let x = 1; x <= 5; x++) hands.go([x * 0.01, 1, 0])
    await hands.end()
    await settled()
    expect(strokes().at(-1)!.path).toEqual([
      [0, 1, 0],
      [0.05, 1, 0],
    ])
    // each began anew: not one upon the other
    expect(nudged()).toBe(1)
  })

  it('loses no stroke that begins while the one before is on its way', async () => {
    useView().brush.kind = 'pull'
    hands.begin(undefined, [0, 1, 0])
    hands.go([0.1, 1, 0])
    const first = hands.end()
    useView().brush.kind = 'swell'
    hands.begin(undefined, [0, 0.5, 0])
    await Promise.all([first, hands.end()])
    await settled()
    expect(strokes().map((s) => s.kind)).toEqual(['pull', 'swell'])
    // the second upon the first
    expect(nudged()).toBe(2)
  })

  it('tells that the worker has ended, and goes on with the next stroke', async () => {
    worker.nudge.mockRejectedValueOnce(new Error('it has ended'))
    hands.begin(undefined, [0, 1, 0])
    await hands.end()
    expect(useFigure().problems.map((p) => p.message)).toContain('it has ended')
    expect(nudged()).toBe(0)
    hands.begin(undefined, [0, 1, 0])
    await hands.end()
    expect(nudged()).toBe(1)
    worker.unnudge.mockRejectedValueOnce(new Error('gone again'))
    await hands.bringBack(null)
    expect(useFigure().problems.map((p) => p.message)).toContain('gone again')
  })

  it('changes nothing of another figure that was opened meanwhile', async () => {
    hands.begin(undefined, [0, 1, 0])
    useFigure().$patch({ id: 'b' })
    await hands.end()
    expect(nudged()).toBe(0)
  })
})
