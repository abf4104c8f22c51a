import { dropBlob, putBlob } from './blobs.ts'
import { change, select } from './pool.ts'

/** Something a job has made on its way. */
export interface JobPieceRow {
  number: number
  hash: string | null
  report: unknown
}

/** What a job has made so far, by its number. */
export async function listPieces(job: string): Promise<JobPieceRow[]> {
  const rows = await select<JobPieceRow>(
    'SELECT number, hash, report FROM job_pieces WHERE job_id = ? ORDER BY number',
    [job],
  )
  return rows.map((row) => ({
    ...row,
    report: typeof row.report === 'string' ? (JSON.parse(row.report) as unknown) : row.report,
  }))
}

/** Keeps what a job has made; its file may be none. */
export async function keepPiece(job: string, number: number, file: Uint8Array | null, report: unknown): Promise<void> {
  const hash = file && (await putBlob(file))
  await change('INSERT IGNORE INTO job_pieces (job_id, number, hash, report) VALUES (?, ?, ?, ?)', [
    ...[job, number, hash, JSON.stringify(report)],
  ])
}

/** Forgets what a job made on its way, files and all. */
export async function dropPieces(job: string): Promise<void> {
  const pieces = await listPieces(job)
  await change('DELETE FROM job_pieces WHERE job_id = ?', [job])
  for (const { hash } of pieces) if (hash) await dropBlob(hash)
}
