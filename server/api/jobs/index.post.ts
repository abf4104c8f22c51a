import { addJob } from '../../db/jobs'
import { turn } from '../../jobs/queue'
import { ORDER_LIMIT, readBody } from '../../utils/answers'

/** Puts a crowd to ship into the queue. */
export default defineEventHandler(async (event) => {
  const { text, total } = await readBody(event, 'order', { limit: ORDER_LIMIT })
  const id = await addJob('ship-crowd', text, total)
  void turn()
  setResponseStatus(event, 202)
  return { id }
})
