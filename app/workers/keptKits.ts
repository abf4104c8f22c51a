import { createStore, delMany, get, keys, set } from 'idb-keyval'
import type { Kit, Read } from '@idle-tinker/core'

/** Reading a kit takes about a second; as it was read it lies in the browser's database, a twentieth of that away. */
const store = typeof indexedDB === 'undefined' ? null : createStore('tinker-kits', 'read')

/**
 * Under what the reading of a kit is kept: what was read, and by which reader. The address of a built worker bears a
 * hash of all its code; in development it does not, so there nothing is kept.
 *
 * @param hash of the kit's files
 */
const keyOf = (hash: string): string => `${self.location.href} ${hash}`

/** A kit as it was read before by this very reader; null if it was not, or this browser keeps nothing. */
export async function keptKit(hash: string): Promise<Read<Kit> | null> {
  if (!store || import.meta.env.DEV) return null
  try {
    return (await get<Read<Kit>>(keyOf(hash), store)) ?? null
  } catch {
    // a private window: it is read from its files
    return null
  }
}

/** Keeps what was read of a kit, and drops what nobody will ask for again: kits that are gone, other readers' readings. */
export async function keepKit(hash: string, read: Read<Kit>, others: readonly string[]): Promise<void> {
  if (!store || import.meta.env.DEV) return
  try {
    const wanted = new Set([hash, ...others].map(keyOf))
    await delMany(
      (await keys<string>(store)).filter((key) => !wanted.has(key)),
      store,
    )
    await set(keyOf(hash), read, store)
  } catch {
    // full or forbidden: it is read again the next time
  }
}
