import { wrap, type Remote } from 'comlink'
import type { Workshop } from './protocol'

/** One for the figure under the hand, which nothing else may keep waiting; and a small pool for all that comes in numbers. */
export type WorkerName = 'bench' | `pool ${number}`

/** The workers of the pool: one a core, but no more than three, as each holds the kits. */
export const POOL: readonly WorkerName[] = Array.from(
  { length: Math.min(3, Math.max(1, globalThis.navigator?.hardwareConcurrency ?? 1)) },
  (_, i): WorkerName => `pool ${i + 1}`,
)

interface Running {
  remote: Remote<Workshop>
  /** Those who wait for an answer: told when the worker ends by itself. */
  waiting: Set<(reason: Error) => void>
}
const running: Partial<Record<WorkerName, Running>> = {}
const listeners = new Set<(name: WorkerName) => void>()

/** Told when a worker has ended by itself. With the next call a new one starts, with no kits in it. */
export function onWorkerEnd(listener: (name: WorkerName) => void): () => void {
  listeners.add(listener)
  return () => listeners.delete(listener)
}

function start(name: WorkerName): Running {
  const worker = new Worker(new URL('./workshop.worker.ts', import.meta.url), { type: 'module', name })
  const waiting: Running['waiting'] = new Set()
  const end = (detail: string) => {
    worker.terminate()
    delete running[name]
    const reason = new Error(`A worker of this page has ended${detail ? `: ${detail}` : ''}.`)
    for (const reject of waiting) reject(reason)
    for (const listener of listeners) listener(name)
  }
  worker.addEventListener('error', (event) => end(event.message ?? ''))
  worker.addEventListener('messageerror', () => end('it was sent something it cannot read'))
  return { remote: wrap<Workshop>(worker), waiting }
}

/** A worker, started when it is first asked for something. What it is asked fails if it ends before it answers. */
export function workshop(name: WorkerName): Remote<Workshop> {
  return new Proxy({} as Remote<Workshop>, {
    get(_, method: string) {
      // it is no promise, though it may be given out by one
      if (method === 'then') return undefined
      return (...values: unknown[]) => {
        const { remote, waiting } = (running[name] ??= start(name))
        const call = remote[method as keyof Workshop] as unknown as (...values: unknown[]) => Promise<unknown>
        // no race with a promise that never ends: that would keep every answer for as long as the page lives
        return new Promise((resolve, reject) => {
          waiting.add(reject)
          void call(...values)
            .then(resolve, reject)
            .finally(() => waiting.delete(reject))
        })
      }
    },
  })
}
