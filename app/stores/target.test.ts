import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { newTarget, type Target } from '@idle-tinker/core'
import { Refused } from './api.ts'
import { useProject } from './project.ts'
import { useTarget } from './target.ts'

const ask = vi.hoisted(() => vi.fn())
vi.mock('./api', async (original) => ({ ...(await original<typeof import('./api.ts')>()), ask }))
vi.mock('../workers', () => ({ workshop: vi.fn(), POOL: [] }))
vi.mock('../stage/Booth', () => ({ theBooth: vi.fn() }))

const KEY = 'tinker.unsaved.target.near'
const kept = new Map<string, string>()
const near = newTarget('near', 'Near')
const within = (triangles: number, of: Target = near): Target => ({ ...of, limits: { ...of.limits, triangles } })
const entryOf = (content: Target, version: number) => ({
  id: content.id,
  name: content.name,
  version,
  content,
  hasPicture: false,
  savedAt: '',
})
const limitsInUse = () => useProject().targets.map((t) => t.limits.triangles)

beforeEach(() => {
  setActivePinia(createPinia())
  vi.useFakeTimers()
  kept.clear()
  vi.stubGlobal('localStorage', {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => kept.set(k, v),
    removeItem: (k: string) => kept.delete(k),
  })
  ask
    .mockReset()
    .mockImplementation((_path: string, _method: string, { version, content }: { version: number; content: Target }) =>
      Promise.resolve(entryOf(content, version + 1)),
    )
  useProject().documents.target = [entryOf(near, 3), entryOf(newTarget('far', 'Far'), 1)]
})
afterEach(() => vi.useRealTimers())

describe('changing the limits of a target', () => {
  it('holds at once, is saved soon, and can be taken back step by step', async () => {
    const target = useTarget()
    target.open('near')
    target.change(within(700))
    target.change(within(800))
    expect([limitsInUse()[0], ask.mock.calls.length, kept.has(KEY)]).toEqual([800, 0, true])
    await vi.advanceTimersByTimeAsync(600)
    expect(ask).toHaveBeenLastCalledWith(
      '/api/documents/target/near',
      'PUT',
      expect.objectContaining({ version: 3, content: within(800) }),
    )
    expect([target.save, useProject().documents.target[0]!.version, kept.has(KEY)]).toEqual(['saved', 4, false])
    target.undo()
    expect([limitsInUse()[0], target.canRedo]).toEqual([700, true])
    target.redo()
    target.undo()
    target.undo()
    expect([limitsInUse()[0], target.canUndo]).toEqual([near.limits.triangles, false])
  })

  it('is not put back by the answer to a save that was sent before the last change', async () => {
    const target = useTarget()
    target.open('near')
    target.change(within(700))
    let answer = (): void => undefined
    ask.mockImplementationOnce(() => new Promise((resolve) => (answer = () => resolve(entryOf(within(700), 4)))))
    await vi.advanceTimersByTimeAsync(600)
    target.change(within(650))
    ask.mockImplementationOnce(() => new Promise(() => undefined))
    answer()
    await vi.advanceTimersByTimeAsync(0)
    expect(limitsInUse()[0]).toBe(650)
  })

  it('goes on being kept when it is no longer looked at', async () => {
    const target = useTarget()
    target.open('near')
    target.change(within(700))
    target.close()
    await vi.advanceTimersByTimeAsync(0)
    expect([ask.mock.calls.length, target.now, useProject().documents.target[0]!.version]).toEqual([1, null, 4])
  })

  it('never goes over another window: theirs is taken, or mine becomes a target of its own', async () => {
    const target = useTarget()
    const refuse = () => ask.mockRejectedValueOnce(new Refused(409, 'Another window has saved this target.', []))
    target.open('near')
    refuse()
    target.change(within(700))
    await vi.advanceTimersByTimeAsync(600)
    expect([target.save, limitsInUse()[0]]).toEqual(['conflict', 700])
    ask.mockResolvedValueOnce(entryOf(within(1234), 9))
    await target.resolveConflict(false)
    expect([target.save, target.now?.limits.triangles, limitsInUse()[0]]).toEqual(['saved', 1234, 1234])

    refuse()
    target.change(within(600))
    await vi.advanceTimersByTimeAsync(600)
    const mine = within(600, newTarget('near-mine', 'Near (mine)'))
    ask.mockResolvedValueOnce(entryOf(mine, 1)).mockResolvedValueOnce(entryOf(within(4321), 10))
    await target.resolveConflict(true)
    expect([target.id, target.now?.limits.triangles]).toEqual(['near-mine', 600])
    expect(limitsInUse()).toEqual([4321, 2500, 600])
  })

  it('says why the server will not have it', async () => {
    const target = useTarget()
    target.open('near')
    ask.mockRejectedValueOnce(new Refused(422, 'A name is missing.', []))
    target.change({ ...near, name: '' })
    await vi.advanceTimersByTimeAsync(600)
    expect([target.save, target.unkept.map((p) => p.message)]).toEqual(['refused', ['A name is missing.']])
  })

  it('does nothing where nothing is open', () => {
    const target = useTarget()
    target.open('gone')
    target.change(within(1))
    target.undo()
    target.redo()
    target.close()
    expect([target.id, limitsInUse()[0], ask.mock.calls.length]).toEqual([null, 2500, 0])
  })
})
