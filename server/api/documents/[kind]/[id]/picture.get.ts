import { getPicture } from '../../../../db/documents'
import { DOCUMENT_ID, refuse, routeId, routeKind } from '../../../../utils/answers'

export default defineEventHandler(async (event) => {
  const png = await getPicture(routeKind(event), routeId(event, 'id', DOCUMENT_ID))
  if (!png) throw refuse(404, 'Not found', 'There is no picture yet.')
  setResponseHeaders(event, { 'content-type': 'image/png', 'cache-control': 'no-cache' })
  return png
})
