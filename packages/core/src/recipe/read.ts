import { problem, type Read } from '../base/problem.ts'
import { contentHash } from '../base/canonical.ts'
import { parseJson, validate } from '../base/validate.ts'
import type { TSchema, Static } from '@sinclair/typebox'
import { RECIPE_FORMAT, RecipeSchema, TARGET_FORMAT, TargetSchema, type Recipe, type Target } from './schema.ts'

/** Reads a document of one of our formats: right format, a version we know, then its schema. */
export function readDocument<S extends TSchema>(
  schema: S,
  format: string,
  kind: string,
  input: unknown,
  where: string,
): Read<Static<S>> {
  let value = input
  if (typeof input === 'string') {
    const parsed = parseJson(input, where)
    if (parsed.problems.length) return { value: null, problems: parsed.problems }
    value = parsed.value
  }
  const head = value as { format?: unknown; version?: unknown } | null
  if (typeof head !== 'object' || head === null || head.format !== format)
    return {
      value: null,
      problems: [
        problem(
          'format',
          `${where}/format`,
          `This is not a ${kind}: its format is not “${format}”.`,
          `Choose a ${kind} file.`,
        ),
      ],
    }
  if (typeof head.version === 'number' && head.version > 1)
    return {
      value: null,
      problems: [
        problem(
          'newer',
          `${where}/version`,
          `This ${kind} is of version ${head.version}; this workshop reads 1.`,
          'Update the workshop.',
        ),
      ],
    }
  return validate(schema, value, where)
}

export function readRecipe(input: unknown, where = 'recipe'): Read<Recipe> {
  return readDocument(RecipeSchema, RECIPE_FORMAT, 'recipe', input, where)
}

export function readTarget(input: unknown, where = 'target'): Read<Target> {
  return readDocument(TargetSchema, TARGET_FORMAT, 'target', input, where)
}

/** The content hash that names a figure: equal recipes, equal hash. */
export function recipeHash(recipe: Recipe): string {
  return contentHash(recipe)
}
