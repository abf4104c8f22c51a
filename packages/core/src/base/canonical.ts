import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'

/**
 * JSON with object keys sorted and no white space, so that equal documents are equal bytes
 * (the idea of RFC 8785; numbers use ECMAScript's shortest form, as it asks).
 * Members that are undefined are left out. Throws on NaN and infinities, which JSON cannot hold.
 */
export function canonicalJson(value: unknown): string {
  if (value === null || typeof value === 'boolean' || typeof value === 'string') return JSON.stringify(value)
  if (typeof value === 'number') {
    if (!Number.isFinite(value)) throw new RangeError(`JSON cannot hold the number ${value}`)
    return JSON.stringify(value)
  }
  if (Array.isArray(value)) return `[${value.map((v) => canonicalJson(v ?? null)).join(',')}]`
  if (typeof value === 'object') {
    const object = value as Record<string, unknown>
    const members = Object.keys(object)
      .filter((key) => object[key] !== undefined)
      .sort()
      .map((key) => `${JSON.stringify(key)}:${canonicalJson(object[key])}`)
    return `{${members.join(',')}}`
  }
  throw new TypeError(`JSON cannot hold a ${typeof value}`)
}

/** SHA-256 of bytes or of a document's canonical JSON, as 64 hexadecimal digits. */
export function contentHash(value: unknown): string {
  return bytesToHex(sha256(value instanceof Uint8Array ? value : utf8ToBytes(canonicalJson(value))))
}
