import { getDocument, saveDocument } from '../../../../db/documents'
import { DOCUMENT_ID, readBody, refuse, routeId, routeKind, sendDocuments } from '../../../../utils/answers'
import { KINDS } from '../../../../utils/kinds'

export default defineEventHandler(async (event) => {
  const kind = routeKind(event)
  const id = routeId(event, 'id', DOCUMENT_ID)
  const { id: own, ...save } = await readBody(event, 'save', { kind, limit: KINDS[kind].limit })
  if (own !== null && own !== id) throw refuse(422, 'Not valid', `The ${kind} has another id than the address.`)
  const saved = await saveDocument(kind, id, save)
  if (saved) return sendDocuments(event, saved)
  const now = await getDocument(kind, id)
  if (!now) throw refuse(404, 'Not found', `There is no such ${kind}; it may have been deleted.`)
  throw refuse(
    409,
    'Changed elsewhere',
    `Another window has saved version ${now.version} of this ${kind}; yours was ${save.version}. Nothing was overwritten.`,
  )
})
