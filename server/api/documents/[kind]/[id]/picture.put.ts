import { putPicture } from '../../../../db/documents'
import { bodyBytes, DOCUMENT_ID, refuse, routeId, routeKind } from '../../../../utils/answers'

const PNG = Buffer.from([0x89, 0x50, 0x4e, 0x47])

export default defineEventHandler(async (event) => {
  const kind = routeKind(event)
  const id = routeId(event, 'id', DOCUMENT_ID)
  const png = await bodyBytes(event, 512 << 10)
  if (!PNG.equals(png.subarray(0, 4))) throw refuse(422, 'Not a PNG', 'A picture must be a PNG.')
  if (!(await putPicture(kind, id, png))) throw refuse(404, 'Not found', `There is no such ${kind}.`)
  return { saved: true }
})
