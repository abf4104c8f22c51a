import { inThread } from './inThread.ts'
import type { JobHandler } from './JobHandler.ts'
import type { ShipCrowdResult } from './worker.ts'

/** Ships the figures of an order into one zip, in a thread. */
export const shipCrowd: JobHandler = async (order, total, tools) => {
  const end = await inThread<ShipCrowdResult>('default', order, total, tools)
  if (!end) return { problems: [] }
  return end.zip ? { result: end.report, file: end.zip } : { problems: end.problems }
}
