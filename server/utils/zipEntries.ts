import { unzipSync } from 'fflate'
import { getBlob } from '../db/blobs'

/** Zips that are open at once: the one that is looked at, and the one before it. */
const OPEN = 2

const open = new Map<string, Promise<Buffer | null>>()

/** A file in a kept zip; null where there is no such zip or file. */
export async function entryOf(hash: string, path: string): Promise<Buffer | null> {
  let zip = open.get(hash)
  if (!zip) {
    zip = getBlob(hash)
    open.set(hash, zip)
    zip.catch(() => open.delete(hash))
    for (const old of [...open.keys()].slice(0, -OPEN)) open.delete(old)
  }
  const bytes = await zip
  // one file at a time: the server stands still for no longer than that takes
  const files = bytes && unzipSync(bytes, { filter: ({ name }) => name === path })
  const file = files && Object.hasOwn(files, path) ? files[path] : undefined
  return file ? Buffer.from(file) : null
}
