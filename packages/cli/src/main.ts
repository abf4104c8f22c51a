import { existsSync } from 'node:fs'
import { Command, CommanderError, InvalidArgumentError, Option } from 'commander'
import { describeProblem, hasErrors, MixSchema, problem } from '@idle-tinker/core'
import { buildOne, type BuildOptions } from './commands/buildOne.ts'
import { buildPicks, type BuildPicksOptions } from './commands/buildPicks.ts'
import { buildCrowd, type CrowdOptions } from './commands/buildCrowd.ts'
import { check, type CheckOptions } from './commands/check.ts'
import { checkModels } from './commands/checkModels.ts'
import { editRecipe, shuffleRecipe, type EditOptions, type ShuffleOptions } from './commands/editRecipe.ts'
import { learn, type LearnOptions } from './commands/learn.ts'
import { listClips, type ClipsOptions } from './commands/listClips.ts'
import { retarget, type RetargetOptions } from './commands/retarget.ts'
import { rigMesh, type RigOptions } from './commands/rigMesh.ts'
import { poseFigure, type PoseOptions } from './commands/poseFigure.ts'
import { lookOf, type LookOptions } from './commands/lookOf.ts'
import { provePicks, type ProveOptions } from './commands/provePicks.ts'
import { refitParts, type RefitOptions } from './commands/refitParts.ts'
import { FORMATS, type ShipOptions } from './commands/shipFigures.ts'
import { shipDocuments } from './commands/shipSeveral.ts'
import { sortPack, type SortOptions } from './commands/sortPack.ts'
import { splitFigure, type SplitOptions } from './commands/splitFigure.ts'
import { writeFigures } from './commands/writeFigures.ts'
import { KITS } from './places.ts'
import { repeatOnChange } from './repeatOnChange.ts'
import type { Voice } from './Voice.ts'

export interface Output {
  out: (line: string) => void
  err: (line: string) => void
}

/** Runs one command; returns the exit code: 0 only when all is well, 2 when it was not understood. */
export async function main(argv: string[], output: Output): Promise<number> {
  let code = 0
  let json = false
  const voice: Voice = {
    say: (sentence, value) => output.out(json ? JSON.stringify(value) : sentence),
    tell: (problems) => {
      for (const p of problems) output.err(json ? JSON.stringify(p) : describeProblem(p))
      return hasErrors(problems) ? 1 : 0
    },
  }
  const program = new Command('tinker')
    .description('Figures and crowds without a browser.')
    .exitOverride()
    .configureOutput({
      writeOut: (text) => output.out(text.trimEnd()),
      writeErr: (text) => output.err(text.trimEnd()),
    })
  const command = (usage: string, description: string, of = program) =>
    of
      .command(usage)
      .description(description)
      .option('--json', 'problems as JSON lines on stderr, results as JSON on stdout')
      .hook('preAction', (_, action) => {
        json = Boolean(action.opts().json)
      })
  const kits = new Option('--kits <folder...>', 'folders with kits, or kits themselves').default(
    [KITS],
    'the demo kits',
  )
  const target = (name: string) =>
    new Option('--target <name|file>', 'a target among the kits’ documents, or a *.target.json file').default(name)

  const clips = new Option('--clips <file...>', 'clips made of keys that go along')

  command('build <recipe>', 'builds one figure as a GLB')
    .requiredOption('--out <file>', 'where to write it')
    .addOption(target('near'))
    .option('--lod', 'with its levels of detail', false)
    .addOption(clips)
    .addOption(kits)
    .action(async (recipe: string, options: BuildOptions) => {
      code = await buildOne(recipe, options, voice)
    })
  command(
    'ship <documents...>',
    'writes figures, crowds and packages of picks, in several formats, for several targets',
  )
    .requiredOption('--out <folder>', 'where to write it')
    .addOption(new Option('--format <format...>', 'what it is to leave as').choices(FORMATS).default(['glb']))
    .addOption(
      new Option('--target <name...>', 'the targets, from the documents beside the kits or files').default(['near']),
    )
    .option('--lod', 'with its levels of detail', false)
    .option('--name <pattern>', 'what files are called: {figure}, {target}, {date}; as the target says if not said')
    .option('--folders <pattern>', 'the folders they lie in, as in {target}/{crowd}')
    .addOption(clips)
    .option('--insist', 'write also what the checks found at fault', false)
    .option('--author <name...>', 'who made it, for formats that ask; else by the target’s license')
    .option('--watch', 'again each time a document, a target or a kit has changed, until it is stopped', false)
    .addOption(kits)
    .action(async (documents: string[], options: ShipOptions & { watch: boolean }) => {
      const ship = async () => {
        code = await shipDocuments(documents, options, voice)
      }
      if (!options.watch) return ship()
      const stop = new AbortController()
      for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => stop.abort())
      const files = [...documents, ...(options.clips ?? []), ...options.target.filter((t) => existsSync(t))]
      await repeatOnChange([...files, ...options.kits], options.out, stop.signal, async () => {
        await ship()
        voice.say('Waiting for a change.', { waiting: true, code })
      })
    })
  command('crowd <mix>', 'builds every variant of a mix, and a table of them')
    .requiredOption('--out <folder>', 'where to write them')
    .option('--count <n>', 'how many, instead of what the mix says', wholeFrom(1, MixSchema.properties.count.maximum!))
    .option('--seed <n>', 'the seed, instead of the mix’s', wholeFrom(0, MixSchema.properties.seed.maximum!))
    .option('--threads <n>', 'how many are built at a time, where that is to be said', wholeFrom(1, 64))
    .addOption(target('crowd'))
    .option('--lod', 'with their levels of detail', false)
    .addOption(clips)
    .addOption(kits)
    .action(async (mix: string, options: CrowdOptions) => {
      code = await buildCrowd(mix, options, voice)
    })
  const each = (value: string, before: string[]) => [...before, value]
  command('edit <recipe>', 'changes a figure and writes it as a recipe')
    .requiredOption('--out <file>', 'where to write it')
    .option('--set <slider=value>', 'a slider; two values with a comma are the left and the right', each, [])
    .option('--part <slot=part>', 'what is worn in a slot; nothing after the sign takes it off', each, [])
    .option(
      '--spring <chain>',
      'a chain that swings: tail, tail=0.5,0.4,0.1 for its stiffness, drag and gravity, or tail=none',
      each,
      [],
    )
    .option('--expression <name>', 'the face: one of the body’s expressions, with a strength as in glad=0.6, or rest')
    .option('--name <name>', 'another name')
    .addOption(kits)
    .action(async (recipe: string, options: EditOptions) => {
      code = await editRecipe(recipe, options, voice)
    })
  command('shuffle <recipe>', 'shuffles a figure around what it is and writes it as a recipe')
    .requiredOption('--out <file>', 'where to write it')
    .option('--seed <n>', 'the same seed gives the same figure', '1')
    .option('--strength <share>', 'from 0, which changes nothing, to 1, which changes anything', '1')
    .addOption(kits)
    .action(async (recipe: string, options: ShuffleOptions) => {
      code = await shuffleRecipe(recipe, options, voice)
    })
  command('learn <file>', 'learns from a file of a game what its skeleton is like, and writes it as a target')
    .requiredOption('--out <file>', 'the *.target.json to write')
    .option(
      '--match <file>',
      'which joints are which bones; where it is not there yet, what was found is written to it',
    )
    .option('--id <id>', 'the id of the target; from the name of the file if not said')
    .option('--name <name>', 'what it is called')
    .addOption(target('near'))
    .addOption(kits)
    .action(async (file: string, options: LearnOptions) => {
      code = await learn(file, options, voice)
    })
  command(
    'check <file>',
    'checks a file of a figure (GLB, glTF, VRM, COLLADA, BVH, OBJ), a document of ours or a kit folder',
  )
    .option('--target <name|file>', 'whose unit, axes, names and limits a file is to meet')
    .addOption(kits)
    .action(async (file: string, options: CheckOptions) => {
      code = await check(file, options, voice)
    })
  command('clips <recipe>', 'lists the clips a figure can play, with what is measured of each on it')
    .addOption(clips)
    .option('--copy <clip>', 'writes one of them as keys, to be changed')
    .option('--out <file>', 'where to write it')
    .addOption(target('near'))
    .addOption(kits)
    .action(async (recipe: string, options: ClipsOptions) => {
      code = await listClips(recipe, options, voice)
    })
  command('pose <recipe>', 'poses a figure; without --out it lists the poses that are ready and what can be moved')
    .option('--out <file>', 'where to write it: a pose as JSON, or a GLB that stands so at rest')
    .option('--pose <name|file>', 'from where to start: a pose of its kits, rest, t, a, hanging, or a pose file')
    .option('--blend <pose=share>', 'another pose, and how much of it')
    .option('--move <handle=x,y,z>', 'brings a handle to a place, in metres', each, [])
    .option('--turn <bone=nod,turn,tilt>', 'turns a joint from rest, in degrees', each, [])
    .option('--pin <limb...>', 'limbs whose ends stay where they are, or none; the legs where nothing is said')
    .option('--both', 'the other side does the same', false)
    .option('--free', 'joints turn farther than they can', false)
    .option('--mirror', 'left and right exchanged', false)
    .addOption(new Option('--even <side>', 'both sides like one of them').choices(['left', 'right']))
    .option('--down', 'set down on its lowest point', false)
    .option('--name <name>', 'what it is called')
    .addOption(target('near'))
    .addOption(kits)
    .action(async (recipe: string, options: PoseOptions) => {
      code = await poseFigure(recipe, options, voice)
    })
  command(
    'retarget <clips...>',
    'carries motions from BVH, GLB, glTF and COLLADA files onto a figure, a GLB with its clips for each',
  )
    .requiredOption('--onto <file>', 'the figure: a recipe, or a GLB shipped from here')
    .requiredOption('--out <folder>', 'where to write them')
    .option(
      '--match <file>',
      'which joints are which bones; where it is not there yet, what was found is written to it',
    )
    .addOption(new Option('--loop', 'they go round, whatever their ends say').conflicts('once'))
    .option('--once', 'they do not go round')
    .option('--from <seconds>', 'where to begin', secondsOf)
    .option('--to <seconds>', 'where to end', secondsOf)
    .addOption(target('near'))
    .addOption(kits)
    .action(async (clips: string[], options: RetargetOptions) => {
      code = await retarget(clips, options, voice)
    })
  command('rig <mesh>', 'gives a mesh on two or four legs bones, and writes it with the clips that these can play')
    .requiredOption('--out <file>', 'where to write the GLB')
    .option('--landmarks <file>', 'where its joints are; where it is not there yet, what was found is written to it')
    .option('--up <axis>', 'which axis is up, instead of what is guessed: y, z, -x …')
    .option('--front <axis>', 'which axis is to the front')
    .option('--unit <unit>', 'what its numbers count: m, cm, mm, inch or foot')
    .option(
      '--legs <number>',
      'on how many legs it stands, 2 or 4, instead of what is seen; 0 where the file of landmarks has its chains',
      legsSaid,
    )
    .option('--kit <folder>', 'where to write a kit with the figure as a body, if wanted')
    .option('--id <id>', 'the id of the kit', 'rigged')
    .option('--name <name>', 'the name of the figure')
    .option('--body <kit/body>', 'the body whose slots and places to hold things it takes over')
    .addOption(target('near'))
    .addOption(kits)
    .action(async (mesh: string, options: RigOptions) => {
      code = await rigMesh(mesh, options, voice)
    })
  const picks = program.command('picks').description('Says what a player may choose in the game.')
  command('prove <picks>', 'proves that no choice goes over the target or leaves anybody bare', picks)
    .addOption(target('near'))
    .addOption(kits)
    .action(async (file: string, options: ProveOptions) => {
      code = await provePicks(file, options, voice)
    })
  command('build <picks>', 'builds the package that a game loads', picks)
    .requiredOption('--out <folder>', 'where to write it')
    .addOption(
      new Option('--try [what]', 'try on every pair of parts, or triples of those that lie on each other too')
        .choices(['pairs', 'triples'])
        .preset('pairs')
        .default(false),
    )
    .option('--number', 'write the numbers of what is new into the picks, so that saved looks stay good', false)
    .addOption(target('near'))
    .addOption(kits)
    .action(async (file: string, options: BuildPicksOptions) => {
      code = await buildPicks(file, options, voice)
    })
  command('look [text]', 'puts on a look as a game would, with a package alone', picks)
    .requiredOption('--package <folder>', 'a package that was built')
    .option('--out <file>', 'the GLB to write; without it the look is only told')
    .option('--level <number>', 'the level of detail, 0 for the finest', wholeNumber, 0)
    .option('--seed <number>', 'draw a look by chance where none is given', wholeNumber)
    .option('--body <id>', 'whose look, where none is given')
    .action(async (text: string | undefined, options: LookOptions) => {
      code = await lookOf(text, options, voice)
    })
  const kit = program.command('kit').description('Makes and mends kits.')
  command(
    'sort <pack>',
    'tells where the models of a folder, a zip or a file go on a body, and makes a kit of them',
    kit,
  )
    .option('--out <folder>', 'where to write the kit')
    .option('--id <id>', 'the id of the kit', 'pack')
    .option('--name <name>', 'the name of the kit')
    .option('--body <kit/body>', 'the body they are for')
    .option('--up <axis>', 'which axis is up, instead of what is guessed: y, z, -x …')
    .option('--front <axis>', 'which axis is to the front')
    .option('--unit <unit>', 'what its numbers count: m, cm, mm, inch or foot')
    .option('--pictures <pixels>', 'the longest side of pictures that are taken along; 0 for one color each', sideOf)
    .option('--mend', 'mend what can be mended: turned and flat triangles, small holes, stray bits', false)
    .addOption(kits)
    .action(async (pack: string, options: SortOptions) => {
      code = await sortPack(pack, options, voice)
    })
  command('split <file>', 'takes a dressed figure apart: a body and parts that share its skeleton, or parts alone', kit)
    .option('--out <folder>', 'where to write the kit')
    .option('--id <id>', 'the id of the kit', 'split')
    .option('--name <name>', 'the name of the kit')
    .option('--body <kit/body>', 'the body it is tried on, and that its parts are for if it has no skeleton')
    .option('--up <axis>', 'which axis is up, instead of what is guessed: y, z, -x …')
    .option('--front <axis>', 'which axis is to the front')
    .option('--unit <unit>', 'what its numbers count: m, cm, mm, inch or foot')
    .option('--pictures <pixels>', 'the longest side of pictures that are taken along; 0 for one color each', sideOf)
    .option('--all', 'take apart every piece, not only whole figures', false)
    .option('--parts', 'make parts for the body, even if it has a skeleton', false)
    .addOption(kits)
    .action(async (file: string, options: SplitOptions) => {
      code = await splitFigure(file, options, voice)
    })
  command('refit <parts...>', 'carries parts made for one body over to another that has bones of the same names', kit)
    .requiredOption('--from <kit/body>', 'the body they are made for')
    .requiredOption('--to <kit/body>', 'the body they shall fit')
    .option('--out <folder>', 'where to write the kit')
    .option('--id <id>', 'the id of the kit', 'refit')
    .option('--name <name>', 'the name of the kit')
    .addOption(kits)
    .action(async (parts: string[], options: RefitOptions) => {
      code = await refitParts(parts, options, voice)
    })
  command('check <pack>', 'looks for what is wrong with the models of a kit, a folder, a zip or a file', kit).action(
    async (pack: string) => {
      code = await checkModels(pack, voice)
    },
  )
  command('figures', 'writes the demo’s figures, mixes and targets')
    .requiredOption('--out <folder>', 'where to write them')
    .action(async (options: { out: string }) => {
      code = await writeFigures(options, voice)
    })

  try {
    await program.parseAsync(argv, { from: 'user' })
    return code
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2
    const message = error instanceof Error ? error.message : String(error)
    return voice.tell([
      problem('system', 'system', `${message}.`, 'Check that the place exists and can be read or written to.'),
    ])
  }
}

function secondsOf(text: string): number {
  const seconds = Number(text)
  if (!Number.isFinite(seconds) || seconds < 0 || text.trim() === '')
    throw new InvalidArgumentError('It is a number of seconds from the beginning.')
  return seconds
}

/** What takes a whole number within limits, both of them among it. */
const wholeFrom =
  (least: number, most: number) =>
  (text: string): number => {
    const number = Number(text)
    if (text.trim() === '' || !Number.isInteger(number) || number < least || number > most)
      throw new InvalidArgumentError(`It is a whole number from ${least} to ${most}.`)
    return number
  }

/** On how many legs a figure stands; 0 where its chains are drawn. */
function legsSaid(text: string): 0 | 2 | 4 {
  const legs = ([0, 2, 4] as const).find((n) => String(n) === text)
  if (legs === undefined) throw new InvalidArgumentError('It is 0, 2 or 4.')
  return legs
}

function wholeNumber(text: string): number {
  if (!/^\d{1,9}$/.test(text.trim())) throw new InvalidArgumentError('It is a whole number.')
  return Number(text)
}

/** The side of a picture, pixels. */
function sideOf(text: string): number {
  const side = Number(text)
  if (!Number.isInteger(side) || side < 0 || side > 1024 || text.trim() === '')
    throw new InvalidArgumentError('It is a whole number of pixels, 0 to 1024.')
  return side
}
