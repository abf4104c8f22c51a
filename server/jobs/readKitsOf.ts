import { readKit, Shelf, type Kit } from '@idle-tinker/core'
import type { ThreadTask } from './inThread.ts'

/** The kits of a task, read, and a shelf with what was prepared for them. */
export async function readKitsOf(
  files: ThreadTask['kits'],
  prepared: Uint8Array | null,
): Promise<{ kits: Map<string, Kit>; shelf: Shelf }> {
  const kits = new Map<string, Kit>()
  for (const [id, own] of Object.entries(files)) {
    const { value } = await readKit(new Map(Object.entries(own)))
    if (value) kits.set(id, value)
  }
  const shelf = new Shelf()
  if (prepared) await shelf.fill(prepared)
  return { kits, shelf }
}
