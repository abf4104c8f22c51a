import { deleteTarget, listTargets } from '../../db/targets'
import { KIT_ID, refuse, routeId } from '../../utils/answers'

export default defineEventHandler(async (event) => {
  const id = routeId(event, 'id', KIT_ID)
  const targets = await listTargets()
  if (targets.length === 1 && targets[0]!.id === id)
    throw refuse(409, 'The last one', 'This is the only target; figures need one to be measured against.')
  if (!(await deleteTarget(id))) throw refuse(404, 'Not found', 'There is no such target.')
  setResponseStatus(event, 204)
  return null
})
