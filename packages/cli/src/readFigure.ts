import { hasErrors, openFigure, type Kit, type Read, type Recipe, type Target } from '@idle-tinker/core'
import { readBytes, readKitFolders } from './files.ts'
import { findTarget } from './findTarget.ts'

export interface FigureOptions {
  target: string
  kits: string[]
}

/** What a figure is built from: its recipe, or the one in a GLB shipped from here, its target, and the kits. */
export async function readFigure(
  input: string,
  options: FigureOptions,
): Promise<Read<{ recipe: Recipe; target: Target; kits: Map<string, Kit> }>> {
  const bytes = await readBytes(input)
  if (!bytes.value) return { value: null, problems: bytes.problems }
  const target = await findTarget(options.target, options.kits)
  const { kits, problems } = await readKitFolders(options.kits)
  if (hasErrors(problems)) return { value: null, problems }
  const recipe = await openFigure(bytes.value, kits, input)
  if (!recipe.value || !target.value)
    return { value: null, problems: [...problems, ...recipe.problems, ...target.problems] }
  return { value: { recipe: recipe.value, target: target.value, kits }, problems }
}
