import { listTargets } from '../../db/targets'

export default defineEventHandler(() => listTargets())
