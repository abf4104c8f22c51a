import { Color, SRGBColorSpace } from 'three'
import type { Atlas } from '../color/atlas.ts'
import type { Mesh } from '../mesh/Mesh.ts'

/* Numbers of vertices as few bytes. */

/** The smallest unit, a power of two, in which sixteen bits hold everything: an eighth of a millimetre for a person. */
export function unitFor(positions: Float32Array): number {
  const farthest = positions.reduce((most, v) => Math.max(most, Math.abs(v)), 0)
  let unit = 2 ** -13
  while (farthest * 1.5 > unit * 32_767) unit *= 2
  return unit
}

/** Metres as a whole number of units. */
export const counted = (metres: number, unit: number): number =>
  Math.max(-32_767, Math.min(32_767, Math.round(metres / unit)))

/** Texture coordinates as shares of 65535: a thousandth of a pixel of any atlas of ours. */
export function uvShorts(uvs: Float32Array): Uint16Array<ArrayBuffer> {
  const shorts = new Uint16Array(uvs.length)
  for (let i = 0; i < uvs.length; i++) shorts[i] = Math.round(Math.min(1, Math.max(0, uvs[i]!)) * 65535)
  return shorts
}

/** What each share of 255 of a color is as light. */
const LIGHT = Float32Array.from({ length: 256 }, (_, i) => new Color().setRGB(i / 255, 0, 0, SRGBColorSpace).r)

/** The color of each corner, with how much light is kept from it, as shares of 65535: light, as glTF has colors of vertices. */
export function vertexColors(
  { uvs, shades }: Pick<Mesh, 'uvs' | 'shades'>,
  { size, pixels }: Atlas,
): Uint16Array<ArrayBuffer> {
  const colors = new Uint16Array(shades.length * 4)
  const cell = (place: number) => Math.min(size - 1, Math.max(0, Math.floor(place * size)))
  for (let c = 0; c < shades.length; c++) {
    const at = (cell(uvs[c * 2 + 1]!) * size + cell(uvs[c * 2]!)) * 4
    for (let k = 0; k < 3; k++) colors[c * 4 + k] = Math.round(LIGHT[pixels[at + k]!]! * (shades[c]! / 255) * 65_535)
    colors[c * 4 + 3] = 65_535
  }
  return colors
}

/** Directions of length one as shares of 127: a fifth of a degree off, which no shading shows. */
export function directionBytes(directions: Float32Array): Int8Array<ArrayBuffer> {
  return Int8Array.from(directions, (v) => Math.round(v * 127))
}

/** Four weights as bytes that sum to 255 exactly (largest remainder). */
export function weightBytes(weights: Float32Array, at: number, out: Uint8Array): void {
  let left = 255
  for (let k = 0; k < 4; k++) left -= out[k] = Math.floor(weights[at + k]! * 255 + 1e-4)
  while (left > 0) {
    let best = 0
    for (let k = 1; k < 4; k++) if (weights[at + k]! * 255 - out[k]! > weights[at + best]! * 255 - out[best]!) best = k
    out[best]!++
    left--
  }
}
