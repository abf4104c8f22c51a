import potpack from 'potpack'
import { problem, type Problem } from '../../base/problem.ts'
import { paintAtlas, type Atlas, type Rectangle, type Surfacing } from '../../color/atlas.ts'
import type { Pixels } from '../../color/decodeImage.ts'

/** A color region of a package: the swatches it can have, and its picture if it is painted. */
export interface PackageRegion {
  swatches: readonly string[]
  picture: Pixels | null
}

/** Where regions lie in a package's atlas, as shares of its side. */
export interface PlacedRegion {
  /** The middle of the cell of each swatch; of painted regions none. */
  cells: [number, number][]
  picture: [x: number, y: number, w: number, h: number] | null
}

/** Pixels a side: a cell is looked up in its middle, and nothing is drawn smaller. */
const CELL = 2
/** Where pictures want smooth filtering cells do not bleed into each other. */
const SMOOTH_CELL = 4
const MARGIN = 2

/**
 * One atlas for all that a player may choose: flat regions are columns, with a row a swatch; pictures lie beneath, as
 * they are, for a swatch to be multiplied in.
 *
 * @param most pixels a side
 * @returns no atlas where there is no room
 */
export function packageAtlas(
  regions: readonly PackageRegion[],
  most: number,
): { atlas: Atlas | null; placed: PlacedRegion[]; problems: Problem[] } {
  const flats = regions.filter((r) => !r.picture)
  const pictures = regions.flatMap((r) => (r.picture ? [r.picture] : []))
  const cell = pictures.length ? SMOOTH_CELL : CELL
  const rows = Math.max(1, ...flats.map((r) => r.swatches.length))
  const top = flats.length ? rows * cell : 0
  const size = sideFor(flats.length * cell, top, pictures, most)
  const boxes = boxesWithin(pictures, size, size - top)
  if (flats.length * cell > size || top > size || boxes.length < pictures.length) {
    const full = problem(
      'atlas-full',
      'target/atlas',
      `The colors of ${regions.length} regions do not fit an atlas of ${size} pixels.`,
      'Use a target with a larger atlas, or offer fewer parts or swatches.',
    )
    return { atlas: null, placed: [], problems: [full] }
  }
  const rectangles: Rectangle[] = []
  const surfacing: Surfacing[] = []
  let [column, box] = [0, 0]
  const placed = regions.map(({ swatches, picture }): PlacedRegion => {
    if (picture) {
      const { x, y, w, h } = boxes[box++]!
      rectangles.push({ x, y: y + top, w, h })
      surfacing.push({ swatch: '#ffffff', picture })
      return { cells: [], picture: [x / size, (y + top) / size, w / size, h / size] }
    }
    const cells = swatches.map((swatch, row): [number, number] => {
      rectangles.push({ x: column * cell, y: row * cell, w: cell, h: cell })
      surfacing.push({ swatch, picture: null })
      return [((column + 0.5) * cell) / size, ((row + 0.5) * cell) / size]
    })
    column++
    return { cells, picture: null }
  })
  return { atlas: paintAtlas({ size, rectangles }, surfacing), placed, problems: [] }
}

/** The smallest power of two in which everything has room at its own size; at most `most`. */
function sideFor(width: number, top: number, pictures: readonly Pixels[], most: number): number {
  let size = 16
  while (size < most && (size < width || size < top || !packed(pictures, 1, size, size - top))) size *= 2
  return size
}

function packed(pictures: readonly Pixels[], scale: number, width: number, height: number) {
  const boxes = pictures.map((p) => ({
    w: Math.max(4, Math.round(p.width * scale)) + MARGIN,
    h: Math.max(4, Math.round(p.height * scale)) + MARGIN,
    ...{ x: 0, y: 0 },
  }))
  const order = [...boxes]
  const { w, h } = potpack(order)
  return w <= width && h <= height ? boxes : null
}

function boxesWithin(pictures: readonly Pixels[], width: number, height: number): Rectangle[] {
  if (pictures.length === 0) return []
  for (let scale = 1; scale > 1 / 512; scale *= 0.84) {
    const boxes = packed(pictures, scale, width, height)
    if (boxes) return boxes.map(({ x, y, w, h }) => ({ x, y, w: w - MARGIN, h: h - MARGIN }))
  }
  return []
}
