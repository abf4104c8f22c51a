import { ImageUtils } from '@gltf-transform/core'
import { problem, type Problem } from '../base/problem.ts'

/** Pictures with longer sides are more than a figure shows. */
const LARGE = 2048
/** Of a name that somebody else made, so much is told. */
const MOST_LETTERS = 80
const isPowerOfTwo = (n: number) => Number.isInteger(Math.log2(n))

/** What is told of a picture that a file names and a pack does not hold. */
export function pictureMissing(name: string, path: string): Problem {
  const message = `Its picture “${name.slice(0, MOST_LETTERS)}” is not in the pack.`
  return problem('picture-missing', path, message, 'Add it, or go without.', 'warning')
}

/** What is worth knowing of a picture, before it is used. */
export function pictureFaults(name: string, size: readonly number[] | null, path: string): Problem[] {
  if (!size) return []
  const told = `The picture “${name.slice(0, MOST_LETTERS)}” has ${size[0]} × ${size[1]} pixels.`
  if (Math.max(...size) > LARGE) return [problem('picture-large', path, told, 'Make it smaller.', 'info')]
  if (size.every(isPowerOfTwo)) return []
  return [problem('picture-odd', path, told, 'Some devices want sides of 2, 4, 8, 16 … pixels.', 'info')]
}

/** Width and height of a picture, from its head; null of what is none: whoever uses it is told. */
export function sizeOfPicture(bytes: Uint8Array, mimeType: string): readonly number[] | null {
  try {
    return ImageUtils.getSize(new Uint8Array(bytes), mimeType)
  } catch {
    return null
  }
}
