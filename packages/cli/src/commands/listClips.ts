import { Builder, clipsOf, judgeClip } from '@idle-tinker/core'
import { readShelf } from '../files.ts'
import { readFigure, type FigureOptions } from '../readFigure.ts'
import type { Voice } from '../Voice.ts'
import { numbersOf } from './retarget.ts'

/** Lists the clips a figure can play, as they are fitted to it, with what is measured of each there. */
export async function listClips(input: string, options: FigureOptions, { say, tell }: Voice): Promise<number> {
  const { value, problems } = await readFigure(input, options)
  let code = tell(problems)
  if (!value || code !== 0) return code || 1
  const { recipe, target, kits } = value
  const { figure, problems: faults } = new Builder(kits, await readShelf()).build(recipe, target)
  code = tell(faults.filter((p) => p.severity === 'error'))
  if (!figure) return code || 1
  const { plan } = kits.get(recipe.body.kit)!.bodies.get(recipe.body.id)!
  for (const clip of clipsOf(figure, kits, recipe)) {
    const numbers = judgeClip(figure.mesh, figure.skeleton, clip, plan)
    const { id, name, duration: seconds, loop, travel } = clip
    say(`${id}: “${name}”, ${numbersOf(clip, numbers)}`, { id, name, seconds, loop, travel, numbers })
  }
  return code
}
