import { putBlob } from '../../db/blobs'
import { addDoneJob } from '../../db/jobs'
import { listKits } from '../../db/kits'
import { withKits } from '../../jobs/shipmentOrder'
import { KIT_LIMIT, readBody } from '../../utils/answers'

/** Keeps a shipment that was made in the browser, with its file. */
export default defineEventHandler(async (event) => {
  const { text, total, about, bytes, report } = await readBody(event, 'keptShipment', { limit: KIT_LIMIT })
  const hash = await putBlob(bytes)
  const id = await addDoneJob('ship', text, { total, about: withKits(about, await listKits()), result: report, hash })
  setResponseStatus(event, 201)
  return { id }
})
