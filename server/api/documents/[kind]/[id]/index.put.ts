import { Type } from '@sinclair/typebox'
import { getDocument, saveDocument } from '../../../../db/documents'
import { accepted, DOCUMENT_ID, jsonBody, refuse, routeId, routeKind } from '../../../../utils/answers'
import { KINDS, type Contents, type Kind } from '../../../../utils/kinds'

const Token = Type.String({ pattern: '^[0-9a-f-]{36}$' })
const Body = Type.Object(
  {
    version: Type.Integer({ minimum: 1 }),
    content: Type.Unknown(),
    token: Token,
    after: Type.Array(Token, { maxItems: 50 }),
  },
  { additionalProperties: false },
)

export default defineEventHandler(async (event) => {
  const kind = routeKind(event)
  const id = routeId(event, 'id', DOCUMENT_ID)
  const { read, limit } = KINDS[kind]
  const body = await jsonBody(event, Body, limit)
  const content = accepted<Contents[Kind]>(read(body.content, 'body/content'))
  if ('id' in content && content.id !== id)
    throw refuse(422, 'Not valid', `The ${kind} has another id than the address.`)
  const saved = await saveDocument(kind, id, { ...body, content })
  if (saved) return saved
  const now = await getDocument(kind, id)
  if (!now) throw refuse(404, 'Not found', `There is no such ${kind}; it may have been deleted.`)
  throw refuse(
    409,
    'Changed elsewhere',
    `Another window has saved version ${now.version} of this ${kind}; yours was ${body.version}. Nothing was overwritten.`,
  )
})
