import { Type } from '@sinclair/typebox'
import { MixSchema } from '@idle-tinker/core'
import { saveMix } from '../../db/mixes'
import { jsonBody, KIT_ID, MIX_LIMIT, refuse, routeId } from '../../utils/answers'

const Save = Type.Object({ version: Type.Integer({ minimum: 1 }), mix: MixSchema }, { additionalProperties: false })

export default defineEventHandler(async (event) => {
  const id = routeId(event, 'id', KIT_ID)
  const { version, mix } = await jsonBody(event, Save, MIX_LIMIT)
  if (mix.id !== id) throw refuse(422, 'Not valid', 'The mix has another id than the address.')
  if (!(await saveMix(mix, version)))
    throw refuse(409, 'Changed elsewhere', 'Another window has saved this mix. Nothing was overwritten.')
  return { version: version + 1 }
})
