import { getBlob } from '../../../db/blobs'
import { listKitFiles } from '../../../db/kits'
import { KIT_ID, refuse, routeId } from '../../../utils/answers'

export default defineEventHandler(async (event) => {
  const kit = routeId(event, 'id', KIT_ID)
  const path = routeId(event, 'path', /^[A-Za-z0-9_./-]{1,200}$/)
  const file = (await listKitFiles(kit)).find((f) => f.path === path)
  if (!file) throw refuse(404, 'Not found', 'There is no such file in the kit.')
  const etag = `"${file.hash}"`
  setResponseHeaders(event, {
    etag,
    'cache-control': 'no-cache',
    'content-type': path.endsWith('.json') ? 'application/json' : 'model/gltf-binary',
  })
  if (getRequestHeader(event, 'if-none-match') === etag) {
    setResponseStatus(event, 304)
    return null
  }
  return getBlob(file.hash)
})
