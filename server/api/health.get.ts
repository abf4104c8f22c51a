import { select } from '../db/pool'

/** Whether all of the workshop answers: a database that is away answers for it. */
export default defineEventHandler(async () => {
  await select('SELECT 1')
  return { ok: true }
})
