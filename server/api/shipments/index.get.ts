import { listJobs, MOST_SHIPMENTS } from '../../db/jobs'

/** What was shipped and what is about to be, the latest first. */
export default defineEventHandler(() => listJobs('ship', MOST_SHIPMENTS))
