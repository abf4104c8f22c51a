import { listFigures } from '../../db/figures'

export default defineEventHandler((event) => listFigures(getQuery(event).deleted === 'true'))
