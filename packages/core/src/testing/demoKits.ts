import { readdirSync, readFileSync } from 'node:fs'
import { join, relative, sep } from 'node:path'
import { fileURLToPath } from 'node:url'
import { readKit, type Kit } from '../kit/readKit.ts'
import { newRecipe } from '../recipe/defaults.ts'
import type { Recipe } from '../recipe/schema.ts'
import { partReference } from '../recipe/shuffle.ts'

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

export async function demoKit(id: 'saltwick-folk' | 'tide-creatures'): Promise<Kit> {
  const { value } = await readKit(kitFiles(id))
  return value!
}

/** A recipe with these parts on. */
export function dressed(kit: Kit, body: string, parts: readonly string[], sliders: Recipe['sliders'] = {}): Recipe {
  const recipe = newRecipe(kit, body, 'Test figure')
  for (const id of parts) recipe.parts[kit.parts.get(id)!.def.slot] = partReference(kit, id)
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
