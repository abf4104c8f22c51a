import potpack from 'potpack'
import { problem, type Problem } from '../base/problem.ts'
import type { Pixels } from './decodeImage.ts'

/** What a region of a figure looks like: a flat color, or a picture tinted by it. */
export interface Surfacing {
  /** "#rrggbb"; white leaves a picture as it is. */
  swatch: string
  picture: Pixels | null
}

/** A region's place in the atlas, pixels from the top left. */
export interface Rectangle {
  x: number
  y: number
  w: number
  h: number
}

/** One texture for a whole figure or crowd: a rectangle for each region. Flat colors take a small cell each. */
export interface Atlas {
  /** Pixels a side. */
  size: number
  /** RGBA, 8 bits, sRGB, rows from the top; length size * size * 4. */
  pixels: Uint8Array
  /** By region. */
  rectangles: Rectangle[]
  /** The swatch of each region. */
  swatches: string[]
  /** Whether any region is more than a flat color: it then wants smooth filtering. */
  painted: boolean
}

/** Where everything lies in an atlas; the same for every coloring of the same figure. */
export interface AtlasLayout {
  size: number
  rectangles: Rectangle[]
}

/** A cell is at least this many pixels a side, so that filtering and small mip levels do not mix swatches. */
const MIN_CELL = 4
/** Flat cells beside pictures: all of one size, in rows at the top. */
const CELL = 8
/** Pictures keep this far from each other, pixels. */
const MARGIN = 2

/** "#rrggbb" to bytes. */
export function rgbOf(color: string): [number, number, number] {
  const n = Number.parseInt(color.slice(1), 16)
  return [n >> 16, (n >> 8) & 255, n & 255]
}

/** How many cells a side a number of color regions needs. */
export function gridFor(cells: number): number {
  let grid = 1
  while (grid * grid < cells) grid *= 2
  return grid
}

/** Lays out an atlas for regions that are flat (null) or have a picture of a size. */
export function layoutAtlas(
  regions: readonly ({ width: number; height: number } | null)[],
  size: number,
): { layout: AtlasLayout; problems: Problem[] } {
  return regions.some((r) => r !== null) ? layoutPictures(regions, size) : layoutCells(regions.length, size)
}

const full = (what: string, size: number) => [
  problem(
    'atlas-full',
    'target/atlas',
    `${what} do not fit an atlas of ${size} pixels.`,
    'Use a larger atlas or fewer color regions.',
  ),
]

function layoutCells(count: number, size: number): { layout: AtlasLayout; problems: Problem[] } {
  const grid = gridFor(Math.max(1, count))
  const cell = size / grid
  const rectangles = Array.from({ length: count }, (_, i) => ({
    x: (i % grid) * cell,
    y: Math.floor(i / grid) * cell,
    w: cell,
    h: cell,
  }))
  return { layout: { size, rectangles }, problems: cell < MIN_CELL ? full(`${count} swatches`, size) : [] }
}

function layoutPictures(
  regions: readonly ({ width: number; height: number } | null)[],
  size: number,
): { layout: AtlasLayout; problems: Problem[] } {
  const inRow = Math.floor(size / CELL)
  const flats = regions.flatMap((r, i) => (r ? [] : [i]))
  const top = Math.ceil(flats.length / inRow) * CELL
  const rectangles: Rectangle[] = regions.map(() => ({ x: 0, y: 0, w: CELL, h: CELL }))
  flats.forEach((i, k) => Object.assign(rectangles[i]!, { x: (k % inRow) * CELL, y: Math.floor(k / inRow) * CELL }))
  // pictures share what is left, each at the same scale, as large as fits
  for (let scale = 1; scale > 1 / 512; scale *= 0.84) {
    const boxes = regions.flatMap((r, region) =>
      r
        ? [
            {
              region,
              w: Math.max(MIN_CELL, Math.round(r.width * scale)) + MARGIN,
              h: Math.max(MIN_CELL, Math.round(r.height * scale)) + MARGIN,
              x: 0,
              y: 0,
            },
          ]
        : [],
    )
    const { w, h } = potpack(boxes)
    if (w > size || h > size - top) continue
    for (const box of boxes) rectangles[box.region] = { x: box.x, y: box.y + top, w: box.w - MARGIN, h: box.h - MARGIN }
    return { layout: { size, rectangles }, problems: [] }
  }
  return { layout: { size, rectangles }, problems: full(`${regions.length - flats.length} pictures`, size) }
}

/** Paints every region into its rectangle. Recoloring a figure calls this and nothing else. */
export function paintAtlas({ size, rectangles }: AtlasLayout, regions: readonly Surfacing[]): Atlas {
  const pixels = new Uint8Array(size * size * 4)
  const last = regions.at(-1)?.swatch ?? '#808080'
  // what no region takes has the color of the last one, so that nothing strange bleeds in
  fillRectangle(pixels, size, { x: 0, y: 0, w: size, h: size }, last)
  regions.forEach(({ swatch, picture }, i) => {
    const place = rectangles[i]!
    if (picture) drawPicture(pixels, size, place, picture, swatch)
    else fillRectangle(pixels, size, place, swatch)
  })
  return {
    size,
    pixels,
    rectangles: rectangles.map((r) => ({ ...r })),
    swatches: regions.map((r) => r.swatch),
    painted: regions.some((r) => r.picture !== null),
  }
}

function fillRectangle(pixels: Uint8Array, size: number, { x, y, w, h }: Rectangle, swatch: string): void {
  const [r, g, b] = rgbOf(swatch)
  const [x1, y1] = [Math.ceil(x + w), Math.ceil(y + h)]
  for (let row = Math.floor(y); row < y1; row++)
    for (let o = (row * size + Math.floor(x)) * 4, end = (row * size + x1) * 4; o < end; o += 4) {
      pixels[o] = r
      pixels[o + 1] = g
      pixels[o + 2] = b
      pixels[o + 3] = 255
    }
}

/** Scales a picture into a rectangle (mean over the pixels that fall into one) and tints it. */
function drawPicture(pixels: Uint8Array, size: number, place: Rectangle, picture: Pixels, swatch: string): void {
  const tint = rgbOf(swatch)
  // pixels of the margin repeat those of the edge
  for (let y = -1; y <= place.h; y++)
    for (let x = -1; x <= place.w; x++) {
      const px = place.x + x
      const py = place.y + y
      if (px < 0 || py < 0 || px >= size || py >= size) continue
      const o = (py * size + px) * 4
      const inside = (v: number, n: number) => Math.min(n - 1, Math.max(0, v))
      const rgb = meanOf(picture, inside(x, place.w) / place.w, inside(y, place.h) / place.h, 1 / place.w, 1 / place.h)
      for (let k = 0; k < 3; k++) pixels[o + k] = Math.round((rgb[k]! * tint[k]!) / 255)
      pixels[o + 3] = 255
    }
}

function meanOf({ width, height, rgba }: Pixels, u: number, v: number, du: number, dv: number): number[] {
  const x0 = Math.min(width - 1, Math.floor(u * width))
  const y0 = Math.min(height - 1, Math.floor(v * height))
  const x1 = Math.max(x0 + 1, Math.min(width, Math.round((u + du) * width)))
  const y1 = Math.max(y0 + 1, Math.min(height, Math.round((v + dv) * height)))
  const sum = [0, 0, 0]
  for (let y = y0; y < y1; y++)
    for (let x = x0; x < x1; x++) for (let k = 0; k < 3; k++) sum[k]! += rgba[(y * width + x) * 4 + k]!
  return sum.map((s) => s / ((x1 - x0) * (y1 - y0)))
}

/**
 * Texture coordinates in the atlas for corners: of flat regions the middle of their cell, of painted
 * ones the corner's own coordinates within their rectangle.
 *
 * @param regions region a corner
 * @param uvs     own coordinates, uv a corner, 0..1 within the region's picture; beyond that the edge counts
 */
export function atlasUvs(
  { size, rectangles }: AtlasLayout,
  regions: ArrayLike<number>,
  uvs: ArrayLike<number>,
  isPainted: (region: number) => boolean,
): Float32Array {
  const out = new Float32Array(regions.length * 2)
  const painted = rectangles.map((_, i) => isPainted(i))
  for (let c = 0; c < regions.length; c++) {
    const { x, y, w, h } = rectangles[regions[c]!]!
    const own = painted[regions[c]!]!
    out[c * 2] = (x + (own ? inUnit(uvs[c * 2]!) : 0.5) * w) / size
    out[c * 2 + 1] = (y + (own ? inUnit(uvs[c * 2 + 1]!) : 0.5) * h) / size
  }
  return out
}

const inUnit = (v: number) => Math.min(1, Math.max(0, v))
