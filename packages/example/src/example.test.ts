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
  const box = (x: number, y: number) => ({ left: x, top: y, width: 10, height: 10 }) as DOMRect
  const at = (name: string, x: number, y: number) => ({ of: name, rect: box(x, y) })

  it('goes to what lies that way, straight ahead before nearer by', () => {
    const all = [at('right', 40, 0), at('corner', 20, 20), at('below', 0, 60), at('left', -30, 2)]
    const to = (move: 'left' | 'right' | 'up' | 'down') => nextTo(box(0, 0), all, move)
    expect([to('right'), to('down'), to('left'), to('up')]).toEqual(['right', 'below', 'left', null])
    expect(nextTo(box(0, 0), [], 'left')).toBeNull()
  })
})
