import { listVersions } from '../../../../db/documents'
import { DOCUMENT_ID, refuse, routeId, routeKind } from '../../../../utils/answers'

/** What a document was with each save, the oldest first, as it was saved then. */
export default defineEventHandler(async (event) => {
  const kind = routeKind(event)
  const texts = await listVersions(kind, routeId(event, 'id', DOCUMENT_ID))
  if (!texts.length) throw refuse(404, 'Not found', `There is no such ${kind}.`)
  setResponseHeader(event, 'content-type', 'application/json')
  return `[${texts.join(',')}]`
})
