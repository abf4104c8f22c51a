import type { Piscina } from 'piscina'
import type { Problem } from '@idle-tinker/core'
import type { JobPieceRow } from '../db/jobPieces.ts'

/** What a job comes to: a result with its file, or what stood in the way. */
export type JobEnd = { result: unknown; file: Uint8Array } | { problems: readonly Problem[] }

/** How one kind of job is worked off. It reads its own input, JSON text that may be of an older workshop, in a thread. */
export type JobHandler = (
  input: string,
  total: number,
  tools: {
    threads: Piscina
    progress: (done: number, total: number) => void
    /** Aborted when the job is canceled or the workshop stops: the work ends as soon as it can. */
    signal: AbortSignal
    /** What is made on the way and need not be made again, should it be stopped in the middle. */
    pieces: {
      list: () => Promise<JobPieceRow[]>
      /** One that cannot be kept is no loss: it is made again then. */
      keep: (number: number, file: Uint8Array | null, report: unknown) => Promise<void>
    }
  },
) => Promise<JobEnd>
