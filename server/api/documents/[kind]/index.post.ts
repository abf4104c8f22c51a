import { Type } from '@sinclair/typebox'
import { addDocument } from '../../../db/documents'
import { accepted, jsonBody, refuse, routeKind } from '../../../utils/answers'
import { KINDS, type Contents, type Kind } from '../../../utils/kinds'

export default defineEventHandler(async (event) => {
  const kind = routeKind(event)
  const { read, limit } = KINDS[kind]
  const content = accepted<Contents[Kind]>(read(await jsonBody(event, Type.Unknown(), limit), 'body'))
  const added = await addDocument(kind, content)
  if (!added) throw refuse(409, 'There already', `There is a ${kind} of this id already. Nothing was overwritten.`)
  setResponseStatus(event, 201)
  return added
})
