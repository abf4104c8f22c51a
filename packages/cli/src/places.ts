import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

/** The demo kits and the documents of their scenario. */
export const KITS = join(dirname(fileURLToPath(import.meta.url)), '../../../kits')
export const DOCUMENTS = join(KITS, 'lantern-tide')
