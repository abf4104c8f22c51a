import { getJob, type JobRow } from '../../../db/jobs'
import { jobEvents } from '../../../jobs/queue'
import { refuse, routeId, UUID } from '../../../utils/answers'

const over = (job: JobRow) => job.state === 'done' || job.state === 'failed' || job.state === 'canceled'

/** Progress as server-sent events; closes when the job is over. */
export default defineEventHandler(async (event) => {
  const id = routeId(event, 'id', UUID)
  // before anything is opened or listened to
  if (!(await getJob(id))) throw refuse(404, 'Not found', 'There is no such job.')
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
  // asked for once more, as it may have gone on in between; what cannot be told now is told when the browser
  // asks again, which it does of a stream that is closed
  void getJob(id).then(
    (now) => (now ? push(now) : stream.close()),
    () => stream.close(),
  )
  return stream.send()
})
