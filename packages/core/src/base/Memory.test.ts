import { execFileSync } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { describe, expect, it } from 'vitest'
import { Memory } from './Memory.ts'

const never = (): never => {
  throw new Error('it was made anew')
}

describe('a memory', () => {
  it('gives what was made of the same, and makes anew what is not kept', () => {
    const memory = new Memory(2)
    const made: string[] = []
    const ask = (key: string) =>
      memory.recall(
        'stage',
        key,
        () => key.toUpperCase(),
        () => made.push(key),
      )
    expect(['a', 'b', 'a', 'b'].map(ask)).toEqual(['A', 'B', 'A', 'B'])
    expect(made).toEqual(['a', 'b'])
    ask('c')
    ask('a')
    expect(made).toEqual(['a', 'b', 'c', 'a'])
  })

  it('forgets first what was used longest ago, and tells of it', () => {
    const memory = new Memory(3)
    const gone: string[] = []
    const ask = (key: string) =>
      memory.recall(
        'stage',
        key,
        () => `made of ${key}`,
        undefined,
        (old) => gone.push(old),
      )
    for (const key of ['a', 'b', 'c', 'a']) ask(key)
    expect(memory.kept('stage')).toEqual(['made of a', 'made of c', 'made of b'])
    expect(gone).toEqual([])
    ask('d')
    ask('e')
    expect(gone).toEqual(['made of b', 'made of c'])
    expect(memory.kept('stage')).toEqual(['made of e', 'made of d', 'made of a'])
  })

  it('knows a result that is nothing from one that is not there', () => {
    const memory = new Memory(1)
    expect(memory.recall('stage', '', () => undefined)).toBeUndefined()
    expect(memory.recall('stage', '', never)).toBeUndefined()
  })

  it('keeps stages apart, and nothing of what could not be made', () => {
    const memory = new Memory(1)
    memory.recall('one', 'key', () => 1)
    memory.recall('two', 'key', () => 2)
    expect(() => memory.recall('one', 'other', never)).toThrow('made anew')
    expect(memory.recall('one', 'key', never)).toBe(1)
    expect(memory.recall('two', 'key', never)).toBe(2)
    expect(memory.kept('three')).toEqual([])
  })

  it('lets go of all when it is told to, and goes on', () => {
    const memory = new Memory(2)
    const gone: number[] = []
    memory.recall('stage', 'a', () => 1)
    memory.forget()
    expect(memory.kept('stage')).toEqual([])
    for (const [n, key] of ['a', 'b', 'c'].entries())
      memory.recall(
        'stage',
        key,
        () => n + 2,
        undefined,
        (old) => gone.push(old),
      )
    // of three there is room for two; what it had let go of is not told again
    expect(gone).toEqual([2])
    expect(memory.kept('stage')).toEqual([4, 3])
  })

  it('leaves nothing of it in what has grown old: what comes and goes is cleared up with the young', () => {
    // a process of its own, where nobody else makes anything
    const script = `
      import { Memory } from ${JSON.stringify(fileURLToPath(new URL('./Memory.ts', import.meta.url)))}
      const memory = new Memory(3)
      const clear = () => { gc({ type: 'minor' }); gc({ type: 'minor' }) }
      const one = (n) => memory.recall('stage', String(n), () => new Uint8Array(1 << 20))
      // what it keeps them in is old by now
      for (let n = 0; n < 12; n++) { one(n); clear() }
      memory.forget()
      gc()
      const before = process.memoryUsage().arrayBuffers
      for (let n = 12; n < 52; n++) { one(n); memory.forget(); clear() }
      console.log(process.memoryUsage().arrayBuffers - before)
    `
    const told = execFileSync(
      process.execPath,
      ['--expose-gc', '--import', 'tsx', '--input-type=module', '-e', script],
      { encoding: 'utf8' },
    )
    // forty of a megabyte came and went
    expect(Number(told)).toBeLessThan(3 << 20)
  })
})
