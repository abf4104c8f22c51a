import { restoreDocument } from '../../../../db/documents'
import { DOCUMENT_ID, refuse, routeId, routeKind, sendDocuments } from '../../../../utils/answers'

export default defineEventHandler(async (event) => {
  const kind = routeKind(event)
  const back = await restoreDocument(kind, routeId(event, 'id', DOCUMENT_ID))
  if (!back) throw refuse(404, 'Not found', `There is no such ${kind}.`)
  return sendDocuments(event, back)
})
