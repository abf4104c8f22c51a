import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { problem, type Read } from '@idle-tinker/core'
import { Refused } from '../stores/api.ts'
import { Keeper, type Entry, type Told } from './Keeper.ts'

interface Note {
  name: string
  text: string
}
interface Body {
  version: number
  content: Note
  token: string
  after: string[]
}

const ask = vi.hoisted(() => vi.fn())
vi.mock('../stores/api', async (original) => ({ ...(await original<typeof import('../stores/api.ts')>()), ask }))

const KEY = 'tinker.unsaved.note.n'
const kept = new Map<string, string>()
const read = (document: unknown): Read<Note> =>
  typeof (document as Note | null)?.text === 'string'
    ? { value: document as Note, problems: [] }
    : { value: null, problems: [problem('odd', 'note', 'It is odd.', 'Leave it.')] }
const entry = (version: number, text: string): Entry<Note> => ({
  id: 'n',
  name: 'Note',
  version,
  content: { name: 'Note', text },
  hasPicture: false,
  savedAt: '',
})
const text = (t: string): Note => ({ name: 'Note', text: t })

/** The row of one note, as the server's `saveDocument` treats it. */
class Row {
  version: number
  content: Note
  token: string | null = null
  /** Answers of the next saves: lost after they were done, or refused. */
  readonly next: ('lost' | Error)[] = []

  constructor(version: number, t: string) {
    this.version = version
    this.content = text(t)
    ask.mockReset().mockImplementation((_path: string, method = 'GET', body?: Body) => this.answer(method, body))
  }

  answer(method: string, body?: Body): Promise<Entry<Note>> {
    const how = method === 'PUT' ? this.next.shift() : undefined
    if (how instanceof Error) return Promise.reject(how)
    if (method === 'PUT' && body) {
      const [by, number] = this.token?.split('.') ?? []
      const known = body.after.some((mark) => mark.split('.')[0] === by && Number(number) <= Number(mark.split('.')[1]))
      if (body.version !== this.version && !known) return Promise.reject(new Refused(409, 'Changed elsewhere', []))
      this.version++
      this.content = body.content
      this.token = body.token
    }
    if (how === 'lost') return Promise.reject(new TypeError('the connection was reset'))
    return Promise.resolve({ ...entry(this.version, ''), content: this.content })
  }
}

let told: Told
let saves: Entry<Note>[]
const keeperOf = () =>
  new Keeper<Note>(
    'note',
    read,
    (e) => saves.push(e),
    (_id, t) => (told = t),
  )

beforeEach(() => {
  vi.useFakeTimers()
  kept.clear()
  saves = []
  vi.stubGlobal('localStorage', {
    getItem: (k: string) => kept.get(k) ?? null,
    setItem: (k: string, v: string) => kept.set(k, v),
    removeItem: (k: string) => kept.delete(k),
  })
})
afterEach(() => vi.useRealTimers())

describe('keeping a document', () => {
  it('keeps an edit made during a save under the version that the save made, so that reopening finds it', async () => {
    const row = new Row(1, 'a')
    const keeper = keeperOf()
    keeper.open(entry(1, 'a'))
    keeper.edit('n', text('b'))
    await vi.advanceTimersByTimeAsync(500)
    expect(row.content.text).toBe('b')
    row.next.push(new TypeError('away'))
    keeper.edit('n', text('c'))
    await vi.advanceTimersByTimeAsync(500)
    expect(told.state).toBe('away')
    // the page is closed here, and opened anew
    const again = keeperOf()
    expect(again.open({ ...entry(2, 'b') })).toEqual(text('c'))
    await vi.advanceTimersByTimeAsync(10)
    expect([row.content.text, row.version, told.state]).toEqual(['c', 3, 'saved'])
    expect(kept.has(KEY)).toBe(false)
  })

  it('does not conflict with its own save whose answer was lost, nor with several', async () => {
    const row = new Row(1, 'a')
    row.next.push('lost', 'lost')
    const keeper = keeperOf()
    keeper.open(entry(1, 'a'))
    keeper.edit('n', text('b'))
    await vi.advanceTimersByTimeAsync(500)
    expect([told.state, row.version]).toEqual(['away', 2])
    keeper.edit('n', text('c'))
    await vi.advanceTimersByTimeAsync(600)
    expect([told.state, row.version]).toEqual(['away', 3])
    await vi.advanceTimersByTimeAsync(3000)
    expect([told.state, row.content.text]).toEqual(['saved', 'c'])
  })

  it('nor when hundreds of saves have failed since, and it names but one', async () => {
    const row = new Row(1, 'a')
    row.next.push('lost', ...Array.from({ length: 300 }, () => new Refused(503, 'away', [])))
    const keeper = keeperOf()
    keeper.open(entry(1, 'a'))
    for (let i = 0; i < 305; i++) {
      keeper.edit('n', text(`edit ${i}`))
      await vi.advanceTimersByTimeAsync(600)
    }
    expect([told.state, row.content.text, row.next.length]).toEqual(['saved', 'edit 304', 0])
    const bodies = ask.mock.calls.flatMap(([, method, body]) => (method === 'PUT' ? [body as Body] : []))
    expect(Math.max(...bodies.map(({ after }) => after.length))).toBe(1)
    expect(new Set(bodies.map(({ token }) => token)).size).toBe(bodies.length)
  })

  it('nor when the page was closed before the answer could come', async () => {
    const row = new Row(1, 'a')
    row.next.push('lost')
    keeperOf().open(entry(1, 'a'))
    const keeper = keeperOf()
    keeper.open(entry(1, 'a'))
    keeper.edit('n', text('b'))
    await vi.advanceTimersByTimeAsync(500)
    keeper.edit('n', text('c'))
    vi.clearAllTimers()
    const again = keeperOf()
    expect(again.open(entry(2, 'b'))).toEqual(text('c'))
    await vi.advanceTimersByTimeAsync(10)
    expect([told.state, row.content.text]).toEqual(['saved', 'c'])
  })

  it('never saves over another window, and keeps both', async () => {
    const row = new Row(1, 'a')
    const keeper = keeperOf()
    keeper.open(entry(1, 'a'))
    row.version = 2
    row.content = text('theirs')
    keeper.edit('n', text('mine'))
    await vi.advanceTimersByTimeAsync(500)
    expect([told.state, row.content.text]).toEqual(['conflict', 'theirs'])
    keeper.edit('n', text('mine still'))
    await vi.advanceTimersByTimeAsync(5000)
    expect(row.content.text).toBe('theirs')
    expect(kept.get(KEY)).toContain('mine still')
    // also for the next page
    expect(keeperOf().open(entry(2, 'theirs'))).toEqual(text('mine still'))
    expect(told.state).toBe('conflict')
  })

  it('lets go of what is here only once theirs has come', async () => {
    new Row(1, 'a')
    const keeper = keeperOf()
    keeper.open(entry(1, 'a'))
    keeper.edit('n', text('mine'))
    ask.mockReset().mockRejectedValueOnce(new TypeError('away'))
    await expect(keeper.takeTheirs('n')).rejects.toBeInstanceOf(TypeError)
    expect(kept.get(KEY)).toContain('mine')
    ask.mockResolvedValueOnce(entry(7, 'theirs'))
    expect((await keeper.takeTheirs('n')).version).toBe(7)
    expect([kept.has(KEY), saves.at(-1)!.content.text]).toEqual([false, 'theirs'])
  })

  it('tells why it was refused, and tries again with the next edit', async () => {
    const row = new Row(1, 'a')
    row.next.push(new Refused(413, 'Too large', []))
    const keeper = keeperOf()
    keeper.open(entry(1, 'a'))
    keeper.edit('n', text('b'))
    await vi.advanceTimersByTimeAsync(5000)
    expect(told.state).toBe('refused')
    expect(told.problems[0]!.message).toBe('Too large')
    keeper.edit('n', text('c'))
    await vi.advanceTimersByTimeAsync(500)
    expect([told.state, told.problems, row.content.text]).toEqual(['saved', [], 'c'])
  })

  it('goes on without the browser’s store, and says so', async () => {
    const row = new Row(1, 'a')
    vi.stubGlobal('localStorage', {
      getItem: () => null,
      setItem: () => {
        throw new DOMException('full', 'QuotaExceededError')
      },
      removeItem: () => undefined,
    })
    const keeper = keeperOf()
    keeper.open(entry(1, 'a'))
    keeper.edit('n', text('b'))
    expect(told.problems[0]!.code).toBe('browser-full')
    await vi.advanceTimersByTimeAsync(500)
    expect([told.state, told.problems, row.content.text]).toEqual(['saved', [], 'b'])
  })

  it('passes over a copy that is odd, and says so; one that is saved already is cleared away', () => {
    new Row(1, 'a')
    for (const odd of ['', '{', 'null', '[]', '{"content":5}', '{"version":"x","content":{"text":5}}']) {
      kept.set(KEY, odd)
      expect(keeperOf().open(entry(1, 'a'))).toEqual(text('a'))
      expect(told.state).toBe('saved')
      expect(told.problems.length, odd).toBe(1)
    }
    kept.set(KEY, JSON.stringify({ version: 1, content: text('a'), unanswered: [] }))
    keeperOf().open(entry(4, 'a'))
    expect([kept.has(KEY), told.state]).toEqual([false, 'saved'])
  })

  it('drops what is forgotten, even while it is being saved', async () => {
    const row = new Row(1, 'a')
    const keeper = keeperOf()
    keeper.open(entry(1, 'a'))
    let finish = (): void => undefined
    ask.mockImplementationOnce(() => new Promise((resolve) => (finish = () => resolve(entry(2, 'b')))))
    keeper.edit('n', text('b'))
    await vi.advanceTimersByTimeAsync(500)
    keeper.edit('n', text('c'))
    keeper.forget('n')
    finish()
    await vi.advanceTimersByTimeAsync(5000)
    expect([kept.has(KEY), row.content.text, ask.mock.calls.length]).toEqual([false, 'a', 1])
  })
})
