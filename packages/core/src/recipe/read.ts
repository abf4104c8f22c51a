import { contentHash } from '../base/canonical.ts'
import { problem, type Read } from '../base/problem.ts'
import { readDocument } from '../base/readDocument.ts'
import { RECIPE_KIND, type Recipe } from './schema.ts'
import { TARGET_KIND, type Target } from './target.ts'

/** Reads a recipe of any version. */
export function readRecipe(input: unknown, where = 'recipe'): Read<Recipe> {
  const read = readDocument(RECIPE_KIND, input, where)
  if (!read.value) return read
  const twice = repeatedId(read.value)
  if (twice === undefined) return read
  return {
    value: null,
    problems: [
      problem('id-twice', `${where}/parts`, `Two parts have the id “${twice}”.`, 'Give each instance its own id.'),
    ],
  }
}

function repeatedId({ parts }: Recipe): string | undefined {
  const seen = new Set<string>()
  return parts.find(({ id }) => seen.size === seen.add(id).size)?.id
}

/** Reads a target of any version. */
export function readTarget(input: unknown, where = 'target'): Read<Target> {
  return readDocument(TARGET_KIND, input, where)
}

/** The content hash that names a figure: equal recipes, equal hash. */
export function recipeHash(recipe: Recipe): string {
  return contentHash({ ...recipe, parts: [...recipe.parts].sort((a, b) => (a.id < b.id ? -1 : 1)) })
}
