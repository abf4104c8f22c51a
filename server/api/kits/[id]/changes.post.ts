import { findKit, putKit, readKitFiles } from '../../../db/kits'
import { theReaders } from '../../../jobs/readers'
import { bodyBytes, KIT_ID, KIT_LIMIT, refuse, routeId } from '../../../utils/answers'

/**
 * Changes some files of a kit: a zip of kit.json and of those that are new. `If-Match` names the kit it was made
 * from by its hash. What the kit was is kept as a version.
 */
export default defineEventHandler(async (event) => {
  const id = routeId(event, 'id', KIT_ID)
  const there = await findKit(id)
  if (!there || there.removed) throw refuse(404, 'Not found', 'There is no such kit.')
  const over = (getRequestHeader(event, 'if-match') ?? '').replaceAll('"', '')
  if (!over) throw refuse(428, 'Which one', 'Say with If-Match which state of the kit it was made from.')
  const moved = () =>
    refuse(409, 'Changed meanwhile', 'The kit has been changed in another window. Nothing was saved: look at it first.')
  if (over !== there.hash) throw moved()
  const files = await readKitFiles(id)
  const { kit, problems } = await theReaders().openKit(await bodyBytes(event, KIT_LIMIT), files)
  if (!kit) throw refuse(422, 'Not a kit', `It cannot be saved so. ${problems[0]?.message ?? ''}`.trim(), problems)
  if (kit.id !== id)
    throw refuse(422, 'Another id', `A kit keeps its id, which is “${id}”: figures know it by that.`, problems)
  if (kit.hash !== over) {
    const { name, kitVersion, hash } = kit
    if (!(await putKit({ id, name, kitVersion, hash, origin: 'own' }, kit.files, over))) throw moved()
  }
  return { id, hash: kit.hash, problems }
})
