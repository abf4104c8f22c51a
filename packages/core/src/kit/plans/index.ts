import type { BodyPlan } from '../plan.ts'
import { BIPED } from './biped.ts'
import { QUADRUPED } from './quadruped.ts'

/** The body plans that come with the workshop; kits may bring their own. A new one is one file here and one entry. */
export const BODY_PLANS: ReadonlyMap<string, BodyPlan> = new Map([BIPED, QUADRUPED].map((plan) => [plan.id, plan]))
