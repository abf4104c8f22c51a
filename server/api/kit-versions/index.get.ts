import { listRemovedKits } from '../../db/kits'

/** Kits that were removed and can be brought back. */
export default defineEventHandler(() => listRemovedKits())
