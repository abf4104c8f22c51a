import { rm } from 'node:fs/promises'
import { join, relative } from 'node:path'
import {
  buildPackage,
  hasErrors,
  loadProver,
  PackageSchema,
  parseJson,
  problem,
  readPicks,
  validate,
  withCodes,
  type Manifests,
  type Prover,
} from '@idle-tinker/core'
import { Wardrobe } from '@idle-tinker/runtime'
import { tryOnLooks } from '@idle-tinker/tryout'
import { readKitFolders, readShelf, readText, writeWhole } from '../files.ts'
import { findTarget } from '../findTarget.ts'
import type { Voice } from '../Voice.ts'

export interface BuildPicksOptions {
  out: string
  target: string
  kits: string[]
  /** Writes the numbers of what is new into the picks themselves. */
  number: boolean
  /** Tries on every pair of parts, or every three that lie on each other too, and tells what comes through. */
  try: 'pairs' | 'triples' | false
}

/** Builds the package a game loads. */
export async function buildPicks(input: string, options: BuildPicksOptions, voice: Voice): Promise<number> {
  const text = await readText(input)
  if (text.value === null) return voice.tell(text.problems)
  const read = readPicks(text.value, input)
  const target = await findTarget(options.target, options.kits)
  const { kits, problems } = await readKitFolders(options.kits)
  let code = voice.tell([...read.problems, ...target.problems, ...problems])
  if (!read.value || !target.value || hasErrors(problems)) return code || 1
  const numbered = withCodes(read.value)
  const isNew = JSON.stringify(numbered.codes) !== JSON.stringify(read.value.codes)
  if (isNew && options.number)
    code = Math.max(code, voice.tell(await writeWhole(input, `${JSON.stringify(numbered, null, 2)}\n`)))
  const prover = await loadProver()
  const built = await buildPackage(numbered, kits, target.value, { prover, shelf: await readShelf() })
  code = Math.max(code, voice.tell(built.problems))
  if (!built.value) return code || 1
  await clearEarlier(options.out, built.value.files)
  let bytes = 0
  for (const [path, file] of built.value.files) {
    const unwritten = await writeWhole(join(options.out, path), file)
    if (unwritten.length) return voice.tell(unwritten)
    bytes += file.length
  }
  for (const [body, { over, costs }] of built.value.proofs)
    for (const measure of over)
      voice.tell([
        problem(
          'picks-over',
          body,
          `Some choices have ${costs[measure]!.most.cost} ${measure}, more than the target allows.`,
          'Prove it to see which, and leave something out, or choose another target.',
          'warning',
        ),
      ])
  if (isNew && !options.number)
    voice.tell([
      problem(
        'picks-unnumbered',
        input,
        'What is new has numbers that the picks do not keep: looks that players save may be read as others later.',
        'Build with --number once, so that the numbers stay.',
        'warning',
      ),
    ])
  if (options.try) await tryOn(built.value.files, kits, prover, options.try === 'triples', voice)
  const { bodies } = built.value.manifest
  const most = bodies.map((b) => `${b.name} at most ${b.triangles[0]!.most} triangles`).join(', ')
  voice.say(`${options.out}: ${built.value.files.size} files, ${Math.ceil(bytes / 1024)} KB; ${most}`, {
    ...{ folder: options.out, files: built.value.files.size, bytes },
    bodies: bodies.map(({ id, options: all, triangles }) => ({ id, options: all.length, triangles })),
  })
  return code
}

/** Takes away what an earlier build of a package left in a folder and this one does not write; nothing else. */
async function clearEarlier(folder: string, files: ReadonlyMap<string, Uint8Array>): Promise<void> {
  const { value } = await readText(join(folder, 'package.json'))
  const before = value === null ? null : parseJson(value, folder).value
  const earlier = before === null ? null : validate(PackageSchema, before, folder).value
  for (const body of earlier?.bodies ?? []) {
    const named = [body.base, body.atlas, ...body.slots.map((s) => s.chunk), ...body.options.map((o) => o.icon)]
    for (const { path } of named)
      // a name that leads elsewhere is not one of ours
      if (!files.has(path) && !relative(folder, join(folder, path)).startsWith('..'))
        await rm(join(folder, path), { force: true })
  }
}

/** Puts on looks in which every two parts are worn, and tells what comes through: measured, not proved. */
async function tryOn(
  files: ReadonlyMap<string, Uint8Array>,
  kits: Manifests,
  prover: Prover,
  triples: boolean,
  voice: Voice,
) {
  const { wardrobe } = await Wardrobe.open((path) => Promise.resolve(files.get(path)!))
  for (const body of wardrobe!.manifest.bodies) {
    const tried = await tryOnLooks(wardrobe!, body, kits, prover, { triples })
    voice.say(
      `${body.name}: ${tried.pairs} pairs ${triples ? `and ${tried.triples} triples ` : ''}of parts tried on in ${tried.looks} looks`,
      tried,
    )
    voice.tell(
      tried.worst.map(({ inner, outer, depth, text }) =>
        problem(
          'picks-through',
          body.id,
          `“${inner ?? body.name}” comes up to ${(depth * 1000).toFixed(1)} mm through “${outer}” with sliders at their ends: ${text}.`,
          'Look at it in the mirror; narrow a slider, or say that they do not go together.',
          'warning',
        ),
      ),
    )
    voice.tell(
      tried.open.map(({ inner, outer, area, text }) =>
        problem(
          'picks-open',
          body.id,
          `“${inner ?? body.name}” is left out under “${outer}”, and ${Math.round(area * 1e4)} cm² of it can be seen with sliders at their ends: ${text}.`,
          'Look at it in the mirror; narrow a slider, or say that they do not go together.',
          'warning',
        ),
      ),
    )
  }
}
