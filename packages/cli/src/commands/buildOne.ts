import { Builder, hasErrors, readRecipe, shipCarried } from '@idle-tinker/core'
import { readKitFolders, readShelf, readText, writeWhole } from '../files.ts'
import { findTarget } from '../findTarget.ts'
import { readClips } from '../readClips.ts'
import type { Voice } from '../Voice.ts'

export interface BuildOptions {
  out: string
  target: string
  lod: boolean
  kits: string[]
  /** Files of clips made of keys that go along. */
  clips?: string[]
}

/** Builds one figure within its target; nothing is written unless it is sound. */
export async function buildOne(input: string, options: BuildOptions, { say, tell }: Voice): Promise<number> {
  const text = await readText(input)
  if (text.value === null) return tell(text.problems)
  const recipe = readRecipe(text.value, input)
  const target = await findTarget(options.target, options.kits)
  if (!recipe.value || !target.value) return tell([...recipe.problems, ...target.problems])
  const { kits, problems } = await readKitFolders(options.kits)
  const { clips: keyed, problems: unread } = await readClips(options.clips)
  problems.push(...unread)
  if (hasErrors(problems)) return tell(problems)
  const builder = new Builder(kits, await readShelf())
  const shipped = await shipCarried(builder, kits, recipe.value, target.value, [], {
    lods: options.lod,
    own: true,
    keyed,
  })
  const code = tell([...problems, ...shipped.problems])
  if (!shipped.bytes || code !== 0) return code || 1
  const written = tell(await writeWhole(options.out, shipped.bytes))
  if (written !== 0) return written
  const { costs } = shipped.figure!
  say(`${options.out}: ${costs.triangles} triangles, ${costs.bones} bones, ${Math.ceil(costs.fileBytes / 1024)} KB`, {
    file: options.out,
    costs,
  })
  return 0
}
