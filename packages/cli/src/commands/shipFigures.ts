import { rm } from 'node:fs/promises'
import { join } from 'node:path'
import {
  Builder,
  fileName,
  hasErrors,
  readRecipe,
  shipCarried,
  shipObj,
  type Kits,
  type Problem,
  type Recipe,
  type Target,
} from '@idle-tinker/core'
import { readKitFolders, readShelf, readText, writeWhole } from '../files.ts'
import { findTarget } from '../findTarget.ts'
import type { Voice } from '../Voice.ts'

/** What a figure can leave as. */
export const FORMATS = ['glb', 'obj'] as const
export type Format = (typeof FORMATS)[number]

export interface ShipOptions {
  out: string
  target: string
  format: Format[]
  lod: boolean
  kits: string[]
}

type Made = { files: Map<string, Uint8Array> | null; problems: Problem[] }

/** Ships one figure in several formats into a folder: all of a format's files, or none. */
export async function shipFigures(input: string, options: ShipOptions, { say, tell }: Voice): Promise<number> {
  const text = await readText(input)
  if (text.value === null) return tell(text.problems)
  const recipe = readRecipe(text.value, input)
  const target = await findTarget(options.target, options.kits)
  if (!recipe.value || !target.value) return tell([...recipe.problems, ...target.problems])
  const { kits, problems } = await readKitFolders(options.kits)
  if (hasErrors(problems)) return tell(problems)
  const builder = new Builder(kits, await readShelf())
  let code = tell(problems)
  for (const format of new Set(options.format)) {
    const made = await make(format, builder, kits, recipe.value, target.value, options.lod)
    code = Math.max(code, tell(made.problems))
    if (!made.files || hasErrors(made.problems)) {
      code ||= 1
      continue
    }
    const unwritten = await writeAll(options.out, made.files)
    if (unwritten.length) return tell(unwritten)
    const bytes = [...made.files.values()].reduce((sum, file) => sum + file.length, 0)
    const names = [...made.files.keys()]
    say(`${options.out}: ${names.join(', ')}, ${Math.ceil(bytes / 1024)} KB`, {
      ...{ folder: options.out, format, files: names, bytes },
    })
  }
  return code
}

async function make(
  format: Format,
  builder: Builder,
  kits: Kits,
  recipe: Recipe,
  target: Target,
  lods: boolean,
): Promise<Made> {
  const stem = fileName('{name}', { name: recipe.name, number: 1, target: target.id })
  if (format === 'obj') return shipObj(builder, kits, recipe, target, { lods, stem })
  const { bytes, problems } = await shipCarried(builder, kits, recipe, target, [], { lods, own: true, keyed: [] })
  return { files: bytes && new Map([[`${stem}.glb`, bytes]]), problems }
}

/** Writes files that belong together; where one cannot be written none is left behind. */
async function writeAll(folder: string, files: ReadonlyMap<string, Uint8Array>): Promise<Problem[]> {
  const written: string[] = []
  for (const [name, bytes] of files) {
    const path = join(folder, name)
    const problems = await writeWhole(path, bytes)
    if (problems.length) {
      for (const other of written) await rm(other, { force: true })
      return problems
    }
    written.push(path)
  }
  return []
}
