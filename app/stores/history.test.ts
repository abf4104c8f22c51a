import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { record, redo, settle, startHistory, undo } from './history.ts'

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
