import { boundsOf } from '../mesh/Mesh.ts'
import { areaAt } from './pieces.ts'
import { blobsAt, clamp, type Blob } from './slices.ts'
import { voxelsOf, type Soup, type Voxels } from './Voxels.ts'

/** A way along one of the three axes: its number, and whether up it or down it. */
export interface Way {
  axis: 0 | 1 | 2
  sign: 1 | -1
}

/** How a figure lies in its file. */
export interface Stance {
  up: Way
  front: Way
  /** How sure each is, 0 to 1. */
  sure: { up: number; front: number }
  /** Whether it stands on four legs, as far as its rough form tells. */
  four: boolean
}

/** Cells along the longest side where only the rough form counts. */
const ROUGH = 44
/** What each way is worth before anything is seen: what file formats say is up, and what is mostly to the side. */
const PRIOR = { up: [0, 0.35, 0.1], side: [0.15, 0, 0] } as const
/** What mirroring, legs, four of them, and standing taller than wide and deep are worth; of the last at most so much either way. */
const WORTH = { mirror: 2, legs: 1, four: 0.35, tall: 0.5, most: 0.5 }
/** Legs are looked for in these slices, as shares of the height. */
const LEGS = { from: 0.03, to: 0.24 }
/** How much likelier a way is that scores one more, as a log: scores of the studies' 57 models differed by .3 where one was wrong. */
const SHARP = 6

/**
 * Finds what is up and what is in front of a figure: the way that mirrors best from side to side and stands on paired
 * feet is up; feet, face, seat and head tell the front.
 *
 * @param given what a person says of it has the last word
 */
export function stanceOf(soup: Soup, given: { up?: Way; front?: Way } = {}): Stance {
  const voxels = voxelsOf(soup, ROUGH)
  const tried: { up: Way; side: 0 | 1 | 2; score: number }[] = []
  const mirrors = ([0, 1, 2] as const).map((side) => mirrorOf(voxels, side))
  for (const axis of [0, 1, 2] as const)
    for (const sign of [1, -1] as const) {
      if (given.up && (given.up.axis !== axis || given.up.sign !== sign)) continue
      for (const side of [0, 1, 2] as const) {
        if (side === axis || given.front?.axis === side) continue
        const turned = turn(voxels, { axis, sign }, side)
        const score =
          WORTH.mirror * mirrors[side]!.overlap +
          WORTH.legs * legEvidence(turned, mirrors[side]!.plane) +
          WORTH.four * fourEvidence(turned, mirrors[side]!.plane) +
          slimness(turned) +
          (sign === 1 ? PRIOR.up[axis]! : 0) +
          PRIOR.side[side]!
        tried.push({ up: { axis, sign }, side, score })
      }
    }
  tried.sort((a, b) => b.score - a.score)
  const best = tried[0]!
  const shares = tried.map((t) => Math.exp(SHARP * (t.score - best.score)))
  const all = shares.reduce((a, b) => a + b, 0)
  const sureUp =
    tried.reduce((s, t, i) => s + (t.up.axis === best.up.axis && t.up.sign === best.up.sign ? shares[i]! : 0), 0) / all
  const axis = (3 - best.up.axis - best.side) as 0 | 1 | 2
  const turned = turn(voxels, best.up, best.side)
  const four = fourEvidence(turned, mirrors[best.side]!.plane) > FOUR
  const cue = four ? fourCue(turned, soup, best.up, axis) : frontCue(turned, soup, best.up, axis)
  const sign = given.front?.axis === axis ? given.front.sign : cue >= 0 ? 1 : -1
  return {
    up: best.up,
    front: { axis, sign },
    four,
    sure: {
      up: given.up ? 1 : sureUp,
      front: given.front?.axis === axis ? 1 : 1 / (1 + Math.exp(-2.2 * Math.abs(cue))),
    },
  }
}

/** Voxels turned so that up is y and the given axis is x; the third becomes z as it lies. */
function turn(voxels: Voxels, up: Way, side: 0 | 1 | 2): Voxels {
  const third = (3 - up.axis - side) as 0 | 1 | 2
  const size = [voxels.size[side], voxels.size[up.axis], voxels.size[third]] as const
  const strides = [1, voxels.size[0], voxels.size[0] * voxels.size[1]] as const
  const solid = new Uint8Array(voxels.solid.length)
  let i = 0
  for (let z = 0; z < size[2]; z++)
    for (let y = 0; y < size[1]; y++) {
      const level = up.sign === 1 ? y : size[1] - 1 - y
      const from = level * strides[up.axis] + z * strides[third]
      for (let x = 0; x < size[0]; x++) solid[i++] = voxels.solid[from + x * strides[side]]!
    }
  return { size, cell: voxels.cell, origin: [0, 0, 0], solid }
}

/** What it speaks for a way that a figure is taller than it is wide and deep. */
function slimness({ size }: Voxels): number {
  // an empty layer on each side
  const [x, y, z] = size.map((n) => n - 3) as [number, number, number]
  return clamp(WORTH.tall * Math.log(y / Math.sqrt(x * z)), -WORTH.most, WORTH.most)
}

/** How much of a figure meets itself in the best mirror across an axis, 0 to 1, and where that stands, in cells. */
export function mirrorOf({ size, solid }: Voxels, axis: 0 | 1 | 2): { overlap: number; plane: number } {
  const stride = [1, size[0], size[0] * size[1]][axis]!
  const n = size[axis]
  let [count, sum] = [0, 0]
  const cells: number[] = []
  for (let i = 0; i < solid.length; i++) {
    if (!solid[i]) continue
    cells.push(i)
    count++
    sum += Math.floor(i / stride) % n
  }
  let best = { overlap: 0, plane: (n - 1) / 2 }
  // planes in halves of cells, about the middle of what is there and about that of its box
  const middles = new Set(
    [sum / count, (n - 1) / 2].flatMap((m) => [-4, -3, -2, -1, 0, 1, 2, 3, 4].map((d) => Math.round(m * 2) + d)),
  )
  for (const twice of middles) {
    let met = 0
    for (const i of cells) {
      const at = Math.floor(i / stride) % n
      const other = twice - at
      if (other >= 0 && other < n && solid[i + (other - at) * stride]) met++
    }
    if (met / count > best.overlap) best = { overlap: met / count, plane: twice / 2 }
  }
  return best
}

/** The lowest and the highest filled slice. */
export function heightOf({ size, solid }: Voxels): { low: number; high: number } {
  const [nx, ny, nz] = size
  const filled = (y: number) => {
    for (let z = 0; z < nz; z++) for (let x = 0; x < nx; x++) if (solid[x + nx * (y + ny * z)]) return true
    return false
  }
  let [low, high] = [0, ny - 1]
  while (low < high && !filled(low)) low++
  while (high > low && !filled(high)) high--
  return { low, high }
}

/** How many of the low slices have patches left and right that mirror each other, 0 to 1. */
export const legEvidence = (voxels: Voxels, plane: number): number => sharePaired(voxels, plane, 3, () => true)

/** How many of the low slices have pairs, of so many cells at least, of which those of one side are as they are asked to be. */
function sharePaired(
  voxels: Voxels,
  plane: number,
  least: number,
  ask: (pairs: readonly Blob[], tall: number) => boolean,
): number {
  const { low, high } = heightOf(voxels)
  const tall = high - low + 1
  let [paired, looked] = [0, 0]
  for (let y = low + Math.floor(tall * LEGS.from); y <= low + tall * LEGS.to; y++) {
    looked++
    const blobs = blobsAt(voxels, y, undefined, least)
    const isPair = (a: Blob, b: Blob) =>
      a.minX > plane &&
      b.maxX < plane &&
      Math.abs(a.x + b.x - 2 * plane) < 0.06 * tall &&
      Math.abs(a.z - b.z) < 0.1 * tall &&
      Math.max(a.area, b.area) < 2.5 * Math.min(a.area, b.area)
    const pairs = blobs.filter((a) => blobs.some((b) => isPair(a, b)))
    if (pairs.length && ask(pairs, tall)) paired++
  }
  return looked ? paired / looked : 0
}

/** On four legs stands what has two pairs in so many of the low slices; they are so far apart, as a share of the height. */
const FOUR = 0.4
const APART = 0.22

/** How many of the low slices have two pairs of patches that mirror each other, one ahead of the other, 0 to 1. */
export function fourEvidence(voxels: Voxels, plane: number): number {
  // a leg may be as thin as a cell of the rough form
  return sharePaired(voxels, plane, 1, (pairs, tall) => {
    const places = pairs.map((b) => b.z)
    return Math.max(...places) - Math.min(...places) > APART * tall
  })
}

/**
 * What tells the front of those on four legs: more of them is beyond the legs there, and stands higher; feet point there;
 * and faces have more vertices. Set by eye on animals that were drawn for it.
 */
const FOUR_CUES = {
  beyond: { scale: 0.3, worth: 1 },
  higher: { scale: 0.08, worth: 0.9 },
  feet: { scale: 0.025, worth: 1.4 },
  face: { scale: 0.02, worth: 0.9 },
}

function fourCue(turned: Voxels, soup: Soup, up: Way, front: 0 | 1 | 2): number {
  const { size, solid } = turned
  const { low, high } = heightOf(turned)
  const tall = high - low + 1
  const [nx, ny, nz] = size
  const legs = [Infinity, -Infinity]
  for (let i = 0; i < solid.length; i++) {
    const y = Math.floor(i / nx) % ny
    const z = Math.floor(i / (nx * ny))
    if (!solid[i] || y < low + LEGS.from * tall || y > low + LEGS.to * tall) continue
    legs[0] = Math.min(legs[0]!, z)
    legs[1] = Math.max(legs[1]!, z)
  }
  // beyond the legs, and how high what is there lies: ahead, and behind
  const ends = [legs[1]!, legs[0]!].map((edge, e) => {
    let [count, heights] = [0, 0]
    for (let i = 0; i < solid.length; i++) {
      const z = Math.floor(i / (nx * ny))
      if (!solid[i] || (e === 0 ? z <= edge : z >= edge)) continue
      count++
      heights += (Math.floor(i / nx) % ny) - low
    }
    return { count, mean: count ? heights / count / tall : 0 }
  }) as [{ count: number; mean: number }, { count: number; mean: number }]
  const beyond = (ends[0].count - ends[1].count) / Math.max(1, ends[0].count + ends[1].count)
  const feet =
    meanZ(turned, low, low + Math.ceil(0.03 * tall)) -
    meanZ(turned, low + Math.floor(0.07 * tall), low + Math.ceil(0.16 * tall))
  const cues = {
    beyond,
    higher: ends[0].mean - ends[1].mean,
    feet: feet / tall,
    face: crowding(soup, up, front) * (tall / nz),
  }
  return Object.entries(FOUR_CUES).reduce((sum, [cue, { scale, worth }]) => {
    const value = cues[cue as keyof typeof cues]
    return Number.isFinite(value) ? sum + worth * Math.tanh(value / scale) : sum
  }, 0)
}

/**
 * What tells the front: slices as shares of the height, by how much of it one lies ahead of the other where that speaks
 * clearly (scale), and what it is worth. Toes and faces told it most often in the studies.
 */
const FRONT = {
  feet: { ahead: [0, 0.03], of: [0.07, 0.16], scale: 0.025, worth: 1.4 },
  seat: { ahead: [0.56, 0.7], of: [0.42, 0.5], scale: 0.03, worth: 0.4 },
  head: { ahead: [0.88, 1], of: [0.74, 0.84], scale: 0.03, worth: 0.5 },
} as const
const FACE = { scale: 0.012, worth: 0.9, from: 0.85 }

/** What speaks for a figure facing up its third axis, as a sum of cues; less than nothing for the other way. */
function frontCue(turned: Voxels, soup: Soup, up: Way, front: 0 | 1 | 2): number {
  const { low, high } = heightOf(turned)
  const tall = high - low + 1
  const between = ([from, to]: readonly [number, number]) =>
    meanZ(turned, low + Math.floor(from * tall), low + Math.ceil(to * tall))
  let sum = FACE.worth * Math.tanh(faceDensity(soup, up, front) / FACE.scale)
  for (const { ahead, of, scale, worth } of Object.values(FRONT)) {
    const off = (between(ahead) - between(of)) / tall
    // a slice may be empty
    if (Number.isFinite(off)) sum += worth * Math.tanh(off / scale)
  }
  return sum
}

function meanZ({ size, solid }: Voxels, from: number, to: number): number {
  const [nx, ny, nz] = size
  let [sum, count] = [0, 0]
  for (let z = 0; z < nz; z++)
    for (let y = from; y < to; y++)
      for (let x = 0; x < nx; x++)
        if (solid[x + nx * (y + ny * z)]) {
          sum += z
          count++
        }
  return sum / count
}

/** How far ahead of its area the vertices of the head lie, as a share of the height: faces have more of them. */
const faceDensity = (soup: Soup, up: Way, front: 0 | 1 | 2) => crowding(soup, up, front, FACE.from)

/** The same of all that is above a share of the height. */
function crowding(soup: Soup, up: Way, front: 0 | 1 | 2, above = 0): number {
  const { positions: p, triangles } = soup
  const { min, max } = boundsOf(p)
  const tall = max[up.axis] - min[up.axis]
  const foot = up.sign === 1 ? min[up.axis] : -max[up.axis]
  const inHead = (v: number) => p[v * 3 + up.axis]! * up.sign >= foot + tall * above
  let [points, count, area, areas] = [0, 0, 0, 0]
  for (let v = 0; v < p.length / 3; v++)
    if (inHead(v)) {
      points += p[v * 3 + front]!
      count++
    }
  for (let t = 0; t < triangles.length / 3; t++) {
    const a = triangles[t * 3]!
    const b = triangles[t * 3 + 1]!
    const c = triangles[t * 3 + 2]!
    if (!inHead(a) || !inHead(b) || !inHead(c)) continue
    const size = areaAt(soup, t)
    area += (size * (p[a * 3 + front]! + p[b * 3 + front]! + p[c * 3 + front]!)) / 3
    areas += size
  }
  return count && areas ? (points / count - area / areas) / tall : 0
}
