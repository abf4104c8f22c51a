import { Matrix4 } from 'three'
import { boundsOf } from '../mesh/Mesh.ts'
import type { Finding } from './health.ts'
import type { Pack } from './Pack.ts'
import { moved, type Placing } from './placePack.ts'
import {
  extentOf,
  namedSlot,
  nearestExample,
  sortPiece,
  UNSURE,
  type SlotGuess,
  type SlotKnowledge,
} from './sortPieces.ts'

export interface SortedPiece {
  /** Its id. */
  piece: string
  /** The best first; at least one where the body has slots. */
  guesses: SlotGuess[]
  /** What is odd about how it lies, if it is what it is taken for. */
  odd: Finding[]
}

/** Where each piece of a pack may go, in their order. */
export function sortPack(pack: Pack, { toBody }: Placing, knowledge: SlotKnowledge): SortedPiece[] {
  const matrix = new Matrix4().fromArray(toBody)
  return pack.pieces.map(({ id, positions, triangles, names }) => {
    const soup = { positions: moved(positions, matrix), triangles }
    const guesses = sortPiece(knowledge, soup, names)
    return { piece: id, guesses, odd: oddIn(knowledge, id, soup, slotMeant(knowledge, guesses, names)) }
  })
}

/** What a piece surely is by its shape; else what it is called after. */
function slotMeant(knowledge: SlotKnowledge, [best]: readonly SlotGuess[], names: readonly string[]): string | null {
  if (best && best.confidence >= UNSURE) return best.slot
  return namedSlot(knowledge, names)
}

/** So many times as large or as small as the part that it lies most like is odd. */
const SIZES = 3
/** As far from where that part is, as a share of the body's height, is odd. */
const FAR = 0.35

function oddIn(
  knowledge: SlotKnowledge,
  piece: string,
  soup: { positions: Float32Array; triangles: Uint32Array },
  slot: string | null,
): Finding[] {
  const like = slot === null ? null : nearestExample(knowledge, soup, slot)
  if (!like) return []
  const { min, max } = boundsOf(knowledge.space.body.mesh.positions)
  const { size, middle } = extentOf(soup.positions)
  const times = size / like.size
  const far = Math.hypot(...middle.map((v, k) => v - like.middle[k]!))
  const tell = (code: string, message: string, remedy: string): Finding => ({
    ...{ code, severity: 'warning', where: piece, message: `${message}.`, remedy, count: 1, triangles: [] },
  })
  const found: Finding[] = []
  if (times > SIZES || times < 1 / SIZES) {
    const said = times > 1 ? `${Math.round(times)} times larger` : `${Math.round(1 / times)} times smaller`
    found.push(
      tell('scale-odd', `It is ${said} than what is worn there otherwise`, 'Look at its unit, or choose another slot.'),
    )
  }
  if (far > FAR * (max[1] - min[1]))
    found.push(
      tell(
        'far-off',
        `It lies ${far.toFixed(2)} m from where that is worn`,
        'Move it where it was made, or choose another slot.',
      ),
    )
  return found
}
