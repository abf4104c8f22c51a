import { EventEmitter } from 'node:events'
import { MessageChannel } from 'node:worker_threads'
import { Piscina } from 'piscina'
import { problem } from '@idle-tinker/core'
import { getBlob, putBlob } from '../db/blobs.ts'
import { cancelJob, failJob, finishJob, getJob, requeueJobs, setProgress, takeJob, type JobRow } from '../db/jobs.ts'
import { listKitFiles, listKits } from '../db/kits.ts'
import { preparedShelf } from '../utils/prepared.ts'
import { readShipCrowd, type ShipCrowdInput, type ShipCrowdOrder } from './shipCrowdInput.ts'
import type { ShipCrowdResult, ShipCrowdTask } from './worker.ts'

/** Progress of jobs as it happens: one event a job id. */
export const jobEvents = new EventEmitter().setMaxListeners(200)

let threads: Piscina | null = null
let turning = false
let threadFailed: ((error: unknown) => void) | null = null
const stops = new Map<string, () => void>()

/** Starts the threads and takes up what an earlier run left. */
export async function startQueue(workerFile: string): Promise<void> {
  threads = new Piscina({ filename: workerFile, minThreads: 0, maxThreads: 2, idleTimeout: 10_000 })
  // a thread that cannot even start takes no task: the job at hand is told instead
  threads.on('error', (error: unknown) => threadFailed?.(error))
  await requeueJobs()
  void turn()
}

/** Ends the threads. The job at hand stays marked as running: the next start takes it up again. */
export async function stopQueue(): Promise<void> {
  const ending = threads
  threads = null
  await ending?.destroy()
}

/** Works off waiting jobs, one after the other; call it whenever one was added. */
export async function turn(): Promise<void> {
  if (turning || !threads) return
  turning = true
  try {
    for (let job = await takeJob(); job && threads; job = await takeJob()) {
      // it may have been ordered before the workshop was updated
      const { value, problems } = readShipCrowd(JSON.parse(job.input) as ShipCrowdOrder, 'job')
      if (value) await run(job.id, value)
      else await failJob(job.id, problems)
    }
  } catch (error) {
    // the database may be away for a moment: the job stays in its row
    console.error('jobs:', error instanceof Error ? error.message : error)
  } finally {
    turning = false
  }
}

async function tell(id: string): Promise<void> {
  const job = await getJob(id)
  if (job) jobEvents.emit(id, job)
}

async function run(id: string, input: ShipCrowdInput): Promise<void> {
  await tell(id)
  const { port1, port2 } = new MessageChannel()
  stops.set(id, () => port1.postMessage('stop'))
  let told = 0
  port1.on('message', (done: number) => {
    const now = Date.now()
    if (now - told < 120 && done < input.recipes.length) return
    told = now
    void setProgress(id, done).then((running) => (running ? tell(id) : undefined))
  })
  try {
    const kits: ShipCrowdTask['kits'] = {}
    // all of them: slots and colors of one kit may be another's
    for (const { id: kit } of await listKits()) {
      const files: Record<string, Uint8Array> = {}
      for (const { path, hash } of await listKitFiles(kit)) files[path] = (await getBlob(hash))!
      kits[kit] = files
    }
    const failed = new Promise<never>((_, reject) => (threadFailed = reject))
    const prepared = await preparedShelf()
    const task = threads!.run({ input, kits, prepared, port: port2 } satisfies ShipCrowdTask, {
      transferList: [port2],
    }) as Promise<ShipCrowdResult>
    const result = await Promise.race([task, failed])
    if (result.zip) await finishJob(id, result.report, await putBlob(result.zip))
    else await failJob(id, result.problems)
  } catch (error) {
    if (!threads) return
    const detail = error instanceof Error ? error.message : String(error)
    await failJob(id, [problem('job', 'job', `The work stopped: ${detail}.`, 'Start it again.')])
  } finally {
    threadFailed = null
    stops.delete(id)
    port1.close()
    if (threads) await tell(id)
  }
}

export async function stopJob(id: string): Promise<JobRow | null> {
  await cancelJob(id)
  stops.get(id)?.()
  await tell(id)
  return getJob(id)
}
