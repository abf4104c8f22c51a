import type { ClipDef } from '@idle-tinker/core'
import { BASIC } from './basic.ts'
import { FOUR_LEGS } from './fourLegs.ts'
import { GAITS } from './gaits.ts'
import { LEAPS } from './leaps.ts'
import { RESTING } from './resting.ts'
import { STANDING } from './standing.ts'
import { WORK } from './work.ts'

/** What every figure on two legs can play. All but the first two go along only where a target asks for them. */
export { FOUR_LEGS }
export const CLIPS: ClipDef[] = [...BASIC, ...GAITS, ...STANDING, ...WORK, ...RESTING, ...LEAPS]
