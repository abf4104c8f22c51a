import { preparedShelf } from '../utils/prepared'
import { refuse } from '../utils/answers'

/** The shelf that ships with the demo kits. */
export default defineEventHandler(async (event) => {
  const shelf = await preparedShelf()
  if (!shelf) throw refuse(404, 'Not found', 'No shelf ships with these kits.')
  setResponseHeaders(event, { 'content-type': 'application/octet-stream', 'cache-control': 'no-cache' })
  return Buffer.from(shelf)
})
