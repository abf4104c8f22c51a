import { readdirSync, readFileSync } from 'node:fs'
import { join, relative, sep } from 'node:path'
import { fileURLToPath } from 'node:url'
import type { PreparedBody } from '../body/PreparedBody.ts'
import { activeDeltas, applyDeltas } from '../body/shapeBody.ts'
import type { Kit } from '../kit/Kit.ts'
import { readKit } from '../kit/readKit.ts'
import { newRecipe, partReference } from '../recipe/defaults.ts'
import { setPart } from '../recipe/edits.ts'
import { readTarget } from '../recipe/read.ts'
import type { ResolvedPart } from '../recipe/resolve.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Target } from '../recipe/target.ts'

export const KITS_FOLDER = fileURLToPath(new URL('../../../../kits', import.meta.url))

/** A kit's files from disk; only tests may touch the disk here. */
export function kitFiles(id: string): Map<string, Uint8Array> {
  const root = join(KITS_FOLDER, id)
  const files = new Map<string, Uint8Array>()
  for (const entry of readdirSync(root, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile()) continue
    const path = join(entry.parentPath, entry.name)
    files.set(relative(root, path).split(sep).join('/'), new Uint8Array(readFileSync(path)))
  }
  return files
}

type DemoKit = 'saltwick-folk' | 'tide-creatures'

/** A kit read from its files: nothing that was worked out from it before is remembered. */
export async function readDemoKit(id: DemoKit): Promise<Kit> {
  const { value } = await readKit(kitFiles(id))
  return value!
}

const kits = new Map<DemoKit, Promise<Kit>>()

/** A kit as every test of this worker shares it, with what was worked out from it; which bodies and parts it lists is its own. */
export async function demoKit(id: DemoKit): Promise<Kit> {
  let shared = kits.get(id)
  if (!shared) kits.set(id, (shared = readDemoKit(id)))
  const { bodies, parts, ...kit } = await shared
  return { ...kit, bodies: new Map(bodies), parts: new Map(parts) }
}

/** A target of the demo scenario, from its document. */
export function demoTarget(id: string): Target {
  const text = readFileSync(join(KITS_FOLDER, 'lantern-tide', `${id}.target.json`), 'utf8')
  return readTarget(text, id).value!
}

/** The targets of the demo scenario, the finest first. */
export const TARGETS: readonly Target[] = ['near', 'standard', 'crowd', 'far'].map(demoTarget)

/** Puts a part of a kit into its slot. */
export function wear(recipe: Recipe, kit: Kit, id: string): Recipe {
  return setPart(recipe, kit.parts.get(id)!.def.slot, partReference(kit, id))
}

/** A recipe with these parts on. */
export function dressed(kit: Kit, body: string, parts: readonly string[], sliders: Recipe['sliders'] = {}): Recipe {
  const recipe = parts.reduce((r, id) => wear(r, kit, id), newRecipe(kit, body, 'Test figure'))
  return { ...recipe, sliders }
}

export const MAREN = [
  'hair-braid',
  'shirt-work',
  'coat-quay',
  'trousers',
  'boots-sea',
  'hat-brimmed',
  'ledger',
] as const

/** Parts of a kit as a recipe resolves them, each in its slot. */
export function instances(kit: Kit, ids: readonly string[]): ResolvedPart[] {
  return ids.map((id) => {
    const part = kit.parts.get(id)!
    return { instance: part.def.slot, slot: part.def.slot, part }
  })
}

/** A body shaped by sliders, and the deltas that did it. */
export function shapeOf(body: PreparedBody, sliders: Recipe['sliders']) {
  const active = activeDeltas(body, sliders)
  const positions = new Float32Array(body.model.mesh.positions.length)
  applyDeltas(body.model.mesh.positions, active, positions)
  return { active, positions }
}
