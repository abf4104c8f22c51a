import { Type } from '@sinclair/typebox'
import { MixSchema, RecipeSchema, TargetSchema } from '@idle-tinker/core'
import { addJob } from '../../db/jobs'
import { turn } from '../../jobs/queue'
import { jsonBody } from '../../utils/answers'

const ShipCrowd = Type.Object(
  {
    name: Type.String({ minLength: 1, maxLength: 80 }),
    recipes: Type.Array(RecipeSchema, { minItems: 1, maxItems: 2000 }),
    mix: Type.Union([MixSchema, Type.Null()]),
    target: TargetSchema,
    pattern: Type.String({ minLength: 1, maxLength: 80 }),
    lods: Type.Boolean(),
  },
  { additionalProperties: false },
)

/** Puts a crowd to ship into the queue. */
export default defineEventHandler(async (event) => {
  const input = await jsonBody(event, ShipCrowd, 16 << 20)
  const id = await addJob('ship-crowd', input, input.recipes.length)
  void turn()
  setResponseStatus(event, 202)
  return { id }
})
