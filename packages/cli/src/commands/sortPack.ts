import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import {
  AXIS_NAMES,
  hasErrors,
  healthOf,
  isMendable,
  learnSlots,
  mendPack,
  packKit,
  placePack,
  problem,
  readPack,
  sortPack as sort,
  slotFaults,
  UNIT_NAMES,
  unpackZip,
  UNSURE,
  type BodyModel,
  type Kit,
  type Pack,
  type PackFiles,
  type Placing,
  type PlacingGiven,
  type Problem,
  type Read,
  type SlotKnowledge,
} from '@idle-tinker/core'
import { infoOf, makeFolder, readFolder, readKitFolders, writeWhole } from '../files.ts'
import type { Voice } from '../Voice.ts'

/** How a pack is read, and on what body it is tried. */
export interface PackOptions {
  body?: string
  up?: string
  front?: string
  unit?: string
  /** The longest side of pictures that are taken along, pixels. */
  pictures?: number
  kits: string[]
}

export interface SortOptions extends PackOptions {
  out?: string
  id: string
  name?: string
  mend: boolean
}

/** A pack that was read, the body it is tried on, and how it lies there. */
export interface OpenPack {
  pack: Pack
  kits: ReadonlyMap<string, Kit>
  knowledge: SlotKnowledge
  placing: Placing
}

/**
 * Reads a pack and the body it is tried on; null where that cannot be, which is told.
 *
 * @param usual the body where none is named and there are several
 */
export async function openFiles(
  input: string,
  options: Pick<PackOptions, 'kits' | 'body'>,
  voice: Voice,
  usual: (kits: ReadonlyMap<string, Kit>) => string | undefined = () => undefined,
): Promise<Omit<OpenPack, 'placing'> | null> {
  const refuse = (problems: readonly Problem[]) => {
    voice.tell(problems)
    return null
  }
  const files = await packFiles(input)
  if (!files.value) return refuse(files.problems)
  const { kits, problems } = await readKitFolders(options.kits)
  if (hasErrors(problems)) return refuse(problems)
  const body = bodyNamed(kits, options.body ?? usual(kits))
  if (!body.value) return refuse(body.problems)
  const pack = await readPack(files.value)
  voice.tell(pack.problems)
  if (!pack.value) return null
  const knowledge = learnSlots(kits, body.value)
  const faults = slotFaults(knowledge)
  if (faults.length) return refuse(faults)
  return { pack: pack.value, kits, knowledge }
}

/** The same, and how the pack lies on that body, which is told. */
export async function openPack(input: string, options: PackOptions, voice: Voice): Promise<OpenPack | null> {
  const given = givenIn(options)
  if (!given.value) {
    voice.tell(given.problems)
    return null
  }
  const open = await openFiles(input, options, voice)
  if (!open) return null
  const placing = placePack(open.pack, open.knowledge, given.value)
  const { up, front, unit, sure, height } = placing
  voice.say(
    `Up is ${up} (${percent(sure.up)}), the front ${front} (${percent(sure.front)}), the unit ${unit} (${percent(sure.unit)}): ${height.toFixed(2)} m tall.`,
    { placing: { up, front, unit, sure, height } },
  )
  return { ...open, placing }
}

export const percent = (v: number) => `${Math.round(v * 100)} %`

/** Tells where the pieces of a pack go on a body, and makes a kit of them. */
export async function sortPack(input: string, options: SortOptions, voice: Voice): Promise<number> {
  const inTheWay = await kitInTheWay(options.out)
  if (inTheWay.length) return voice.tell(inTheWay)
  const open = await openPack(input, options, voice)
  if (!open) return 1
  const { pack, kits, knowledge, placing } = open
  const findings = new Map(pack.pieces.map((piece) => [piece.id, healthOf(piece)]))
  const sorted = sort(pack, placing, knowledge)
  sorted.forEach(({ piece, guesses, odd }, i) => {
    const [best, ...others] = guesses.slice(0, 3)
    const found = [...findings.get(piece)!, ...odd]
    const doubt = best!.confidence < UNSURE ? ` ? or ${others.map((g) => g.slot).join(', ')}` : ''
    const { names } = pack.pieces[i]!
    const lines = [
      `${piece}: ${best!.slot} (${percent(best!.confidence)})${doubt}`,
      ...found.map((f) => `  ${f.message}`),
    ]
    voice.say(lines.join('\n'), {
      piece,
      names,
      ...best!,
      others,
      findings: found.map(({ code, severity, message, count }) => ({
        ...{ code, severity, message, count, mendable: isMendable(code) },
      })),
    })
  })
  if (options.out === undefined) return 0

  const mended = options.mend
    ? mendPack(
        pack,
        new Map([...findings].map(([id, f]) => [id, new Set(f.map((one) => one.code).filter(isMendable))])),
      )
    : pack
  const made = await packKit(mended, placing, knowledge, kits, {
    id: options.id,
    name: options.name ?? options.id,
    slots: new Map(sorted.map(({ piece, guesses }) => [piece, guesses[0]!.slot])),
    ...(options.pictures !== undefined && { pictures: options.pictures }),
  })
  const code = voice.tell(made.problems)
  if (!made.value) return code
  return voice.tell(await writeKit(made.value, options.out))
}

/** A kit that is in a folder where one is to be written: it is not written over. Asked before anything is worked out. */
export async function kitInTheWay(folder: string | undefined): Promise<Problem[]> {
  if (folder === undefined || !(await infoOf(join(folder, 'kit.json')))) return []
  return [problem('kit-there', folder, 'There is a kit in this folder already.', 'Name another folder.')]
}

export async function writeKit(files: PackFiles, folder: string) {
  const inTheWay = await kitInTheWay(folder)
  if (inTheWay.length) return inTheWay
  const problems = await makeFolder(folder)
  for (const [path, bytes] of files) problems.push(...(await writeWhole(join(folder, path), bytes)))
  return problems
}

export async function packFiles(input: string): Promise<Read<PackFiles>> {
  const info = await infoOf(input)
  if (info?.isDirectory()) return { value: await readFolder(input), problems: [] }
  if (info?.isFile()) {
    const bytes = new Uint8Array(await readFile(input))
    if (/\.zip$/i.test(input)) return unpackZip(bytes, 'pack')
    return { value: new Map([[input.split(/[\\/]/).at(-1)!, bytes]]), problems: [] }
  }
  const problems = [problem('file-missing', input, 'There is no such file or folder.', 'Check its name.')]
  return { value: null, problems }
}

/** The body that is named, or the only one there is. */
function bodyNamed(kits: ReadonlyMap<string, Kit>, name: string | undefined): Read<BodyModel> {
  const bodies = [...kits.values()].flatMap((kit) =>
    [...kit.bodies.values()].map((body) => ({ name: `${kit.manifest.id}/${body.def.id}`, body })),
  )
  const found = name === undefined && bodies.length === 1 ? bodies[0] : bodies.find((b) => b.name === name)
  if (found) return { value: found.body, problems: [] }
  const there = `There are: ${bodies.map((b) => b.name).join(', ')}.`
  const message = name === undefined ? 'Which body they are for is not said.' : `There is no body “${name}”.`
  return { value: null, problems: [problem('body-unknown', '--body', message, there)] }
}

export function givenIn({ up, front, unit }: PackOptions): Read<PlacingGiven> {
  const problems = [
    ['--up', up, AXIS_NAMES] as const,
    ['--front', front, AXIS_NAMES] as const,
    ['--unit', unit, UNIT_NAMES] as const,
  ].flatMap(([where, value, known]) =>
    value === undefined || (known as readonly string[]).includes(value)
      ? []
      : [problem('placing-unknown', where, `“${value}” is none.`, `There are: ${known.join(', ')}.`)],
  )
  if (up && front && up.at(-1) === front.at(-1))
    problems.push(problem('placing-odd', '--front', 'What is up cannot be in front.', 'Name another axis.'))
  if (problems.length) return { value: null, problems }
  return {
    value: { ...(up && { up }), ...(front && { front }), ...(unit && { unit }) } as PlacingGiven,
    problems: [],
  }
}
