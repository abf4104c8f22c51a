import { RecipeSchema } from '@idle-tinker/core'
import { addFigure } from '../../db/figures'
import { jsonBody } from '../../utils/answers'

export default defineEventHandler(async (event) => addFigure(await jsonBody(event, RecipeSchema)))
