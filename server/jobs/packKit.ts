import { pack } from '@idle-tinker/core'
import { keptKits } from './readKitsOf.ts'

export interface PackedKit {
  /** What `kitHash` says of its files. */
  hash: string
  /** What `readKit` says of them, packed. */
  packed: Uint8Array
  /** Whether there is a kit in it, or only why there is none. */
  whole: boolean
}

/** Reads a kit for whoever cannot wait for it: a page, which has it from here instead of from all its files. */
export async function packKit(files: ReadonlyMap<string, Uint8Array>): Promise<PackedKit> {
  const { hash, read, packed } = await (await keptKits()).readAnew(files)
  return { hash, packed: packed ?? pack(read), whole: read.value !== null }
}
