import { receiveMessageOnPort } from 'node:worker_threads'
import { unzipSync, zipSync } from 'fflate'
import {
  Builder,
  namesClash,
  parcelName,
  problem,
  shipParcel,
  type Problem,
  type ShippedParcel,
} from '@idle-tinker/core'
import type { ThreadTask } from './inThread.ts'
import { readKitsOf } from './readKitsOf.ts'
import { piecesOf, readShipment, type ShipmentOrder, type ShipmentPiece } from './shipmentOrder.ts'
import { reportOf, type PieceReport, type ShipmentReport } from './shipmentReport.ts'

/** A piece that was made: kept, so that what is stopped in the middle goes on after it. */
export interface MadePiece {
  number: number
  /** Its files, as they lie in the shipment; null where it stayed. */
  zip: Uint8Array | null
  report: PieceReport
}

export interface ShipTask extends ThreadTask {
  /** Pieces that were made before it was stopped. */
  made: MadePiece[]
}

export interface ShipResult {
  /** Null where nothing of it could leave. */
  zip: Uint8Array | null
  report: ShipmentReport | null
  problems: Problem[]
}

/** The list of several pieces; nothing that ships has this name. */
const LIST = 'shipment.json'

/** The same files, the same bytes. */
const MADE = new Date('2026-01-01T00:00:00Z')

/** Ships every piece of an order into one zip. Runs in a worker thread; tells progress and pieces over the port, which may say stop. */
export async function shipShipment({ order, kits: kitFiles, prepared, port, made }: ShipTask): Promise<ShipResult> {
  try {
    // it may have been ordered before the workshop was updated
    const { value, problems } = readShipment(JSON.parse(order) as ShipmentOrder, 'job')
    if (!value) return { zip: null, report: null, problems }
    const { kits, shelf } = await readKitsOf(kitFiles, prepared)
    const builder = new Builder(kits, shelf)
    const pieces = piecesOf(value)
    const entries: Record<string, Uint8Array> = {}
    const reports: PieceReport[] = []
    let before = 0
    for (const [number, piece] of pieces.entries()) {
      const kept = made.find((m) => m.number === number)
      const told = (done: number) => {
        // it works without a pause: messages are looked for, not waited for
        if (receiveMessageOnPort(port)) return false
        port.postMessage(before + Math.min(done, piece.steps))
        return true
      }
      const shipped = kept ? null : await shipParcel(piece.parcel, piece.target, value, { builder, kits, shelf, told })
      if (shipped?.problems.some((p) => p.code === 'canceled'))
        return { zip: null, report: null, problems: shipped.problems }
      const clash = [...(shipped?.files?.keys() ?? [])].find((path) => Object.hasOwn(entries, path))
      const own = kept?.zip ? unzipSync(kept.zip) : clash ? {} : Object.fromEntries(shipped?.files ?? [])
      const report = kept?.report ?? reportPiece(piece, shipped!, clash)
      Object.assign(entries, own)
      reports.push(report)
      // of one that is all there is, nothing is left to go on with
      if (!kept && pieces.length > 1) {
        const zip = report.files ? zipSync(own, { level: 0, mtime: MADE }) : null
        port.postMessage({ number, zip, report } satisfies MadePiece)
      }
      before += piece.steps
    }
    if (Object.keys(entries).length === 0) return { zip: null, report: null, problems: stayedOf(reports) }
    // what is in one piece alone is said beside its files already
    if (pieces.length > 1) entries[LIST] = listOf(reports)
    const zip = zipSync(entries, { level: 6, mtime: MADE })
    return { zip, report: reportOf(reports, zip.length), problems: [] }
  } finally {
    port.close()
  }
}

function reportPiece({ parcel, target }: ShipmentPiece, shipped: ShippedParcel, clash?: string): PieceReport {
  const name = parcelName(parcel)
  const { figures, passed, problems, withheld } = shipped
  const about = { kind: parcel.kind, name, target: target.name }
  if (clash !== undefined)
    return {
      ...about,
      ...{ files: 0, bytes: 0, figures: [], passed: [], withheld: false },
      problems: [...problems, namesClash(name, clash)],
    }
  const files = [...(shipped.files?.values() ?? [])]
  const bytes = files.reduce((sum, f) => sum + f.length, 0)
  return { ...about, files: files.length, bytes, figures, passed, problems, withheld }
}

/** Why nothing left: what is wrong with each piece, and whether it goes if one insists. */
const stayedOf = (pieces: readonly PieceReport[]): Problem[] => [
  ...pieces.flatMap(({ name, target, problems }) =>
    pieces.length === 1 ? problems : problems.map((p) => ({ ...p, where: `${name}, ${target}: ${p.where}` })),
  ),
  ...(pieces.some((p) => p.withheld) ? [problem('withheld', 'job', 'It was kept back for that.', '', 'info')] : []),
]

/** What lies in a shipment of several pieces: which figures, for which target, in which files. */
function listOf(pieces: readonly PieceReport[]): Uint8Array {
  const list = pieces.map(({ kind, name, target, files, figures }) => ({ kind, name, target, files, figures }))
  return new TextEncoder().encode(`${JSON.stringify(list, null, 2)}\n`)
}
