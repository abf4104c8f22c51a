import { encode } from 'fast-png'
import { Color, SRGBColorSpace } from 'three'
import type { Pixels } from '../color/decodeImage.ts'
import type { PackPiece } from './Pack.ts'

/*
 * Pictures that pieces of a pack are painted with: where on them a triangle lies, and the cut that a part takes along.
 */

/** What a material is painted with, as its file has it. */
export interface PiecePaint {
  picture: Pixels
  /** What it is multiplied by: linear red, green, blue. */
  factor: readonly number[]
}

/** Corners may lie so far beyond their tile and still be in it: shares of the picture. */
const SLACK = 0.02

/**
 * A triangle's three corners on the tile of the picture that its middle lies on, 0 to 1; null where it goes on over
 * others, as where a picture is repeated.
 */
export function onTile(uvs: ArrayLike<number>, a: number, b: number, c: number): number[] | null {
  const out: number[] = []
  for (let k = 0; k < 2; k++) {
    const at = [a, b, c].map((v) => uvs[v * 2 + k]!)
    const tile = Math.floor((at[0]! + at[1]! + at[2]!) / 3)
    for (const [i, v] of at.entries()) {
      const own = v - tile
      if (!(own >= -SLACK && own <= 1 + SLACK)) return null
      out[i * 2 + k] = Math.min(1, Math.max(0, own))
    }
  }
  return out
}

/** The rectangle of a picture that some corners lie on, as shares of it. */
export interface Cut {
  u: number
  v: number
  wide: number
  high: number
}

/** Cuts out what some corners lie on, with a pixel around it, no longer than asked for: a PNG, and where it lies on the whole. */
export function cutPicture(
  { picture, factor }: PiecePaint,
  uvs: readonly number[],
  longest: number,
): { png: Uint8Array; cut: Cut } {
  const { width, height } = picture
  const span = (k: number, size: number): [number, number] => {
    let [from, to] = [1, 0]
    for (let i = k; i < uvs.length; i += 2) {
      from = Math.min(from, uvs[i]!)
      to = Math.max(to, uvs[i]!)
    }
    const first = Math.max(0, Math.floor(from * size) - 1)
    return [first, Math.max(first + 1, Math.min(size, Math.ceil(to * size) + 1))]
  }
  const [[x0, x1], [y0, y1]] = [span(0, width), span(1, height)]
  const scale = Math.min(1, longest / Math.max(x1 - x0, y1 - y0))
  const [w, h] = [x1 - x0, y1 - y0].map((n) => Math.max(1, Math.round(n * scale))) as [number, number]
  const tints = [0, 1, 2].map((k) => tableOf(factor[k] ?? 1))
  const data = new Uint8Array(w * h * 3)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const left = x0 + Math.floor((x * (x1 - x0)) / w)
      const right = Math.max(left + 1, x0 + Math.floor(((x + 1) * (x1 - x0)) / w))
      const top = y0 + Math.floor((y * (y1 - y0)) / h)
      const bottom = Math.max(top + 1, y0 + Math.floor(((y + 1) * (y1 - y0)) / h))
      for (let k = 0; k < 3; k++) {
        data[(y * w + x) * 3 + k] = tints[k]![meanOf(picture, [left, right], [top, bottom], k)]!
      }
    }
  const png = new Uint8Array(encode({ width: w, height: h, data, channels: 3 }))
  return {
    png,
    cut: { u: x0 / width, v: y0 / height, wide: (x1 - x0) / width, high: (y1 - y0) / height },
  }
}

/** Where on a triangle its picture is looked at, as shares of its corners: its middle, and halfway from there to each corner. */
const LOOKS = [
  [1 / 3, 1 / 3, 1 / 3],
  [2 / 3, 1 / 6, 1 / 6],
  [1 / 6, 2 / 3, 1 / 6],
  [1 / 6, 1 / 6, 2 / 3],
] as const
/** Colors of pictures are told apart in steps of so much, of 255: there is no end of them else. */
const STEP = 8

/** What color each triangle of a piece looks from afar, as #rrggbb: where it is painted, what is there on its picture. */
export function triangleColors({ materials, materialOf, uvs }: PackPiece): string[] {
  const tints = materials.map(({ paint }) => paint && [0, 1, 2].map((k) => tableOf(paint.factor[k] ?? 1)))
  return Array.from(materialOf, (number, t) => {
    const { color, paint } = materials[number]!
    const tables = tints[number]
    if (!paint || !tables || !uvs) return color
    const { width, height, rgba } = paint.picture
    const sums = [0, 0, 0]
    for (const [a, b, c] of LOOKS) {
      const at = t * 6
      const u = a * uvs[at]! + b * uvs[at + 2]! + c * uvs[at + 4]!
      const v = a * uvs[at + 1]! + b * uvs[at + 3]! + c * uvs[at + 5]!
      const x = Math.min(width - 1, Math.floor(u * width))
      const y = Math.min(height - 1, Math.floor(v * height))
      for (let k = 0; k < 3; k++) sums[k]! += tables[k]![rgba[(y * width + x) * 4 + k]!]!
    }
    const bytes = sums.map((sum) => Math.min(255, Math.round(sum / LOOKS.length / STEP) * STEP))
    return `#${bytes.map((byte) => byte.toString(16).padStart(2, '0')).join('')}`
  })
}

/** A pixel is the mean of so many along each side, at most: a large picture is not read whole for a small one. */
const SAMPLES = 6

/** The mean of a channel over a rectangle of a picture, 0 to 255. */
function meanOf({ width, rgba }: Pixels, [x0, x1]: [number, number], [y0, y1]: [number, number], k: number): number {
  const [across, down] = [Math.ceil((x1 - x0) / SAMPLES), Math.ceil((y1 - y0) / SAMPLES)]
  let [sum, count] = [0, 0]
  for (let y = y0; y < y1; y += down)
    for (let x = x0; x < x1; x += across) {
      sum += rgba[(y * width + x) * 4 + k]!
      count++
    }
  return Math.round(sum / count)
}

const scratch = new Color()
/** Bytes of a color channel, sRGB, multiplied in linear light. */
function tableOf(factor: number): Uint8Array {
  return Uint8Array.from({ length: 256 }, (_, v) => {
    const linear = scratch.setRGB(v / 255, 0, 0, SRGBColorSpace).r * Math.min(1, Math.max(0, factor))
    return Math.round(255 * scratch.setRGB(linear, 0, 0).getRGB({ r: 0, g: 0, b: 0 }, SRGBColorSpace).r)
  })
}
