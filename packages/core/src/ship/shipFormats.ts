import type { Builder, Figure } from '../build.ts'
import type { Problem, Read } from '../base/problem.ts'
import type { Clip } from '../motion/Clip.ts'
import type { Kits } from '../recipe/resolve.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Target } from '../recipe/target.ts'
import { splitGlb } from '../scene/splitGlb.ts'
import { checkShipped } from './checkShipped.ts'
import { prepare, type Prepared } from './prepare.ts'
import { calledIn, shipPrepared, withoutEstimates } from './shipFigure.ts'
import { vrmTarget, writeVrm } from './writeVrm.ts'
import { writeBvh } from './writeBvh.ts'
import { writeCollada } from './writeCollada.ts'
import { writeObj } from './writeObj.ts'

type Files = Map<string, Uint8Array>

/** A kind of file a figure can leave as. */
interface FormatOf {
  name: string
  /** The target by which a figure is prepared for it; the target itself if not said. */
  target?: (target: Target) => Target
  /** Problems are those of the files alone. */
  write: (prepared: Prepared, stem: string) => Promise<Read<Files>> | Read<Files>
  /** Whether these say what the figure costs: that was estimated before. */
  measures?: true
}

/** Every format a figure can leave as; a new one is added here. */
export const SHIP_FORMATS = {
  glb: {
    name: 'Binary glTF 2.0',
    measures: true,
    write: async (prepared, stem) => {
      const { bytes, problems } = await shipPrepared(prepared)
      return { value: new Map([[`${stem}.glb`, bytes]]), problems }
    },
  },
  gltf: {
    name: 'glTF 2.0 with its files',
    measures: true,
    write: async (prepared, stem) => {
      const { bytes, problems } = await shipPrepared(prepared)
      return { value: splitGlb(bytes, stem), problems }
    },
  },
  vrm: {
    name: 'VRM 1.0',
    target: vrmTarget,
    write: async (prepared, stem) => {
      const { value: bytes, problems } = writeVrm(prepared)
      if (!bytes) return { value: null, problems }
      const check = await checkShipped(bytes, prepared.recipe.name, {
        called: calledIn(prepared),
        target: prepared.target,
      })
      return { value: new Map([[`${stem}.vrm`, bytes]]), problems: [...problems, ...check.problems] }
    },
  },
  obj: {
    name: 'OBJ with MTL and PNG',
    write: ({ leaving, target }, stem) => writeObj(leaving, stem, target.convention),
  },
  dae: { name: 'COLLADA 1.4.1', write: writeCollada },
  bvh: { name: 'BVH, a file for each clip', write: writeBvh },
} satisfies Record<string, FormatOf>

export type ShipFormat = keyof typeof SHIP_FORMATS

/** What came of one format: its files by name, or none, and why. */
export interface ShippedAs {
  format: ShipFormat
  files: Files | null
  problems: Problem[]
}

/**
 * Builds a figure within its target and writes it in several formats, standing, called and counted as the target has it.
 *
 * @param options.stem  what files are called, without endings; see `fileName`
 * @param options.clips which clips go with it; those of its kit that the target wants where nothing is said
 */
export async function shipFormats(
  builder: Builder,
  kits: Kits,
  recipe: Recipe,
  target: Target,
  formats: readonly ShipFormat[],
  { lods, stem, clips }: { lods: boolean; stem: string; clips?: (figure: Figure, target: Target) => Clip[] },
): Promise<ShippedAs[]> {
  const shipped: ShippedAs[] = []
  // formats for the same target share what was made ready
  const ready = new Map<FormatOf['target'], Awaited<ReturnType<typeof prepare>>>()
  for (const format of new Set(formats)) {
    const as: FormatOf = SHIP_FORMATS[format]
    const own = as.target?.(target) ?? target
    const made =
      ready.get(as.target) ??
      (await prepare(builder, kits, recipe, own, {
        lods: lods && own.lods.length > 0,
        ...(clips && { clips: (figure) => clips(figure, own) }),
      }))
    ready.set(as.target, made)
    const { prepared, problems } = made
    if (!prepared) {
      shipped.push({ format, files: null, problems: [...problems] })
      continue
    }
    const { value, problems: told } = await as.write(prepared, stem)
    shipped.push({
      format,
      files: value,
      problems: [...(as.measures ? withoutEstimates(problems) : problems), ...told],
    })
  }
  return shipped
}
