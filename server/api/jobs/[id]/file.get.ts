import { getBlob } from '../../../db/blobs'
import { getJob } from '../../../db/jobs'
import { refuse, routeId, UUID } from '../../../utils/answers'

export default defineEventHandler(async (event) => {
  const job = await getJob(routeId(event, 'id', UUID))
  const bytes = job?.resultHash ? await getBlob(job.resultHash) : null
  if (!bytes) throw refuse(404, 'Not found', 'The job has no file yet.')
  setResponseHeaders(event, {
    'content-type': 'application/zip',
    'content-disposition': 'attachment; filename="crowd.zip"',
  })
  return bytes
})
