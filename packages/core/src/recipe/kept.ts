import { Type, type Static } from '@sinclair/typebox'
import { readDocument, type DocumentKind } from '../base/readDocument.ts'
import { hasErrors, type Read } from '../base/problem.ts'
import { closed, Name } from '../base/schemas.ts'
import { readRecipe } from './read.ts'
import type { Recipe } from './schema.ts'

export const KEPT_FORMAT = 'idle-tinker-kept'

/** A recipe that is kept as it stood: a snapshot of a figure to go back to, or a look that new figures start from. */
export const KeptSchema = Type.Object(
  {
    format: Type.Literal(KEPT_FORMAT),
    version: Type.Literal(1),
    name: Name,
    purpose: Type.Union([Type.Literal('snapshot'), Type.Literal('look')]),
    /** The figure a snapshot is of, by its id in the workshop. */
    figure: Type.Optional(Type.String({ pattern: '^[0-9a-zA-Z-]{1,64}$' })),
    /** Of any version: read as every recipe is. */
    recipe: Type.Unknown(),
  },
  closed,
)

export type Kept = Omit<Static<typeof KeptSchema>, 'recipe'> & { recipe: Recipe }

export const KEPT_KIND: DocumentKind<typeof KeptSchema> = {
  format: KEPT_FORMAT,
  noun: 'kept recipe',
  schema: KeptSchema,
  older: [],
}

/** Reads a kept recipe of any version, with the recipe in it. */
export function readKept(input: unknown, where = 'kept'): Read<Kept> {
  const read = readDocument(KEPT_KIND, input, where)
  if (!read.value) return { value: null, problems: read.problems }
  const recipe = readRecipe(read.value.recipe, `${where}/recipe`)
  const problems = [...read.problems, ...recipe.problems]
  if (!recipe.value || hasErrors(problems)) return { value: null, problems }
  return { value: { ...read.value, recipe: recipe.value }, problems }
}

export function newSnapshot(figure: string, name: string, recipe: Recipe): Kept {
  return { format: KEPT_FORMAT, version: 1, name, purpose: 'snapshot', figure, recipe }
}

export function newLook(recipe: Recipe): Kept {
  return { format: KEPT_FORMAT, version: 1, name: recipe.name, purpose: 'look', recipe }
}
