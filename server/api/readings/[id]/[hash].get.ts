import { findKit, readKitFiles } from '../../../db/kits'
import { theReaders } from '../../../jobs/readers'
import { KIT_ID, refuse, routeId } from '../../../utils/answers'

/** A kit as the server has read it, packed. Its address names the kit's content and the build: it never changes. */
export default defineEventHandler(async (event) => {
  const id = routeId(event, 'id', KIT_ID)
  // what a page takes up must be of its own build: another may know kits otherwise
  if (getQuery(event).by !== useRuntimeConfig(event).app.buildId)
    throw refuse(409, 'Another build', 'The page is of another build of the workshop than the server.')
  const kit = await findKit(id)
  if (!kit || kit.removed || kit.hash !== getRouterParam(event, 'hash'))
    throw refuse(404, 'Not found', 'There is no such kit, or it is another by now.')
  const answer = await theReaders().packKit(kit.hash, () => readKitFiles(id))
  if (!answer) throw refuse(422, 'Not valid', 'The kit takes too long or too much memory to read.')
  // it was replaced while it was read
  if (answer.hash !== kit.hash) throw refuse(404, 'Not found', 'The kit is another by now.')
  setResponseHeaders(event, {
    'content-type': 'application/octet-stream',
    'content-length': answer.packed.byteLength,
    // what was refused may be read by the next build
    'cache-control': answer.whole ? 'private, max-age=31536000, immutable' : 'no-store',
  })
  const { buffer, byteOffset, byteLength } = answer.packed
  return send(event, Buffer.from(buffer, byteOffset, byteLength))
})
