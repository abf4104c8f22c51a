import { decode as decodePng } from 'fast-png'
import { decode as decodeJpeg } from 'jpeg-js'
import { problem, type Read } from '../base/problem.ts'
import type { Paint } from '../kit/readModel.ts'

/** A picture, rows from the top. */
export interface Pixels {
  width: number
  height: number
  /** 8 bits, sRGB; length width * height * 4. */
  rgba: Uint8Array
}

/** A larger picture than this has no place on a low-poly figure, and could be made to fill all memory. */
const MOST_PIXELS = 4096 * 4096

/** Decodes a PNG or JPEG picture. What cannot be decoded is told, not thrown. */
export function decodeImage({ mimeType, image }: Paint, where: string): Read<Pixels> {
  const fault = (message: string): Read<Pixels> => ({
    value: null,
    problems: [problem('image', where, message, 'Save the picture as PNG or JPEG.', 'warning')],
  })
  try {
    if (mimeType === 'image/png') return { value: fromPng(image), problems: [] }
    if (mimeType === 'image/jpeg') {
      const { width, height, data } = decodeJpeg(image, {
        useTArray: true,
        maxResolutionInMP: 17,
        maxMemoryUsageInMB: 256,
      })
      return { value: { width, height, rgba: data }, problems: [] }
    }
    return fault(`A picture of the kind “${mimeType}” cannot be read; its surface is drawn in one color.`)
  } catch (error) {
    const detail = error instanceof Error ? error.message : String(error)
    return fault(`A picture cannot be read (${detail}); its surface is drawn in one color.`)
  }
}

function fromPng(image: Uint8Array): Pixels {
  const view = new DataView(image.buffer, image.byteOffset, image.byteLength)
  if (image.length > 24 && view.getUint32(16) * view.getUint32(20) > MOST_PIXELS)
    throw new RangeError('it is too large')
  const { width, height, data, channels, depth, palette } = decodePng(image)
  const rgba = new Uint8Array(width * height * 4).fill(255)
  const shift = depth === 16 ? 8 : 0
  for (let i = 0; i < width * height; i++) {
    const color = palette ? palette[data[i * channels]!]! : null
    for (let k = 0; k < 3; k++)
      rgba[i * 4 + k] = color ? color[k]! : data[i * channels + (channels < 3 ? 0 : k)]! >> shift
  }
  return { width, height, rgba }
}
