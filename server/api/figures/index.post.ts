import { Type } from '@sinclair/typebox'
import { readRecipe } from '@idle-tinker/core'
import { addFigure } from '../../db/figures'
import { accepted, jsonBody } from '../../utils/answers'

export default defineEventHandler(async (event) => {
  const figure = await addFigure(accepted(readRecipe(await jsonBody(event, Type.Unknown()), 'body')))
  setResponseStatus(event, 201)
  return figure
})
