import { getJob } from '../../../db/jobs'
import { refuse, routeId, sendBlob, UUID } from '../../../utils/answers'

export default defineEventHandler(async (event) => {
  const job = await getJob(routeId(event, 'id', UUID))
  if (!job?.resultHash) throw refuse(404, 'Not found', 'The job has no file yet.')
  setResponseHeaders(event, {
    'content-type': 'application/zip',
    'content-disposition': 'attachment; filename="crowd.zip"',
  })
  return sendBlob(event, job.resultHash)
})
