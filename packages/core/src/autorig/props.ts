import { boundsOf, type Bounds } from '../mesh/Mesh.ts'
import { areaAt, piecesOf } from './pieces.ts'
import type { Soup } from './Voxels.ts'

/**
 * What a figure holds in its hands: a piece by itself, longer than this share of the height, so many times longer than it
 * is thick (at the given share of its points), and no more than this share of the whole area.
 */
const PROP = { long: 0.22, slender: 9, at: 0.7, area: 0.2 }

/** What sits on that goes with it: a piece of no more area than this, as near to it, and as far from all that is larger. */
export const FITTING = { area: 0.05, on: 0.03, off: 0.04 }

/** A figure without the poles, oars and swords it holds, which would be taken for limbs. */
export function withoutProps(soup: Soup): { kept: Soup; props: Set<number> } {
  const { positions, triangles } = soup
  const { min, max } = boundsOf(positions)
  const height = max[1] - min[1]
  const pieces = piecesOf(soup).map((faces) => ({ faces, area: faces.reduce((sum, t) => sum + areaAt(soup, t), 0) }))
  const all = pieces.reduce((sum, p) => sum + p.area, 0)
  const props = new Set<number>()
  const middle = middleOf(soup)
  const slender = pieces.filter(({ faces, area }) => area < PROP.area * all && isSlender(soup, faces, height))
  const boxes = slender.map(({ faces }) => boxOf(soup, faces))
  for (const [i, { faces }] of slender.entries())
    if (!isGrown(boxes, i, middle, min, max)) for (const t of faces) props.add(t)
  if (props.size === 0) return { kept: soup, props }
  const held = placesOf(soup, props)
  const [small, large] = [true, false].map((is) =>
    pieces.filter((p) => !props.has(p.faces[0]!) && p.area < FITTING.area * all === is),
  )
  const body = placesOf(
    soup,
    large!.flatMap((p) => p.faces),
  )
  for (const { faces } of small!) {
    const own = placesOf(soup, faces)
    if (areNear(soup, own, held, FITTING.on * height) && !areNear(soup, own, body, FITTING.off * height))
      for (const t of faces) props.add(t)
  }
  const kept = triangles.filter((_, i) => !props.has(Math.floor(i / 3)))
  return { kept: { positions, triangles: kept }, props }
}

/**
 * What is slender and yet of the figure: necks and tails lie in its middle, legs stand on the ground beside their mirror
 * image; shares of the height, of the longest side for how wide.
 */
const GROWN = { middle: 0.03, wide: 0.2, twin: 0.04, ground: 0.06 }

function isGrown(boxes: readonly Bounds[], i: number, middle: number, low: readonly number[], high: readonly number[]) {
  const [ground, height, long] = [low[1]!, high[1]! - low[1]!, Math.max(...high.map((v, k) => v - low[k]!))]
  const { min, max } = boxes[i]!
  const off = (min[0]! + max[0]!) / 2 - middle
  if (Math.abs(off) < GROWN.middle * height) return max[0]! - min[0]! < GROWN.wide * long
  if (min[1]! - ground > GROWN.ground * height) return false
  const mirrored: Bounds = {
    min: [2 * middle - max[0]!, min[1]!, min[2]!],
    max: [2 * middle - min[0]!, max[1]!, max[2]!],
  }
  const near = (a: readonly number[], b: readonly number[]) =>
    a.every((v, k) => Math.abs(v - b[k]!) < GROWN.twin * height)
  return boxes.some((other, o) => o !== i && near(other.min, mirrored.min) && near(other.max, mirrored.max))
}

const boxOf = (soup: Soup, faces: readonly number[]): Bounds =>
  boundsOf(Float32Array.from(placesOf(soup, faces).flatMap((i) => [...soup.positions.subarray(i, i + 3)])))

/** Where the middle of a surface is, from side to side. */
function middleOf(soup: Soup): number {
  const { positions: p, triangles } = soup
  let [sum, areas] = [0, 0]
  for (let t = 0; t < triangles.length / 3; t++) {
    const area = areaAt(soup, t)
    sum += (area * (p[triangles[t * 3]! * 3]! + p[triangles[t * 3 + 1]! * 3]! + p[triangles[t * 3 + 2]! * 3]!)) / 3
    areas += area
  }
  return areas ? sum / areas : 0
}

/** The places of the corners of some triangles, each once, as the number of its x. */
function placesOf({ triangles }: Soup, list: Iterable<number>): number[] {
  const found = new Set<number>()
  for (const t of list) for (let k = 0; k < 3; k++) found.add(triangles[t * 3 + k]! * 3)
  return [...found]
}

/** Whether some places come as near to others as this; each is the number of its x. */
export function areNear(
  { positions }: Pick<Soup, 'positions'>,
  some: readonly number[],
  others: readonly number[],
  far: number,
): boolean {
  return some.some((p) =>
    others.some(
      (q) =>
        (positions[p]! - positions[q]!) ** 2 +
          (positions[p + 1]! - positions[q + 1]!) ** 2 +
          (positions[p + 2]! - positions[q + 2]!) ** 2 <
        far * far,
    ),
  )
}

/** Whether a piece is long and thin about its longest line; the ends of that are found by going twice to what is farthest. */
function isSlender(soup: Soup, list: readonly number[], height: number): boolean {
  const { positions: p } = soup
  const places = placesOf(soup, list)
  const farthest = (from: number) => {
    let [best, most] = [from, 0]
    for (const i of places) {
      const d = (p[i]! - p[from]!) ** 2 + (p[i + 1]! - p[from + 1]!) ** 2 + (p[i + 2]! - p[from + 2]!) ** 2
      if (d > most) [best, most] = [i, d]
    }
    return best
  }
  const one = farthest(places[0]!)
  const other = farthest(one)
  const way = [0, 1, 2].map((k) => p[other + k]! - p[one + k]!) as [number, number, number]
  const long = Math.hypot(...way)
  if (long < PROP.long * height) return false
  const [wx, wy, wz] = way.map((v) => v / long) as [number, number, number]
  const radii = Float64Array.from(places, (i) => {
    const [x, y, z] = [p[i]! - p[one]!, p[i + 1]! - p[one + 1]!, p[i + 2]! - p[one + 2]!]
    const t = x * wx + y * wy + z * wz
    return Math.hypot(x - wx * t, y - wy * t, z - wz * t)
  }).sort()
  return long > PROP.slender * radii[Math.floor((radii.length - 1) * PROP.at)]!
}
