/* Numbers of vertices as few bytes. */

/** Texture coordinates as shares of 65535: a thousandth of a pixel of any atlas of ours. */
export function uvShorts(uvs: Float32Array): Uint16Array<ArrayBuffer> {
  const shorts = new Uint16Array(uvs.length)
  for (let i = 0; i < uvs.length; i++) shorts[i] = Math.round(Math.min(1, Math.max(0, uvs[i]!)) * 65535)
  return shorts
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
