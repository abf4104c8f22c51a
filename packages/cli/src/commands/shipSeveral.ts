import { join } from 'node:path'
import {
  Builder,
  hasErrors,
  MIX_FORMAT,
  namesClash,
  parcelName,
  parseJson,
  PICKS_FORMAT,
  problem,
  readMix,
  readPicks,
  readRecipe,
  shipParcel,
  USUAL_FOLDERS,
  type Parcel,
  type Problem,
  type Read,
  type ShipSettings,
  type Target,
} from '@idle-tinker/core'
import { readKitFolders, readShelf, readText } from '../files.ts'
import { findTarget } from '../findTarget.ts'
import { readClips } from '../readClips.ts'
import type { Voice } from '../Voice.ts'
import { authored, shipFigures, writeAll, type ShipOptions } from './shipFigures.ts'

async function readParcel(input: string): Promise<Read<Parcel>> {
  const text = await readText(input)
  if (text.value === null) return { value: null, problems: text.problems }
  const { value } = parseJson(text.value, input)
  const format = (value as { format?: unknown } | null)?.format
  if (format === MIX_FORMAT) {
    const { value: mix, problems } = readMix(text.value, input)
    return { value: mix && { kind: 'crowd', name: mix.name, mix, recipes: null }, problems }
  }
  if (format === PICKS_FORMAT) {
    const { value: picks, problems } = readPicks(text.value, input)
    return { value: picks && { kind: 'picks', picks }, problems }
  }
  const { value: recipe, problems } = readRecipe(text.value, input)
  return { value: recipe && { kind: 'figure', recipe }, problems }
}

/** Ships what documents hold: one figure format by format, all else as shipments do. */
export async function shipDocuments(inputs: readonly string[], options: ShipOptions, voice: Voice): Promise<number> {
  const alone = inputs.length === 1 && options.target.length === 1 && options.folders === undefined
  const { value } = alone ? await readParcel(inputs[0]!) : { value: null }
  if (alone && (!value || value.kind === 'figure')) return shipFigures(inputs[0]!, options, voice)
  return shipSeveral(inputs, options, voice)
}

/** Ships figures, crowds and packages of picks, each for every target, into folders: each whole or not at all. */
async function shipSeveral(inputs: readonly string[], options: ShipOptions, voice: Voice): Promise<number> {
  const { say, tell } = voice
  const parcels: Parcel[] = []
  const problems: Problem[] = []
  for (const input of inputs) {
    const read = await readParcel(input)
    problems.push(...read.problems)
    if (read.value) parcels.push(read.value)
  }
  const targets: Target[] = []
  for (const name of new Set(options.target)) {
    const target = await findTarget(name, options.kits)
    problems.push(...target.problems)
    if (target.value) targets.push(authored(target.value, options.author))
  }
  const { kits, problems: unread } = await readKitFolders(options.kits)
  const { clips: keyed, problems: odd } = await readClips(options.clips)
  problems.push(...unread, ...odd)
  if (hasErrors(problems)) return tell(problems)
  let code = tell(problems)
  const shelf = await readShelf()
  const builder = new Builder(kits, shelf)
  // what is of one document for one target lies beside each other
  const one = parcels.length === 1 && targets.length === 1
  const settings: ShipSettings = {
    ...{ formats: options.format, lods: options.lod, insist: options.insist, motions: [], keyed },
    ...{ pattern: options.name ?? '', folders: options.folders ?? (one ? '' : USUAL_FOLDERS) },
    date: new Date().toISOString().slice(0, 10),
    // it stands in the targets
    license: null,
  }
  const written = new Set<string>()
  for (const target of targets)
    for (const parcel of parcels) {
      const name = parcelName(parcel)
      const { files, problems: told } = await shipParcel(parcel, target, settings, {
        ...{ builder, kits, shelf, told: () => true },
      })
      code = Math.max(code, tell(told))
      if (!files) {
        code ||= 1
        continue
      }
      const clash = [...files.keys()].find((path) => written.has(join(options.out, path)))
      const faults = clash ? [namesClash(name, clash)] : await writeAll(options.out, files, written)
      if (faults.length) {
        code = Math.max(code, tell(faults))
        // where one place cannot be written no other can be relied on
        if (!clash) return code
        continue
      }
      const bytes = [...files.values()].reduce((sum, file) => sum + file.length, 0)
      say(`${name}, ${target.name}: ${files.size} files, ${Math.ceil(bytes / 1024)} KB`, {
        ...{ folder: options.out, kind: parcel.kind, name, target: target.id, files: [...files.keys()], bytes },
      })
    }
  if (written.size === 0) tell([problem('nothing-shipped', 'ship', 'Nothing could leave.', 'See above.')])
  return code
}
