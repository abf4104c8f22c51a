import { randomUUID } from 'node:crypto'
import { problem, type Problem } from '@idle-tinker/core'
import { change, select } from './pool.ts'

export type JobState = 'waiting' | 'running' | 'done' | 'failed' | 'canceled'

export interface JobRow {
  id: string
  kind: string
  state: JobState
  done: number
  total: number
  result: unknown
  resultHash: string | null
  error: Problem[] | null
}

export interface WaitingJob {
  id: string
  kind: string
  /** JSON text. */
  input: string
  total: number
}

const COLUMNS = 'id, kind, state, done, total, result, result_hash AS resultHash, error'
const parse = (v: unknown) => (typeof v === 'string' ? (JSON.parse(v) as unknown) : v)
const read = (row: JobRow): JobRow => ({
  ...row,
  result: parse(row.result),
  error: parse(row.error) as Problem[] | null,
})

/** Adds a job. @param input JSON text, for the handler of its kind */
export async function addJob(kind: string, input: string, total: number): Promise<string> {
  const id = randomUUID()
  await change("INSERT INTO jobs (id, kind, state, total, input) VALUES (?, ?, 'waiting', ?, ?)", [
    id,
    kind,
    total,
    input,
  ])
  return id
}

export async function getJob(id: string): Promise<JobRow | null> {
  const [row] = await select<JobRow>(`SELECT ${COLUMNS} FROM jobs WHERE id = ?`, [id])
  return row ? read(row) : null
}

/** A job that has been begun so often without ending is not begun again: it may be what ends the process. */
export const MOST_ATTEMPTS = 3

/** Takes the job that has waited longest, if there is one; no two callers get the same. */
export async function takeJob(): Promise<WaitingJob | null> {
  const [next] = await select<WaitingJob>(
    "SELECT id, kind, input, total FROM jobs WHERE state = 'waiting' ORDER BY created_at LIMIT 1",
  )
  if (!next) return null
  const mine = await change(
    "UPDATE jobs SET state = 'running', done = 0, attempts = attempts + 1 WHERE id = ? AND state = 'waiting'",
    [next.id],
  )
  return mine === 1 ? next : takeJob()
}

/** Puts a job that was begun back among the waiting: it was stopped on purpose, which is no attempt. */
export async function putBackJob(id: string): Promise<void> {
  await change(
    "UPDATE jobs SET state = 'waiting', done = 0, attempts = attempts - 1 WHERE id = ? AND state = 'running'",
    [id],
  )
}

export async function setProgress(id: string, done: number): Promise<boolean> {
  return (
    (await change("UPDATE jobs SET done = ?, changed_at = CURRENT_TIMESTAMP(3) WHERE id = ? AND state = 'running'", [
      done,
      id,
    ])) === 1
  )
}

/** @returns whether it was still running: if not, its result is of no use */
export async function finishJob(id: string, result: unknown, hash: string): Promise<boolean> {
  const changed = await change(
    "UPDATE jobs SET state = 'done', done = total, result = ?, result_hash = ? WHERE id = ? AND state = 'running'",
    [JSON.stringify(result), hash, id],
  )
  return changed === 1
}

export async function failJob(id: string, problems: readonly Problem[]): Promise<void> {
  await change("UPDATE jobs SET state = 'failed', error = ? WHERE id = ? AND state = 'running'", [
    JSON.stringify(problems),
    id,
  ])
}

export async function cancelJob(id: string): Promise<boolean> {
  return (
    (await change("UPDATE jobs SET state = 'canceled' WHERE id = ? AND state IN ('waiting', 'running')", [id])) === 1
  )
}

/**
 * After a restart, work that was under way begins again; what has been begun too often without ending fails.
 *
 * @returns how many begin again
 */
export async function requeueJobs(): Promise<number> {
  const given = problem(
    'job-given-up',
    'job',
    `The work was begun ${MOST_ATTEMPTS} times and ended with the workshop each time.`,
    'Order it again with fewer figures, or without the figure that is to blame.',
  )
  await change("UPDATE jobs SET state = 'failed', error = ? WHERE state = 'running' AND attempts >= ?", [
    JSON.stringify([given]),
    MOST_ATTEMPTS,
  ])
  return change("UPDATE jobs SET state = 'waiting', done = 0 WHERE state = 'running'")
}

/** Forgets jobs that were over long ago; their files leave with the next sweep. @param days how long ago */
export function forgetJobs(days = 7): Promise<number> {
  return change(
    "DELETE FROM jobs WHERE state NOT IN ('waiting', 'running') AND changed_at < CURRENT_TIMESTAMP(3) - INTERVAL ? DAY",
    [days],
  )
}
