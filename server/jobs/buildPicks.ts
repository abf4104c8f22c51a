import { inThread } from './inThread.ts'
import type { JobHandler } from './JobHandler.ts'
import type { BuildPicksResult } from './buildPicksTask.ts'

/** Builds what players may choose into a package, in a thread: a zip. */
export const buildPicks: JobHandler = async (order, total, tools) => {
  const end = await inThread<BuildPicksResult>('buildPicks', order, total, tools)
  if (!end) return { problems: [] }
  return end.zip ? { result: end.report, file: end.zip } : { problems: end.problems }
}
