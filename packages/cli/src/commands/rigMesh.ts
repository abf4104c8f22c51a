import {
  firstFigure,
  BIPED,
  Builder,
  clipsOf,
  wantedBy,
  DOUBTFUL,
  givenBy,
  judgeClip,
  landmarkFile,
  readKit,
  readLandmarkFile,
  rigKit,
  setLandmarks,
  shipFigure,
  surveyFigure,
  type Kit,
  type LandmarkFile,
  type Read,
} from '@idle-tinker/core'
import { infoOf, readShelf, readText, writeWhole } from '../files.ts'
import { findTarget } from '../findTarget.ts'
import type { Voice } from '../Voice.ts'
import { numbersOf } from './retarget.ts'
import { givenIn, kitInTheWay, openFiles, percent, writeKit, type PackOptions } from './sortPack.ts'

export interface RigOptions extends PackOptions {
  out: string
  landmarks?: string
  legs?: 0 | 2 | 4
  kit?: string
  id: string
  name?: string
  target: string
}

const STANDS = { robed: 'robed', biped: 'on two legs', quadruped: 'on four legs', other: 'with chains of its own' }

/**
 * Gives a mesh bones, and writes it with the clips of its plan as a GLB. Where a file of landmarks is named that is not
 * there yet, what was found is written to it; where it is there, what it says is taken.
 */
export async function rigMesh(input: string, options: RigOptions, voice: Voice): Promise<number> {
  const told = await knownLandmarks(options.landmarks)
  if (voice.tell(told.problems) !== 0) return 1
  const given = givenIn(options)
  if (!given.value) return voice.tell(given.problems)
  const inTheWay = await kitInTheWay(options.kit)
  if (inTheWay.length) return voice.tell(inTheWay)
  const open = await openFiles(input, options, voice, uprightBody)
  if (!open) return 1
  const target = await findTarget(options.target, options.kits)
  if (!target.value) return voice.tell(target.problems)
  const said = {
    ...(told.value && givenBy(told.value)),
    ...given.value,
    ...(options.legs !== undefined && { legs: options.legs }),
  }
  const survey = surveyFigure(open.pack, said)
  let code = voice.tell(survey.problems)
  if (!survey.value) return code || 1
  const { placing, build } = survey.value
  const landmarks = told.value ? setLandmarks(survey.value.landmarks, told.value) : survey.value.landmarks
  const { up, front, unit, sure, height } = placing
  voice.say(
    `Up is ${up} (${percent(sure.up)}), the front ${front} (${percent(sure.front)}), the unit ${unit} (${percent(sure.unit)}): ${height.toFixed(2)} m tall, ${STANDS[build]}.`,
    { placing: { up, front, unit, sure, height }, build, landmarks },
  )
  const doubtful = landmarks.filter((l) => l.sure < DOUBTFUL)
  if (doubtful.length)
    voice.say(`Less sure: ${doubtful.map((l) => `${l.id} (${percent(l.sure)})`).join(', ')}.`, {
      doubtful: doubtful.map(({ id, sure: share }) => ({ id, sure: share })),
    })
  if (options.landmarks !== undefined && !told.value) {
    const text = `${JSON.stringify(landmarkFile({ placing, landmarks }), null, 2)}\n`
    code = Math.max(code, voice.tell(await writeWhole(options.landmarks, text)))
  }

  const name = options.name ?? options.id
  const chains = told.value?.chains ?? []
  const made = await rigKit({ ...survey.value, landmarks, chains }, open.knowledge, open.kits, {
    id: options.id,
    name,
  })
  code = Math.max(code, voice.tell(made.problems))
  if (!made.value) return code || 1
  if (options.kit !== undefined) code = Math.max(code, voice.tell(await writeKit(made.value, options.kit)))
  const read = await readKit(made.value)
  code = Math.max(code, voice.tell(read.problems))
  if (!read.value) return code || 1
  const kits = new Map([...open.kits, [read.value.manifest.id, read.value]])
  const recipe = firstFigure(kits, read.value.manifest.id, name)
  const builder = new Builder(kits, await readShelf())
  const shipped = await shipFigure(builder, kits, recipe, target.value, { lods: false })
  code = Math.max(code, voice.tell(shipped.problems))
  if (!shipped.bytes || !shipped.figure) return code || 1
  const written = voice.tell(await writeWhole(options.out, shipped.bytes))
  if (written !== 0) return written
  const { mesh, skeleton } = shipped.figure
  const { plan } = kits.get(recipe.body.kit)!.bodies.get(recipe.body.id)!
  voice.say(`${options.out}: ${skeleton.bones.length} bones`, { file: options.out, bones: skeleton.bones.length })
  for (const clip of clipsOf(shipped.figure, kits, recipe, wantedBy(target.value))) {
    const numbers = judgeClip(mesh, skeleton, clip, plan)
    voice.say(`  “${clip.name}”, ${numbersOf(clip, numbers)}`, { clip: clip.id, numbers })
  }
  return code
}

/** The first body that stands on two legs: what is rigged here takes over its slots where no other is named. */
function uprightBody(kits: ReadonlyMap<string, Kit>): string | undefined {
  for (const [id, { bodies }] of kits)
    for (const [body, { plan }] of bodies) if (plan.id === BIPED.id) return `${id}/${body}`
  return undefined
}

/** The landmarks in a file; none where there is no such file yet. */
async function knownLandmarks(path: string | undefined): Promise<Read<LandmarkFile>> {
  if (path === undefined || !(await infoOf(path))) return { value: null, problems: [] }
  const text = await readText(path)
  return text.value === null ? { value: null, problems: text.problems } : readLandmarkFile(text.value, path)
}
