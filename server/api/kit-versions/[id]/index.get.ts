import { findKit, listKitVersions } from '../../../db/kits'
import { KIT_ID, refuse, routeId } from '../../../utils/answers'

/** What a kit was before it was changed or removed, the latest first. */
export default defineEventHandler(async (event) => {
  const id = routeId(event, 'id', KIT_ID)
  if (!(await findKit(id))) throw refuse(404, 'Not found', 'There is no such kit.')
  return listKitVersions(id)
})
