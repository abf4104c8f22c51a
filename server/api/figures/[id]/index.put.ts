import { Type } from '@sinclair/typebox'
import { readRecipe } from '@idle-tinker/core'
import { getFigure, saveFigure } from '../../../db/figures'
import { accepted, jsonBody, refuse, routeId, UUID } from '../../../utils/answers'

const Save = Type.Object(
  { version: Type.Integer({ minimum: 1 }), recipe: Type.Unknown() },
  { additionalProperties: false },
)

export default defineEventHandler(async (event) => {
  const id = routeId(event, 'id', UUID)
  const { version, recipe: document } = await jsonBody(event, Save)
  const recipe = accepted(readRecipe(document, 'body/recipe'))
  const saved = await saveFigure(id, version, recipe)
  if (saved) return saved
  const now = await getFigure(id)
  if (!now) throw refuse(404, 'Not found', 'There is no such figure; it may have been deleted.')
  throw refuse(
    409,
    'Changed elsewhere',
    `Another window has saved version ${now.version}; yours was ${version}. Nothing was overwritten.`,
  )
})
