import { EventEmitter } from 'node:events'
import { Piscina } from 'piscina'
import { problem } from '@idle-tinker/core'
import { dropBlob, putBlob } from '../db/blobs.ts'
import { dropPieces, keepPiece, listPieces } from '../db/jobPieces.ts'
import {
  cancelJob,
  failJob,
  finishJob,
  getJob,
  putBackJob,
  requeueJobs,
  setProgress,
  takeJob,
  type JobRow,
  type WaitingJob,
} from '../db/jobs.ts'
import { buildPicks } from './buildPicks.ts'
import type { JobEnd, JobHandler } from './JobHandler.ts'
import { ship } from './ship.ts'

/** A new kind is a handler and its entry here. */
const HANDLERS: Readonly<Record<string, JobHandler>> = {
  ship,
  // orders of before there were shipments
  'ship-crowd': ship,
  'build-picks': buildPicks,
}

/** Progress of jobs as it happens: one event a job id. */
export const jobEvents = new EventEmitter().setMaxListeners(200)

/** Progress is told no more often than this, milliseconds. */
const TOLD_EVERY = 120
/** After the database was away it is looked again so often. */
const LOOK_AGAIN = 2000

let threads: Piscina | null = null
let turning = false
let again: NodeJS.Timeout | null = null
const running = new Map<string, AbortController>()

/** Starts the threads and takes up what an earlier run left. */
export async function startQueue(workerFile: string): Promise<void> {
  threads = new Piscina({ filename: workerFile, minThreads: 0, maxThreads: 2, idleTimeout: 10_000 })
  // each task listens for itself; without any, an error of the pool must not end the process
  threads.on('error', (error: unknown) => console.error('threads:', messageOf(error)))
  await requeueJobs()
  void turn()
}

/** Ends the threads. The job at hand goes back among the waiting: the next start takes it up again. */
export async function stopQueue(): Promise<void> {
  const ending = threads
  threads = null
  if (again) clearTimeout(again)
  const left = [...running.keys()]
  for (const controller of running.values()) controller.abort()
  await ending?.destroy()
  for (const id of left)
    await putBackJob(id).catch((error: unknown) => {
      // it stays marked as running: the next start takes it up all the same, and counts this as an attempt
      console.error('jobs:', messageOf(error))
    })
}

/** Works off waiting jobs, one after the other; call it whenever one was added. */
export async function turn(): Promise<void> {
  if (turning || !threads) return
  turning = true
  try {
    for (let job = await takeJob(); job && threads; job = await takeJob()) await run(job)
  } catch (error) {
    // the database is away: everything stays in its row, and is looked for until it is back
    console.error('jobs:', messageOf(error))
    again = setTimeout(() => void turn(), LOOK_AGAIN).unref()
  } finally {
    turning = false
  }
}

async function run({ id, kind, input, total }: WaitingJob): Promise<void> {
  const controller = new AbortController()
  running.set(id, controller)
  await tell(id)
  let told = 0
  const progress = (done: number, total: number) => {
    const now = Date.now()
    if (now - told < TOLD_EVERY && done < total) return
    told = now
    setProgress(id, done)
      .then((still) => (still ? tell(id) : undefined))
      // a number that was not told is no loss
      .catch((error: unknown) => console.error('progress:', messageOf(error)))
  }
  const pieces: Parameters<JobHandler>[2]['pieces'] = {
    list: () => listPieces(id),
    // one of a job that was canceled meanwhile is of no use
    keep: (number, file, report) =>
      controller.signal.aborted
        ? Promise.resolve()
        : keepPiece(id, number, file, report).catch((error: unknown) => console.error('pieces:', messageOf(error))),
  }
  try {
    const end = await work(kind, input, total, { threads: threads!, progress, signal: controller.signal, pieces })
    if (threads) await steadily(() => keep(id, end))
  } finally {
    running.delete(id)
    if (threads) await tell(id)
  }
}

async function work(kind: string, input: string, total: number, tools: Parameters<JobHandler>[2]): Promise<JobEnd> {
  const handler = Object.hasOwn(HANDLERS, kind) ? HANDLERS[kind] : undefined
  if (!handler)
    return {
      problems: [
        problem('job-unknown', 'job', `Nobody here knows jobs of the kind “${kind}”.`, 'Update the workshop.'),
      ],
    }
  try {
    return await handler(input, total, tools)
  } catch (error) {
    return { problems: [problem('job', 'job', `The work stopped: ${messageOf(error)}.`, 'Start it again.')] }
  }
}

/** Keeps what a job has come to; the file of one that was canceled meanwhile goes again. */
async function keep(id: string, end: JobEnd): Promise<void> {
  if ('problems' in end) await failJob(id, end.problems)
  else {
    const hash = await putBlob(end.file)
    if (!(await finishJob(id, end.result, hash))) await dropBlob(hash)
  }
  await dropPieces(id)
}

/** What is done must not be lost to a database that is away for a moment: it is tried until it is kept, or we stop. */
async function steadily(work: () => Promise<void>): Promise<void> {
  while (threads)
    try {
      return await work()
    } catch (error) {
      console.error('jobs:', messageOf(error))
      await new Promise((resolve) => setTimeout(resolve, LOOK_AGAIN))
    }
}

async function tell(id: string): Promise<void> {
  try {
    const job = await getJob(id)
    if (job) jobEvents.emit(id, job)
  } catch (error) {
    // whoever listens is told the next time; the work goes on
    console.error('jobs:', messageOf(error))
  }
}

const messageOf = (error: unknown) => (error instanceof Error ? error.message : String(error))

/** Cancels a job, whether it waits or is under way. */
export async function stopJob(id: string): Promise<JobRow | null> {
  await cancelJob(id)
  running.get(id)?.abort()
  await tell(id)
  return getJob(id)
}
