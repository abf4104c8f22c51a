import { Color, LinearSRGBColorSpace, SRGBColorSpace } from 'three'
import { colorWord } from '../color/colorWord.ts'
import { decodeImage, type Pixels } from '../color/decodeImage.ts'
import type { Paint } from '../kit/readModel.ts'
import type { Run } from './pieceOf.ts'
import { onTile } from './pictures.ts'

/** What some triangles are painted with. */
export interface Painted {
  picture: Pixels
  /** uv a vertex, origin upper left; beyond 0 and 1 the picture repeats. */
  uvs: ArrayLike<number>
  /** What the picture is multiplied by: linear red, green, blue. */
  factor: readonly number[]
}

/** Colors a picture may have under a run's triangles and still be a palette. */
const MOST_COLORS = 24
/** Colors no farther apart than this are one: steps of 0 to 255, in each of the three. */
const ALIKE = 14
/** Of a palette's triangles so much lies on one color each, by area. */
const FLAT_SHARE = 0.9

/** So much of what is painted may lie on more than one tile of its picture, by area: it is then seen in one color. */
const MOST_TILED = 0.02

/**
 * Parts triangles by the colors that their picture has under them, if each lies on one color, as where all of a pack share
 * a palette: every color becomes a material of its own, which can be given another. What is truly painted comes back in
 * one piece, with its picture where that is not repeated, and the mean of its colors.
 */
export function partByColor(run: Run, painted: Painted): Run[] {
  const { indices } = run
  const colors: OneColor[] = []
  const mean = [0, 0, 0]
  let [all, flat, tiled] = [0, 0, 0]
  for (let t = 0; t * 3 + 2 < indices.length; t++) {
    const area = areaOf(run, t)
    const seen = WITHIN.map((shares) => sample(painted, indices, t, shares))
    const [middle] = seen
    all += area
    if (!onTile(painted.uvs, indices[t * 3]!, indices[t * 3 + 1]!, indices[t * 3 + 2]!)) tiled += area
    for (let k = 0; k < 3; k++) mean[k]! += area * linear(middle![k]!)
    if (seen.every((c) => isAlike(c, middle!))) flat += area
    let color = colors.find((c) => isAlike(c.at, middle!))
    if (!color && colors.length <= MOST_COLORS) colors.push((color = { at: middle!, area: 0, triangles: [] }))
    color?.triangles.push(t)
    if (color) color.area += area
  }
  const { name } = run.material
  if (all === 0 || flat < FLAT_SHARE * all || colors.length > MOST_COLORS) {
    const color =
      all > 0
        ? hexOf(
            mean.map((v) => v / all),
            painted.factor,
          )
        : run.material.color
    // a picture that is repeated over a triangle has no one place in an atlas
    if (all === 0 || tiled > MOST_TILED * all) return [{ ...run, material: { name, color, picture: true } }]
    const { picture, factor, uvs } = painted
    return [{ ...run, uvs, material: { name, color, picture: true, paint: { picture, factor } } }]
  }
  return runsOf(run, colors, painted.factor)
}

/** Triangles that are of one color, 0 to 255, sRGB. */
interface OneColor {
  at: readonly number[]
  area: number
  triangles: number[]
}

/** A run for each color, the one with the most area first. */
function runsOf(run: Run, colors: OneColor[], factor: readonly number[]): Run[] {
  const { indices, material } = run
  const { name } = material
  colors.sort((a, b) => b.area - a.area)
  return colors.map(({ at, triangles }, i) => {
    const color = hexOf(at.map(linear), factor)
    return {
      ...run,
      indices: triangles.flatMap((t) => [indices[t * 3]!, indices[t * 3 + 1]!, indices[t * 3 + 2]!]),
      // by what it is called a color is the same on every piece
      material: { name: `${name} ${colorWord(color)}`, of: name, color, picture: false },
      // what the file has of all of them is told once
      found: i === 0 ? run.found : { ...run.found, vertices: 0, weightsOff: 0, against: 0 },
    }
  })
}

/** The colors of a run's vertices. */
interface Tinted {
  /** Linear red, green, blue a vertex. */
  colors: ArrayLike<number>
  /** What they are multiplied by: linear red, green, blue. */
  factor: readonly number[]
}

/** What differs no more than this in red, green and blue is grey: 0 to 255. */
const GREY = 16

/**
 * Parts triangles by the colors of their vertices: every color becomes a material, a course of many comes in steps. Where
 * all are grey, or the material has a color of its own, they are baked light and no colors: the run comes back as it is.
 */
export function partByVertexColors(run: Run, { colors, factor }: Tinted): Run[] {
  const { indices } = run
  if (isColored([1, 3, 5].map((i) => parseInt(run.material.color.slice(i, i + 2), 16)))) return [run]
  const seen: { color: number[]; area: number }[] = []
  let colored = false
  for (let t = 0; t * 3 + 2 < indices.length; t++) {
    const corners = [0, 1, 2].map((c) => [0, 1, 2].map((k) => colors[indices[t * 3 + c]! * 3 + k]!))
    colored ||= corners.some((corner) => isColored(corner.map(byteOf)))
    const mean = [0, 1, 2].map((k) => byteOf(corners.reduce((sum, corner) => sum + corner[k]! / 3, 0)))
    seen.push({ color: mean, area: areaOf(run, t) })
  }
  if (!colored) return [run]
  // so coarse that there are no more than can be looked through
  for (let step = ALIKE; ; step *= 2) {
    const found: OneColor[] = []
    for (const [t, { color, area }] of seen.entries()) {
      let own = found.find((c) => isAlike(c.at, color, step))
      if (!own) found.push((own = { at: color, area: 0, triangles: [] }))
      if (found.length > MOST_COLORS) break
      own.triangles.push(t)
      own.area += area
    }
    if (found.length <= MOST_COLORS) return runsOf(run, found, factor)
  }
}

/** Where a triangle is looked at: in its middle, and towards each corner. */
const WITHIN = [
  [1 / 3, 1 / 3, 1 / 3],
  [0.8, 0.1, 0.1],
  [0.1, 0.8, 0.1],
  [0.1, 0.1, 0.8],
] as const

/** The color of a picture under a place of a triangle, 0 to 255, sRGB. */
function sample({ picture, uvs }: Painted, indices: ArrayLike<number>, t: number, shares: readonly number[]): number[] {
  let [u, v] = [0, 0]
  for (let k = 0; k < 3; k++) {
    u += shares[k]! * uvs[indices[t * 3 + k]! * 2]!
    v += shares[k]! * uvs[indices[t * 3 + k]! * 2 + 1]!
  }
  const at = (value: number, size: number) =>
    Number.isFinite(value) ? Math.min(size - 1, Math.floor((value - Math.floor(value)) * size)) : 0
  const o = (at(v, picture.height) * picture.width + at(u, picture.width)) * 4
  return [picture.rgba[o]!, picture.rgba[o + 1]!, picture.rgba[o + 2]!]
}

const isColored = (bytes: readonly number[]) => Math.max(...bytes) - Math.min(...bytes) > GREY
const isAlike = (a: readonly number[], b: readonly number[], step = ALIKE) =>
  a.every((v, k) => Math.abs(v - b[k]!) <= step)

const scratch = new Color()
/** A linear share of a color as sRGB, 0 to 255; what is no number takes nothing away. */
const byteOf = (share: number) =>
  Math.round(
    255 *
      scratch
        .setRGB(Math.min(1, Math.max(0, Number.isNaN(share) ? 1 : share)), 0, 0)
        .getRGB({ r: 0, g: 0, b: 0 }, SRGBColorSpace).r,
  )
const linear = (v: number) => scratch.setRGB(v / 255, 0, 0, SRGBColorSpace).r

/** A linear color under a factor, as #rrggbb. */
function hexOf(color: readonly number[], factor: readonly number[]): string {
  const [r, g, b] = color.map((v, k) => Math.min(1, Math.max(0, v * (factor[k] ?? 1)))) as [number, number, number]
  return `#${scratch.setRGB(r, g, b, LinearSRGBColorSpace).getHexString()}`
}

/** Twice the area of a triangle, in the file's own unit. */
function areaOf({ positions, indices }: Run, t: number): number {
  const at = (i: number, k: number) => positions[indices[t * 3 + i]! * 3 + k]!
  const cross = [0, 1, 2].map((k) => {
    const [i, j] = [(k + 1) % 3, (k + 2) % 3]
    return (at(1, i) - at(0, i)) * (at(2, j) - at(0, j)) - (at(1, j) - at(0, j)) * (at(2, i) - at(0, i))
  })
  const area = Math.hypot(...cross)
  return Number.isFinite(area) ? area : 0
}

/** Decodes pictures, each once; null where one cannot be. */
export function pictureReader(): (paint: Paint) => Pixels | null {
  const known = new Map<Uint8Array, Pixels | null>()
  return (paint) => {
    let pixels = known.get(paint.image)
    if (pixels === undefined) known.set(paint.image, (pixels = decodeImage(paint, 'pack').value))
    return pixels
  }
}

/** The kind of a picture by its file's name. */
export const pictureKind = (path: string): string =>
  /\.jpe?g$/i.test(path) ? 'image/jpeg' : /\.webp$/i.test(path) ? 'image/webp' : 'image/png'
