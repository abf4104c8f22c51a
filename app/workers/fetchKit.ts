import { unpack, type Kit, type Read } from '@idle-tinker/core'
import type { KitAddress } from './protocol'

/** The files of a kit, from the server. */
export async function fetchKit(base: string, id: string, files: readonly string[]): Promise<Map<string, Uint8Array>> {
  const contents = await Promise.all(
    files.map(async (path): Promise<[string, Uint8Array]> => {
      const at = path.split('/').map(encodeURIComponent).join('/')
      const answer = await fetch(`${base}/api/kits/${id}/${at}`)
      if (!answer.ok) throw new Error(`The file ${path} of the kit cannot be had (${answer.status}).`)
      return [path, new Uint8Array(await answer.arrayBuffer())]
    }),
  )
  return new Map(contents)
}

/**
 * A kit as the server has read it, which takes a twentieth of the time of its files; the browser keeps it for the next
 * visit. Null where the server cannot give it, or is of another build than this page.
 */
export async function fetchReading(base: string, { reading }: KitAddress): Promise<Read<Kit> | null> {
  // while one works on the program, the server reads as it was built, and the page as it stands
  if (import.meta.env.DEV) return null
  try {
    const answer = await fetch(`${base}${reading}`)
    return answer.ok ? (unpack(new Uint8Array(await answer.arrayBuffer())) as Read<Kit>) : null
  } catch {
    // away, or cut off: what is wrong is told of the files, from which it is read then
    return null
  }
}
