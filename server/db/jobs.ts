import { randomUUID } from 'node:crypto'
import { problem, type Problem } from '@idle-tinker/core'
import { dropBlob } from './blobs.ts'
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
  /** What is said of it in a list; null of jobs of before anything was. */
  about: unknown
  createdAt: Date
}

/** A job as a list shows it. */
export interface ListedJob extends Pick<JobRow, 'id' | 'state' | 'done' | 'total' | 'error' | 'about' | 'createdAt'> {
  /** Of its result, if there is one: how many files and bytes, pieces that stayed, and that left without a format. */
  files: number | null
  bytes: number | null
  stayed: number | null
  partly: number | null
}

export interface WaitingJob {
  id: string
  kind: string
  /** JSON text. */
  input: string
  total: number
}

const COLUMNS = 'id, kind, state, done, total, result, result_hash AS resultHash, error, about, created_at AS createdAt'
const parse = (v: unknown) => (typeof v === 'string' ? (JSON.parse(v) as unknown) : v)
const read = (row: JobRow): JobRow => ({
  ...row,
  result: parse(row.result),
  error: parse(row.error) as Problem[] | null,
  about: parse(row.about),
})

/** Adds a job. @param input JSON text, for the handler of its kind @param about what a list says of it */
export async function addJob(kind: string, input: string, total: number, about: unknown = null): Promise<string> {
  const id = randomUUID()
  await change("INSERT INTO jobs (id, kind, state, total, input, about) VALUES (?, ?, 'waiting', ?, ?, ?)", [
    ...[id, kind, total, input],
    about === null ? null : JSON.stringify(about),
  ])
  return id
}

/** Adds one whose work was done elsewhere. @param hash of its file, which is kept already */
export async function addDoneJob(
  kind: string,
  input: string,
  { total, about, result, hash }: { total: number; about: unknown; result: unknown; hash: string },
): Promise<string> {
  const id = randomUUID()
  await change(
    "INSERT INTO jobs (id, kind, state, done, total, input, about, result, result_hash) VALUES (?, ?, 'done', ?, ?, ?, ?, ?, ?)",
    [id, kind, total, total, input, JSON.stringify(about), JSON.stringify(result), hash],
  )
  return id
}

/** Jobs of a kind of which something is said, the latest first. */
export async function listJobs(kind: string, most: number): Promise<ListedJob[]> {
  const rows = await select<ListedJob>(
    `SELECT id, state, done, total, error, about, created_at AS createdAt,
       JSON_VALUE(result, '$.files') AS files, JSON_VALUE(result, '$.bytes') AS bytes,
       JSON_VALUE(result, '$.stayed') AS stayed, JSON_VALUE(result, '$.partly') AS partly
     FROM jobs WHERE kind = ? AND about IS NOT NULL ORDER BY created_at DESC, id LIMIT ${Math.trunc(most)}`,
    [kind],
  )
  const number = (v: unknown) => (v === null ? null : Number(v))
  return rows.map((row) => ({
    ...row,
    ...{ error: parse(row.error) as Problem[] | null, about: parse(row.about) },
    ...{ files: number(row.files), bytes: number(row.bytes), stayed: number(row.stayed), partly: number(row.partly) },
  }))
}

/** What a job was asked to do: JSON text. */
export async function jobInput(id: string): Promise<{ kind: string; input: string; total: number } | null> {
  const [row] = await select<{ kind: string; input: string; total: number }>(
    'SELECT kind, input, total FROM jobs WHERE id = ?',
    [id],
  )
  return row ?? null
}

/** Forgets a job that is over; its file leaves with it. @returns whether there was one */
export async function forgetJob(id: string): Promise<boolean> {
  const job = await getJob(id)
  const gone = await change("DELETE FROM jobs WHERE id = ? AND state NOT IN ('waiting', 'running')", [id])
  if (gone && job?.resultHash) await dropBlob(job.resultHash)
  return gone === 1
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
  // of what is over, nothing of the way there is kept
  await change("DELETE p FROM job_pieces p JOIN jobs j ON j.id = p.job_id WHERE j.state NOT IN ('waiting', 'running')")
  return change("UPDATE jobs SET state = 'waiting', done = 0 WHERE state = 'running'")
}

/** So many shipments are kept, with their files; the oldest leave. */
export const MOST_SHIPMENTS = 100

/**
 * Forgets jobs that were over long ago; their files leave with the next sweep. Shipments are a history: of them the
 * latest stay.
 *
 * @param days how long ago
 */
export async function forgetJobs(days = 7): Promise<number> {
  const over = "state NOT IN ('waiting', 'running')"
  const old = await change(
    `DELETE FROM jobs WHERE ${over} AND about IS NULL AND changed_at < CURRENT_TIMESTAMP(3) - INTERVAL ? DAY`,
    [days],
  )
  const kept = await select<{ id: string }>(
    `SELECT id FROM jobs WHERE about IS NOT NULL ORDER BY created_at DESC LIMIT ${MOST_SHIPMENTS}, 1000`,
  )
  let gone = old
  for (const { id } of kept) gone += await change(`DELETE FROM jobs WHERE id = ? AND ${over}`, [id])
  return gone
}
