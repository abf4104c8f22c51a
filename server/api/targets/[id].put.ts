import { Type } from '@sinclair/typebox'
import { readTarget } from '@idle-tinker/core'
import { saveTarget } from '../../db/targets'
import { accepted, jsonBody, KIT_ID, refuse, routeId } from '../../utils/answers'

const Save = Type.Object(
  { version: Type.Integer({ minimum: 1 }), target: Type.Unknown() },
  { additionalProperties: false },
)

export default defineEventHandler(async (event) => {
  const id = routeId(event, 'id', KIT_ID)
  const { version, target: document } = await jsonBody(event, Save)
  const target = accepted(readTarget(document, 'body/target'))
  if (target.id !== id) throw refuse(422, 'Not valid', 'The target has another id than the address.')
  if (!(await saveTarget(target, version)))
    throw refuse(409, 'Changed elsewhere', 'Another window has saved this target. Nothing was overwritten.')
  return { id, version: version + 1, target }
})
