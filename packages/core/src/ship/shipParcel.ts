import { hasErrors, problem, type Problem } from '../base/problem.ts'
import type { Shelf } from '../base/Shelf.ts'
import type { Builder } from '../build.ts'
import type { Mix } from '../crowd/mix.ts'
import { selectCrowd } from '../crowd/selectCrowd.ts'
import type { KeptClip } from '../motion/keys/keptClip.ts'
import type { Motion } from '../motion/foreign/motionDocument.ts'
import { buildPackage } from '../picks/package/buildPackage.ts'
import type { Picks } from '../picks/picks.ts'
import { loadProver } from '../picks/Prover.ts'
import type { Kit } from '../kit/Kit.ts'
import type { License } from '../recipe/license.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Target } from '../recipe/target.ts'
import { clipsAlong, keptToCarry } from './carryClips.ts'
import { crowdCsv, crowdTable, type ShippedVariant } from './crowdTable.ts'
import { fileName, fileNames, filePattern, folderPath, patternFaults, type Filling } from './names.ts'
import { SHIP_FORMATS, shipFormats, type ShipFormat } from './shipFormats.ts'

/** Something that leaves as a whole or not at all, but for formats of a figure, which are each by themselves. */
export type Parcel =
  | { kind: 'figure'; recipe: Recipe }
  /** A crowd: the figures that are given, else those its mix is made into. */
  | { kind: 'crowd'; name: string; mix: Mix | null; recipes: Recipe[] | null }
  /** What a player may choose, as the package a game loads. */
  | { kind: 'picks'; picks: Picks }

/** How parcels leave. */
export interface ShipSettings {
  formats: readonly ShipFormat[]
  lods: boolean
  /** Whether what the checks found at fault goes as well. */
  insist: boolean
  /** What files are called; as the target says where it is empty. See `fillPattern`. */
  pattern: string
  /** Folders they lie in; see `folderPath`. */
  folders: string
  date: string
  /** Who made what ships and what others may do with it; as each target says where it is null. */
  license: License | null
  motions: readonly Motion[]
  keyed: readonly KeptClip[]
}

/** A figure that left, and its first file. */
export interface ShippedFigure {
  file: string
  name: string
  triangles: number
  bones: number
  bytes: number
}

/** What a parcel came to for a target. */
export interface ShippedParcel {
  /** By path; null where it stayed. */
  files: Map<string, Uint8Array> | null
  figures: ShippedFigure[]
  /** What was found good of every figure. */
  passed: string[]
  problems: Problem[]
  /** It, or a format of it, could be written, and was kept back for what is wrong with it. */
  withheld: boolean
}

/** What a parcel is built with. */
export interface ShipTools {
  builder: Builder
  kits: ReadonlyMap<string, Kit>
  shelf: Shelf | null
  /** Told how many steps are done of `stepsOf`; answers whether to go on. */
  told: (done: number) => boolean
}

export const parcelName = (parcel: Parcel): string =>
  parcel.kind === 'figure' ? parcel.recipe.name : parcel.kind === 'crowd' ? parcel.name : parcel.picks.name

/** Steps of a package of picks, however large it is. */
const PACKAGE_STEPS = 20

/** In how many steps a parcel is made ready: a figure is one. */
export function stepsOf(parcel: Parcel): number {
  if (parcel.kind === 'figure') return 1
  if (parcel.kind === 'picks') return PACKAGE_STEPS
  return parcel.recipes?.length ?? parcel.mix?.count ?? 0
}

/** A target with a mix's own limit of triangles, where that is the lower one. */
export function withinMix(target: Target, mix: Pick<Mix, 'triangles'> | null): Target {
  const triangles = Math.min(target.limits.triangles, mix?.triangles ?? Infinity)
  return { ...target, limits: { ...target.limits, triangles } }
}

/** Builds what a parcel holds for a target, writes it in every format and reads it again: all of it, or nothing; of a figure the formats in which it can leave. */
export async function shipParcel(
  parcel: Parcel,
  target: Target,
  settings: ShipSettings,
  tools: ShipTools,
): Promise<ShippedParcel> {
  const { folders, license } = settings
  const unknown = [...patternFaults(settings.pattern, 'pattern'), ...patternFaults(folders, 'folders')]
  if (unknown.length) return stayed(unknown)
  const licensed = license ? { ...target, license } : target
  if (parcel.kind === 'picks') return shipPicks(parcel.picks, licensed, settings, tools)
  if (parcel.kind === 'figure') return shipAll([parcel.recipe], null, licensed, settings, tools)
  const limited = withinMix(licensed, parcel.mix)
  const { recipes, problems } = chosenOf(parcel, tools)
  if (hasErrors(problems)) return stayed(problems)
  const shipped = await shipAll(recipes, parcel, limited, settings, tools)
  return { ...shipped, problems: [...problems, ...shipped.problems] }
}

const stayed = (problems: readonly Problem[], withheld = false): ShippedParcel => ({
  ...{ files: null, figures: [], passed: [] },
  problems: [...problems],
  withheld,
})

const CANCELED = problem('canceled', 'job', 'It was canceled.', 'Start it again.')

function chosenOf(
  { name, mix, recipes }: Extract<Parcel, { kind: 'crowd' }>,
  { kits }: ShipTools,
): { recipes: Recipe[]; problems: Problem[] } {
  if (recipes) return { recipes, problems: [] }
  if (!mix) return { recipes: [], problems: [problem('crowd-empty', name, 'Nobody is in it.', 'Name its mix.')] }
  const { variants, problems } = selectCrowd(mix, kits)
  return { recipes: variants.map((v) => v.recipe), problems }
}

type CrowdOf = Pick<Extract<Parcel, { kind: 'crowd' }>, 'name' | 'mix'>

async function shipAll(
  recipes: readonly Recipe[],
  crowd: CrowdOf | null,
  target: Target,
  settings: ShipSettings,
  { builder, kits, told }: ShipTools,
): Promise<ShippedParcel> {
  const { formats, lods, insist, keyed, date } = settings
  const fill: Filling = { name: '', target: target.id, crowd: crowd?.name, date }
  const pattern = settings.pattern || filePattern(target)
  const stems = fileNames(
    pattern,
    recipes.map((r) => r.name),
    fill,
  )
  const along = settings.motions.map(keptToCarry)
  const files = new Map<string, Uint8Array>()
  const variants: ShippedVariant[] = []
  const figures: ShippedFigure[] = []
  const problems: Problem[] = []
  const good: Set<string>[] = []
  let withheld = false
  for (const [i, recipe] of recipes.entries()) {
    if (!told(i)) return stayed([CANCELED])
    const { clips, problems: astray } = clipsAlong(kits, recipe, { motions: along, own: true, keyed })
    const made = await shipFormats(builder, kits, recipe, target, formats, { lods, stem: stems[i]!, clips })
    if (crowd) builder.forget()
    const goes = made.filter((m) => m.files && (insist || !hasErrors([...astray, ...m.problems])))
    const said = [
      ...astray,
      ...made.flatMap((m) => (goes.includes(m) ? m.problems : m.problems.map(inFormat(m.format)))),
    ]
    const here = crowd ? said.map((p) => ({ ...p, where: `${recipe.name}: ${p.where}` })) : said
    const held = made.filter((m) => m.files && !goes.includes(m)).length
    // a crowd is whole: one that cannot leave as something holds all back; of a figure by itself the rest goes
    if (crowd ? goes.length < made.length : goes.length === 0)
      return stayed(here, crowd ? held + goes.length === made.length : held > 0)
    problems.push(...here)
    withheld ||= held > 0
    const folder = folderPath(settings.folders, { ...fill, name: recipe.name, number: i + 1 })
    const own = new Map(goes.flatMap((m) => [...m.files!].map(([name, bytes]) => [folder + name, bytes] as const)))
    const taken = [...own.keys()].find((path) => files.has(path))
    if (taken !== undefined) return stayed([namesClash(recipe.name, taken)])
    for (const [path, bytes] of own) files.set(path, bytes)
    const { costs } = goes.find((m) => m.costs)!
    const [file] = own.keys()
    variants.push({ file: file!, recipe, costs: costs! })
    figures.push({
      ...{ file: file!, name: recipe.name, triangles: costs!.triangles, bones: costs!.bones },
      bytes: [...own.values()].reduce((sum, b) => sum + b.length, 0),
    })
    good.push(new Set(goes.flatMap((m) => m.passed)))
  }
  if (!told(recipes.length)) return stayed([CANCELED])
  if (crowd) {
    const folder = folderPath(settings.folders.replaceAll(/\{(?:figure|name|number)\}/g, ''), fill)
    const text = (name: string, content: string) => files.set(folder + name, new TextEncoder().encode(content))
    text('crowd.json', crowdTable(crowd.mix, target, variants, kits))
    text('crowd.csv', crowdCsv(variants))
  }
  return {
    files,
    figures,
    passed: [...(good[0] ?? [])].filter((line) => good.every((g) => g.has(line))),
    problems: once(problems),
    withheld,
  }
}

/** Says of a problem that it kept a format back. */
const inFormat =
  (format: ShipFormat) =>
  (p: Problem): Problem => ({ ...p, where: `${SHIP_FORMATS[format].name}: ${p.where}` })

/** What all figures of a crowd say alike is said once. */
function once(problems: readonly Problem[]): Problem[] {
  return [...new Map(problems.map((p) => [`${p.code} ${p.where} ${p.message}`, p])).values()]
}

export const namesClash = (where: string, path: string): Problem =>
  problem(
    ...(['names-clash', where, `Something else has a file “${path}”.`] as const),
    'Put {number} into the names, or {crowd} or {target} into the folders.',
  )

class Stopped extends Error {}

async function shipPicks(
  picks: Picks,
  target: Target,
  { folders, date }: ShipSettings,
  { kits, shelf, told }: ShipTools,
): Promise<ShippedParcel> {
  const fill = { name: picks.name, target: target.id, crowd: picks.name, date }
  try {
    const { value, problems } = await buildPackage(picks, kits, target, {
      ...{ prover: await loadProver(), shelf },
      progress: (_, done) => {
        if (!told(Math.floor(done * PACKAGE_STEPS))) throw new Stopped()
      },
    })
    if (!value) return stayed(problems)
    const folder = folderPath(folders, fill) || `${fileName('{figure}', fill)}/`
    const files = new Map([...value.files].map(([path, bytes]) => [folder + path, bytes]))
    return { files, figures: [], passed: [], problems, withheld: false }
  } catch (error) {
    if (error instanceof Stopped) return stayed([CANCELED])
    throw error
  }
}
