import type { StandingFigure } from './Figure.ts'
import { blobsAt, medianOf, type Blob } from './slices.ts'
import { legEvidence } from './stance.ts'

/** What kind of skeleton a figure needs: two legs; two legs that a robe hides; four legs; none that is known here. */
export type Build = 'biped' | 'robed' | 'quadruped' | 'other'

/** Legs are counted in these slices, as shares of the height. */
const LOW = { from: 0.04, to: 0.2 }
/** On four legs it stands so far from one to the next on a side, and is so long, as shares of its height. */
const FOUR = { apart: 0.22, long: 0.55 }
/** Long necks and legs make it tall: where nearly every slice has two on both sides they may be nearer to each other. */
const CLEAR = { both: 0.75, apart: 0.1, long: 0.45 }
/** On two where so many of the low slices have a pair. */
const TWO = 0.25
/** In a robe it is alike on both sides, and no longer than this share of its height. */
const ROBE = { even: 0.6, long: 0.9 }

/** What kind of skeleton a figure needs that stands. */
export function buildOf({ voxels, low, tall, plane, overlap }: StandingFigure): Build {
  const [counts, apart]: [number[], number[]] = [[], []]
  let both = 0
  for (let y = low + Math.floor(tall * LOW.from); y <= low + tall * LOW.to; y++) {
    const blobs = blobsAt(voxels, y)
    const sides = [blobs.filter((b) => b.minX > plane), blobs.filter((b) => b.maxX < plane)]
    counts.push(Math.max(...sides.map((side) => side.length)))
    if (sides.every((side) => side.length === 2)) both++
    for (const side of sides) if (side.length) apart.push(spread(side))
  }
  const legs = medianOf(counts)
  const long = lengthOf(voxels) / tall
  if (legs >= 3) return 'other'
  const far = medianOf(apart) / tall
  if (legs === 2 && far > FOUR.apart && long > FOUR.long) return 'quadruped'
  if (both > CLEAR.both * counts.length && far > CLEAR.apart && long > CLEAR.long) return 'quadruped'
  if (legEvidence(voxels, plane) > TWO) return 'biped'
  return overlap > ROBE.even && long < ROBE.long ? 'robed' : 'other'
}

/** How far the middles of some patches lie apart from front to back. */
const spread = (blobs: readonly Blob[]) => Math.max(...blobs.map((b) => b.z)) - Math.min(...blobs.map((b) => b.z))

/** How many cells it is long from front to back. */
function lengthOf({ size, solid }: StandingFigure['voxels']): number {
  const level = size[0] * size[1]
  let [min, max] = [Infinity, -Infinity]
  for (let i = 0; i < solid.length; i++) {
    if (!solid[i]) continue
    min = Math.min(min, Math.floor(i / level))
    max = Math.max(max, Math.floor(i / level))
  }
  return max - min + 1
}
