import {
  arranged,
  bodyPieces,
  figureKit,
  packKit,
  sortPack,
  surelyWorn,
  THE_BODY,
  UNSURE,
  wholeFigures,
} from '@idle-tinker/core'
import type { Voice } from '../Voice.ts'
import { kitInTheWay, openPack, percent, writeKit, type PackOptions } from './sortPack.ts'

export interface SplitOptions extends PackOptions {
  out?: string
  id: string
  name?: string
  /** Take apart every piece, not only those that look like whole figures. */
  all: boolean
  /** Make parts for the body that is named, even where the figure brings a skeleton. */
  parts: boolean
}

/**
 * Takes a dressed figure apart and makes a kit of it: with a skeleton a body and parts that share it, without one parts
 * for a body that is here.
 */
export async function splitFigure(input: string, options: SplitOptions, voice: Voice): Promise<number> {
  const inTheWay = await kitInTheWay(options.out)
  if (inTheWay.length) return voice.tell(inTheWay)
  const open = await openPack(input, options, voice)
  if (!open) return 1
  const { kits, knowledge, placing } = open
  const whole = options.all
    ? new Set(open.pack.pieces.map((p) => p.id))
    : wholeFigures(open.pack, placing, knowledge.space.height)
  const pack = arranged(open.pack, { apart: whole }, placing)
  const skinned = !options.parts && pack.pieces.some((p) => p.skin)
  const sorted = sortPack(pack, placing, knowledge)
  const sure = surelyWorn(sorted)
  const body = skinned ? bodyPieces(pack, sure) : new Set<string>()
  sorted.forEach(({ piece, guesses }, i) => {
    const [best, ...others] = guesses.slice(0, 3)
    const { names, bitOf } = pack.pieces[i]!
    const slot = body.has(piece) ? 'the body' : `${best!.slot} (${percent(best!.confidence)})`
    const doubt = !body.has(piece) && best!.confidence < UNSURE ? ` ? or ${others.map((g) => g.slot).join(', ')}` : ''
    voice.say(`${piece}: ${slot}${doubt}${bitOf ? `\n  ${bitOf.why}` : ''}`, {
      piece,
      names,
      ...(body.has(piece) ? { slot: THE_BODY, confidence: 1 } : best!),
      others,
      ...(bitOf && { from: bitOf.piece, why: bitOf.why }),
    })
  })
  if (options.out === undefined) return 0
  const order = {
    id: options.id,
    name: options.name ?? options.id,
    slots: new Map(sorted.map(({ piece, guesses }) => [piece, body.has(piece) ? THE_BODY : guesses[0]!.slot])),
    sure,
    ...(options.pictures !== undefined && { pictures: options.pictures }),
  }
  const made = await (skinned ? figureKit : packKit)(pack, placing, knowledge, kits, order)
  const code = voice.tell(made.problems)
  if (!made.value) return code
  return voice.tell(await writeKit(made.value, options.out))
}
