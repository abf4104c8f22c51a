import { restoreFigure } from '../../../db/figures'
import { refuse, routeId, UUID } from '../../../utils/answers'

export default defineEventHandler(async (event) => {
  const figure = await restoreFigure(routeId(event, 'id', UUID))
  if (!figure) throw refuse(404, 'Not found', 'There is no such figure.')
  return figure
})
