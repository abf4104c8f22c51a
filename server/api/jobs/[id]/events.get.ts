import { getJob, type JobRow } from '../../../db/jobs'
import { jobEvents } from '../../../jobs/queue'
import { refuse, routeId, UUID } from '../../../utils/answers'

const over = (job: JobRow) => job.state === 'done' || job.state === 'failed' || job.state === 'canceled'

/** Progress as server-sent events; closes when the job is over. */
export default defineEventHandler(async (event) => {
  const id = routeId(event, 'id', UUID)
  const stream = createEventStream(event)
  const push = async (job: JobRow) => {
    await stream.push(JSON.stringify(job))
    if (over(job)) await stream.close()
  }
  const listener = (job: JobRow) => void push(job)
  jobEvents.on(id, listener)
  stream.onClosed(async () => {
    jobEvents.off(id, listener)
    await stream.close()
  })
  const now = await getJob(id)
  if (!now) {
    jobEvents.off(id, listener)
    throw refuse(404, 'Not found', 'There is no such job.')
  }
  void push(now)
  return stream.send()
})
