import { deleteDocument } from '../../../../db/documents'
import { DOCUMENT_ID, refuse, routeId, routeKind } from '../../../../utils/answers'
import { KINDS } from '../../../../utils/kinds'

export default defineEventHandler(async (event) => {
  const kind = routeKind(event)
  const done = await deleteDocument(kind, routeId(event, 'id', DOCUMENT_ID))
  if (done === 'missing') throw refuse(404, 'Not found', `There is no such ${kind}.`)
  if (done === 'last') throw refuse(409, 'The last one', KINDS[kind].needsOne!)
  setResponseStatus(event, 204)
  return null
})
