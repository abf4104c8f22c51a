import type { ClipDef } from '@idle-tinker/core'
import type { Curves } from '../../clips/make.ts'

/* How the four-legged creatures move. Lengths in leg lengths, turns in degrees; the left side's curves. */

export const clip = (
  id: string,
  name: string,
  plan: string,
  duration: number,
  curves: Curves,
  more: Partial<ClipDef> = {},
): ClipDef => ({ id, name, plan, duration, loop: true, travel: 0, stance: [0, 1], alternate: false, curves, ...more })

/** What goes along only where it is asked for. */
export const asked = (def: ClipDef): ClipDef => ({ ...def, optional: true })

/** A foot that is rolled off after a share of the loop, and carried forward: how high, and how far tipped. */
export const carried = (foot: string, from: number, lift: number, tip: number): Curves => {
  const at = (share: number) => from + (1 - from) * share
  return {
    [`${foot}Foot.pitch`]: [
      [0, 0],
      [from * 0.8, 0],
      [from, 0],
      [at(0.2), tip * 0.6],
      [at(0.4), tip],
      [at(0.75), tip * 0.4],
      [1, 0],
    ],
    [`${foot}Foot.lift`]: [
      [from, 0],
      [at(0.12), lift * 0.4],
      [at(0.28), lift * 0.75],
      [at(0.52), lift],
      [at(0.8), lift * 0.6],
      [at(0.92), lift * 0.35],
      [1, 0],
    ],
  }
}
