import type { StandingFigure } from './Figure.ts'
import { SIDES, type Side } from './landmarks.ts'
import { blobOf, blobsAt, type Blob } from './slices.ts'

export const ENDS = ['Hind', 'Fore'] as const
export type End = (typeof ENDS)[number]

/** One of four legs as it was followed from the ground up, slice by slice; in cells. */
export interface Track {
  side: Side
  end: End
  /** The slice of the first patch. */
  from: number
  blobs: Blob[]
}

/** A slice with two legs a side is looked for so high, as shares of the height. */
const SEED = { from: 0.03, to: 0.3 }
/** From one slice to the next a leg moves by no more than this share of the height, or so many cells, and widens by no more than so many times. */
const ASTRAY = { share: 0.05, least: 1.6 }
const WIDER = 2.2
/** A foot is followed down though it is so many times larger than the leg. */
const FOOT = 6

/**
 * Follows four legs from where they are apart down to the ground and up to where they are one with each other or with what
 * they bear; null where no slice has two a side.
 */
export function findFourLegs(figure: StandingFigure): Track[] | null {
  const { voxels, low, tall, plane } = figure
  const seeds: { y: number; legs: Blob[] }[] = []
  for (let y = low + Math.floor(tall * SEED.from); y <= low + tall * SEED.to; y++) {
    const blobs = blobsAt(voxels, y)
    const legs = ([1, -1] as const).flatMap((side) => {
      // the two largest: what hangs between them may be a tail, or an udder
      const own = blobs.filter((b) => (side === 1 ? b.minX > plane : b.maxX < plane)).slice(0, 2)
      return own.length === 2 ? own.sort((a, b) => a.z - b.z) : []
    })
    if (legs.length === 4) seeds.push({ y, legs })
  }
  const seed = seeds[seeds.length >> 1]
  if (!seed) return null
  const tracks = SIDES.flatMap((side, s) =>
    ENDS.map((end, e): Track => ({ side, end, from: seed.y, blobs: [seed.legs[s * 2 + e]!] })),
  )
  for (let y = seed.y - 1; y >= low; y--)
    for (const [t, next] of stepped(
      figure,
      tracks.map((t) => t.blobs[0]!),
      y,
      FOOT,
    ).entries())
      if (next && tracks[t]!.from === y + 1) {
        tracks[t]!.blobs.unshift(next)
        tracks[t]!.from = y
      }
  for (let y = seed.y + 1; y < low + tall; y++) {
    const ends = tracks.map((t) => t.from + t.blobs.length)
    if (!ends.includes(y)) break
    for (const [t, next] of stepped(
      figure,
      tracks.map((t) => t.blobs.at(-1)!),
      y,
      WIDER,
    ).entries())
      if (next && ends[t] === y) tracks[t]!.blobs.push(next)
  }
  return tracks
}

/** Where each leg goes on in the next slice; null where it is one with what is no leg, or with one ahead or behind. */
function stepped({ voxels, tall, plane }: StandingFigure, before: readonly Blob[], y: number, wider: number) {
  const nx = voxels.size[0]
  const blobs = blobsAt(voxels, y)
  const astray = Math.max(ASTRAY.least, ASTRAY.share * tall)
  const holders = before.map((leg) => {
    const cells = new Set(leg.cells)
    const [best] = blobs
      .map((b) => ({ b, shared: b.cells.reduce((n, c) => n + (cells.has(c) ? 1 : 0), 0) }))
      .sort((p, q) => q.shared - p.shared)
    if (best && best.shared > 0) return best.b
    return blobs.find((b) => Math.hypot(b.x - leg.x, b.z - leg.z) < astray) ?? null
  })
  return before.map((leg, t): Blob | null => {
    const blob = holders[t]
    if (!blob) return null
    const others = holders.flatMap((b, o) => (o !== t && b === blob ? [o] : []))
    // the order is left hind, left fore, right hind, right fore: with its mirror image alone it goes on by itself
    if (others.some((o) => o % 2 !== t % 2)) return null
    const sign = t < 2 ? 1 : -1
    const spans = blob.minX <= plane && blob.maxX >= plane
    const own = spans ? blob.cells.filter((c) => ((c % nx) - plane) * sign > 0) : blob.cells
    if (own.length < 2 || own.length > wider * leg.area + 4) return null
    const part = own.length === blob.area ? blob : blobOf(own, nx)
    return Math.hypot(part.x - leg.x, part.z - leg.z) < astray * (wider === FOOT ? 3 : 1) ? part : null
  })
}
