import { getFigure } from '../../../db/figures'
import { refuse, routeId, UUID } from '../../../utils/answers'

export default defineEventHandler(async (event) => {
  const figure = await getFigure(routeId(event, 'id', UUID))
  if (!figure) throw refuse(404, 'Not found', 'There is no such figure.')
  return figure
})
