/**
 * How one key goes over into the next: evenly; slowly off and slowly on; slowly off; slowly on; through, without stopping
 * at keys on the way; or not at all until it is there.
 */
export const EASES = ['even', 'soft', 'start', 'end', 'flow', 'hold'] as const
export type Ease = (typeof EASES)[number]

/** How far it is on its way, 0 to 1, after a share of the time. `flow` is a matter of more keys than two: its time is even. */
export function eased(ease: Ease, share: number): number {
  if (ease === 'hold') return share < 1 ? 0 : 1
  // cubic, as the trade's curves are
  if (ease === 'start') return share ** 3
  if (ease === 'end') return 1 - (1 - share) ** 3
  if (ease === 'soft') return share * share * (3 - 2 * share)
  return share
}

/** Where a time lies among keys. */
export interface Between {
  /** Numbers of the key it comes from and of the one it goes to, equal where nothing moves; and of those around them. */
  from: number
  to: number
  before: number
  after: number
  /** Of the time between them, 0 to 1. */
  share: number
  /** Seconds from key to key: to the first, between, and after the second. */
  spans: readonly [number, number, number]
}

/**
 * Where a time lies among keys; before the first and after the last one of what does not go round, nothing moves.
 *
 * @param keys at least one, by time
 */
export function betweenKeys(
  keys: readonly { at: number }[],
  time: number,
  { loop, duration }: { loop: boolean; duration: number },
): Between {
  const n = keys.length
  const still = (k: number): Between => ({ from: k, to: k, before: k, after: k, share: 0, spans: [1, 1, 1] })
  if (n === 1) return still(0)
  const t = loop ? time - Math.floor(time / duration) * duration : time
  let from = -1
  while (from < n - 1 && keys[from + 1]!.at <= t) from++
  if (!loop && from < 0) return still(0)
  if (!loop && from === n - 1) return still(n - 1)
  // beyond the ends of what goes round are its other end's keys, a round earlier or later
  const at = (k: number) => {
    const round = Math.floor(k / n)
    return keys[k - round * n]!.at + round * duration
  }
  const number = (k: number) => (loop ? ((k % n) + n) % n : Math.min(n - 1, Math.max(0, k)))
  const timeOf = (k: number) => (loop ? at(k) : keys[number(k)]!.at)
  const span = (k: number) => timeOf(k + 1) - timeOf(k)
  return {
    ...{ from: number(from), to: number(from + 1), before: number(from - 1), after: number(from + 2) },
    // the last key may be where the first one comes round
    share: span(from) > 0 ? Math.min(1, Math.max(0, (t - timeOf(from)) / span(from))) : 0,
    spans: [span(from - 1), span(from), span(from + 1)],
  }
}

/**
 * Shares of four keys' values on a Catmull-Rom spline (1974) over uneven spacing, from the second to the third; where there
 * is no key before or after, it comes to rest.
 */
export function flowing({ share: s, spans: [first, span, last] }: Between): [number, number, number, number] {
  const [s2, s3] = [s * s, s * s * s]
  const [m1, m2] = [s3 - 2 * s2 + s, s3 - s2]
  // a tangent is the way from the key before to the one after, over the time that takes
  const leave = first > 0 ? span / (first + span) : 0
  const arrive = last > 0 ? span / (span + last) : 0
  return [-m1 * leave, 2 * s3 - 3 * s2 + 1 - m2 * arrive, 3 * s2 - 2 * s3 + m1 * leave, m2 * arrive]
}
