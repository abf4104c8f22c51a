import { setFlagsFromString } from 'node:v8'
import { runInNewContext } from 'node:vm'
import { beforeEach, describe, expect, it, vi } from 'vitest'

setFlagsFromString('--expose-gc')
const collect = runInNewContext('gc') as () => void

type Listener = (event: { message?: string }) => void
class FakeWorker {
  static readonly all: FakeWorker[] = []
  readonly listeners = new Map<string, Listener>()
  terminated = false
  constructor() {
    FakeWorker.all.push(this)
  }
  addEventListener(kind: string, listener: Listener) {
    this.listeners.set(kind, listener)
  }
  terminate() {
    this.terminated = true
  }
}

const answers = vi.hoisted(() => ({ open: [] as ((v: unknown) => void)[] }))
vi.mock('comlink', () => ({
  wrap: () => ({ clips: () => new Promise((resolve) => answers.open.push(resolve)) }),
}))

let workers: typeof import('./index.ts')
beforeEach(async () => {
  vi.resetModules()
  FakeWorker.all.length = 0
  answers.open.length = 0
  vi.stubGlobal('Worker', FakeWorker)
  workers = await import('./index.ts')
})
const ask = (name: 'bench' | 'pool 1' = 'bench') => workers.workshop(name).clips({} as never, {} as never)

describe('the workers of a page', () => {
  it('start when they are first asked, once each, and answer', async () => {
    const bench = workers.workshop('bench')
    expect(FakeWorker.all).toHaveLength(0)
    expect(await Promise.resolve(bench)).toBe(bench)
    const [first, second] = [ask(), ask()]
    void ask('pool 1')
    expect(FakeWorker.all).toHaveLength(2)
    answers.open[0]!('a')
    answers.open[1]!('b')
    expect(await Promise.all([first, second])).toEqual(['a', 'b'])
  })

  it('that end by themselves fail what they were asked, are told, and are started anew', async () => {
    const ended: string[] = []
    const forget = workers.onWorkerEnd((name) => ended.push(name))
    const [first, second] = [ask(), ask()]
    FakeWorker.all[0]!.listeners.get('error')!({ message: 'out of memory' })
    await expect(first).rejects.toThrow('has ended: out of memory')
    await expect(second).rejects.toThrow('has ended')
    expect([ended, FakeWorker.all[0]!.terminated]).toEqual([['bench'], true])
    const third = ask()
    expect(FakeWorker.all).toHaveLength(2)
    answers.open[2]!('c')
    expect(await third).toBe('c')
    forget()
    FakeWorker.all[1]!.listeners.get('messageerror')!({})
    expect(ended).toHaveLength(1)
  })

  it('are ended with what they are at, which is no news, and are started anew when next asked', async () => {
    const ended: string[] = []
    workers.onWorkerEnd((name) => ended.push(name))
    workers.endWorker('bench', 'nobody has asked it yet')
    const first = ask()
    workers.endWorker('bench', 'It was stopped.')
    await expect(first).rejects.toThrow('It was stopped.')
    expect([ended, FakeWorker.all[0]!.terminated]).toEqual([[], true])
    const second = ask()
    answers.open[1]!('b')
    expect([await second, FakeWorker.all.length]).toEqual(['b', 2])
  })

  it('leave what the next figure asks again unanswered where they end; any other fault is thrown on', async () => {
    const left = workers.unlessEnded(ask())
    FakeWorker.all[0]!.listeners.get('error')!({})
    expect(await left).toBeUndefined()
    const answered = workers.unlessEnded(ask())
    answers.open.at(-1)!(['walk'])
    expect(await answered).toEqual(['walk'])
    await expect(workers.unlessEnded(Promise.reject(new Error('a fault of ours')))).rejects.toThrow('a fault of ours')
  })

  it('keep no answer that has been given', async () => {
    const given: WeakRef<object>[] = []
    for (let i = 0; i < 5; i++) {
      const asked = ask()
      answers.open.pop()!({ large: new Float32Array(1000) })
      given.push(new WeakRef((await asked) as object))
    }
    // what was awaited last may still lie on the stack
    await new Promise((resolve) => setTimeout(resolve))
    collect()
    expect(given.slice(0, -1).map((ref) => ref.deref())).toEqual([undefined, undefined, undefined, undefined])
  })
})
