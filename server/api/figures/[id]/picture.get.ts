import { getPicture } from '../../../db/figures'
import { refuse, routeId, UUID } from '../../../utils/answers'

export default defineEventHandler(async (event) => {
  const png = await getPicture(routeId(event, 'id', UUID))
  if (!png) throw refuse(404, 'Not found', 'There is no picture yet.')
  setResponseHeaders(event, { 'content-type': 'image/png', 'cache-control': 'no-cache' })
  return png
})
