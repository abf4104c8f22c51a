import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { jump, record, redo, settle, startHistory, stepsIn, undo } from './history.ts'

describe('history', () => {
  it('undoes and redoes any run of edits back to the same document', () => {
    fc.assert(
      fc.property(fc.array(fc.integer(), { maxLength: 40 }), (edits) => {
        const start = startHistory({ v: 0 })
        let h = start
        for (const v of edits) h = record(h, { v })
        const end = h.now
        for (let i = 0; i < edits.length; i++) h = undo(h)
        expect(h.now).toBe(start.now)
        for (let i = 0; i < edits.length; i++) h = redo(h)
        expect(h.now).toBe(end)
      }),
    )
  })

  it('joins a drag to one step until it is settled', () => {
    let h = startHistory(0)
    for (const v of [1, 2, 3]) h = record(h, v, 'drag')
    h = record(settle(h), 4, 'drag')
    expect(undo(h).now).toBe(3)
    expect(undo(undo(h)).now).toBe(0)
  })

  it('forgets the future on a new edit and ignores an edit that changes nothing', () => {
    let h = record(record(startHistory('a'), 'b'), 'c')
    h = record(undo(h), 'd')
    expect(redo(h)).toBe(h)
    expect(record(h, 'd')).toBe(h)
    expect(undo(startHistory('x')).now).toBe('x')
  })

  it('takes what says the same as before for no step', () => {
    const history = record(startHistory({ a: 1, b: [2] }), { a: 1, b: [3] })
    expect(record(history, { a: 1, b: [3] })).toBe(history)
    expect(record(history, { a: 1, b: [2] }).past).toHaveLength(2)
  })
})

describe('steps', () => {
  const describeNumbers = (a: { v: number }, b: { v: number }) => `${a.v} to ${b.v}`
  const names = (h: ReturnType<typeof startHistory<{ v: number }>>) => stepsIn(h, describeNumbers).map((s) => s.name)
  const all = [1, 2, 3].reduce((h, v) => record(h, { v }), startHistory({ v: 0 }))

  it('are told by what led to them, and where they stand', () => {
    expect(names(all)).toEqual([null, '0 to 1', '1 to 2', '2 to 3'])
    expect(stepsIn(undo(all), describeNumbers).map((s) => s.at)).toEqual(['past', 'past', 'now', 'future'])
  })

  it('are gone back to by a step of its own, forward by redoing', () => {
    const back = jump(all, 1)
    expect([back.now, names(back).at(-1)]).toEqual([{ v: 1 }, 'Back to: 0 to 1'])
    expect(undo(back).now).toEqual({ v: 3 })
    expect(names(jump(back, 0)).at(-1)).toBe('Back to: the beginning')
    const undone = undo(undo(all))
    expect(jump(undone, 3)).toEqual(all)
    expect(jump(all, 3)).toBe(all)
    expect(jump(all, 99).now).toEqual({ v: 3 })
  })
})
