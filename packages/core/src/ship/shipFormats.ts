import type { Builder, Figure } from '../build.ts'
import type { Problem, Read } from '../base/problem.ts'
import type { Clip } from '../motion/Clip.ts'
import type { Kits } from '../recipe/resolve.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Target } from '../recipe/target.ts'
import { splitGlb } from '../scene/splitGlb.ts'
import { overBudget, type Costs } from '../budget/costs.ts'
import { isGlb } from '../scene/readScene.ts'
import { checkFile, isClipAlone, type FileCheck } from './checkFile.ts'
import { checkShipped } from './checkShipped.ts'
import { prepare, type Prepared } from './prepare.ts'
import { calledIn, keysTold, withoutEstimates } from './shipFigure.ts'
import { vrmTarget, writeVrm } from './writeVrm.ts'
import { writeBvh } from './writeBvh.ts'
import { writeCollada } from './writeCollada.ts'
import { gltfTarget } from './writeFigure.ts'
import { writeGltf } from './writeGltf.ts'
import { writeObj } from './writeObj.ts'
import { writePictures } from './writePictures.ts'

type Files = Map<string, Uint8Array>

/** A kind of file a figure can leave as. */
interface FormatOf {
  name: string
  /** What holds it, for a file dialog and for what asks for it. */
  ending: string
  /** It holds clips. */
  moves?: true
  /** The target by which a figure is prepared for it; the target itself if not said. */
  target?: (target: Target) => Target
  write: (prepared: Prepared, stem: string) => Read<Files>
}

/** Every format a figure can leave as; a new one is added here, and in `checkFile`. */
export const SHIP_FORMATS = {
  glb: {
    name: 'Binary glTF 2.0',
    ending: 'glb',
    moves: true,
    target: gltfTarget,
    write: writeGltf,
  },
  gltf: {
    name: 'glTF 2.0 with its files',
    ending: 'gltf',
    moves: true,
    target: gltfTarget,
    write: (prepared, stem) => {
      const { value, problems } = writeGltf(prepared, stem)
      const split = [...value!].flatMap(([name, bytes]) => [...splitGlb(bytes, name.slice(0, -'.glb'.length))])
      return { value: new Map(split), problems }
    },
  },
  vrm: {
    name: 'VRM 1.0',
    ending: 'vrm',
    target: vrmTarget,
    write: (prepared, stem) => {
      const { value, problems } = writeVrm(prepared)
      return { value: value && new Map([[`${stem}.vrm`, value]]), problems }
    },
  },
  obj: {
    name: 'OBJ with MTL and PNG',
    ending: 'obj',
    write: ({ leaving, target }, stem) => writeObj(leaving, stem, target.convention),
  },
  dae: { name: 'COLLADA 1.4.1', ending: 'dae', moves: true, write: writeCollada },
  bvh: { name: 'BVH, a file for each clip', ending: 'bvh', moves: true, write: writeBvh },
  png: {
    name: 'Pictures: its colors, four sides of it, an icon',
    ending: 'png',
    write: (prepared, stem) => ({ value: writePictures(prepared, stem), problems: [] }),
  },
  json: {
    name: 'The recipe, which opens here as the figure',
    ending: 'json',
    write: ({ recipe }, stem) => {
      const text = new TextEncoder().encode(`${JSON.stringify(recipe, null, 2)}\n`)
      return { value: new Map([[`${stem}.recipe.json`, text]]), problems: [] }
    },
  },
} satisfies Record<string, FormatOf>

export type ShipFormat = keyof typeof SHIP_FORMATS

/** What came of one format. */
export interface ShippedAs {
  format: ShipFormat
  /** By name; null where nothing could be written. */
  files: Files | null
  /** What was looked at in its files and found good, in plain words, each once. */
  passed: string[]
  problems: Problem[]
  /** What the figure costs; files are counted as they were written. */
  costs: Costs | null
}

export interface ShipFormatsOptions {
  lods: boolean
  /** What files are called, without endings; see `fileName`. */
  stem: string
  /** Which clips go with it; those of its kit that the target wants where nothing is said. */
  clips?: (figure: Figure, target: Target) => Clip[]
}

/**
 * Builds a figure within its target and writes it in several formats, standing, called and counted as the target has it;
 * every file is read again as an importer would.
 */
export async function shipFormats(
  builder: Builder,
  kits: Kits,
  recipe: Recipe,
  target: Target,
  formats: readonly ShipFormat[],
  { lods, stem, clips }: ShipFormatsOptions,
): Promise<ShippedAs[]> {
  const shipped: ShippedAs[] = []
  // formats for the same target share what was made ready
  const ready = new Map<Target, Awaited<ReturnType<typeof prepare>>>()
  for (const format of new Set(formats)) {
    const as: FormatOf = SHIP_FORMATS[format]
    const own = as.target?.(target) ?? target
    const made =
      ready.get(own) ??
      (await prepare(builder, kits, recipe, own, {
        lods: lods && own.lods.length > 0,
        ...(clips && { clips: (figure) => clips(figure, own) }),
      }))
    ready.set(own, made)
    const { prepared, problems } = made
    if (!prepared) shipped.push({ format, files: null, passed: [], problems, costs: null })
    else shipped.push(await written(format, prepared, problems, stem))
  }
  return shipped
}

async function written(
  format: ShipFormat,
  prepared: Prepared,
  before: readonly Problem[],
  stem: string,
): Promise<ShippedAs> {
  const { built, target, clips } = prepared
  const { ending, moves, write }: FormatOf = SHIP_FORMATS[format]
  const { value: files, problems } = write(prepared, stem)
  if (!files) return { format, files, passed: [], problems: [...before, ...problems], costs: built.costs }
  const checks: FileCheck[] = []
  for (const [name, bytes] of files)
    if (name.endsWith(`.${ending}`)) checks.push(await checkWritten(bytes, name, prepared, files))
  const fileBytes = [...files.values()].reduce((sum, bytes) => sum + bytes.length, 0)
  const costs = { ...built.costs, fileBytes }
  return {
    ...{ format, files, costs },
    passed: [...new Set([...checks.flatMap((c) => c.passed), ...(moves ? keysTold(clips) : [])])],
    problems: [
      ...withoutEstimates(before),
      ...problems,
      // the limit is one of a file: what comes as several is not held to it
      ...overBudget(files.size === 1 ? costs : { ...costs, fileBytes: 0 }, target),
      ...checks.flatMap((c) => c.problems),
    ],
  }
}

/** A file read again: binary glTF by the names it was written with, all else by those of its target. */
async function checkWritten(bytes: Uint8Array, name: string, prepared: Prepared, files: Files): Promise<FileCheck> {
  const { target } = prepared
  if (!isGlb(bytes) || isClipAlone(bytes)) return checkFile(bytes, name, target, (uri) => files.get(uri))
  return checkShipped(bytes, name, { called: calledIn(prepared), target })
}
