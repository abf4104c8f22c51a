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
