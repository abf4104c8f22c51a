import { Shelf, type Kit } from '@idle-tinker/core'
import { KeptKits } from '@idle-tinker/kept'
import type { ThreadTask } from './inThread.ts'

let kept: Promise<KeptKits> | undefined

/** The kits that this program has read before. */
export const keptKits = (): Promise<KeptKits> => (kept ??= KeptKits.beside(import.meta.url))

/** The kits of a task, read, and a shelf with what was prepared for them. */
export async function readKitsOf(
  files: ThreadTask['kits'],
  prepared: Uint8Array | null,
): Promise<{ kits: Map<string, Kit>; shelf: Shelf }> {
  const kits = new Map<string, Kit>()
  for (const [id, own] of Object.entries(files)) {
    const { value } = await (await keptKits()).readKit(new Map(Object.entries(own)))
    if (value) kits.set(id, value)
  }
  const shelf = new Shelf()
  if (prepared) await shelf.fill(prepared)
  return { kits, shelf }
}
