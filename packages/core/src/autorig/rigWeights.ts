import { pointNeighbours } from '../mesh/adjacency.ts'
import { shellsOf } from '../mesh/shells.ts'
import { weldRows } from '../mesh/weld.ts'
import { waysFrom } from './distances.ts'
import type { StandingFigure } from './Figure.ts'
import { areNear, FITTING } from './props.ts'
import type { RiggedBone } from './rigSkeleton.ts'
import { cellAt, middleOf, type Voxels } from './Voxels.ts'

/**
 * How far the influence of bones reaches: a point that is nearest to one bone by d hangs on another that is farther by s
 * only by 1/e; s is this share of d within these shares of the figure's height.
 */
const FADE = { share: 0.5, least: 0.008, most: 0.03 }
/** Farther than so many fades it hangs on nothing. */
const REACH = 3
/** Rounds of smoothing, and how much of its neighbours a point takes in each. */
const SMOOTH = { rounds: 4, share: 0.5 }
/** A piece by itself that is smaller than this share of the height keeps its form: buttons, eyes, buckles. */
const STIFF = 0.07

export interface Skin {
  /** Four bones a vertex, the strongest first. */
  joints: Uint16Array
  /** Four weights a vertex, falling, summing to one. */
  weights: Float32Array
}

/**
 * What each vertex of a figure hangs on: by how much farther other bones are than the nearest, along ways through the
 * figure, so that a hand beside a thigh is far from it (relative geodesic distances; see `docs/architecture.md`).
 * Smoothed over the surface; small pieces go rigidly with what they sit on.

 */
export function rigWeights(figure: StandingFigure, bones: readonly RiggedBone[]): Skin {
  const { soup, voxels } = figure
  const count = soup.positions.length / 3
  const tall = figure.tall * voxels.cell
  const { kindOf, first } = weldRows(soup.positions, 3)
  const faces = Uint32Array.from(soup.triangles, (v) => kindOf[v]!)
  const ofProps = new Set([...figure.props].flatMap((t) => [0, 1, 2].map((k) => faces[t * 3 + k]!)))
  const cells = Array.from(first, (v, p) =>
    ofProps.has(p)
      ? { cell: 0, off: 0 }
      : nearestCell(voxels, soup.positions[v * 3]!, soup.positions[v * 3 + 1]!, soup.positions[v * 3 + 2]!),
  )
  const near = new Float32Array(first.length).fill(Infinity)
  const distances = boneDistances(voxels, bones, tall)
  const joined = Uint8Array.from(voxels.solid, (_, i) => (distances.some((d) => d[i]! < Infinity) ? 1 : 0))
  const perBone = bones.map((bone, b) => {
    const row = new Float32Array(first.length)
    for (let p = 0; p < row.length; p++) {
      const { cell, off } = cells[p]!
      const straight = toSegment(soup.positions, first[p]! * 3, bone)
      // what nothing joins to the bones is held by what is near in the air
      row[p] = joined[cell] ? Math.max(distances[b]![cell]! * voxels.cell + off, straight) : straight
      near[p] = Math.min(near[p]!, row[p]!)
    }
    return row
  })
  let table = perBone.map((row) =>
    row.map((d, p) => {
      const fade = Math.min(Math.max(FADE.share * near[p]!, FADE.least * tall), FADE.most * tall)
      const far = (d - near[p]!) / fade
      return far < REACH ? Math.exp(-far * far) : 0
    }),
  )
  keepFour(table)
  const { starts, items } = pointNeighbours(faces, first.length)
  for (let round = 0; round < SMOOTH.rounds; round++)
    table = table.map((row) =>
      row.map((w, p) => {
        const from = starts[p]!
        const to = starts[p + 1]!
        if (from === to) return w
        let sum = 0
        for (let i = from; i < to; i++) sum += row[items[i]!]!
        return w * (1 - SMOOTH.share) + (sum / (to - from)) * SMOOTH.share
      }),
    )
  stiffen(table, soup.positions, first, faces, tall * STIFF)
  holdProps(table, figure, bones, kindOf, first, tall)
  keepFour(table)
  const skin: Skin = { joints: new Uint16Array(count * 4), weights: new Float32Array(count * 4) }
  for (let v = 0; v < count; v++) {
    const held = table
      .map((row, b) => [row[kindOf[v]!]!, b] as const)
      .filter(([w]) => w > 0)
      .sort((a, b) => b[0] - a[0] || a[1] - b[1])
    held.forEach(([w, b], k) => {
      skin.weights[v * 4 + k] = w
      skin.joints[v * 4 + k] = b
    })
  }
  return skin
}

/** Of each bone, how far the cells near it are from it through the figure, in cells; Infinity beyond what matters. */
function boneDistances(voxels: Voxels, bones: readonly RiggedBone[], tall: number): Float32Array[] {
  const reach = (REACH * FADE.most * tall) / voxels.cell + 2
  const sources = bones.map((bone) => cellsAlong(voxels, bone))
  const nearest = waysFrom(
    voxels,
    sources.flatMap((cells) => cells.map((c) => [c, 0] as const)),
  ).cost
  return sources.map(
    (cells) =>
      waysFrom(
        voxels,
        cells.map((c) => [c, 0] as const),
        undefined,
        (cell, cost) => cost <= nearest[cell]! + reach,
      ).cost,
  )
}

/** The filled cells a bone passes through; where it passes through none, the one nearest to its middle. */
function cellsAlong(voxels: Voxels, { at, tail }: RiggedBone): number[] {
  const long = Math.hypot(...at.map((v, k) => tail[k]! - v))
  const steps = Math.max(1, Math.ceil((long / voxels.cell) * 2))
  const found = new Set<number>()
  for (let s = 0; s <= steps; s++) {
    const [x, y, z] = at.map((v, k) => v + ((tail[k]! - v) * s) / steps) as [number, number, number]
    const cell = cellAt(voxels, x, y, z)
    if (voxels.solid[cell]) found.add(cell)
  }
  if (found.size === 0) {
    const [x, y, z] = at.map((v, k) => (v + tail[k]!) / 2) as [number, number, number]
    found.add(nearestCell(voxels, x, y, z).cell)
  }
  return [...found]
}

/** The filled cell nearest to a place, and how far its middle is where that is not its own, metres. */
function nearestCell(voxels: Voxels, x: number, y: number, z: number): { cell: number; off: number } {
  const own = cellAt(voxels, x, y, z)
  if (voxels.solid[own]) return { cell: own, off: 0 }
  const { size, solid } = voxels
  const [ox, oy, oz] = [own % size[0], Math.floor(own / size[0]) % size[1], Math.floor(own / (size[0] * size[1]))]
  const most = Math.max(...size)
  for (let ring = 1; ring < most; ring++) {
    let best = { cell: -1, off: Infinity }
    for (let dz = -ring; dz <= ring; dz++)
      for (let dy = -ring; dy <= ring; dy++)
        for (let dx = -ring; dx <= ring; dx++) {
          if (Math.max(Math.abs(dx), Math.abs(dy), Math.abs(dz)) !== ring) continue
          const cx = ox + dx
          const cy = oy + dy
          const cz = oz + dz
          if (cx < 0 || cy < 0 || cz < 0 || cx >= size[0] || cy >= size[1] || cz >= size[2]) continue
          const cell = cx + size[0] * (cy + size[1] * cz)
          if (!solid[cell]) continue
          const [mx, my, mz] = middleOf(voxels, cell)
          const off = Math.hypot(mx - x, my - y, mz - z)
          if (off < best.off) best = { cell, off }
        }
    if (best.cell >= 0) return best
  }
  return { cell: own, off: 0 }
}

/** How far a place is from a bone; the place is three numbers of a list from `i` on. */
export function toSegment(positions: ArrayLike<number>, i: number, { at, tail }: RiggedBone): number {
  const [ax, ay, az] = at
  const [bx, by, bz] = [tail[0] - ax, tail[1] - ay, tail[2] - az]
  const [px, py, pz] = [positions[i]! - ax, positions[i + 1]! - ay, positions[i + 2]! - az]
  const long = bx * bx + by * by + bz * bz
  const t = long > 0 ? Math.min(1, Math.max(0, (px * bx + py * by + pz * bz) / long)) : 0
  return Math.hypot(px - bx * t, py - by * t, pz - bz * t)
}

/** Leaves each point its four strongest bones, summing to one. */
function keepFour(table: readonly Float32Array[]): void {
  const points = table[0]?.length ?? 0
  const strongest: number[] = []
  for (let p = 0; p < points; p++) {
    strongest.length = 0
    for (let b = 0; b < table.length; b++) {
      const w = table[b]![p]!
      if (w <= 0) continue
      let k = Math.min(strongest.length, 4)
      while (k > 0 && table[strongest[k - 1]!]![p]! < w) k--
      if (k < 4) strongest.splice(k, 0, b)
      const out = strongest.length > 4 ? strongest.pop()! : -1
      if (k >= 4) table[b]![p] = 0
      else if (out >= 0) table[out]![p] = 0
    }
    let sum = 0
    for (const b of strongest) sum += table[b]![p]!
    for (const b of strongest) table[b]![p]! /= sum
  }
}

/** What a figure holds goes rigidly with the bone it comes nearest to. */
function holdProps(
  table: readonly Float32Array[],
  { soup, props }: StandingFigure,
  bones: readonly RiggedBone[],
  kindOf: Uint32Array,
  first: Uint32Array,
  tall: number,
): void {
  if (props.size === 0) return
  const faces = Uint32Array.from([...props].flatMap((t) => [0, 1, 2].map((k) => kindOf[soup.triangles[t * 3 + k]!]!)))
  const placesOf = (piece: Uint32Array) => Array.from(piece, (p) => first[p]! * 3)
  const hold = (piece: Uint32Array, bone: number) => {
    for (const [b, row] of table.entries()) for (const p of piece) row[p] = b === bone ? 1 : 0
  }
  // the longest first: what sits on it goes with it
  const held: { places: number[]; bone: number }[] = []
  const pieces = shellsOf(faces, first.length).sort(
    (a, b) => spanOf(soup.positions, placesOf(b)) - spanOf(soup.positions, placesOf(a)),
  )
  for (const piece of pieces) {
    const places = placesOf(piece)
    const host = held.find((one) => areNear(soup, places, one.places, FITTING.on * tall))
    const bone = host?.bone ?? nearestTo(soup.positions, places, bones)
    held.push({ places, bone })
    hold(piece, bone)
  }
}

/** The bone that some places come nearest to, each the number of its x. */
function nearestTo(positions: Float32Array, places: readonly number[], bones: readonly RiggedBone[]): number {
  let [best, least] = [0, Infinity]
  for (const [b, bone] of bones.entries())
    for (const i of places) {
      const off = toSegment(positions, i, bone)
      if (off < least) [best, least] = [b, off]
    }
  return best
}

/** The diagonal of the box of some places, each the number of its x. */
function spanOf(positions: Float32Array, places: readonly number[]): number {
  const min = [Infinity, Infinity, Infinity]
  const max = [-Infinity, -Infinity, -Infinity]
  for (const i of places)
    for (let k = 0; k < 3; k++) {
      min[k] = Math.min(min[k]!, positions[i + k]!)
      max[k] = Math.max(max[k]!, positions[i + k]!)
    }
  return Math.hypot(...max.map((v, k) => v - min[k]!))
}

/** Gives every point of a small piece the weights of the piece as a whole. */
function stiffen(
  table: Float32Array[],
  positions: Float32Array,
  first: Uint32Array,
  faces: Uint32Array,
  small: number,
): void {
  for (const piece of shellsOf(faces, first.length)) {
    const places = Array.from(piece, (p) => first[p]! * 3)
    if (spanOf(positions, places) > small) continue
    for (const row of table) {
      let sum = 0
      for (const p of piece) sum += row[p]!
      for (const p of piece) row[p] = sum / piece.length
    }
  }
}
