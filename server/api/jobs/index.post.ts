import { Type } from '@sinclair/typebox'
import { addJob } from '../../db/jobs'
import { turn } from '../../jobs/queue'
import { readShipCrowd } from '../../jobs/shipCrowdInput'
import { accepted, jsonBody } from '../../utils/answers'

const ShipCrowd = Type.Object(
  {
    name: Type.String({ minLength: 1, maxLength: 80 }),
    recipes: Type.Array(Type.Unknown(), { minItems: 1, maxItems: 2000 }),
    mix: Type.Unknown(),
    target: Type.Unknown(),
    pattern: Type.String({ minLength: 1, maxLength: 80 }),
    lods: Type.Boolean(),
  },
  { additionalProperties: false },
)

/** Puts a crowd to ship into the queue. */
export default defineEventHandler(async (event) => {
  const body = await jsonBody(event, ShipCrowd, 16 << 20)
  const input = accepted(readShipCrowd(body, 'body'))
  const id = await addJob('ship-crowd', input, input.recipes.length)
  void turn()
  setResponseStatus(event, 202)
  return { id }
})
