import { Matrix4 } from 'three'
import type { Pack } from './Pack.ts'
import { moved, type Placing } from './placePack.ts'
import { sortPiece, type SlotGuess, type SlotKnowledge } from './sortPieces.ts'

export interface SortedPiece {
  /** Its id. */
  piece: string
  /** The best first; at least one where the body has slots. */
  guesses: SlotGuess[]
}

/** Where each piece of a pack may go, in their order. */
export function sortPack(pack: Pack, { toBody }: Placing, knowledge: SlotKnowledge): SortedPiece[] {
  const matrix = new Matrix4().fromArray(toBody)
  return pack.pieces.map(({ id, positions, triangles, names }) => ({
    piece: id,
    guesses: sortPiece(knowledge, { positions: moved(positions, matrix), triangles }, names),
  }))
}
