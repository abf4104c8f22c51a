import { randomUUID } from 'node:crypto'
import type { Problem } from '@idle-tinker/core'
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

const COLUMNS = 'id, kind, state, done, total, result, result_hash AS resultHash, error'
const parse = (v: unknown) => (typeof v === 'string' ? (JSON.parse(v) as unknown) : v)
const read = (row: JobRow): JobRow => ({
  ...row,
  result: parse(row.result),
  error: parse(row.error) as Problem[] | null,
})

export async function addJob(kind: string, input: unknown, total: number): Promise<string> {
  const id = randomUUID()
  await change("INSERT INTO jobs (id, kind, state, total, input) VALUES (?, ?, 'waiting', ?, ?)", [
    id,
    kind,
    total,
    JSON.stringify(input),
  ])
  return id
}

export async function getJob(id: string): Promise<JobRow | null> {
  const [row] = await select<JobRow>(`SELECT ${COLUMNS} FROM jobs WHERE id = ?`, [id])
  return row ? read(row) : null
}

/** Takes the job that has waited longest, if there is one; no two callers get the same. */
export async function takeJob(): Promise<{ id: string; kind: string; input: string } | null> {
  const [next] = await select<{ id: string; kind: string; input: string }>(
    "SELECT id, kind, input FROM jobs WHERE state = 'waiting' ORDER BY created_at LIMIT 1",
  )
  if (!next) return null
  const mine = await change("UPDATE jobs SET state = 'running', done = 0 WHERE id = ? AND state = 'waiting'", [next.id])
  return mine === 1 ? next : takeJob()
}

export async function setProgress(id: string, done: number): Promise<boolean> {
  return (
    (await change("UPDATE jobs SET done = ?, changed_at = CURRENT_TIMESTAMP(3) WHERE id = ? AND state = 'running'", [
      done,
      id,
    ])) === 1
  )
}

export async function finishJob(id: string, result: unknown, hash: string): Promise<void> {
  await change(
    "UPDATE jobs SET state = 'done', done = total, result = ?, result_hash = ? WHERE id = ? AND state = 'running'",
    [JSON.stringify(result), hash, id],
  )
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

/** After a restart, work that was under way begins again. */
export async function requeueJobs(): Promise<number> {
  return change("UPDATE jobs SET state = 'waiting', done = 0 WHERE state = 'running'")
}
