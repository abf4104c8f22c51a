import type { PackedKit } from '@idle-tinker/kept'
import { keptKits } from './readKitsOf.ts'

/** Reads a kit for whoever cannot wait for it: a page, which has it from here instead of from all its files. */
export async function packKit(files: ReadonlyMap<string, Uint8Array>): Promise<PackedKit> {
  return (await keptKits()).packKit(files)
}
