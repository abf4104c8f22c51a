import { Type } from '@sinclair/typebox'
import { readMix } from '@idle-tinker/core'
import { saveMix } from '../../db/mixes'
import { accepted, jsonBody, KIT_ID, MIX_LIMIT, refuse, routeId } from '../../utils/answers'

const Save = Type.Object(
  { version: Type.Integer({ minimum: 1 }), mix: Type.Unknown() },
  { additionalProperties: false },
)

export default defineEventHandler(async (event) => {
  const id = routeId(event, 'id', KIT_ID)
  const { version, mix: document } = await jsonBody(event, Save, MIX_LIMIT)
  const mix = accepted(readMix(document, 'body/mix'))
  if (mix.id !== id) throw refuse(422, 'Not valid', 'The mix has another id than the address.')
  if (!(await saveMix(mix, version)))
    throw refuse(409, 'Changed elsewhere', 'Another window has saved this mix. Nothing was overwritten.')
  return { version: version + 1 }
})
