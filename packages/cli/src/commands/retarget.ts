import { readFile } from 'node:fs/promises'
import { basename, join } from 'node:path'
import {
  Builder,
  carryClips,
  fileNames,
  hasErrors,
  openFigure,
  problem,
  readMatch,
  readMotion,
  shipFigure,
  type CarriedClip,
  type MotionMatch,
  type Problem,
} from '@idle-tinker/core'
import { makeFolder, readKitFolders, readShelf, writeWhole } from '../files.ts'
import { findTarget } from '../findTarget.ts'
import type { Voice } from '../Voice.ts'
import { percent } from './sortPack.ts'

export interface RetargetOptions {
  onto: string
  out: string
  target: string
  match?: string
  loop?: true
  once?: true
  from?: number
  to?: number
  kits: string[]
}

/** Carries the motions of each file onto one figure; a file that cannot be carried costs only itself. */
export async function retarget(files: readonly string[], options: RetargetOptions, voice: Voice): Promise<number> {
  const { kits, problems } = await readKitFolders(options.kits)
  if (hasErrors(problems)) return voice.tell(problems)
  const onto = await bytesOf(options.onto)
  const recipe = onto.value
    ? await openFigure(onto.value, kits, options.onto)
    : { value: null, problems: onto.problems }
  const target = await findTarget(options.target, options.kits)
  if (!recipe.value || !target.value) return voice.tell([...recipe.problems, ...target.problems])
  const figure = recipe.value
  const plan = kits.get(figure.body.kit)!.bodies.get(figure.body.id)!.plan
  const known = await knownMatch(options.match)
  let code = voice.tell(known.problems)
  if (code !== 0) return code
  let match = known.value
  const folder = await makeFolder(options.out)
  if (folder.length) return voice.tell(folder)
  const builder = new Builder(kits, await readShelf())
  const titles = files.map((file) => `${figure.name} ${stemOf(file)}`)
  const names = fileNames('{name}', titles, target.value.id)
  const loop = options.loop ? true : options.once ? false : undefined
  for (const [i, file] of files.entries()) {
    const read = await bytesOf(file)
    const { value: motions, problems: unread } = read.value
      ? await readMotion(read.value, file)
      : { value: null, problems: read.problems }
    code = Math.max(code, voice.tell(unread))
    if (!motions) continue
    let carried: (CarriedClip & { match: MotionMatch; doubtful: { bone: string; why: string }[] })[] = []
    const told: Problem[] = []
    const shipped = await shipFigure(builder, kits, figure, target.value, {
      lods: false,
      clips: (built) => {
        const result = carryClips(motions, built, plan, {
          ...(match ? { match } : {}),
          ...(loop === undefined ? {} : { loop }),
          ...(options.from === undefined ? {} : { from: options.from }),
          ...(options.to === undefined ? {} : { to: options.to }),
        })
        told.push(...result.problems)
        carried = result.value ?? []
        return carried.map((c) => c.clip)
      },
    })
    // what a budget says of the figure is said where it is built for it
    code = Math.max(code, voice.tell([...told, ...shipped.problems.filter((p) => p.severity === 'error')]))
    if (!shipped.bytes || carried.length === 0) continue
    const path = join(options.out, `${names[i]!}.glb`)
    const written = voice.tell(await writeWhole(path, shipped.bytes))
    if (written !== 0) return written
    match ??= carried[0]!.match
    for (const { clip, numbers, doubtful } of carried) {
      voice.say(`${path}: “${clip.name}”, ${numbersOf(clip, numbers)}`, {
        file: path,
        clip: clip.name,
        seconds: clip.duration,
        loop: clip.loop,
        numbers,
        doubtful,
      })
      for (const { bone, why } of doubtful) voice.say(`  ${bone}: ${why}`, { file: path, clip: clip.name, bone, why })
    }
  }
  if (options.match !== undefined && !known.value && match)
    code = Math.max(
      code,
      voice.tell(await writeWhole(options.match, new TextEncoder().encode(`${JSON.stringify(match, null, 2)}\n`))),
    )
  return code
}

/** A clip and what is measured of it, in words. */
export function numbersOf(clip: CarriedClip['clip'], { depth, slide, inBody }: CarriedClip['numbers']): string {
  const cm = (metres: number) => (metres * 100).toFixed(1)
  const way = clip.loop ? 'goes round' : 'once'
  return `${clip.duration.toFixed(2)} s, ${way}; in the ground ${cm(depth.most)} cm, over it ${cm(slide.mean)} cm/s, arms in the body ${percent(inBody.mean)}`
}

const stemOf = (file: string) => basename(file).replace(/\.[^.]*$/, '')

async function bytesOf(path: string): Promise<{ value: Uint8Array | null; problems: Problem[] }> {
  try {
    return { value: new Uint8Array(await readFile(path)), problems: [] }
  } catch {
    return { value: null, problems: [problem('file-missing', path, 'The file cannot be read.', 'Check its name.')] }
  }
}

/** The match in a file; none where there is no such file yet. */
async function knownMatch(path: string | undefined): Promise<{ value: MotionMatch | null; problems: Problem[] }> {
  if (path === undefined) return { value: null, problems: [] }
  try {
    return readMatch(await readFile(path, 'utf8'), path)
  } catch (error) {
    if ((error as { code?: string }).code === 'ENOENT') return { value: null, problems: [] }
    return { value: null, problems: [problem('file-missing', path, 'The file cannot be read.', 'Check its name.')] }
  }
}
