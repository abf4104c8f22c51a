import { rm } from 'node:fs/promises'
import { join } from 'node:path'
import {
  crowdCsv,
  crowdTable,
  fileNames,
  hasErrors,
  openCrowd,
  problem,
  readMix,
  resolveRecipe,
  selectCrowd,
  withinMix,
  type Kits,
  type Mix,
  type Problem,
  type ShippedVariant,
  type Target,
} from '@idle-tinker/core'
import { openWorkers, type CrowdWorkers } from '../crowdWorkers.ts'
import { makeFolder, readBytes, readKitFolders, readText, writeWhole } from '../files.ts'
import { findTarget } from '../findTarget.ts'
import { readClips } from '../readClips.ts'
import type { ShipOrder } from '../shipOne.ts'
import type { Voice } from '../Voice.ts'

export interface CrowdOptions {
  out: string
  target: string
  lod: boolean
  kits: string[]
  count?: number
  seed?: number
  /** How many figures are built at a time. */
  threads?: number
  /** Files of clips made of keys that go along. */
  clips?: string[]
}

/** Builds every variant of a mix, several at a time. All that can be wrong is known before the first file is written. */
export async function buildCrowd(input: string, options: CrowdOptions, { say, tell }: Voice): Promise<number> {
  const { kits, problems } = await readKitFolders(options.kits)
  const read = await readMixOf(input, options, kits)
  const target = await findTarget(options.target, options.kits)
  if (!read.mix || !target.value) return tell([...read.problems, ...target.problems])
  const { mix } = read
  problems.push(...read.problems)
  for (const kit of new Set(mix.kinds.map(({ body }) => body.kit).filter((kit) => !kits.has(kit))))
    problems.push(
      problem('kit-unknown', `${input}/kinds`, `The kit “${kit}” is not here.`, 'Name its folder with --kits.'),
    )
  const { clips: keyed, problems: unread } = await readClips(options.clips)
  problems.push(...unread)
  if (hasErrors(problems)) return tell(problems)
  // they start while it is still being chosen who is in the crowd
  const workers = openWorkers(kits, mix.count, options.threads)
  try {
    return await chooseAndBuild({ mix, kits, target: target.value, keyed, problems }, workers, options, { say, tell })
  } finally {
    await workers.close()
  }
}

interface Order {
  mix: Mix
  kits: Kits
  target: Target
  keyed: ShipOrder['keyed']
  /** What is to be told of it so far. */
  problems: Problem[]
}

async function chooseAndBuild(
  { mix, kits, target, keyed, problems }: Order,
  workers: CrowdWorkers,
  options: CrowdOptions,
  { say, tell }: Voice,
): Promise<number> {
  const crowd = selectCrowd(mix, kits)
  problems.push(...crowd.problems)
  if (hasErrors(problems)) return tell(problems)
  const { limited, note } = withMixLimit(target, mix)
  problems.push(...note)
  const faults = crowd.variants.flatMap(({ recipe }) =>
    resolveRecipe(recipe, kits)
      .problems.filter((p) => p.severity === 'error')
      .map((p) => ({ ...p, where: `${recipe.name}: ${p.where}` })),
  )
  if (faults.length) return tell([...problems, ...faults])

  const names = fileNames(
    '{name}',
    crowd.variants.map((v) => v.recipe.name),
  ).map((name) => `${name}.glb`)
  problems.push(...(await makeFolder(options.out)))
  if (hasErrors(problems)) return tell(problems)
  const before = await filesOfTable(options.out)
  const shipped = await Promise.all(
    crowd.variants.map(({ recipe }, i) =>
      workers.ship({ recipe, target: limited, lods: options.lod, keyed, path: join(options.out, names[i]!) }),
    ),
  )
  problems.push(...shipped.flatMap((s) => s.problems))
  if (shipped.some((s) => !s.costs)) return tell(problems) || 1
  const variants = crowd.variants.map(({ recipe }, i): ShippedVariant => ({
    file: names[i]!,
    recipe,
    costs: shipped[i]!.costs!,
  }))
  problems.push(...(await writeWhole(join(options.out, 'crowd.json'), crowdTable(mix, limited, variants, kits))))
  problems.push(...(await writeWhole(join(options.out, 'crowd.csv'), crowdCsv(variants))))
  // what an earlier crowd left here and this one did not write anew
  for (const old of before) if (!names.includes(old)) await rm(join(options.out, old), { force: true })
  const code = tell(problems)
  say(
    `${options.out}: ${names.length} variants of at most ${limited.limits.triangles} triangles, ${crowd.twins.length} pairs alike`,
    {
      folder: options.out,
      variants: names.length,
      twins: crowd.twins.length,
      triangles: limited.limits.triangles,
    },
  )
  return code
}

/** A mix, or that of a crowd that was shipped before. */
async function readMixOf(
  input: string,
  options: CrowdOptions,
  kits: Kits,
): Promise<{ mix: Mix | null; problems: Problem[] }> {
  const bytes = await readBytes(input)
  if (bytes.value === null) return { mix: null, problems: bytes.problems }
  const read = openCrowd(bytes.value, kits, input)
  if (!read.value) return { mix: null, problems: read.problems }
  const { count, seed } = options
  const again = readMix(
    {
      ...read.value,
      ...(count !== undefined && { count }),
      ...(seed !== undefined && { seed }),
    },
    input,
  )
  return { mix: again.value, problems: [...read.problems, ...again.problems] }
}

/** Of the target's and the mix's limits of triangles the lesser holds; which one that is, is said. */
function withMixLimit(target: Target, mix: Mix): { limited: Target; note: Problem[] } {
  const limited = withinMix(target, mix)
  if (mix.triangles === target.limits.triangles) return { limited, note: [] }
  const [holds, other] =
    mix.triangles < target.limits.triangles
      ? [
          `the mix’s own limit of ${mix.triangles} triangles`,
          `the target “${target.id}” would allow ${target.limits.triangles}`,
        ]
      : [
          `the limit of the target “${target.id}”, ${target.limits.triangles} triangles`,
          `the mix would allow ${mix.triangles}`,
        ]
  return {
    limited,
    note: [
      problem(
        'limit-holds',
        'limits/triangles',
        `What holds is ${holds}; ${other}.`,
        'Change the mix to change it.',
        'info',
      ),
    ],
  }
}

/** The files that the crowd written here before says it has. */
async function filesOfTable(folder: string): Promise<string[]> {
  const text = await readText(join(folder, 'crowd.json'))
  if (text.value === null) return []
  try {
    const { variants } = JSON.parse(text.value) as { variants?: { file?: unknown }[] }
    return (variants ?? []).flatMap(({ file }) =>
      typeof file === 'string' && /^[A-Za-z0-9_-]+\.glb$/.test(file) ? [file] : [],
    )
  } catch {
    // not a table of ours: nothing of it is removed
    return []
  }
}
