import { HOPPER } from './hopper.ts'
import { WADER } from './wader.ts'

/** What the creatures on four legs can play. */
export const TIDE_CLIPS = [...WADER, ...HOPPER]
