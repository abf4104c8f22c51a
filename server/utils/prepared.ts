import { readFile } from 'node:fs/promises'
import { join } from 'node:path'

/** What the demo's figures need of their parts, worked out when the kits were made; null if it is not there. */
export async function preparedShelf(): Promise<Uint8Array | null> {
  const root = process.env.TINKER_ROOT ?? process.cwd()
  try {
    return new Uint8Array(await readFile(join(root, 'kits/lantern-tide/prepared.bin')))
  } catch {
    // everything on it can be worked out anew
    return null
  }
}
