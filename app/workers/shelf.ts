import { get, set } from 'idb-keyval'
import type { Shelf } from '@idle-tinker/core'

/** Under this key it lies in the browser's database; its own version says whether it is still of use. */
const KEY = 'tinker.shelf'
/** So many new results are worth the writing; they are written when nothing has been built for a while. */
const WORTH_KEEPING = 12
const QUIET = 4_000

let filled: Promise<void> | null = null
let timer: ReturnType<typeof setTimeout> | null = null

/** Fills a shelf from the server and from what this browser has kept. That neither is there changes no figure. */
export function fillShelf(shelf: Shelf, base: string): Promise<void> {
  filled ??= (async () => {
    const [shipped, own] = await Promise.all([shippedShelf(base), keptShelf()])
    for (const packed of [shipped, own]) if (packed) await shelf.fill(packed)
  })()
  return filled
}

async function shippedShelf(base: string): Promise<Uint8Array | null> {
  try {
    const answer = await fetch(`${base}/api/prepared`)
    return answer.ok ? new Uint8Array(await answer.arrayBuffer()) : null
  } catch {
    // the server is away: kits would be missing too, and that is told
    return null
  }
}

async function keptShelf(): Promise<Uint8Array | null> {
  try {
    return (await get<Uint8Array>(KEY)) ?? null
  } catch {
    // no database in this browser, or a private window
    return null
  }
}

/** Keeps what was worked out, once the hand rests. */
export function keepShelf(shelf: Shelf): void {
  if (shelf.added < WORTH_KEEPING || typeof indexedDB === 'undefined') return
  if (timer) clearTimeout(timer)
  timer = setTimeout(() => {
    // full or forbidden: it is worked out again the next time
    set(KEY, shelf.pack()).catch(() => undefined)
  }, QUIET)
}
