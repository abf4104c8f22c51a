import { readFile } from 'node:fs/promises'
import {
  checkFile,
  MIX_FORMAT,
  parseJson,
  problem,
  readKit,
  readMix,
  readRecipe,
  readTarget,
  resolveRecipe,
  selectCrowd,
  TARGET_FORMAT,
} from '@idle-tinker/core'
import { findTarget } from '../findTarget.ts'
import { besideOf, infoOf, readFolder, readKitFolders, readText } from '../files.ts'
import type { Voice } from '../Voice.ts'

export interface CheckOptions {
  target?: string
  kits: string[]
}

/** Says whether something is sound, whatever of ours it is. */
export async function check(input: string, options: CheckOptions, voice: Voice): Promise<number> {
  const info = await infoOf(input)
  if (!info) return voice.tell([problem('file-missing', input, 'There is no such file or folder.', 'Check its name.')])
  if (info.isDirectory()) return checkKit(input, voice)
  if (!info.isFile()) return voice.tell([problem('file-odd', input, 'This is no ordinary file.', 'Name a file.')])
  if (input.endsWith('.json')) return checkDocument(input, options, voice)
  const target = options.target === undefined ? null : await findTarget(options.target, options.kits)
  if (target && !target.value) return voice.tell(target.problems)
  const bytes = new Uint8Array(await readFile(input))
  const checked = await checkFile(bytes, input, target?.value, (uri) => besideOf(input, uri))
  const code = voice.tell(checked.problems)
  for (const line of checked.passed) voice.say(line, { ok: line })
  return code
}

async function checkKit(folder: string, { say, tell }: Voice): Promise<number> {
  const { value, problems } = await readKit(await readFolder(folder))
  const code = tell(problems)
  if (value && code === 0) {
    const line = `${value.manifest.name}: ${value.bodies.size} bodies, ${value.parts.size} parts, all readable.`
    say(line, { ok: line })
  }
  return code
}

async function checkDocument(input: string, options: CheckOptions, { say, tell }: Voice): Promise<number> {
  const text = await readText(input)
  if (text.value === null) return tell(text.problems)
  const good = (line: string) => (say(line, { ok: line }), 0)
  const head = parseJson(text.value, input).value as { format?: unknown } | null
  if (head?.format === TARGET_FORMAT) {
    const { value, problems } = readTarget(text.value, input)
    return value ? good(`${value.name}: a target that can be used.`) : tell(problems)
  }
  const { kits, problems } = await readKitFolders(options.kits)
  if (head?.format === MIX_FORMAT) {
    const mix = readMix(text.value, input)
    if (!mix.value) return tell(mix.problems)
    const crowd = selectCrowd(mix.value, kits)
    const code = tell([...problems, ...crowd.problems])
    return code || good(`${mix.value.name}: ${crowd.variants.length} variants can be made.`)
  }
  const recipe = readRecipe(text.value, input)
  if (!recipe.value) return tell(recipe.problems)
  const resolved = resolveRecipe(recipe.value, kits)
  const code = tell([...problems, ...resolved.problems])
  return code || good(`${recipe.value.name}: ${resolved.value!.parts.length} parts, all found.`)
}
