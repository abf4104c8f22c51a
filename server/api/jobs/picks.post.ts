import { addJob } from '../../db/jobs'
import { turn } from '../../jobs/queue'
import { ORDER_LIMIT, readBody } from '../../utils/answers'

/** Puts a package of picks to be built into the queue. */
export default defineEventHandler(async (event) => {
  const { text, total } = await readBody(event, 'picksOrder', { limit: ORDER_LIMIT })
  const id = await addJob('build-picks', text, total)
  void turn()
  setResponseStatus(event, 202)
  return { id }
})
