import { listDocuments } from '../../../db/documents'
import { routeKind, sendDocuments } from '../../../utils/answers'

export default defineEventHandler(async (event) =>
  sendDocuments(event, await listDocuments(routeKind(event), getQuery(event).deleted === 'true')),
)
