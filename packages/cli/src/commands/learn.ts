import {
  Builder,
  learnTarget,
  newRecipe,
  problem,
  type Kit,
  type Learned,
  type Problem,
  type Read,
  type Target,
} from '@idle-tinker/core'
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
  const learned = await learnAs(kits, bytes.value, file, { ...base.value, id, name: stem }, known.value)
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

/** Tries the file on a body of each kind of skeleton there is, the first that it is like is taken. */
async function learnAs(
  kits: ReadonlyMap<string, Kit>,
  bytes: Uint8Array,
  file: string,
  base: Target,
  match: Learned['match'] | null,
): Promise<Read<Learned>> {
  const builder = new Builder(new Map(kits), await readShelf())
  const tried = new Set<string>()
  let first: Problem[] | null = null
  for (const kit of kits.values())
    for (const [id, { plan }] of kit.bodies) {
      if (tried.has(plan.id) || (match && match.plan !== plan.id)) continue
      tried.add(plan.id)
      const { figure } = builder.build(newRecipe(kit, id, 'Body'), { ...base, detail: 'full' })
      if (!figure) continue
      const options = { ...(match && { match }), beside: (uri: string) => besideOf(file, uri) }
      const read = await learnTarget(bytes, file, { skeleton: figure.skeleton, plan }, base, options)
      if (read.value) return read
      first ??= read.problems
    }
  const none = problem('body-none', file, 'The kits have no body it could be learned for.', 'Add a kit with bodies.')
  return { value: null, problems: first ?? [none] }
}
