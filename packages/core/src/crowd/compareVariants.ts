import { TWIN_DISTANCE, type Portrait } from './distance.ts'
import { Gallery } from './Gallery.ts'

export interface Likeness {
  /** For each the one most like it; index -1 if it is alone. */
  nearest: { index: number; distance: number }[]
  /** Pairs that look too much alike, nearest first. */
  twins: { a: number; b: number; distance: number }[]
}

/**
 * Compares every variant with every other. O(n²), most pairs given up early.
 *
 * @param weights of the slots, squared, as the portraitist says
 */
export function compareVariants(portraits: readonly Portrait[], weights: readonly number[]): Likeness {
  const gallery = new Gallery(weights)
  for (const portrait of portraits) gallery.hang(portrait)
  const twins: Likeness['twins'] = []
  const nearest = portraits.map(() => ({ index: -1, distance: Infinity }))
  for (let a = 0; a < portraits.length; a++) {
    gallery.seat(portraits[a]!)
    for (let b = a + 1; b < portraits.length; b++) {
      const worthKnowing = Math.max(nearest[a]!.distance, nearest[b]!.distance, TWIN_DISTANCE)
      const d = gallery.distance(b, worthKnowing)
      if (d < nearest[a]!.distance) nearest[a] = { index: b, distance: d }
      if (d < nearest[b]!.distance) nearest[b] = { index: a, distance: d }
      if (d < TWIN_DISTANCE) twins.push({ a, b, distance: d })
    }
  }
  twins.sort((x, y) => x.distance - y.distance || x.a - y.a)
  return { nearest, twins }
}
