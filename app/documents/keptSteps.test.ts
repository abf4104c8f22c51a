import { beforeEach, describe, expect, it, vi } from 'vitest'
import { problem, type Read } from '@idle-tinker/core'
import { record, startHistory, undo } from '../stores/history.ts'
import { flushSteps, forgetSteps, keepSteps, stepsOf } from './keptSteps.ts'

const base = vi.hoisted(() => ({ kept: new Map<string, unknown>(), broken: false }))
vi.mock('idb-keyval', async () => (await import('../testing/database.ts')).databaseOf(base))

const ask = vi.hoisted(() => vi.fn())
vi.mock('../stores/api', () => ({ ask }))

interface Note {
  n: number
}
const read = (document: unknown): Read<Note> =>
  typeof (document as Note | null)?.n === 'number'
    ? { value: document as Note, problems: [] }
    : { value: null, problems: [problem('odd', 'note', 'It is odd.', 'Leave it.')] }
const steps = (now: Note) => stepsOf('note', 'a', now, read)
const history = [1, 2, 3, 4].reduce((h, n) => record(h, { n }), startHistory({ n: 0 }))

beforeEach(() => {
  vi.useFakeTimers()
  base.kept.clear()
  base.broken = false
  ask.mockReset().mockRejectedValue(new TypeError('away'))
  vi.spyOn(console, 'error')
    .mockReset()
    .mockImplementation(() => undefined)
})

describe('steps of a document', () => {
  it('are there again at the next visit, those that were taken back too', async () => {
    const back = undo(undo(history))
    keepSteps('note', 'a', () => history)
    const asked = vi.fn(() => back)
    keepSteps('note', 'a', asked)
    expect([base.kept.size, asked.mock.calls.length]).toEqual([0, 0])
    await vi.advanceTimersByTimeAsync(1000)
    expect(await steps({ n: 2 })).toEqual(back)
    // of another document, or of one that was changed elsewhere, they are not
    expect(await stepsOf('note', 'b', { n: 2 }, read)).toBeNull()
    expect(await steps({ n: 7 })).toBeNull()
  })

  it('are written at once when the page is left, and go with their document', async () => {
    keepSteps('note', 'a', () => history)
    flushSteps()
    expect(await steps({ n: 4 })).toEqual(history)
    keepSteps('note', 'a', () => history)
    await forgetSteps('note', 'a')
    await vi.advanceTimersByTimeAsync(2000)
    expect(base.kept.size).toBe(0)
  })

  it('go back as far as they can be read', async () => {
    base.kept.set('tinker.steps.note.a', {
      past: [{ n: 1 }, 'odd', { n: 2 }],
      now: { n: 3 },
      future: [{ n: 4 }, null, { n: 5 }],
    })
    expect(await steps({ n: 3 })).toMatchObject({ past: [{ n: 2 }], future: [{ n: 4 }] })
    for (const odd of ['', 5, [], { past: 'x', now: null }, { now: { m: 1 } }]) {
      base.kept.set('tinker.steps.note.a', odd)
      expect(await steps({ n: 3 })).toBeNull()
    }
    base.kept.set('tinker.steps.note.a', { past: 'x', now: { n: 3 } })
    expect(await steps({ n: 3 })).toMatchObject({ past: [], future: [] })
  })

  it('are done without where the browser has no room or no database', async () => {
    base.broken = true
    keepSteps('note', 'a', () => history)
    await vi.advanceTimersByTimeAsync(1000)
    expect(await steps({ n: 4 })).toBeNull()
    // kept, asked for, and the server is away too
    expect(console.error).toHaveBeenCalledTimes(3)
  })

  it('are those the server has kept where this browser has none that lead here', async () => {
    ask.mockResolvedValue([1, 2, 1, 3, 4].map((n) => ({ n })))
    const past = [1, 2, 1, 3].map((n) => ({ n }))
    expect(await steps({ n: 4 })).toEqual({ past, now: { n: 4 }, future: [], mark: null })
    expect(ask).toHaveBeenCalledWith('/api/documents/note/a/versions')
    // an edit that has not reached it is a step further
    expect(await steps({ n: 9 })).toMatchObject({ past: [...past, { n: 4 }], now: { n: 9 } })
    // what was taken back is known here alone
    keepSteps('note', 'a', () => undo(history))
    await vi.advanceTimersByTimeAsync(1000)
    expect((await steps({ n: 3 }))!.future).toEqual([{ n: 4 }])
    // changed elsewhere since
    expect((await steps({ n: 4 }))!.past).toEqual(past)
  })

  it('from the server go back as far as they can be read, and as far as steps go', async () => {
    ask.mockResolvedValue([{ n: 1 }, { m: 1 }, { n: 2 }, { n: 3 }])
    expect((await steps({ n: 3 }))!.past).toEqual([{ n: 2 }])
    ask.mockResolvedValue([{ n: 1 }])
    expect(await steps({ n: 1 })).toBeNull()
    ask.mockResolvedValue(Array.from({ length: 300 }, (_, n) => ({ n })))
    expect((await steps({ n: 299 }))!.past).toEqual(Array.from({ length: 200 }, (_, i) => ({ n: 99 + i })))
  })
})
