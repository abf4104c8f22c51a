/** Where on the dial: angle in turns clockwise from the top, and how far out, 0 to 1. */
export interface DialPlace {
  turn: number
  strength: number
}

/** How near a mood the hand must come to be taken as meaning it alone, as a share of the way to the next. */
const CATCH = 0.14
/** So near the middle the face is at rest. */
const STILL = 0.06

/** The place on the dial of a point from its middle, in shares of its radius, y downwards. */
export function placeAt(x: number, y: number): DialPlace {
  const turn = (Math.atan2(x, -y) / (2 * Math.PI) + 1) % 1
  const out = Math.min(1, Math.hypot(x, y))
  return { turn, strength: out < STILL ? 0 : out }
}

/** Which of so many moods around the dial play at a place, and how much: one, or two neighbours. */
export function sharesAt({ turn, strength }: DialPlace, count: number): { index: number; share: number }[] {
  if (strength === 0 || count === 0) return []
  const at = turn * count
  const between = at - Math.floor(at)
  // near a mood it is that one; what is left of the way is stretched over the rest
  const t = Math.min(1, Math.max(0, (between - CATCH) / (1 - 2 * CATCH)))
  const first = Math.floor(at) % count
  return [
    { index: first, share: (1 - t) * strength },
    { index: (first + 1) % count, share: t * strength },
  ].filter(({ share }) => share > 0)
}

/** The point of a place, from the middle, in shares of the radius, y downwards. */
export function pointOf({ turn, strength }: DialPlace): { x: number; y: number } {
  const a = turn * 2 * Math.PI
  return { x: Math.sin(a) * strength, y: -Math.cos(a) * strength }
}

/**
 * The place on the dial at which moods play so: the way back of `sharesAt`; null where they are no two neighbours.
 *
 * @param shares of each mood around the dial
 */
export function placeOf(shares: readonly number[]): DialPlace | null {
  const count = shares.length
  const there = shares.flatMap((share, index) => (share > 0 ? [index] : []))
  if (there.length === 0) return { turn: 0, strength: 0 }
  const [a, b = a] = there as [number, number?]
  if (there.length > 2) return null
  if (a === b) return { turn: a / count, strength: Math.min(1, shares[a]!) }
  const first = b - a === 1 ? a : a === 0 && b === count - 1 ? b : null
  if (first === null) return null
  const second = (first + 1) % count
  const strength = shares[first]! + shares[second]!
  if (strength > 1 + 1e-6) return null
  const between = CATCH + (shares[second]! / strength) * (1 - 2 * CATCH)
  return { turn: (first + between) / count, strength: Math.min(1, strength) }
}
