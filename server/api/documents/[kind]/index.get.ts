import { listDocuments } from '../../../db/documents'
import { routeKind } from '../../../utils/answers'

export default defineEventHandler((event) => listDocuments(routeKind(event), getQuery(event).deleted === 'true'))
