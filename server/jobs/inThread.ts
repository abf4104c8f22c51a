import { MessageChannel, type MessagePort } from 'node:worker_threads'
import type { Piscina } from 'piscina'
import { listKits, readKitFiles } from '../db/kits.ts'
import { preparedShelf } from '../utils/prepared.ts'
import type { JobHandler } from './JobHandler.ts'

/** What every task in a thread is given. */
export interface ThreadTask {
  /** The order as JSON text. */
  order: string
  /** The project's kits by id: files by path. */
  kits: Record<string, Record<string, Uint8Array>>
  /** A shelf that ships with the kits, if there is one. */
  prepared: Uint8Array | null
  /** Takes how much is done; says stop. */
  port: MessagePort
}

/** What a task is given besides, and what is done with each part of its work that it sends before it is through. */
interface Parts<P> {
  with: object
  onPart: (part: P) => void
}

/**
 * Works an order off in a thread, with all kits of the project.
 *
 * @param name what the module of the threads calls it
 * @returns null where it was stopped before it began
 */
export async function inThread<R, P extends object = never>(
  name: string,
  order: string,
  total: number,
  { threads, progress, signal }: Parameters<JobHandler>[2],
  parts?: Parts<P>,
): Promise<R | null> {
  const kits: ThreadTask['kits'] = {}
  // all of them: slots and colors of one kit may be another's
  for (const { id } of await listKits()) {
    if (signal.aborted) return null
    kits[id] = Object.fromEntries(await readKitFiles(id))
  }
  const prepared = await preparedShelf()
  const { port1, port2 } = new MessageChannel()
  const stop = () => port1.postMessage('stop')
  signal.addEventListener('abort', stop)
  if (signal.aborted) stop()
  port1.on('message', (told: number | P) => (typeof told === 'number' ? progress(told, total) : parts?.onPart(told)))
  try {
    return await run<R>(threads, name, { ...parts?.with, order, kits, prepared, port: port2 })
  } finally {
    signal.removeEventListener('abort', stop)
    port1.close()
  }
}

/** Runs a task; a thread that cannot even start takes none, so that it is the pool that tells. */
async function run<R>(threads: Piscina, name: string, task: ThreadTask): Promise<R> {
  let tell: (error: Error) => void = () => undefined
  const failed = new Promise<never>((_, reject) => threads.on('error', (tell = reject)))
  try {
    return await Promise.race([threads.run(task, { name, transferList: [task.port] }) as Promise<R>, failed])
  } finally {
    threads.off('error', tell)
  }
}
