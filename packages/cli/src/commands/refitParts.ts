import { hasErrors, refitKit, refOf } from '@idle-tinker/core'
import { readKitFolders } from '../files.ts'
import type { Voice } from '../Voice.ts'
import { kitInTheWay, percent, writeKit } from './sortPack.ts'

export interface RefitOptions {
  from: string
  to: string
  out?: string
  id: string
  name?: string
  kits: string[]
}

/** Carries parts made for one body over to another, tells how each went, and makes a kit of them. */
export async function refitParts(parts: readonly string[], options: RefitOptions, voice: Voice): Promise<number> {
  const inTheWay = await kitInTheWay(options.out)
  if (inTheWay.length) return voice.tell(inTheWay)
  const { kits, problems } = await readKitFolders(options.kits)
  if (hasErrors(problems)) return voice.tell(problems)
  const [from, to] = [refOf(options.from, ''), refOf(options.to, '')]
  const { value, problems: told } = await refitKit(kits, {
    id: options.id,
    name: options.name ?? options.id,
    // a part alone is one of the kit of the body that it is made for
    parts: parts.map((part) => refOf(part, from.kit)),
    ...{ from, to },
  })
  const code = voice.tell(told)
  if (!value) return 1
  const mm = (metres: number) => `${Math.round(metres * 1000)} mm`
  for (const { part, report, points, end } of value.parts) {
    const doubt = report.doubtful.length / points
    const lines = [
      `${part.kit}/${part.id}: went ${mm(report.moved.mean)}, ${mm(report.moved.most)} at most; ${percent(doubt)} of it is doubtful, ${percent(report.within)} lies in the body.`,
      ...(end && end.within > 0
        ? [
            `  At its worst, “${end.slider}” at its ${end.end === 'up' ? 'upper' : 'lower'} end, ${percent(end.within)} more.`,
          ]
        : []),
    ]
    const { moved, within } = report
    voice.say(lines.join('\n'), { part: `${part.kit}/${part.id}`, moved, doubtful: doubt, within, worst: end })
  }
  if (options.out === undefined) return code
  return voice.tell(await writeKit(value.files, options.out))
}
