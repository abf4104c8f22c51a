import { Builder, clipsOf, hasErrors, judgeClip, readRecipe } from '@idle-tinker/core'
import { readKitFolders, readShelf, readText } from '../files.ts'
import { findTarget } from '../findTarget.ts'
import type { Voice } from '../Voice.ts'
import { numbersOf } from './retarget.ts'

export interface ClipsOptions {
  target: string
  kits: string[]
}

/** Lists the clips a figure can play, as they are fitted to it, with what is measured of each there. */
export async function listClips(input: string, options: ClipsOptions, { say, tell }: Voice): Promise<number> {
  const text = await readText(input)
  if (text.value === null) return tell(text.problems)
  const recipe = readRecipe(text.value, input)
  const target = await findTarget(options.target, options.kits)
  if (!recipe.value || !target.value) return tell([...recipe.problems, ...target.problems])
  const { kits, problems } = await readKitFolders(options.kits)
  if (hasErrors(problems)) return tell(problems)
  const { figure, problems: faults } = new Builder(kits, await readShelf()).build(recipe.value, target.value)
  const code = tell([...problems, ...faults.filter((p) => p.severity === 'error')])
  if (!figure) return code || 1
  for (const clip of clipsOf(figure, kits, recipe.value)) {
    const numbers = judgeClip(figure.mesh, figure.skeleton, clip)
    const { id, name, duration: seconds, loop, travel } = clip
    say(`${id}: “${name}”, ${numbersOf(clip, numbers)}`, { id, name, seconds, loop, travel, numbers })
  }
  return code
}
