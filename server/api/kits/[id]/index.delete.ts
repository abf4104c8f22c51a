import { removeKit } from '../../../db/kits'
import { KIT_ID, refuse, routeId } from '../../../utils/answers'

/** Takes a kit out. Figures and mixes made from it stay, and are whole again when the kit comes back. */
export default defineEventHandler(async (event) => {
  if (!(await removeKit(routeId(event, 'id', KIT_ID)))) throw refuse(404, 'Not found', 'There is no such kit.')
  setResponseStatus(event, 204)
  return null
})
