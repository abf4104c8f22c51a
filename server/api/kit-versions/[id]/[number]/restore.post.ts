import { restoreKit } from '../../../../db/kits'
import { KIT_ID, refuse, routeId } from '../../../../utils/answers'

/** Makes a kit again what it was; what it is now becomes a version. */
export default defineEventHandler(async (event) => {
  const id = routeId(event, 'id', KIT_ID)
  if (!(await restoreKit(id, Number(routeId(event, 'number', /^[1-9][0-9]{0,8}$/)))))
    throw refuse(404, 'Not found', 'The kit has no such version.')
  return { id }
})
