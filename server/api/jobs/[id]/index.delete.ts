import { forgetJob, getJob } from '../../../db/jobs'
import { refuse, routeId, UUID } from '../../../utils/answers'

/** Forgets a job that is over, and its file. */
export default defineEventHandler(async (event) => {
  const id = routeId(event, 'id', UUID)
  if (!(await getJob(id))) throw refuse(404, 'Not found', 'There is no such job.')
  if (!(await forgetJob(id))) throw refuse(409, 'Under way', 'It is not over yet: cancel it first.')
  setResponseStatus(event, 204)
  return null
})
