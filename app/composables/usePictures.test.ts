import { createPinia, setActivePinia } from 'pinia'
import type { Box3 } from 'three'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { KitRef, Recipe } from '@idle-tinker/core'
import { demoKit } from '../../packages/core/src/testing/demoKits.ts'
import { useProject } from '../stores/project.ts'
import type { Framing } from '../stage/Booth.ts'

const base = vi.hoisted(() => ({ kept: new Map<string, unknown>(), broken: false }))
vi.mock('idb-keyval', async () => (await import('../testing/database.ts')).databaseOf(base))
const worker = vi.hoisted(() => ({ loadKits: vi.fn(), build: vi.fn() }))
const take = vi.hoisted(() => vi.fn())
vi.mock('../workers', () => ({ workshop: () => worker, POOL: ['pool 1', 'pool 2'] }))
vi.mock('../stage/Booth', () => ({ theBooth: () => ({ take }) }))

const { manifest } = await demoKit('saltwick-folk')
const HEAD = { head: [0, 1.5, 0], crown: [0, 1.75, 0] }
let pictureOf: (body: KitRef, part?: KitRef | null) => string | undefined
const human = { kit: manifest.id, id: 'human' }
const part = (id: string) => ({ kit: manifest.id, id })
const settled = () => new Promise((resolve) => setTimeout(resolve, 5))

beforeEach(async () => {
  vi.resetModules()
  base.kept.clear()
  base.broken = false
  vi.stubGlobal('indexedDB', {})
  vi.stubGlobal('useRuntimeConfig', () => ({ app: { buildId: 'test' } }))
  vi.stubGlobal('reactive', <T>(v: T) => v)
  vi.stubGlobal('markRaw', <T>(v: T) => v)
  vi.stubGlobal('location', { origin: 'http://here' })
  setActivePinia(createPinia())
  worker.loadKits.mockReset().mockResolvedValue({ loaded: [], broken: [] })
  // a figure is a view with one piece for each of its parts
  worker.build.mockReset().mockImplementation((recipe: Recipe) =>
    Promise.resolve({
      view: {
        landmarks: HEAD,
        mesh: { positions: new Float32Array(0), indices: new Uint32Array(0) },
        pieces: recipe.parts.map(({ slot, part: { kit, id } }, i) => ({ slot, kit, id, start: i * 30, count: 30 })),
      },
    }),
  )
  let taken = 0
  take.mockReset().mockImplementation(() => ({ toDataURL: () => `picture ${++taken}` }))
  const { usePictures } = await import('./usePictures.ts')
  useProject().kits = [{ manifest, hash: 'h1', regions: {}, problems: [] }]
  pictureOf = usePictures().pictureOf
})

const framing = (nth = 0) => take.mock.calls[nth]![3] as Framing

describe('pictures of parts', () => {
  it('are taken when first asked for, once, and are there from then on', async () => {
    expect(pictureOf(human, part('coat-quay'))).toBeUndefined()
    expect(pictureOf(human, part('coat-quay'))).toBeUndefined()
    await settled()
    expect(pictureOf(human, part('coat-quay'))).toBe('picture 1')
    expect(worker.build).toHaveBeenCalledTimes(1)
    expect((worker.build.mock.calls[0]![0] as Recipe).parts.map((p) => p.part.id)).toContain('coat-quay')
  })

  it('come one after another, in the order asked', async () => {
    let [running, most] = [0, 0]
    const build = worker.build.getMockImplementation()!
    worker.build.mockImplementation(async (...all: unknown[]) => {
      most = Math.max(most, ++running)
      await new Promise((resolve) => setTimeout(resolve, 1))
      running--
      return build(...all) as unknown
    })
    const ids = ['hat-tall', 'trousers', 'mug']
    for (const id of ids) pictureOf(human, part(id))
    await vi.waitFor(() => expect(take).toHaveBeenCalledTimes(3))
    expect(most).toBe(1)
    expect(ids.map((id) => pictureOf(human, part(id)))).toEqual(['picture 1', 'picture 2', 'picture 3'])
  })

  it('show a garment by itself and a load from behind', async () => {
    pictureOf(human, part('coat-quay'))
    pictureOf(human, part('rope-coil'))
    await settled()
    for (const nth of [0, 1]) {
      expect(framing(nth).only).toHaveLength(1)
      expect(framing(nth).box).toBeUndefined()
    }
    expect(Math.cos(framing(0).turn)).toBeGreaterThan(0.5)
    expect(Math.cos(framing(1).turn)).toBeLessThan(-0.5)
  })

  it('show hair on the head and eyes on the face, nearer', async () => {
    pictureOf(human, part('hair-braid'))
    pictureOf(human, part('eyes-bright'))
    await settled()
    const [hair, eyes] = [framing(0).box, framing(1).box] as [Box3, Box3]
    for (const box of [hair, eyes]) {
      expect(box.min.y).toBeLessThan(HEAD.crown[1]!)
      expect(box.max.y).toBeGreaterThan(HEAD.head[1]!)
    }
    expect(hair.min.y).toBeLessThan(eyes.min.y)
    expect(hair.max.y).toBeGreaterThan(eyes.max.y)
  })

  it('show the body whole, with its arms down', async () => {
    pictureOf(human)
    await settled()
    expect(framing()).toMatchObject({ armsDown: true })
    expect(framing().only).toBeUndefined()
  })

  it('are asked for again after something went wrong', async () => {
    worker.build.mockRejectedValueOnce(new Error('the worker is gone'))
    pictureOf(human, part('mug'))
    await settled()
    expect(pictureOf(human, part('mug'))).toBeUndefined()
    await settled()
    expect(pictureOf(human, part('mug'))).toBe('picture 1')
  })

  it('are taken anew for another kit of the same name', async () => {
    pictureOf(human, part('mug'))
    await settled()
    useProject().kits = [{ manifest, hash: 'h2', regions: {}, problems: [] }]
    expect(pictureOf(human, part('mug'))).toBeUndefined()
    await settled()
    expect(pictureOf(human, part('mug'))).toBe('picture 2')
  })

  it('are there again at the next visit, of this build of the workshop alone', async () => {
    const visit = async (buildId: string) => {
      vi.resetModules()
      vi.stubGlobal('useRuntimeConfig', () => ({ app: { buildId } }))
      const { usePictures } = await import('./usePictures.ts')
      const { pictureOf } = usePictures()
      pictureOf(human, part('mug'))
      await settled()
      return pictureOf(human, part('mug'))
    }
    expect(await visit('one')).toBe('picture 1')
    expect(await visit('one')).toBe('picture 1')
    expect(take).toHaveBeenCalledTimes(1)
    expect(await visit('two')).toBe('picture 2')
    // what the first build took is gone
    expect([...base.kept.keys()].every((key) => key.startsWith('two '))).toBe(true)
    base.broken = true
    expect(await visit('two')).toBe('picture 3')
  })

  it('of a kit that is not there are none', async () => {
    expect(pictureOf({ kit: 'gone', id: 'human' }, part('mug'))).toBeUndefined()
    await settled()
    expect(worker.build).not.toHaveBeenCalled()
  })
})
