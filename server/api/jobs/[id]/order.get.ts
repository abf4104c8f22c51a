import { jobInput } from '../../../db/jobs'
import { refuse, routeId, UUID } from '../../../utils/answers'

/** What a job was asked to do. */
export default defineEventHandler(async (event) => {
  const job = await jobInput(routeId(event, 'id', UUID))
  if (!job) throw refuse(404, 'Not found', 'There is no such job.')
  setResponseHeader(event, 'content-type', 'application/json')
  return job.input
})
