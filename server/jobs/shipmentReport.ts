import type { Parcel, Problem, ShippedFigure } from '@idle-tinker/core'

/** What a piece of a shipment came to. */
export interface PieceReport {
  kind: Parcel['kind']
  name: string
  target: string
  /** Its files; none of one that stayed. */
  files: number
  bytes: number
  figures: ShippedFigure[]
  passed: string[]
  problems: Problem[]
  /** It could be written, and was kept back for what is wrong with it. */
  withheld: boolean
}

/** What a shipment came to. */
export interface ShipmentReport {
  files: number
  bytes: number
  /** How many pieces stayed. */
  stayed: number
  /** How many left without a format that was asked for; not said of those of before. */
  partly?: number
  pieces: PieceReport[]
}

/** The pieces of a shipment added up. */
export const reportOf = (pieces: PieceReport[], bytes: number): ShipmentReport => ({
  files: pieces.reduce((sum, p) => sum + p.files, 0),
  bytes,
  stayed: pieces.filter((p) => p.files === 0).length,
  partly: pieces.filter((p) => p.files > 0 && p.problems.some((q) => q.severity === 'error')).length,
  pieces,
})
