import { waysFrom, wayBack } from './distances.ts'
import { cellPlace, toPlace, type StandingFigure } from './Figure.ts'
import { along, priceAt, smoothed } from './findArms.ts'
import { ENDS, findFourLegs, type Track } from './findFourLegs.ts'
import { evened, type Landmark, type LandmarkId, type Point } from './landmarks.ts'
import { clamp, medianOf } from './slices.ts'

/** Where joints of legs are in the trunk, of its depth above the belly; and by how much of their height farther apart. */
const SOCKET = { Hind: { deep: 0.42, apart: 0.07 }, Fore: { deep: 0.33, apart: 0.11 } }
/**
 * Of a leg from the ground to its uppermost joint: where an ankle is that is not seen, and where knee and elbow are by it.
 * Those of a foal and of a bear are far from each other; what bends at the hock bends at the knee so much higher.
 */
const LEG = { ankle: 0.25, least: 0.1, most: 0.56, knee: [0.45, 0.7], elbow: [0.47, 0.7], wrist: 0.9 } as const
/** Legs that stand so many times as far aside as the trunk is wide sprawl: their uppermost joints are inside it, of its depth and width. */
const SPRAWL = { over: 1.15, deep: 0.5, inside: 0.6, apart: 0 }
/** What is off the line by so much of the leg's height is a bend. */
const BENT = 0.04

/**
 * The landmarks of a figure on four legs; null where four legs cannot be told apart. Legs are followed slice by slice,
 * bends seen in them; head and tail are what is farthest from the trunk along its middle; see `docs/architecture.md`.
 */
export function findFourLegged(figure: StandingFigure): Landmark[] | null {
  const tracks = findFourLegs(figure)
  if (!tracks) return null
  const landmarks: Landmark[] = []
  const put = (id: LandmarkId, at: Point, sure: number) => landmarks.push({ id, at, sure })
  const hind = tracks.filter((t) => t.end === 'Hind')
  const fore = tracks.filter((t) => t.end === 'Fore')
  const zOf = (some: readonly Track[]) => medianOf(some.map((t) => t.blobs.at(-1)!.z))
  const trunk = new Trunk(figure, tracks)
  // how high fore legs bend is hardly seen: about as high as hind legs do
  const ankles = hind.flatMap((track) => putLeg(figure, track, trunk, hind, LEG.ankle, put) ?? [])
  const wrist = ankles.length ? LEG.wrist * medianOf(ankles) : LEG.ankle
  for (const track of fore) putLeg(figure, track, trunk, fore, wrist, put)
  const [rump, chest] = [trunk.middleAt(zOf(hind)), trunk.middleAt(zOf(fore))]
  putHead(figure, trunk, chest, put)
  putTail(figure, trunk, rump, put)
  return evened(landmarks, figure).map((l) => ({ ...l, at: toPlace(figure, ...l.at) }))
}

type Put = (id: LandmarkId, at: Point, sure: number) => void

/** What is between the legs: what of the figure is no leg. */
class Trunk {
  readonly inLegs: Uint8Array
  private readonly figure: StandingFigure

  /** How wide it is between fore and hind legs, from the middle. */
  readonly half: number

  constructor(figure: StandingFigure, tracks: readonly Track[]) {
    this.figure = figure
    const { voxels } = figure
    const [nx, ny] = voxels.size
    this.inLegs = new Uint8Array(voxels.solid.length)
    for (const { from, blobs } of tracks)
      blobs.forEach((blob, i) => {
        for (const c of blob.cells) this.inLegs[(c % nx) + nx * (from + i + ny * Math.floor(c / nx))] = 1
      })
    const [back, ahead] = ENDS.map((end) => medianOf(tracks.filter((t) => t.end === end).map((t) => t.blobs[0]!.z)))
    const halves: number[] = []
    for (let t = 0.35; t <= 0.65; t += 0.05) {
      const [, y, z] = this.middleAt(back! + (ahead! - back!) * t)
      let x = Math.round(figure.plane)
      while (this.solid(x + 1 + nx * (Math.round(y) + ny * Math.round(z)))) x++
      halves.push(x + 0.5 - figure.plane)
    }
    this.half = medianOf(halves)
  }

  /** The lowest and the highest of the trunk in the middle plane at a place from front to back, the longest run. */
  spanAt(z: number): [number, number] {
    const { voxels, plane, low, tall } = this.figure
    const [nx, ny] = voxels.size
    const [x, at] = [Math.round(plane), clamp(Math.round(z), 0, voxels.size[2] - 1)]
    let best: [number, number] = [low, low]
    for (let y = low; y < low + tall; y++) {
      if (!this.solid(x + nx * (y + ny * at))) continue
      let end = y
      while (this.solid(x + nx * (end + 1 + ny * at))) end++
      if (end - y > best[1] - best[0]) best = [y, end]
      y = end
    }
    return best
  }

  /** The middle of the trunk at a place from front to back. */
  middleAt(z: number): Point {
    const [from, to] = this.spanAt(z)
    return [this.figure.plane, (from + to) / 2, z]
  }

  private solid(i: number): boolean {
    return this.figure.voxels.solid[i] === 1 && this.inLegs[i] === 0
  }
}

/** @returns how high up the leg its ankle was seen to be, as a share; null where it is `usual` */
function putLeg(
  figure: StandingFigure,
  { side, end, from, blobs }: Track,
  trunk: Trunk,
  mates: readonly Track[],
  usual: number,
  put: Put,
): number | null {
  const { low, tall, plane } = figure
  const top = blobs.at(-1)!
  const sign = side === 'left' ? 1 : -1
  const [belly, back] = trunk.spanAt(top.z)
  // where a leg goes up beside the trunk the trunk is no lower for it
  const fork = Math.min(from + blobs.length, ...mates.map((m) => m.from + m.blobs.length))
  const sprawls = (top.x - plane) * sign > SPRAWL.over * trunk.half
  const { deep, apart } = sprawls ? SPRAWL : SOCKET[end]
  const y = clamp(belly + (back - belly) * deep, fork, low + tall)
  const height = y - low
  const x = sprawls ? plane + sign * SPRAWL.inside * trunk.half : top.x
  const socket: Point = [x, y, top.z + (end === 'Fore' ? 1 : -1) * apart * height]
  const path = smoothed(blobs.map((b, i): Point => [b.x, from + i, b.z]))
  const bottom = path[0]!
  const chord = (p: Point) => bottom[2] + ((socket[2] - bottom[2]) * (p[1] - bottom[1])) / Math.max(1, y - bottom[1])
  const bend = (lowest: number, highest: number, way: 1 | -1) => {
    let best = { off: BENT * height, at: null as Point | null }
    for (const p of path) {
      const share = (p[1] - low) / height
      if (share < lowest || share > highest) continue
      const off = (p[2] - chord(p)) * way
      if (off > best.off) best = { off, at: p }
    }
    return best.at
  }
  const placed = (share: number): Point => {
    const at = low + height * share
    const i = Math.round(at) - from
    if (i < path.length) return [path[Math.max(0, i)]![0], at, path[Math.max(0, i)]![2]]
    const last = path.at(-1)!
    const t = (at - last[1]) / Math.max(1, y - last[1])
    return last.map((v, k) => v + (socket[k]! - v) * t) as Point
  }
  // a hock points back
  const hock = end === 'Hind' && !sprawls ? bend(LEG.least, LEG.most, -1) : null
  const ankle = hock ?? placed(usual)
  const share = (ankle[1] - low) / height
  const [base, slope] = end === 'Hind' ? LEG.knee : LEG.elbow
  // a leg that sprawls goes out to its knee, and down from there
  const middle: Point = sprawls
    ? [top.x, roofAt(figure, top.x, from + blobs.length - 1, top.z) - 1, top.z]
    : placed(base + slope * share)
  const foot = blobs.slice(0, Math.max(2, Math.round(height * 0.1)))
  const tip = Math.max(...foot.map((b) => b.maxZ))
  const toe: Point = [bottom[0], low + 0.5, tip - 0.5]
  const names = end === 'Hind' ? ['Hip', 'Knee', 'Ankle'] : ['Shoulder', 'Elbow', 'Wrist']
  put(`${side}${end}${names[0]}` as LandmarkId, socket, 0.6)
  put(`${side}${end}${names[1]}` as LandmarkId, middle, 0.55)
  put(`${side}${end}${names[2]}` as LandmarkId, ankle, hock ? 0.8 : 0.4)
  const ball = placed(0.06)
  put(`${side}${end}Ball`, [ball[0], ball[1], Math.max(ball[2], toe[2] - 0.12 * height)], 0.6)
  put(`${side}${end}Toe`, toe, 0.75)
  return hock && share
}

/** How far up it is filled above a place. */
function roofAt({ voxels: { size, solid } }: StandingFigure, x: number, y: number, z: number): number {
  let top = Math.round(y)
  while (solid[Math.round(x) + size[0] * (top + 1 + size[1] * Math.round(z))]) top++
  return top
}

/** What the way to a nose counts for against how far ahead it is. */
const NOSE = 0.3

/** The farthest of the figure's middle plane from a place, before or behind it, and the way there through its middle. */
function farthest(
  figure: StandingFigure,
  trunk: Trunk,
  from: Point,
  ahead: 1 | -1,
): { path: Point[]; radii: number[] } | null {
  const { voxels, depth, plane, tall } = figure
  const [nx, ny] = voxels.size
  const open = (cell: number) => trunk.inLegs[cell] === 0
  const start = Math.round(from[0]) + nx * (Math.round(from[1]) + ny * Math.round(from[2]))
  if (!voxels.solid[start]) return null
  const far = waysFrom(voxels, [[start, 0]], undefined, open)
  let [tip, best] = [-1, 0]
  for (let i = 0; i < voxels.solid.length; i++) {
    const cost = far.cost[i]!
    if (cost === Infinity) continue
    const [x, , z] = cellPlace(voxels, i)
    const out = (z - from[2]) * ahead
    // a nose is foremost, whatever is longer above it; a tail may curl
    const score = ahead === 1 ? out + NOSE * cost : cost
    if (Math.abs(x - plane) > 1.5 || out <= 0 || score <= best) continue
    ;[tip, best] = [i, score]
  }
  if (tip < 0) return null
  const near = waysFrom(voxels, [[start, 0]], (cell) => priceAt((depth[cell]! * 80) / tall), open)
  const cells = wayBack(near, tip).reverse()
  return { path: smoothed(cells.map((i) => cellPlace(voxels, i))), radii: cells.map((i) => depth[i]!) }
}

/** A neck begins where what leads to the head is thinner than this share of the chest. */
const NECK = { thin: 0.78, least: 0.15, most: 0.35, head: 0.55, waist: 0.9, thick: 0.2, thickHead: 0.42 }

function putHead(figure: StandingFigure, trunk: Trunk, chest: Point, put: Put): void {
  const { low, tall } = figure
  const found = farthest(figure, trunk, chest, 1)
  if (!found) return
  const { path, radii } = found
  const thick = Math.max(...radii.slice(0, Math.ceil(path.length * 0.2)))
  const first = radii.findIndex((r) => r < NECK.thin * thick)
  const seen = first >= 0 && first < NECK.most * path.length
  const neck = seen ? Math.max(NECK.least, first / path.length) : NECK.thick
  // the head turns where what leads to it is thinnest, between what is thicker
  const waist = (i: number) => radii[i]! / Math.min(Math.max(...radii.slice(0, i)), Math.max(...radii.slice(i)))
  let [thin, least] = [Math.round(path.length * (seen ? NECK.head : NECK.thickHead)), NECK.waist]
  for (let i = Math.ceil(path.length * (neck + 0.1)); i < path.length * 0.8; i++)
    if (waist(i) <= least) [thin, least] = [i, Math.min(least, waist(i) * 1.08)]
  const head = path[thin]!
  put('nose', path.at(-1)!, 0.7)
  put('headBase', head, 0.5)
  put('neckBase', along(path, neck).at, 0.5)
  const beyond = path.slice(thin)
  const [fromZ, toZ] = [Math.min(...beyond.map((p) => p[2])), Math.max(...beyond.map((p) => p[2]))]
  const crown = Math.max(...[0.2, 0.35, 0.5].map((t) => topAt(figure, fromZ + (toZ - fromZ) * t)))
  put('crown', [figure.plane, clamp(crown, low, low + tall - 1), fromZ + (toZ - fromZ) * 0.3], 0.6)
}

/** The highest filled slice of the middle plane at a place from front to back. */
function topAt({ voxels, plane, low, tall }: StandingFigure, z: number): number {
  const [nx, ny] = voxels.size
  for (let y = low + tall - 1; y > low; y--)
    if (voxels.solid[Math.round(plane) + nx * (y + ny * Math.round(z))]) return y
  return low
}

/**
 * A tail is what goes on where the rump has thinned to this share of how thick it was, from so many times that farther
 * out, if it is so many times longer.
 */
const TAIL = { thin: 0.7, out: 0.7, long: 0.9 }

function putTail(figure: StandingFigure, trunk: Trunk, rump: Point, put: Put): void {
  const found = farthest(figure, trunk, rump, -1)
  if (!found) return
  const { path, radii } = found
  const thick = Math.max(...radii.slice(0, Math.ceil(path.length * 0.3)))
  let base = radii.length - 1
  while (base > 0 && radii[base - 1]! < TAIL.thin * thick) base--
  const lengthFrom = (i: number) =>
    path.slice(i + 1).reduce((s, p, k) => s + Math.hypot(...p.map((v, c) => v - path[i + k]![c]!)), 0)
  const long = lengthFrom(base) - TAIL.out * thick
  if (long < TAIL.long * thick) return
  while (lengthFrom(base) > long) base++
  const tail = path.slice(base)
  put('tailBase', tail[0]!, 0.6)
  put('tailMiddle', along(tail, 0.5).at, 0.7)
  put('tailTip', tail.at(-1)!, 0.8)
}
