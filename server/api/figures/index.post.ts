import { RecipeSchema } from '@idle-tinker/core'
import { addFigure } from '../../db/figures'
import { jsonBody } from '../../utils/answers'

export default defineEventHandler(async (event) => {
  const figure = await addFigure(await jsonBody(event, RecipeSchema))
  setResponseStatus(event, 201)
  return figure
})
