import { boundsOf } from '../mesh/Mesh.ts'
import type { PackPiece } from './Pack.ts'

/** Copies reach as far as the finest each way, within this share of its size. */
const SAME = 0.2
/** How levels of detail are called: “hat_LOD1”. Longer names than this are none, and would take long to look through. */
const LONGEST = 200
const LEVEL = /^(.*?)[\s._-]*lod[\s._-]*(\d+)$/i

type Box = ReturnType<typeof boundsOf>

/**
 * The coarser ones of pieces that come in several levels of detail, each with the finest of its kind: packs bring them for
 * games that have no others, and here every figure is reduced by itself. They are known by name, and by lying in one place.
 */
export function coarserCopies(pieces: readonly PackPiece[]): Map<PackPiece, PackPiece> {
  const kinds = new Map<string, { piece: PackPiece; level: number; box: Box }[]>()
  for (const piece of pieces)
    for (const name of piece.names.filter((n) => n.length <= LONGEST)) {
      const [, base, level] = LEVEL.exec(name) ?? []
      if (base === undefined) continue
      const kind = kinds.get(base.toLowerCase()) ?? []
      if (kind.some((k) => k.piece === piece)) continue
      kinds.set(base.toLowerCase(), kind)
      kind.push({ piece, level: Number(level), box: boundsOf(piece.positions) })
    }
  const coarser = new Map<PackPiece, PackPiece>()
  for (const kind of kinds.values()) {
    kind.sort((a, b) => a.level - b.level)
    // several may be of the finest level, as the left and the right one of a pair
    const finest = kind.filter((k) => k.level === kind[0]!.level)
    for (const { piece, level, box } of kind) {
      if (level === kind[0]!.level) continue
      const of = finest.find((f) => inOnePlace(f.box, box))
      if (of && !coarser.has(of.piece)) coarser.set(piece, of.piece)
    }
  }
  return coarser
}

/** Whether two pieces reach as far each way, as a share of the first one's size. */
function inOnePlace(a: Box, b: Box): boolean {
  const far = SAME * Math.hypot(...a.max.map((v, k) => v - a.min[k]!))
  return [0, 1, 2].every((k) => Math.abs(a.min[k]! - b.min[k]!) < far && Math.abs(a.max[k]! - b.max[k]!) < far)
}
