import { waysFrom, wayBack } from './distances.ts'
import { cellPlace, type StandingFigure } from './Figure.ts'
import type { FoundLegs } from './findLegs.ts'
import type { Point } from './landmarks.ts'
import { blobsAt, clamp, medianOf, type Blob } from './slices.ts'

/** One arm as it was seen, in cells. */
export interface FoundArm {
  /** From the finger tips into the trunk. */
  path: Point[]
  /** How deep the figure is around each place of it. */
  radii: number[]
  /** Where on the path the trunk begins. */
  root: number
  /** Whether all of its way lies beside the trunk: it ends in the arm pit. */
  free: boolean
  /** How likely it is an arm. */
  sure: number
}

/** What is higher than this share of the height is of the head. */
const HEAD = 0.93
/** Hands end at least so far from the middle, and hang at most so far below where the legs part; shares of the height. */
const ASIDE = 0.14
const HANG = 0.14
/** An arm of usual length, from the trunk's middle, and the shortest that is taken for one; shares of the height. */
const LONG = { usual: 0.4, least: 0.16 }
/** The way through the middle of a limb: a step costs so much the more the nearer it is to the skin. */
export const priceAt = (depth: number) => (0.3 + depth) ** -1.5 + 0.02
/** The arm ends where the way is so many times deeper than along it. */
const DEEPER = 1.75

/**
 * Finds both arms: of each side what is farthest from the trunk's middle through the figure, without the legs; and the
 * way to it through the middle of what leads there.
 */
export function findArms(
  figure: StandingFigure,
  legs: FoundLegs | null,
): { left: FoundArm | null; right: FoundArm | null } {
  const { voxels, depth, plane, low, tall } = figure
  const [nx, ny] = voxels.size
  const inLegs = new Uint8Array(voxels.solid.length)
  if (legs)
    for (const { from, blobs } of [legs.left, legs.right])
      blobs.forEach((blob, i) => {
        for (const c of blob.cells) inLegs[(c % nx) + nx * (from + i + ny * Math.floor(c / nx))] = 1
      })
  const bottom = legs && !legs.hidden ? legs.crotch : low
  const sources: [number, number][] = []
  for (let i = 0; i < voxels.solid.length; i++) {
    const [x, y] = cellPlace(voxels, i)
    if (voxels.solid[i] && y >= bottom && Math.abs(x - plane) <= 1) sources.push([i, 0])
  }
  const lowest = bottom > low ? Math.max(low + tall * 0.08, bottom - HANG * tall) : low + tall * 0.2
  const open = (cell: number) => inLegs[cell] === 0
  const far = waysFrom(voxels, sources, undefined, open)
  const near = waysFrom(voxels, sources, (cell) => priceAt((depth[cell]! * 80) / tall), open)
  const free = freeArms(figure, inLegs, lowest)
  const armOf = (side: 1 | -1): FoundArm | null => {
    const hanging = free[side === 1 ? 'left' : 'right']
    let [tip, best] = [-1, 0]
    for (let i = 0; i < voxels.solid.length; i++) {
      const cost = far.cost[i]!
      if (cost === Infinity) continue
      const [x, y] = cellPlace(voxels, i)
      const aside = (x - plane) * side
      if (aside <= 0 || y > low + tall * HEAD || y < lowest) continue
      // what ends near the middle is a tail, or the hem of a coat
      const score = cost * clamp(aside / (ASIDE * tall), 0, 1)
      if (score <= best) continue
      tip = i
      best = score
    }
    if (tip < 0 || best < LONG.least * tall) return null
    // what hangs beside the trunk may be a bag or a cloak: an arm reaches about as far as anything does
    if (hanging && far.cost[hanging.end]! > REACHES * far.cost[tip]!) return hanging
    const cells = wayBack(near, tip)
    const path = smoothed(cells.map((i) => cellPlace(voxels, i)))
    const radii = cells.map((i) => depth[i]!)
    const usual = medianOf(radii.slice(Math.floor(path.length * 0.1), Math.ceil(path.length * 0.6)))
    let root = radii.findIndex((r, i) => i > path.length * 0.4 && r > usual * DEEPER)
    if (root < 0) root = path.length - 1
    // arms are about as long as the trunk is tall
    const off = Math.log(far.cost[tip]! / (LONG.usual * tall))
    return { path, radii, root, free: false, sure: clamp(0.9 * Math.exp(-2 * off * off), 0.1, 0.9) }
  }
  return { left: armOf(1), right: armOf(-1) }
}

/** What hangs beside the trunk over so much of the height is an arm; and a hand ends so low at least. */
const FREE_ARM = { tall: 0.13, top: 0.84 }
const REACHES = 0.75

/**
 * Arms that hang or are half lowered: what in level slices stands beside the trunk, and hangs together from slice to
 * slice. They are seen so even where they touch the trunk or what it wears further up.
 */
function freeArms(figure: StandingFigure, inLegs: Uint8Array, lowest: number) {
  const { voxels, depth, plane, low, tall } = figure
  const [nx, ny] = voxels.size
  const tracks: { side: 1 | -1; from: number; blobs: Blob[] }[] = []
  for (let y = Math.ceil(lowest); y < low + tall * FREE_ARM.top; y++)
    for (const blob of blobsAt(voxels, y, (cell) => inLegs[cell] === 0)) {
      if (blob.minX <= plane + 1 && blob.maxX >= plane - 1) continue
      const side = blob.x > plane ? 1 : -1
      const [near] = tracks
        .filter((t) => t.side === side && t.from + t.blobs.length === y)
        .map((track) => ({ track, off: Math.hypot(track.blobs.at(-1)!.x - blob.x, track.blobs.at(-1)!.z - blob.z) }))
        .sort((a, b) => a.off - b.off)
      if (near && near.off < tall * 0.06) near.track.blobs.push(blob)
      else tracks.push({ side, from: y, blobs: [blob] })
    }
  const armOf = (side: 1 | -1): (FoundArm & { end: number }) | null => {
    const [track] = tracks
      .filter((t) => t.side === side && t.blobs.length > FREE_ARM.tall * tall)
      .sort((a, b) => b.blobs.length - a.blobs.length)
    if (!track) return null
    const path = smoothed(track.blobs.map((b, i): Point => [b.x, track.from + i, b.z]))
    const radii = track.blobs.map((b, i) =>
      Math.max(...b.cells.map((c) => depth[(c % nx) + nx * (track.from + i + ny * Math.floor(c / nx))]!)),
    )
    const end = track.blobs[0]!.cells.map((c) => (c % nx) + nx * (track.from + ny * Math.floor(c / nx)))[0]!
    return { path, radii, root: path.length - 1, free: true, sure: 0.8, end }
  }
  return { left: armOf(1), right: armOf(-1) }
}

/** A path of cells without its corners. */
export function smoothed(path: Point[]): Point[] {
  let out = path
  for (let pass = 0; pass < 3; pass++)
    out = out.map((p, i) =>
      i === 0 || i === out.length - 1 ? p : (p.map((v, k) => (out[i - 1]![k]! + 2 * v + out[i + 1]![k]!) / 4) as Point),
    )
  return out
}

/** The place on a path that lies a share of its length from its beginning, and the nearest of its numbers. */
export function along(path: readonly Point[], share: number): { at: Point; index: number } {
  const lengths = path.slice(1).map((p, i) => Math.hypot(...p.map((v, k) => v - path[i]![k]!)))
  let left = lengths.reduce((a, b) => a + b, 0) * share
  for (const [i, length] of lengths.entries()) {
    if (left <= length && length > 0) {
      const t = left / length
      return { at: path[i]!.map((v, k) => v + (path[i + 1]![k]! - v) * t) as Point, index: i }
    }
    left -= length
  }
  return { at: path.at(-1)!, index: path.length - 1 }
}

/** From finger tips to trunk so much of a way is surely the arm's own: then it turns in to the middle of the trunk. */
const FREE = 0.8
/** From shoulder to finger tips the wrist lies at this share, from shoulder to wrist the elbow at that. */
const WRIST = 0.725
const ELBOW = 0.55
/** From wrist to finger tips the knuckles. */
const KNUCKLES = 0.45
/** What bends by more than this share of the forearm and upper arm together is an elbow. */
const BENT = 0.09

/** Elbow, wrist and knuckles of an arm whose shoulder is known, in cells. */
export function armJoints(arm: FoundArm, shoulder: Point): { elbow: Point; wrist: Point; knuckles: Point } {
  const own = arm.free ? arm.path.length : Math.ceil(arm.root * FREE)
  const path = [shoulder, ...arm.path.slice(0, own).reverse()]
  const radii = [Infinity, ...arm.radii.slice(0, own).reverse()]
  let wrist = along(path, WRIST)
  // where it is narrowest about there
  const [from, to] = [along(path, WRIST - 0.1).index, along(path, WRIST + 0.04).index]
  let narrow = wrist.index
  for (let i = from; i <= to; i++) if (radii[i]! < radii[narrow]!) narrow = i
  wrist = { at: mix(wrist.at, path[narrow]!, 0.4), index: Math.round(wrist.index + (narrow - wrist.index) * 0.4) }
  const upper = [...path.slice(0, wrist.index + 1), wrist.at]
  let elbow = along(upper, ELBOW).at
  const bend = farthestFromLine(upper)
  const length = Math.hypot(...wrist.at.map((v, k) => v - shoulder[k]!))
  if (bend && bend.off > BENT * length) elbow = mix(elbow, bend.at, 0.6)
  const hand = [wrist.at, ...path.slice(wrist.index + 1)]
  return { elbow, wrist: wrist.at, knuckles: along(hand, KNUCKLES).at }
}

export const mix = (a: Point, b: Point, t: number): Point => a.map((v, k) => v + (b[k]! - v) * t) as Point

/** The place of a path that is farthest from the line between its ends, and how far. */
function farthestFromLine(path: readonly Point[]): { at: Point; off: number } | null {
  const [a, b] = [path[0]!, path.at(-1)!]
  const way = b.map((v, k) => v - a[k]!)
  const long = way.reduce((s, v) => s + v * v, 0)
  if (long === 0) return null
  let best: { at: Point; off: number } | null = null
  // the ends of a bend are no bend: the middle half
  for (const p of path.slice(Math.floor(path.length * 0.3), Math.ceil(path.length * 0.8))) {
    const t = p.reduce((s, v, k) => s + (v - a[k]!) * way[k]!, 0) / long
    const off = Math.hypot(...p.map((v, k) => v - a[k]! - way[k]! * t))
    if (!best || off > best.off) best = { at: p, off }
  }
  return best
}
