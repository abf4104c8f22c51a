import { rm } from 'node:fs/promises'
import { join } from 'node:path'
import {
  Builder,
  clipsAlong,
  fileName,
  filePattern,
  hasErrors,
  patternFaults,
  readRecipe,
  SHIP_FORMATS,
  shipFormats,
  type Problem,
  type ShipFormat,
  type Target,
} from '@idle-tinker/core'
import { readKitFolders, readShelf, readText, writeWhole } from '../files.ts'
import { findTarget } from '../findTarget.ts'
import { readClips } from '../readClips.ts'
import type { Voice } from '../Voice.ts'

/** What a figure can leave as. */
export const FORMATS = Object.keys(SHIP_FORMATS) as ShipFormat[]

export interface ShipOptions {
  out: string
  target: string[]
  /** Folders of what is shipped; see `folderPath`. */
  folders?: string
  format: ShipFormat[]
  lod: boolean
  kits: string[]
  /** What files are called; as the target says if not said. */
  name?: string
  author?: string[]
  /** Files of clips made of keys that go along. */
  clips?: string[]
  insist: boolean
}

/** Ships one figure in several formats into a folder: all of a format's files, or none. */
export async function shipFigures(input: string, options: ShipOptions, { say, tell }: Voice): Promise<number> {
  const text = await readText(input)
  if (text.value === null) return tell(text.problems)
  const recipe = readRecipe(text.value, input)
  const target = await findTarget(options.target[0]!, options.kits)
  if (!recipe.value || !target.value) return tell([...recipe.problems, ...target.problems])
  const pattern = options.name ?? filePattern(target.value)
  const unknown = patternFaults(pattern, '--name')
  if (unknown.length) return tell(unknown)
  const { kits, problems } = await readKitFolders(options.kits)
  const { clips: keyed, problems: unread } = await readClips(options.clips)
  problems.push(...unread)
  if (hasErrors(problems)) return tell(problems)
  const builder = new Builder(kits, await readShelf())
  let code = tell(problems)
  /** Formats share their picture: what one has written another does not take away. */
  const done = new Set<string>()
  const wanted = authored(target.value, options.author)
  const date = new Date().toISOString().slice(0, 10)
  const stem = fileName(pattern, { name: recipe.value.name, target: wanted.id, date })
  const { lod: lods } = options
  const { clips, problems: astray } = clipsAlong(kits, recipe.value, { motions: [], keyed, own: true })
  for (const { format, files, problems } of await shipFormats(builder, kits, recipe.value, wanted, options.format, {
    lods,
    stem,
    clips,
  })) {
    // what the clips came to
    code = Math.max(code, tell([...astray.splice(0), ...problems]))
    if (!files || (hasErrors(problems) && !options.insist)) {
      code ||= 1
      continue
    }
    const unwritten = await writeAll(options.out, files, done)
    if (unwritten.length) return tell(unwritten)
    const bytes = [...files.values()].reduce((sum, file) => sum + file.length, 0)
    const names = [...files.keys()]
    say(`${options.out}: ${names.join(', ')}, ${Math.ceil(bytes / 1024)} KB`, {
      ...{ folder: options.out, format, files: names, bytes },
    })
  }
  return code
}

/** A target with who made what ships, where that is said; what else its license says stays. */
export const authored = (target: Target, authors: readonly string[] | undefined): Target =>
  authors ? { ...target, license: { ...target.license, authors: [...authors] } } : target

/**
 * Writes files that belong together; where one cannot be written none is left behind.
 *
 * @param done what was written before and stays; what is written is added
 */
export async function writeAll(
  folder: string,
  files: ReadonlyMap<string, Uint8Array>,
  done: Set<string>,
): Promise<Problem[]> {
  const written: string[] = []
  for (const [name, bytes] of files) {
    const path = join(folder, name)
    const problems = await writeWhole(path, bytes)
    if (problems.length) {
      for (const other of written) await rm(other, { force: true })
      return problems
    }
    if (!done.has(path)) written.push(path)
  }
  for (const path of written) done.add(path)
  return []
}
