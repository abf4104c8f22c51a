import { deleteFigure } from '../../../db/figures'
import { refuse, routeId, UUID } from '../../../utils/answers'

export default defineEventHandler(async (event) => {
  if (!(await deleteFigure(routeId(event, 'id', UUID)))) throw refuse(404, 'Not found', 'There is no such figure.')
  return { deleted: true }
})
