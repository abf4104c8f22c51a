import { wrap, type Remote } from 'comlink'
import type { Workshop } from './protocol'

/**
 * One for the figure under the hand, which nothing else may keep waiting; a small pool for all that comes in numbers; and
 * one for loose models as long as they lie open; one for kits as they are to become.
 */
export type WorkerName = 'bench' | 'pack' | 'draft' | `pool ${number}`

/** The workers of the pool: one a core, but no more than three, as each holds the kits. */
export const POOL: readonly WorkerName[] = Array.from(
  { length: Math.min(3, Math.max(1, globalThis.navigator?.hardwareConcurrency ?? 1)) },
  (_, i): WorkerName => `pool ${i + 1}`,
)

/** Why an answer does not come: its worker has ended, by itself or because it was told to. */
export class WorkerEnded extends Error {}

interface Running {
  remote: Remote<Workshop>
  /** Those who wait for an answer: told when the worker ends by itself. */
  waiting: Set<(reason: Error) => void>
  end: (reason: Error) => void
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
  const end = (reason: Error) => {
    worker.terminate()
    delete running[name]
    for (const reject of waiting) reject(reason)
  }
  const ended = (detail: string) => {
    end(new WorkerEnded(`A worker of this page has ended${detail ? `: ${detail}` : ''}.`))
    for (const listener of listeners) listener(name)
  }
  worker.addEventListener('error', (event) => ended(event.message ?? ''))
  worker.addEventListener('messageerror', () => ended('it was sent something it cannot read'))
  return { remote: wrap<Workshop>(worker), waiting, end }
}

/** Ends a worker with all it holds; those who wait for an answer are given the reason. */
export function endWorker(name: WorkerName, reason: string): void {
  running[name]?.end(new WorkerEnded(reason))
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

/**
 * An answer that the next figure will ask for again: undefined where the worker ends first, which is told and mended by
 * whoever builds the figure.
 */
export async function unlessEnded<T>(answer: Promise<T>): Promise<T | undefined> {
  try {
    return await answer
  } catch (error) {
    if (error instanceof WorkerEnded) return undefined
    throw error
  }
}
