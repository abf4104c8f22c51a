import { problem, type Problem } from '../base/problem.ts'

/** One texture for a whole figure or crowd: a grid of flat cells, one a swatch. */
export interface Atlas {
  /** Pixels a side. */
  size: number
  /** RGBA, 8 bits, sRGB, rows from the top; length size * size * 4. */
  pixels: Uint8Array
  /** Cells a side. */
  grid: number
  /** The swatch in each cell in use. */
  swatches: string[]
}

/** A cell is at least this many pixels a side, so that filtering and small mip levels do not mix swatches. */
const MIN_CELL = 4

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

/** Paints one cell a swatch. Recoloring a figure calls this and nothing else. */
export function paintAtlas(swatches: readonly string[], size: number): { atlas: Atlas; problems: Problem[] } {
  const grid = gridFor(Math.max(1, swatches.length))
  const problems: Problem[] = []
  if (size / grid < MIN_CELL)
    problems.push(
      problem(
        'atlas-full',
        'target/atlas',
        `${swatches.length} swatches do not fit an atlas of ${size} pixels.`,
        'Use a larger atlas or fewer color regions.',
      ),
    )
  const pixels = new Uint8Array(size * size * 4)
  const cell = size / grid
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const i = Math.min(Math.floor(y / cell) * grid + Math.floor(x / cell), Math.max(0, swatches.length - 1))
      const o = (y * size + x) * 4
      const [r, g, b] = rgbOf(swatches[i] ?? '#808080')
      pixels[o] = r
      pixels[o + 1] = g
      pixels[o + 2] = b
      pixels[o + 3] = 255
    }
  return { atlas: { size, pixels, grid, swatches: [...swatches] }, problems }
}

/** The middle of a cell in texture coordinates. */
export function cellUv(cell: number, grid: number): [number, number] {
  return [((cell % grid) + 0.5) / grid, (Math.floor(cell / grid) + 0.5) / grid]
}
