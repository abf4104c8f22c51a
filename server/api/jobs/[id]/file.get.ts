import { getJob } from '../../../db/jobs'
import { refuse, routeId, sendBlob, UUID } from '../../../utils/answers'

export default defineEventHandler(async (event) => {
  const job = await getJob(routeId(event, 'id', UUID))
  if (!job?.resultHash) throw refuse(404, 'Not found', 'The job has no file yet.')
  const about = job.about as { file?: string } | null
  const name = about?.file ?? 'crowd.zip'
  setResponseHeaders(event, {
    'content-type': name.endsWith('.zip') ? 'application/zip' : 'application/octet-stream',
    'content-disposition': `attachment; filename="${name}"`,
  })
  return sendBlob(event, job.resultHash)
})
