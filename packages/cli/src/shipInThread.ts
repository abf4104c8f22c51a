import { workerData } from 'node:worker_threads'
import type { Kits } from '@idle-tinker/core'
import { openShipper } from './shipOne.ts'

/** What a thread of a crowd runs, with the kits it was opened with. */
export const shipInThread = await openShipper(workerData as Kits)
