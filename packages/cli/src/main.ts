import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { parseArgs } from 'node:util'
import { readdir, readFile, stat } from 'node:fs/promises'
import {
  Builder,
  checkShipped,
  crowdTable,
  describeProblem,
  fileNames,
  hasErrors,
  problem,
  readKit,
  readMix,
  readRecipe,
  readTarget,
  resolveRecipe,
  selectCrowd,
  shipFigure,
  TARGETS,
  type Problem,
  type Recipe,
  type ShippedVariant,
  type Target,
} from '@idle-tinker/core'
import { readFolder, readKitFolders, readText, writeWhole } from './files.ts'

const KITS = join(dirname(fileURLToPath(import.meta.url)), '../../../kits')

const HELP = `tinker: figures and crowds without a browser

  tinker build <recipe.json> --out <file.glb> [--target <name|file>] [--lod]
  tinker crowd <mix.json> --out <folder> [--count N] [--seed S] [--target <name|file>]
  tinker check <file.glb | recipe.json | kit folder>
  tinker figures --out <folder>

  --kits <folder>   kits to use, may be given more than once (default: the demo kits)
  --target          one of ${TARGETS.map((t) => t.id).join(', ')}, or a *.target.json file
  --json            problems as JSON lines on stderr, results as JSON on stdout`

export interface Output {
  out: (line: string) => void
  err: (line: string) => void
}

interface Options {
  target?: string
  out?: string
  lod?: boolean
  count?: string
  seed?: string
  kits?: string[]
  json?: boolean
  help?: boolean
}

/** Runs one command; returns the exit code: 0 only when all is well. */
export async function main(argv: string[], output: Output): Promise<number> {
  let parsed
  try {
    parsed = parseArgs({
      args: argv,
      allowPositionals: true,
      options: {
        target: { type: 'string' },
        out: { type: 'string' },
        lod: { type: 'boolean' },
        count: { type: 'string' },
        seed: { type: 'string' },
        kits: { type: 'string', multiple: true },
        json: { type: 'boolean' },
        help: { type: 'boolean' },
      },
    })
  } catch (error) {
    output.err(error instanceof Error ? error.message : String(error))
    return 2
  }
  const options: Options = parsed.values
  const [command, input] = parsed.positionals
  if (options.help || !command) {
    output.out(HELP)
    return options.help ? 0 : 2
  }
  const tell = (problems: readonly Problem[]) => {
    for (const p of problems) output.err(options.json ? JSON.stringify(p) : describeProblem(p))
    return hasErrors(problems) ? 1 : 0
  }
  const usage = (message: string) => tell([problem('usage', 'command line', message, 'See tinker --help.')])
  try {
    if (command === 'figures') return options.out ? await writeFigures(options.out, output) : usage('--out is missing.')
    if (!input) return usage('The file is missing.')
    if (command === 'check') return await check(input, options, output, tell)
    if (!options.out) return usage('--out is missing.')
    if (command === 'build') return await buildOne(input, options.out, options, output, tell)
    if (command === 'crowd') return await buildCrowd(input, options.out, options, output, tell)
    return usage(`There is no command “${command}”.`)
  } catch (error) {
    const message = error instanceof Error ? error.message : String(error)
    return tell([
      problem(
        'system',
        options.out ?? input ?? command,
        `${message}.`,
        'Check that the place exists and can be written to.',
      ),
    ])
  }
}

type Tell = (problems: readonly Problem[]) => number

async function readTargetOption(name: string | undefined): Promise<{ value: Target | null; problems: Problem[] }> {
  const known = TARGETS.find((t) => t.id === (name ?? 'near'))
  if (known) return { value: known, problems: [] }
  const text = await readText(name!)
  if (text.value === null)
    return {
      value: null,
      problems: [
        problem(
          'target-unknown',
          '--target',
          `There is no target “${name}”.`,
          `Use ${TARGETS.map((t) => t.id).join(', ')} or a target file.`,
        ),
      ],
    }
  return readTarget(text.value, name)
}

async function buildOne(input: string, out: string, options: Options, output: Output, tell: Tell): Promise<number> {
  const text = await readText(input)
  if (text.value === null) return tell(text.problems)
  const recipe = readRecipe(text.value, input)
  const target = await readTargetOption(options.target)
  if (!recipe.value || !target.value) return tell([...recipe.problems, ...target.problems])
  const { kits, problems } = await readKitFolders(options.kits ?? [KITS])
  if (hasErrors(problems)) return tell(problems)
  const shipped = await shipFigure(new Builder(kits), kits, recipe.value, target.value, { lods: options.lod ?? false })
  const code = tell([...problems, ...shipped.problems])
  if (!shipped.bytes || code !== 0) return code || 1
  await writeWhole(out, shipped.bytes)
  const { triangles, bones, fileBytes } = shipped.figure!.costs
  output.out(
    options.json
      ? JSON.stringify({ file: out, costs: shipped.figure!.costs })
      : `${out}: ${triangles} triangles, ${bones} bones, ${Math.ceil(fileBytes / 1024)} KB`,
  )
  return 0
}

async function buildCrowd(input: string, out: string, options: Options, output: Output, tell: Tell): Promise<number> {
  const text = await readText(input)
  if (text.value === null) return tell(text.problems)
  const read = readMix(text.value, input)
  const target = await readTargetOption(options.target ?? 'crowd')
  if (!read.value || !target.value) return tell([...read.problems, ...target.problems])
  const numbers = { count: options.count ?? read.value.count, seed: options.seed ?? read.value.seed }
  const again = readMix({ ...read.value, count: Number(numbers.count), seed: Number(numbers.seed) }, input)
  if (!again.value) return tell(again.problems)
  const mix = again.value
  const { kits, problems } = await readKitFolders(options.kits ?? [KITS])
  const kit = kits.get(mix.body.kit)
  if (!kit)
    problems.push(
      problem(
        'kit-unknown',
        `${input}/body/kit`,
        `The kit “${mix.body.kit}” is not here.`,
        'Name its folder with --kits.',
      ),
    )
  if (hasErrors(problems) || !kit) return tell(problems)
  const crowd = selectCrowd(mix, kit)
  problems.push(...crowd.problems)
  if (hasErrors(problems)) return tell(problems)
  const limited: Target = {
    ...target.value,
    limits: { ...target.value.limits, triangles: Math.min(target.value.limits.triangles, mix.triangles) },
  }
  // everything that can be wrong is known before the first file is written
  const faults = crowd.variants.flatMap(({ recipe }) =>
    resolveRecipe(recipe, kits)
      .problems.filter((p) => p.severity === 'error')
      .map((p) => ({ ...p, where: `${recipe.name}: ${p.where}` })),
  )
  if (faults.length) return tell([...problems, ...faults])
  const files = fileNames(
    '{name}',
    crowd.variants.map((v) => v.recipe.name),
    limited.id,
  )
  const builder = new Builder(kits)
  const shippedAll: ShippedVariant[] = []
  for (const [i, variant] of crowd.variants.entries()) {
    const shipped = await shipFigure(builder, kits, variant.recipe, limited, { lods: options.lod ?? false })
    problems.push(...shipped.problems)
    if (!shipped.bytes) return tell(problems)
    const file = `${files[i]}.glb`
    await writeWhole(join(out, file), shipped.bytes)
    shippedAll.push({ file, recipe: variant.recipe, costs: shipped.figure!.costs })
  }
  await writeWhole(join(out, 'crowd.json'), crowdTable(mix, limited, shippedAll, kits))
  const code = tell(problems)
  output.out(
    options.json
      ? JSON.stringify({ folder: out, variants: shippedAll.length, twins: crowd.twins.length })
      : `${out}: ${shippedAll.length} variants, ${crowd.twins.length} pairs alike`,
  )
  return code
}

async function check(input: string, options: Options, output: Output, tell: Tell): Promise<number> {
  const info = await stat(input).catch(() => null)
  if (!info) return tell([problem('file-missing', input, 'There is no such file or folder.', 'Check its name.')])
  const good = (lines: readonly string[]) => {
    for (const line of lines) output.out(options.json ? JSON.stringify({ ok: line }) : line)
  }
  if (info.isDirectory()) {
    const { value, problems } = await readKit(await readFolder(input))
    const code = tell(problems)
    if (value && code === 0)
      good([`${value.manifest.name}: ${value.bodies.size} bodies, ${value.parts.size} parts, all readable.`])
    return code
  }
  if (input.endsWith('.json')) {
    const text = await readText(input)
    const recipe = text.value === null ? { value: null, problems: text.problems } : readRecipe(text.value, input)
    if (!recipe.value) return tell(recipe.problems)
    const { kits, problems } = await readKitFolders(options.kits ?? [KITS])
    const built = new Builder(kits).build(recipe.value as Recipe, TARGETS[0]!)
    const code = tell([...problems, ...built.problems])
    if (built.figure && code === 0)
      good([`${recipe.value.name}: ${built.figure.costs.triangles} triangles before reduction.`])
    return code
  }
  const checked = await checkShipped(new Uint8Array(await readFile(input)), input)
  const code = tell(checked.problems)
  good(checked.passed)
  return code
}

async function writeFigures(out: string, output: Output): Promise<number> {
  const folder = join(KITS, 'lantern-tide')
  const names = (await readdir(folder)).sort()
  for (const name of names) await writeWhole(join(out, name), await readFile(join(folder, name)))
  output.out(`${out}: ${names.length} documents`)
  return 0
}
