import type { StandingFigure } from './Figure.ts'
import type { Point } from './landmarks.ts'
import { blobOf, blobsAt, clamp, medianOf, type Blob } from './slices.ts'

/** One leg as it was followed upwards, slice by slice from the lowest; in cells. */
export interface LegTrack {
  /** The slice of the first patch. */
  from: number
  blobs: Blob[]
}

export interface FoundLegs {
  left: LegTrack
  right: LegTrack
  /** The slice at which the legs are one, or from which on something hides them. */
  crotch: number
  /** Whether that is the hem of something rather than where the legs part. */
  hidden: boolean
}

/** Legs that are joined are still two while the middle is thinner than this share of them. */
const NOTCH = 0.62
/** Feet may touch below this share of the height. */
const FEET = 0.06
/** Where legs come out from under something, it is so much wider than they stand. */
const HEM = 1.13
/** From one slice to the next a leg moves by no more than this share of the height; where a foot ends it may be more. */
const ASTRAY = { leg: 0.06, foot: 0.16, below: 0.16 }

/** Follows both legs up from the ground until they are one; null where there are no two. */
export function findLegs(figure: StandingFigure): FoundLegs | null {
  const { voxels, low, tall, plane } = figure
  const nx = voxels.size[0]
  const tracks = { left: { from: low, blobs: [] }, right: { from: low, blobs: [] } } as {
    left: LegTrack
    right: LegTrack
  }
  let hidden = false
  for (let y = low; y < low + tall * 0.7; y++) {
    const blobs = blobsAt(voxels, y)
    const found = ([1, -1] as const).map((side) => {
      const track = side === 1 ? tracks.left : tracks.right
      const before = track.blobs.at(-1)
      const halves = blobs.flatMap((b) => {
        const cells = b.cells.filter((c) => ((c % nx) - plane) * side > 0)
        if (cells.length < 2) return []
        const spans = b.minX <= plane && b.maxX >= plane
        return [{ blob: cells.length === b.area ? b : blobOf(cells, nx), joined: spans, whole: b }]
      })
      const near = (b: Blob) => (before ? Math.hypot(b.x - before.x, b.z - before.z) : 0)
      const best = halves.sort((a, b) => (before ? near(a.blob) - near(b.blob) : b.blob.area - a.blob.area))[0]
      if (!best || near(best.blob) > (y < low + tall * ASTRAY.below ? ASTRAY.foot : ASTRAY.leg) * tall) return null
      return best
    })
    const [left, right] = found
    if (!left || !right) {
      if (y < low + tall * FEET) continue
      break
    }
    const joined = left.joined && right.joined && left.whole === right.whole
    if (joined && y > low + tall * FEET && !isNotched(left.whole, nx, plane)) {
      hidden = isHem(figure, tracks.left, tracks.right, y)
      break
    }
    if (tracks.left.blobs.length === 0) tracks.left.from = tracks.right.from = y
    tracks.left.blobs.push(left.blob)
    tracks.right.blobs.push(right.blob)
  }
  const { from, blobs } = tracks.left
  if (blobs.length < tall * 0.05) return null
  return { ...tracks, crotch: from + blobs.length, hidden }
}

/** Whether what joins the legs at a slice stands out over them, as a hem does. */
function isHem({ voxels, tall }: StandingFigure, left: LegTrack, right: LegTrack, y: number): boolean {
  const reach = Math.max(2, Math.round(tall * 0.05))
  const [below, beside] = [left, right].map((track) => track.blobs.slice(-reach - 1, -1)) as [Blob[], Blob[]]
  const spans = below.map((l, i) => l.maxX - beside[i]!.minX + 1)
  const [left0, right0] = [left.blobs.at(-1)!.maxX, right.blobs.at(-1)!.minX]
  let widest = 0
  for (let d = 0; d < reach; d++) {
    // of a coat that is open in front, or stands off the legs, there are several patches
    const near = blobsAt(voxels, y + d).filter((b) => b.minX < left0 + reach && b.maxX > right0 - reach)
    if (near.length === 0) continue
    widest = Math.max(widest, Math.max(...near.map((b) => b.maxX)) - Math.min(...near.map((b) => b.minX)) + 1)
  }
  return spans.length === 0 || widest > HEM * medianOf(spans)
}

/** Whether a patch is thinner along z at the middle than beside it. */
function isNotched(blob: Blob, nx: number, plane: number): boolean {
  const depths = new Map<number, number>()
  for (const c of blob.cells) depths.set(c % nx, (depths.get(c % nx) ?? 0) + 1)
  const middle = Math.max(depths.get(Math.floor(plane)) ?? 0, depths.get(Math.ceil(plane)) ?? 0)
  const most = (side: number) =>
    Math.max(0, ...[...depths].filter(([x]) => (x - plane) * side > 0).map(([, depth]) => depth))
  return middle < NOTCH * Math.min(most(1), most(-1))
}

export interface LegJoints {
  ankle: Point
  ball: Point
  toe: Point
  /** How surely there was a foot to see. */
  sure: number
}

/** The ankle is where a leg is no longer so much deeper than its shin. */
const FOOT = 1.35
/** From heel to toes the ball lies so far ahead. */
const BALL = 0.74

/** Ankle, ball and toes of a leg, in cells. */
export function footOf({ voxels, tall, low }: StandingFigure, { from, blobs }: LegTrack): LegJoints {
  const nx = voxels.size[0]
  const deep = (b: Blob) => b.maxZ - b.minZ + 1
  const shin = medianOf(blobs.slice(Math.floor(blobs.length * 0.35), Math.ceil(blobs.length * 0.7)).map(deep))
  const highest = Math.max(2, Math.min(blobs.length - 1, Math.floor(tall * 0.16)))
  let ankle = blobs.findIndex((b, i) => i >= 1 && deep(b) <= shin * FOOT)
  const seen = ankle >= 1 && ankle <= highest
  if (!seen) ankle = Math.min(blobs.length - 1, Math.max(1, Math.round(tall * 0.06)))
  const at = blobs[ankle]!
  const foot = blobs.slice(0, ankle)
  const longest = foot.reduce((a, b) => (deep(b) > deep(a) ? b : a), foot[0] ?? at)
  const [heel, tip] = [Math.min(longest.minZ, at.minZ), Math.max(longest.maxZ, at.maxZ)]
  const acrossAt = (z: number) => {
    const near = longest.cells.filter((c) => Math.abs(Math.floor(c / nx) - z) <= 1).map((c) => c % nx)
    return near.length ? near.reduce((a, b) => a + b, 0) / near.length : longest.x
  }
  const ballZ = heel + (tip - heel) * BALL
  return {
    ankle: [at.x, from + ankle, at.z],
    ball: [acrossAt(ballZ), low + Math.max(0.5, ankle * 0.25), ballZ],
    toe: [acrossAt(tip), low + Math.max(0.25, ankle * 0.15), tip],
    sure: seen && deep(longest) > shin * 1.2 ? 0.85 : 0.45,
  }
}

/** A leg bends a little ahead of the line from hip to ankle where it is seen to do so. */
const KNEE = { along: 0.49, bent: 0.03 }

/** The knee between a hip and an ankle, in cells; where the leg bulges ahead it is drawn there half way. */
export function kneeOf({ tall }: StandingFigure, { from, blobs }: LegTrack, hip: Point, ankle: Point): Point {
  const at = (y: number): Point => {
    const t = clamp((y - ankle[1]) / Math.max(1e-6, hip[1] - ankle[1]), 0, 1)
    const blob = blobs[clamp(Math.round(y) - from, 0, blobs.length - 1)]!
    const line = (k: 0 | 2) => ankle[k] + (hip[k] - ankle[k]) * t
    // above the fork the middle of the half trunk says nothing of the leg
    const inside = Math.round(y) - from < blobs.length
    return inside ? [blob.x, y, blob.z] : [line(0), y, line(2)]
  }
  let y = ankle[1] + (hip[1] - ankle[1]) * KNEE.along
  let most = KNEE.bent * tall
  let bend = NaN
  for (let s = Math.ceil(ankle[1] + 0.25 * (hip[1] - ankle[1])); s < ankle[1] + 0.75 * (hip[1] - ankle[1]); s++) {
    const t = (s - ankle[1]) / (hip[1] - ankle[1])
    const ahead = at(s)[2] - (ankle[2] + (hip[2] - ankle[2]) * t)
    if (ahead > most) {
      most = ahead
      bend = s
    }
  }
  if (Number.isFinite(bend)) y = (y + bend) / 2
  return at(y)
}
