import { stopJob } from '../../../jobs/queue'
import { refuse, routeId, UUID } from '../../../utils/answers'

export default defineEventHandler(async (event) => {
  const job = await stopJob(routeId(event, 'id', UUID))
  if (!job) throw refuse(404, 'Not found', 'There is no such job.')
  return job
})
