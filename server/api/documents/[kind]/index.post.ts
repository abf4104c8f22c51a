import { addDocument } from '../../../db/documents'
import { readBody, refuse, routeKind, sendDocuments } from '../../../utils/answers'
import { KINDS } from '../../../utils/kinds'

export default defineEventHandler(async (event) => {
  const kind = routeKind(event)
  const { limit } = KINDS[kind]
  const added = await addDocument(kind, await readBody(event, 'document', { kind, limit }))
  if (!added) throw refuse(409, 'There already', `There is a ${kind} of this id already. Nothing was overwritten.`)
  setResponseStatus(event, 201)
  return sendDocuments(event, added)
})
