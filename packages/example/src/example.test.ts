import { describe, expect, it } from 'vitest'
import { nextTo } from './focus.ts'
import { Steps } from './Steps.ts'

describe('steps', () => {
  it('go back and forth, forget what was ahead after a new one, and take none for what is the same', () => {
    const steps = new Steps('a', (x, y) => x === y, 3)
    expect([steps.canUndo, steps.undo(), steps.redo()]).toEqual([false, 'a', 'a'])
    for (const s of ['b', 'b', 'c']) steps.take(s)
    expect([steps.undo(), steps.undo(), steps.canUndo]).toEqual(['b', 'a', false])
    expect([steps.redo(), steps.canRedo]).toEqual(['b', true])
    steps.take('d')
    expect([steps.canRedo, steps.undo(), steps.undo()]).toEqual([false, 'b', 'a'])
    for (const s of ['1', '2', '3', '4', '5']) steps.take(s)
    // three are kept
    expect([steps.undo(), steps.undo(), steps.undo(), steps.undo()]).toEqual(['4', '3', '2', '2'])
  })
})

describe('the focus', () => {
  const rect = (left: number, top: number, width: number, height: number) =>
    ({ left, top, width, height, right: left + width, bottom: top + height }) as DOMRect
  // as in the dressing room: pegs above, dyes on the left, cards below them, tools at the bottom
  const [pegs, dyes, chest, tools] = [rect(300, 0, 400, 80), rect(0, 100, 200, 400), rect(0, 520, 1000, 100), rect(0, 640, 1000, 30)] // prettier-ignore
  const at = (of: string, group: DOMRect, x: number, y: number) => ({ of, rect: rect(x, y, 40, 30), group })
  const all = [
    ...[at('peg-1', pegs, 310, 10), at('peg-2', pegs, 510, 10)],
    ...[at('dye-1', dyes, 10, 120), at('dye-2', dyes, 60, 120), at('dye-3', dyes, 60, 160)],
    ...[at('card-1', chest, 10, 540), at('card-2', chest, 110, 540)],
    ...[at('tool-1', tools, 10, 640), at('tool-2', tools, 520, 640)],
  ]
  const from = (name: string, way: 'left' | 'right' | 'up' | 'down') => {
    const own = all.find((b) => b.of === name)!
    return nextTo(
      own,
      all.filter((b) => b !== own),
      way,
    )
  }

  it('goes to what lies that way in its group, and then into the next group', () => {
    expect(from('peg-1', 'right')).toBe('peg-2')
    expect(from('dye-2', 'down')).toBe('dye-3')
    // the tools are straight below, the cards are before them
    expect(from('peg-2', 'down')).toBe('card-2')
    expect(from('dye-3', 'down')).toBe('card-1')
    expect(from('card-1', 'down')).toBe('tool-1')
    expect(from('card-1', 'up')).toBe('dye-3')
    expect(from('dye-2', 'up')).toBe('peg-1')
    expect(from('peg-1', 'left')).toBe('dye-2')
    expect(from('tool-2', 'up')).toBe('card-2')
  })

  it('goes aside in its group where there is nothing else, and nowhere where there is nothing', () => {
    expect(from('dye-1', 'down')).toBe('card-1')
    expect(from('tool-1', 'down')).toBeNull()
    expect(from('peg-1', 'up')).toBeNull()
    const low = at('low', tools, 300, 670)
    expect(nextTo(at('alone', tools, 10, 640), [low], 'down')).toBe('low')
    expect(nextTo(at('alone', tools, 10, 640), [], 'left')).toBeNull()
  })
})
