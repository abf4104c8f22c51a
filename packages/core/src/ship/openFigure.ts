import { hasErrors, problem, type Read } from '../base/problem.ts'
import { readRecipe } from '../recipe/read.ts'
import { resolveRecipe, type Kits } from '../recipe/resolve.ts'
import type { Recipe } from '../recipe/schema.ts'
import { checkShipped } from './checkShipped.ts'
import { colladaSays } from './colladaSays.ts'
import { EXTRAS_KEY, type FileExtras } from './extras.ts'

/** What a binary glTF file begins with. */
const GLB_MAGIC = [0x67, 0x6c, 0x54, 0x46]

/**
 * The figure in a file: a recipe document, or a GLB, VRM, glTF or COLLADA shipped from here, which carries its recipe.
 * A recipe that these kits cannot build is told as problems, and no figure is returned.
 */
export async function openFigure(bytes: Uint8Array, kits: Kits, where = 'file'): Promise<Read<Recipe>> {
  const read = await readFile(bytes, where)
  if (!read.value) return read
  const { problems } = resolveRecipe(read.value, kits)
  return hasErrors(problems) ? { value: null, problems } : { value: read.value, problems }
}

async function readFile(bytes: Uint8Array, where: string): Promise<Read<Recipe>> {
  if (bytes.length === 0)
    return {
      value: null,
      problems: [problem('file-empty', where, 'The file is empty (0 bytes).', 'Choose another file.')],
    }
  if (!GLB_MAGIC.every((byte, i) => bytes[i] === byte)) return readText(new TextDecoder().decode(bytes), where)
  const { facts, problems } = await checkShipped(bytes, where)
  if (facts?.recipe) return { value: facts.recipe, problems: [] }
  // of a file that is whole, only the missing recipe stands in the way
  const reason = facts ? problems.filter((p) => p.code === 'recipe') : problems
  return { value: null, problems: reason }
}

function readText(text: string, where: string): Read<Recipe> {
  if (/^\uFEFF?\s*</.test(text)) return fromExtras(colladaSays(text)?.extras, where)
  // glTF as text holds the same as binary glTF; a recipe has no asset
  const inside = /"asset"/.test(text) ? inGltf(text) : undefined
  return inside === undefined ? readRecipe(text, where) : fromExtras(inside, where)
}

function fromExtras(extras: unknown, where: string): Read<Recipe> {
  const recipe = (extras as Partial<FileExtras> | null | undefined)?.recipe
  if (recipe) return readRecipe(recipe, `${where}/recipe`)
  const remedy = 'Only files shipped from here can be opened as figures.'
  return { value: null, problems: [problem('recipe', where, 'There is no readable recipe in the file.', remedy)] }
}

function inGltf(text: string): unknown {
  try {
    const json = JSON.parse(text) as { asset?: { extras?: Record<string, unknown> } }
    return json.asset ? (json.asset.extras?.[EXTRAS_KEY] ?? null) : undefined
  } catch {
    // what is no JSON is told by whoever reads it as a recipe
    return undefined
  }
}
