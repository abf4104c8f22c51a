import { basename, join } from 'node:path'
import { Builder, fileNames, judgeClip, readMotion, shipCarried, type Clip, type ClipNumbers } from '@idle-tinker/core'
import { besideOf, makeFolder, readBytes, readShelf, writeWhole } from '../files.ts'
import { knownMatch } from '../knownMatch.ts'
import { readFigure, type FigureOptions } from '../readFigure.ts'
import type { Voice } from '../Voice.ts'
import { percent } from './sortPack.ts'

export interface RetargetOptions extends FigureOptions {
  onto: string
  out: string
  match?: string
  loop?: true
  once?: true
  from?: number
  to?: number
}

/** Carries the motions of each file onto one figure; a file that cannot be carried costs only itself. */
export async function retarget(files: readonly string[], options: RetargetOptions, voice: Voice): Promise<number> {
  const { value: given, problems } = await readFigure(options.onto, options)
  let code = voice.tell(problems)
  if (!given || code !== 0) return code || 1
  const known = await knownMatch(options.match)
  code = voice.tell(known.problems)
  if (code !== 0) return code
  let match = known.value
  const folder = await makeFolder(options.out)
  if (folder.length) return voice.tell(folder)
  const { recipe, target, kits } = given
  const builder = new Builder(kits, await readShelf())
  const { plan } = kits.get(recipe.body.kit)!.bodies.get(recipe.body.id)!
  const titles = files.map((file) => `${recipe.name} ${basename(file).replace(/\.[^.]*$/, '')}`)
  const names = fileNames('{name}', titles)
  const { from, to } = options
  const times = {
    ...(options.loop || options.once ? { loop: options.loop === true } : {}),
    ...(from === undefined ? {} : { from }),
    ...(to === undefined ? {} : { to }),
  }
  for (const [i, file] of files.entries()) {
    const read = await readBytes(file)
    const { value: motions, problems: unread } = read.value
      ? await readMotion(read.value, file, (uri) => besideOf(file, uri))
      : { ...read, value: null }
    code = Math.max(code, voice.tell(unread))
    if (!motions) continue
    const order = { ...times, ...(match ? { match } : {}) }
    const orders = motions.map((motion) => ({ motion, order }))
    const shipped = await shipCarried(builder, kits, recipe, target, orders, { lods: false })
    // what a budget says of the figure is said where it is built for it
    code = Math.max(code, voice.tell(shipped.problems.filter((p) => p.code !== 'over-budget')))
    const { bytes, figure, carried } = shipped
    if (!bytes || !figure || carried.length === 0) continue
    const path = join(options.out, `${names[i]!}.glb`)
    const written = voice.tell(await writeWhole(path, bytes))
    if (written !== 0) return written
    match ??= carried[0]!.match
    for (const { clip, doubtful, sure } of carried) {
      const { name, duration: seconds, loop } = clip
      const numbers = judgeClip(figure.mesh, figure.skeleton, clip, plan)
      voice.say(`${path}: “${name}”, ${numbersOf(clip, numbers)}`, {
        ...{ file: path, clip: name, seconds, loop, numbers, doubtful, sure },
      })
      for (const { bone, why } of doubtful) voice.say(`  ${bone}: ${why}`, { file: path, clip: name, bone, why })
    }
  }
  if (options.match !== undefined && !known.value && match)
    code = Math.max(code, voice.tell(await writeWhole(options.match, `${JSON.stringify(match, null, 2)}\n`)))
  return code
}

/** A clip and what is measured of it, in words. */
export function numbersOf(clip: Clip, { depth, slide, inBody, strain }: ClipNumbers): string {
  const cm = (metres: number) => (metres * 100).toFixed(1)
  const way = clip.loop ? 'goes round' : 'once'
  return `${clip.duration.toFixed(2)} s, ${way}; in the ground ${cm(depth.most)} cm, over it ${cm(slide.mean)} cm/s, arms in the body ${percent(inBody.mean)}${strained(strain)}`
}

/** What is beyond what a joint can do is worth a word, degrees. */
const STRAINED = 10
function strained({ most, at, bone }: ClipNumbers['strain']): string {
  const degrees = Math.round((most * 180) / Math.PI)
  return degrees < STRAINED ? '' : `, ${bone} ${degrees}° beyond what it can do at ${at.toFixed(2)} s`
}
