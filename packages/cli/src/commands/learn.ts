import { Builder, learnFor } from '@idle-tinker/core'
import { besideOf, readBytes, readKitFolders, readShelf, writeWhole } from '../files.ts'
import { findTarget } from '../findTarget.ts'
import { knownMatch } from '../knownMatch.ts'
import type { Voice } from '../Voice.ts'

export interface LearnOptions {
  out: string
  target: string
  kits: string[]
  match?: string
  id?: string
  name?: string
}

/** Learns names, hierarchy, rest, unit and axes of a game's skeleton from a file of it, and writes them as a target. */
export async function learn(file: string, options: LearnOptions, { say, tell }: Voice): Promise<number> {
  const bytes = await readBytes(file)
  const base = await findTarget(options.target, options.kits)
  const { kits, problems } = await readKitFolders(options.kits)
  const known = await knownMatch(options.match)
  const code = tell([...bytes.problems, ...base.problems, ...problems, ...known.problems])
  if (code !== 0 || !bytes.value || !base.value) return code || 1
  const stem = (options.name ?? file.replace(/^.*[/\\]/, '').replace(/\.[^.]*$/, '')).slice(0, 80) || 'Game'
  const id = options.id ?? idOf(stem)
  const builder = new Builder(kits, await readShelf())
  const learned = await learnFor(
    builder,
    kits,
    bytes.value,
    file,
    { ...base.value, id, name: stem },
    {
      ...(known.value && { match: known.value }),
      beside: (uri) => besideOf(file, uri),
    },
  )
  if (!learned.value) return tell(learned.problems)
  const { target, match, doubtful, left } = learned.value
  const written = tell([
    ...learned.problems,
    ...(await writeWhole(options.out, `${JSON.stringify(target, null, 2)}\n`)),
  ])
  if (written !== 0) return written
  const { convention } = target
  const bones = Object.keys(match.bones).length
  const words = `${bones} bones matched, ${convention.bones.joints!.length} joints; a unit is ${convention.unit} m, ${convention.up} up, facing ${convention.front}.`
  say(`${options.out}: ${words}`, { file: options.out, bones: match.bones, joints: convention.bones.joints!.length, unit: convention.unit, up: convention.up, front: convention.front, doubtful, left }) // prettier-ignore
  for (const { bone, why } of doubtful) say(`  ${bone}: ${why}`, { bone, why })
  if (left.length) say(`  Left out, as nothing of ours is there: ${left.slice(0, 12).join(', ')}${left.length > 12 ? ` and ${left.length - 12} more` : ''}.`, { left }) // prettier-ignore
  if (options.match === undefined || known.value) return 0
  return tell(await writeWhole(options.match, `${JSON.stringify(match, null, 2)}\n`))
}

/** An id of a target, from a name. */
function idOf(name: string): string {
  const id = name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 60)
  return id || 'game'
}
