import { createPinia, setActivePinia } from 'pinia'
import { unzipSync } from 'fflate'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { KitManifest } from '@idle-tinker/core'
import { demoKit } from '../../packages/core/src/testing/demoKits.ts'
import type { KitDraft } from '../workers/protocol.ts'
import { Refused } from './api.ts'

const ask = vi.hoisted(() => vi.fn())
vi.mock('./api', async (original) => ({ ...(await original<typeof import('./api.ts')>()), ask }))
const base = vi.hoisted(() => ({ kept: new Map<string, unknown>(), broken: false }))
vi.mock('idb-keyval', async () => (await import('../testing/database.ts')).databaseOf(base))
const worker = vi.hoisted(() => ({ loadKits: vi.fn(), tryDraft: vi.fn() }))
vi.mock('../workers', () => ({ workshop: () => worker, POOL: [] }))
vi.mock('../stage/Booth', () => ({ theBooth: vi.fn() }))

const { manifest } = await demoKit('saltwick-folk')
const ID = manifest.id
const settled = () => new Promise((resolve) => setTimeout(resolve, 5))
const fault = { code: 'slot-unknown', where: 'x', message: 'There is no such slot.', remedy: '', severity: 'error' }
const renamed = (name: string) => (kit: KitManifest) => ({ ...kit, name })

let draft: ReturnType<(typeof import('./kitDraft.ts'))['useKitDraft']>
let project: ReturnType<(typeof import('./project.ts'))['useProject']>
/** The kit as the server has it; loading again gives that. */
let hash: string

/** A page that has just been opened. */
async function page(): Promise<void> {
  vi.resetModules()
  setActivePinia(createPinia())
  const [drafts, projects] = [await import('./kitDraft.ts'), await import('./project.ts')]
  project = projects.useProject()
  draft = drafts.useKitDraft()
  const load = () => {
    project.kits = [{ manifest, hash, regions: {}, problems: [] }]
    project.addresses = [{ id: ID, hash, files: [], reading: '' }]
    return Promise.resolve()
  }
  await load()
  project.load = vi.fn(load)
}

beforeEach(async () => {
  base.kept.clear()
  base.broken = false
  hash = 'one'
  vi.stubGlobal('indexedDB', {})
  vi.stubGlobal('markRaw', <T>(v: T) => v)
  vi.stubGlobal('toRaw', <T>(v: T) => v)
  vi.stubGlobal('location', { origin: 'http://here' })
  vi.spyOn(console, 'error').mockImplementation(() => undefined)
  ask.mockReset().mockImplementation(() => {
    hash = 'two'
    return Promise.resolve({ problems: [] })
  })
  worker.loadKits.mockReset().mockResolvedValue({ loaded: [], broken: [] })
  worker.tryDraft
    .mockReset()
    .mockImplementation(({ json }: KitDraft) =>
      Promise.resolve({ manifest: JSON.parse(json) as KitManifest, regions: {}, view: null, problems: [] }),
    )
  await page()
})

describe('a draft of a kit', () => {
  it('is kept in the browser until it is dropped, and is none when it says what the kit says', async () => {
    draft.change(ID, renamed('Other'))
    await settled()
    await page()
    await draft.open()
    expect(draft.manifestOf(ID)!.name).toBe('Other')
    draft.change(ID, renamed(manifest.name))
    await settled()
    expect([draft.isDirty(ID), base.kept.size]).toEqual([false, 0])
  })

  it('lives in the page where the browser keeps nothing', async () => {
    base.broken = true
    await draft.open()
    draft.change(ID, renamed('Other'))
    await settled()
    expect(draft.manifestOf(ID)!.name).toBe('Other')
  })

  it('whose text is none keeps what was written, and nothing is changed in it', () => {
    draft.write(ID, '{ "parts": ')
    draft.change(ID, renamed('Other'))
    expect([draft.isReadable(ID), draft.jsonOf(ID), draft.manifestOf(ID)]).toEqual([false, '{ "parts": ', manifest])
  })

  it('that cannot be looked at says so, and is looked at again with the next change', async () => {
    worker.loadKits.mockRejectedValueOnce(new TypeError('Failed to fetch'))
    draft.change(ID, renamed('Other'))
    await settled()
    expect(draft.problems[ID]!.map((p) => [p.code, p.message])).toEqual([['draft-unread', 'Failed to fetch']])
    draft.change(ID, renamed('Another'))
    await settled()
    expect(draft.problems[ID]).toEqual([])
  })
})

describe('saving a draft', () => {
  it('sends what is new, over the kit it was made from, as its next version', async () => {
    const [path] = [manifest.parts[0]!.file]
    draft.change(ID, renamed('Other'))
    draft.replaceFile(ID, manifest.parts[0]!.id, new Uint8Array([1, 2, 3]))
    await draft.save(ID)
    const [address, method, body, headers] = ask.mock.calls[0] as [string, string, Uint8Array, Record<string, string>]
    expect([address, method, headers['if-match']]).toEqual([`/api/kits/${ID}/changes`, 'POST', '"one"'])
    const sent = unzipSync(body)
    expect(Object.keys(sent).sort()).toEqual(['kit.json', path].sort())
    const kit = JSON.parse(new TextDecoder().decode(sent['kit.json'])) as KitManifest
    expect([kit.name, kit.kitVersion]).toEqual([
      'Other',
      manifest.kitVersion.replace(/\d+$/, (n) => `${Number(n) + 1}`),
    ])
    expect([draft.isDirty(ID), draft.saving]).toEqual([false, false])
  })

  it.each([
    ['the server is away', () => Promise.reject(new TypeError('Failed to fetch')), 'Failed to fetch'],
    ['another window was first', () => Promise.reject(new Refused(409, 'Saved elsewhere.', [])), 'Saved elsewhere.'],
  ])('where %s loses nothing, and can be done again', async (_, answer, message) => {
    draft.change(ID, renamed('Other'))
    ask.mockImplementationOnce(answer)
    await expect(draft.save(ID)).rejects.toThrow(message)
    expect([draft.isDirty(ID), draft.saving, draft.manifestOf(ID)!.name]).toEqual([true, false, 'Other'])
    await draft.save(ID)
    expect(draft.isDirty(ID)).toBe(false)
  })

  it('whose answer is lost is over another kit then; it becomes a change of that when told to', async () => {
    draft.change(ID, renamed('Other'))
    // it is kept there, and the answer does not come
    ask.mockImplementationOnce(() => {
      hash = 'two'
      return Promise.reject(new TypeError('Failed to fetch'))
    })
    await expect(draft.save(ID)).rejects.toThrow('Failed to fetch')
    await project.load()
    expect([draft.isStale(ID), draft.manifestOf(ID)!.name]).toEqual([true, 'Other'])
    draft.rebase(ID)
    expect(draft.isStale(ID)).toBe(false)
    await draft.save(ID)
    expect((ask.mock.calls.at(-1) as unknown[])[3]).toEqual({ 'if-match': '"two"' })
  })

  it('is not done while something is wrong, nor where the kit is gone', async () => {
    draft.change(ID, renamed('Other'))
    worker.tryDraft.mockResolvedValue({ manifest, regions: {}, view: null, problems: [fault] })
    await expect(draft.save(ID)).rejects.toThrow('Not while something is wrong')
    project.kits = []
    await expect(draft.save(ID)).rejects.toThrow('not here any more')
    expect([ask.mock.calls.length, draft.isDirty(ID), draft.saving]).toEqual([0, true, false])
  })

  it('leaves what is changed while it is on its way as a change of what the kit has become', async () => {
    draft.change(ID, renamed('Other'))
    ask.mockImplementationOnce(() => {
      hash = 'two'
      draft.change(ID, renamed('Later'))
      return Promise.resolve({ problems: [] })
    })
    await draft.save(ID)
    expect([draft.isDirty(ID), draft.isStale(ID), draft.manifestOf(ID)!.name]).toEqual([true, false, 'Later'])
  })
})
