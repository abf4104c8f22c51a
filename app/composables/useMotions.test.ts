import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { readMotionDocument, type Motion, type MotionMatch } from '@idle-tinker/core'
import stroll from '../../tests/fixtures/motions/v1-quay-stroll.motion.json'
import type { Entry } from '../documents/Keeper.ts'
import { Refused } from '../stores/api.ts'
import { useProject } from '../stores/project.ts'
import { useMotions } from './useMotions.ts'

const ask = vi.hoisted(() => vi.fn())
vi.mock('../stores/api', async (original) => ({ ...(await original<typeof import('../stores/api.ts')>()), ask }))
const worker = vi.hoisted(() => ({ bringMotions: vi.fn(), carryMotion: vi.fn(), shipMotions: vi.fn() }))
vi.mock('../workers', () => ({ workshop: () => worker, POOL: [] }))
vi.mock('../stage/Booth', () => ({ theBooth: vi.fn() }))
vi.mock('../stores/figure', () => ({ useFigure: () => ({ recipe: { name: 'Maren' } }) }))
vi.mock('../stores/view', () => ({ useView: () => ({ target: { id: 'near' } }) }))

const motion = readMotionDocument(stroll).value!
const bytes = new Uint8Array([1])
const fileOf = (name: string) => ({ name, arrayBuffer: () => Promise.resolve(bytes.buffer) }) as unknown as File
const entryOf = (id: string, content: Motion = motion, version = 1): Entry<Motion> => ({
  ...{ id, name: content.name, version, content, hasPicture: false, savedAt: '' },
})
/** What the server has; it keeps what it is sent, over the version its sender saw. */
const server = new Map<string, Entry<Motion>>()
let away = false

beforeEach(() => {
  setActivePinia(createPinia())
  vi.stubGlobal('ref', <T>(value: T) => ({ value }))
  vi.stubGlobal('shallowRef', <T>(value: T) => ({ value }))
  server.clear()
  away = false
  ask.mockReset().mockImplementation((path: string, method = 'GET', body?: unknown) => {
    if (away) return Promise.reject(new TypeError('Failed to fetch'))
    const id = path.split('/')[4]
    if (!id && method === 'GET') return Promise.resolve([...server.values()])
    if (!id) {
      const added = entryOf(`m${server.size + 1}`, body as Motion)
      server.set(added.id, added)
      return Promise.resolve(added)
    }
    const now = server.get(id)
    if (path.endsWith('/restore')) return Promise.resolve(now)
    if (method === 'DELETE') return Promise.resolve(undefined)
    if (!now) return Promise.reject(new Refused(404, 'It is gone.', []))
    if (method === 'GET') return Promise.resolve(now)
    const { version, content } = body as { version: number; content: Motion }
    if (version !== now.version) return Promise.reject(new Refused(409, 'Changed elsewhere.', []))
    server.set(id, entryOf(id, content, version + 1))
    return Promise.resolve(server.get(id))
  })
  worker.bringMotions.mockReset().mockResolvedValue({ motions: [motion], problems: [] })
  worker.carryMotion.mockReset().mockResolvedValue({ carried: { clip: { id: 'a' } }, problems: [] })
})
const kept = () => useProject().documents.motion
const problem = { code: 'odd', where: 'b', message: 'It is odd.', remedy: 'Mend it.', severity: 'error' }

describe('motions that are brought in', () => {
  it('are all kept, whatever is wrong with another; those that are known tell of the next', async () => {
    const { bring, said } = useMotions()
    worker.bringMotions
      .mockResolvedValueOnce({ motions: [], problems: [problem] })
      .mockResolvedValueOnce({ motions: [motion, { ...motion, name: 'Second' }], problems: [] })
    expect(await bring([fileOf('a.bvh'), fileOf('b.glb')])).toBe('m1')
    expect(kept().map((m) => m.name)).toEqual([motion.name, 'Second'])
    expect(said.value.join()).toContain('It is odd.')
    await bring([fileOf('c.bvh')])
    expect(worker.bringMotions.mock.calls.at(-1)![4]).toEqual([motion.match, motion.match])
  })

  it('come with the buffers beside them, are told one by one, and stop when asked; what has come stays', async () => {
    const { bring, bringing, stop, said } = useMotions()
    const seen: unknown[] = []
    worker.bringMotions.mockImplementation((name: string, _bytes: Uint8Array, beside: Map<string, Uint8Array>) => {
      seen.push([name, [...beside.keys()], bringing.value])
      if (name === 'b.gltf') stop()
      return Promise.resolve({ motions: [motion], problems: [] })
    })
    await bring(['a.gltf', 'walk.bin', 'b.gltf', 'c.bvh'].map(fileOf))
    expect(seen).toEqual([
      ['a.gltf', ['walk.bin'], { done: 0, of: 3, name: 'a.gltf' }],
      ['b.gltf', ['walk.bin'], { done: 1, of: 3, name: 'b.gltf' }],
    ])
    expect([kept().length, said.value, bringing.value]).toEqual([2, ['Stopped after 2 of 3 files.'], null])
    // the next ones are not stopped by that
    await bring([fileOf('c.bvh')])
    expect([kept().length, said.value]).toEqual([3, []])
    await bring([fileOf('walk.bin')])
    expect(said.value.join()).toContain('.gltf')
  })

  it('are told of where the server is away, and nothing is there that is not', async () => {
    const { bring, said, busy } = useMotions()
    away = true
    expect(await bring([fileOf('a.bvh')])).toBeNull()
    expect([said.value, busy.value, kept()]).toEqual([['Failed to fetch'], false, []])
    away = false
    expect(await bring([fileOf('a.bvh')])).toBe('m1')
    expect(said.value).toEqual([])
  })

  it('are told of where the worker has died', async () => {
    const { bring, carry, said, told, busy } = useMotions()
    worker.bringMotions.mockRejectedValueOnce(new Error('The worker has ended.'))
    await bring([fileOf('a.bvh')])
    expect(said.value).toEqual(['The worker has ended.'])
    worker.carryMotion.mockRejectedValueOnce(new Error('The worker has ended.'))
    await carry(entryOf('a'))
    expect([told.value, busy.value]).toEqual([['The worker has ended.'], false])
  })
})

describe('a motion that is carried', () => {
  it('is the one that was chosen last, whichever is done first', async () => {
    const { carry, carried, told } = useMotions()
    let slow: (answer: object) => void = () => undefined
    worker.carryMotion.mockImplementationOnce(() => new Promise((resolve) => (slow = resolve)))
    const first = carry(entryOf('slow'))
    await carry(entryOf('quick'))
    slow({ carried: { clip: { id: 'late' } }, problems: [problem] })
    await first
    expect([carried.value?.id, told.value]).toEqual(['quick', []])
    await carry(null)
    expect(carried.value).toBeNull()
  })

  it('does not take away what was told of files', async () => {
    const { bring, carry, said } = useMotions()
    worker.bringMotions.mockResolvedValueOnce({ motions: [motion], problems: [problem] })
    await bring([fileOf('a.bvh')])
    await carry(kept()[0]!)
    expect(said.value.join()).toContain('It is odd.')
  })
})

describe('which joints are which bones', () => {
  const match = { ...motion.match!, bones: { hips: 'hips' } } satisfies MotionMatch

  it('is kept for every motion of that skeleton, also one that had none, and for no other', async () => {
    const other = { ...motion, joints: motion.joints.map((j) => ({ ...j, name: `other ${j.name}` })) }
    const { rematch, load } = useMotions()
    for (const [id, content] of [
      ['a', motion],
      ['b', { ...motion, match: null }],
      ['c', other],
    ] as const)
      server.set(id, entryOf(id, content))
    await load()
    await rematch(match)
    expect(kept().map((m) => m.content.match)).toEqual([match, match, motion.match])
  })

  it('that another window has changed is told, and can be changed over that; one it has deleted goes', async () => {
    const { amend, load, said } = useMotions()
    server.set('a', entryOf('a'))
    await load()
    const seen = kept()[0]!
    server.set('a', entryOf('a', { ...motion, loop: 'once' }, 2))
    await amend(seen, { travels: false })
    expect(said.value).toEqual(['Changed elsewhere.'])
    expect(kept()[0]).toMatchObject({ version: 2, content: { loop: 'once', travels: true } })
    await amend(kept()[0]!, { travels: false })
    expect([said.value, kept()[0]!.version]).toEqual([[], 3])
    ask.mockImplementationOnce(() => Promise.reject(new Refused(409, 'Deleted elsewhere.', [])))
    server.clear()
    await amend(kept()[0]!, { travels: true })
    expect([said.value, kept()]).toEqual([['Deleted elsewhere.'], []])
  })
})

describe('a motion that is removed', () => {
  it('can be brought back; where it could not be removed it stays', async () => {
    const { remove, bringBack, removed, load, said } = useMotions()
    server.set('a', entryOf('a'))
    await load()
    away = true
    await remove(kept()[0]!)
    expect([said.value, kept().length, removed.value]).toEqual([['Failed to fetch'], 1, null])
    away = false
    await remove(kept()[0]!)
    expect([kept(), removed.value?.id]).toEqual([[], 'a'])
    await bringBack()
    expect([kept().map((m) => m.id), removed.value]).toEqual([['a'], null])
  })
})
