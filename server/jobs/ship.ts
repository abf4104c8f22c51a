import { getBlob } from '../db/blobs.ts'
import { inThread } from './inThread.ts'
import type { JobHandler } from './JobHandler.ts'
import type { MadePiece, ShipResult } from './shipTask.ts'

/** Ships what an order asks for into one zip, in a thread; pieces that are made are kept as they come. */
export const ship: JobHandler = async (order, total, tools) => {
  const made: MadePiece[] = []
  for (const { number, hash, report } of await tools.pieces.list()) {
    const zip = hash === null ? null : await getBlob(hash)
    // one whose files are gone is made again
    if (hash === null || zip) made.push({ number, zip, report: report as MadePiece['report'] })
  }
  const keeping: Promise<void>[] = []
  const end = await inThread<ShipResult, MadePiece>('shipShipment', order, total, tools, {
    with: { made },
    onPart: ({ number, zip, report }) => void keeping.push(tools.pieces.keep(number, zip, report)),
  })
  await Promise.all(keeping)
  if (!end) return { problems: [] }
  return end.zip ? { result: end.report, file: end.zip } : { problems: end.problems }
}
