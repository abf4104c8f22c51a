import { MessageChannel } from 'node:worker_threads'
import type { Piscina } from 'piscina'
import { getBlob } from '../db/blobs.ts'
import { listKitFiles, listKits } from '../db/kits.ts'
import { preparedShelf } from '../utils/prepared.ts'
import type { JobHandler } from './JobHandler.ts'
import type { ShipCrowdResult, ShipCrowdTask } from './worker.ts'

/** Ships the figures of an order into one zip, in a thread. */
export const shipCrowd: JobHandler = async (order, total, { threads, progress, signal }) => {
  const kits: ShipCrowdTask['kits'] = {}
  // all of them: slots and colors of one kit may be another's
  for (const { id } of await listKits()) {
    const files: Record<string, Uint8Array> = {}
    for (const { path, hash } of await listKitFiles(id)) {
      if (signal.aborted) return { problems: [] }
      files[path] = (await getBlob(hash))!
    }
    kits[id] = files
  }
  const prepared = await preparedShelf()
  const { port1, port2 } = new MessageChannel()
  const stop = () => port1.postMessage('stop')
  signal.addEventListener('abort', stop)
  if (signal.aborted) stop()
  port1.on('message', (done: number) => progress(done, total))
  try {
    const { zip, report, problems } = await inThread(threads, { order, kits, prepared, port: port2 })
    return zip ? { result: report, file: zip } : { problems }
  } finally {
    signal.removeEventListener('abort', stop)
    port1.close()
  }
}

/** Runs a task; a thread that cannot even start takes none, so that it is the pool that tells. */
async function inThread(threads: Piscina, task: ShipCrowdTask): Promise<ShipCrowdResult> {
  let tell: (error: Error) => void = () => undefined
  const failed = new Promise<never>((_, reject) => threads.on('error', (tell = reject)))
  try {
    return await Promise.race([threads.run(task, { transferList: [task.port] }) as Promise<ShipCrowdResult>, failed])
  } finally {
    threads.off('error', tell)
  }
}
