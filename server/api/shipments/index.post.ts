import { addJob } from '../../db/jobs'
import { listKits } from '../../db/kits'
import { turn } from '../../jobs/queue'
import { withKits } from '../../jobs/shipmentOrder'
import { ORDER_LIMIT, readBody } from '../../utils/answers'

/** Puts a shipment into the queue. */
export default defineEventHandler(async (event) => {
  const { text, total, about } = await readBody(event, 'shipment', { limit: ORDER_LIMIT })
  const id = await addJob('ship', text, total, withKits(about, await listKits()))
  void turn()
  setResponseStatus(event, 202)
  return { id }
})
