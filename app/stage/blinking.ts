/**
 * How eyes blink by themselves: shut in a moment, open again more slowly, every few seconds, never at one beat.
 * Durations after J. A. Stern, L. C. Walrath and R. Goldstein, The Endogenous Eyeblink, 1984.
 */
const SHUTTING = 75
const SHUT = 40
const OPENING = 150
/** How long a blink takes, ms. */
export const BLINK = SHUTTING + SHUT + OPENING
/** From one to the next, ms. */
const BETWEEN = [2200, 6500] as const

/** How far the lids are shut, 0 to 1, so long after a blink began, ms. */
export function lidsAt(after: number): number {
  const share =
    after < SHUTTING ? after / SHUTTING : after < SHUTTING + SHUT ? 1 : 1 - (after - SHUTTING - SHUT) / OPENING
  const t = Math.min(1, Math.max(0, share))
  return t * t * (3 - 2 * t)
}

/** How long until the next blink, ms. */
export function untilBlink(random: () => number = Math.random): number {
  return BETWEEN[0] + random() * (BETWEEN[1] - BETWEEN[0])
}
