import { Builder, clipsOf, judgeClip, keysOfClip, keysOnto, problem, type Clip, type Problem } from '@idle-tinker/core'
import { readShelf, writeWhole } from '../files.ts'
import { readClips } from '../readClips.ts'
import { readFigure, type FigureOptions } from '../readFigure.ts'
import type { Voice } from '../Voice.ts'
import { numbersOf } from './retarget.ts'

export interface ClipsOptions extends FigureOptions {
  /** Files of clips made of keys. */
  clips?: string[]
  /** A clip that is written as keys, to be changed. */
  copy?: string
  out?: string
}

/** Lists the clips a figure can play, as they are fitted to it, with what is measured of each there; or writes one as keys. */
export async function listClips(input: string, options: ClipsOptions, { say, tell }: Voice): Promise<number> {
  const { value, problems } = await readFigure(input, options)
  const made = await readClips(options.clips)
  let code = tell([...problems, ...made.problems])
  if (!value || code !== 0) return code || 1
  const { recipe, target, kits } = value
  const { figure, problems: faults } = new Builder(kits, await readShelf()).build(recipe, target)
  code = tell(faults.filter((p) => p.severity === 'error'))
  if (!figure) return code || 1
  const body = kits.get(recipe.body.kit)!.bodies.get(recipe.body.id)!
  const told: Problem[] = []
  const own = made.clips.flatMap((kept): Clip[] => {
    const read = keysOnto(kept, figure.skeleton, body)
    told.push(...read.problems)
    return read.value ? [read.value] : []
  })
  code = Math.max(code, tell(told))
  const clips = [...clipsOf(figure, kits, recipe), ...own]
  const { copy, out } = options
  if (copy !== undefined || out !== undefined) return Math.max(code, await write())
  for (const clip of clips) {
    const numbers = judgeClip(figure.mesh, figure.skeleton, clip, body.plan)
    const { id, name, duration: seconds, loop, travel } = clip
    say(`${id}: “${name}”, ${numbersOf(clip, numbers)}`, { id, name, seconds, loop, travel, numbers })
  }
  return code

  async function write(): Promise<number> {
    if (copy === undefined || out === undefined)
      return tell([
        problem('copy-half', copy ?? out!, 'A clip is written as keys by both --copy and --out.', 'Name both.'),
      ])
    const clip = clips.find((c) => c.id === copy)
    if (!clip)
      return tell([
        problem(
          'clip-unknown',
          copy,
          `There is no clip “${copy}”.`,
          `There are: ${clips.map((c) => c.id).join(', ')}.`,
        ),
      ])
    const kept = keysOfClip(clip, figure!.skeleton, { name: clip.name, plan: body.plan.id })
    const written = tell(await writeWhole(out, `${JSON.stringify(kept)}\n`))
    if (written === 0)
      say(`${out}: “${kept.name}”, ${kept.poses.length} poses in ${kept.duration} s`, {
        ...{ file: out, name: kept.name, poses: kept.poses.length, seconds: kept.duration },
      })
    return written
  }
}
