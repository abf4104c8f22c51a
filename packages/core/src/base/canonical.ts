import canonicalize from 'canonicalize'
import { sha256 as sha256OfBytes } from 'hash-wasm'
import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'

/**
 * JSON with object keys sorted and no white space, so that equal documents are equal bytes (RFC 8785).
 * Members that are undefined are left out.
 *
 * @throws TypeError for what JSON cannot hold: NaN, infinities, functions, halves of surrogate pairs, circles
 */
export function canonicalJson(value: unknown): string {
  let text: string | undefined
  try {
    text = canonicalize(value)
  } catch (error) {
    throw new TypeError(`It cannot be written as JSON: ${(error as Error).message}`, { cause: error })
  }
  if (text === undefined) throw new TypeError(`JSON cannot hold a ${typeof value}`)
  return text
}

/** SHA-256 of a file, as `contentHash` tells it, many times as fast: kits are megabytes. */
export const fileHash = (bytes: Uint8Array): Promise<string> => sha256OfBytes(bytes)

/** SHA-256 of bytes or of a document's canonical JSON, as 64 hexadecimal digits. */
export function contentHash(value: unknown): string {
  return bytesToHex(sha256(value instanceof Uint8Array ? value : utf8ToBytes(canonicalJson(value))))
}
