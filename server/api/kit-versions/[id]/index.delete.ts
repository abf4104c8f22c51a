import { forgetKit } from '../../../db/kits'
import { KIT_ID, refuse, routeId } from '../../../utils/answers'

/** Forgets a removed kit for good. */
export default defineEventHandler(async (event) => {
  if (!(await forgetKit(routeId(event, 'id', KIT_ID))))
    throw refuse(404, 'Not found', 'There is no such kit among those that were removed.')
  setResponseStatus(event, 204)
  return null
})
