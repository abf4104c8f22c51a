import { kitFileHash } from '../../../db/kits'
import { KIT_ID, refuse, routeId, sendBlob } from '../../../utils/answers'

export default defineEventHandler(async (event) => {
  const kit = routeId(event, 'id', KIT_ID)
  const path = pathOf(event.node.req.url!.split('?')[0]!)
  const hash = await kitFileHash(kit, path)
  if (!hash) throw refuse(404, 'Not found', 'There is no such file in the kit.')
  const etag = `"${hash}"`
  setResponseHeaders(event, {
    etag,
    'cache-control': 'no-cache',
    'content-type': path.endsWith('.json') ? 'application/json' : 'application/octet-stream',
  })
  if (getRequestHeader(event, 'if-none-match') === etag) {
    setResponseStatus(event, 304)
    return null
  }
  return sendBlob(event, hash)
})

/** A kit's files bear any names: what follows the kit in the address as it was sent, decoded once. */
function pathOf(address: string): string {
  try {
    return decodeURIComponent(address.split('/').slice(4).join('/'))
  } catch {
    throw refuse(400, 'Not valid', 'The address is not encoded as addresses are.')
  }
}
