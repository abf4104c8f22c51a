import { createStore, delMany, get, keys, setMany } from 'idb-keyval'
import type { Kit, KnownModels, Read } from '@idle-tinker/core'
import type { KitAddress } from './protocol'

/** Reading a kit takes about a second; as it was read it lies in the browser's database, a twentieth of that away. */
const store = typeof indexedDB === 'undefined' ? null : createStore('tinker-kits', 'read')

/**
 * Under what the reading of a kit is kept: what was read, and by which reader. The address of a built worker bears a
 * hash of all its code; in development it does not, so there nothing is kept.
 *
 * @param hash of the kit's files
 */
const keyOf = (hash: string): string => `${self.location.href} ${hash}`

/** Where the models of a kit lie, as they were last read: a change of it seldom touches more than one. */
const modelsKeyOf = (id: string): string => `${self.location.href} models of ${id}`

/** Models as they lie in the database. */
type KeptModels = (readonly [string, Awaited<ReturnType<KnownModels['get']>>])[]

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

/** The models of a kit as they were last read, whatever it was then. */
export async function keptModels(id: string): Promise<KnownModels> {
  if (!store || import.meta.env.DEV) return new Map()
  try {
    const kept = (await get<KeptModels>(modelsKeyOf(id), store)) ?? []
    return new Map(kept.map(([key, model]) => [key, Promise.resolve(model!)]))
  } catch {
    // as above
    return new Map()
  }
}

/**
 * Keeps what was read of a kit and its models, and drops what nobody will ask for again: kits that are gone, other
 * readers' readings.
 *
 * @param models those it was read with
 * @param all    the kits that there are
 */
export async function keepKit(
  { id, hash }: KitAddress,
  read: Read<Kit>,
  models: KnownModels,
  all: readonly KitAddress[],
): Promise<void> {
  if (!store || import.meta.env.DEV) return
  try {
    const wanted = new Set(all.flatMap((kit) => [keyOf(kit.hash), modelsKeyOf(kit.id)]))
    await delMany(
      (await keys<string>(store)).filter((key) => !wanted.has(key)),
      store,
    )
    const kept = await Promise.all([...models].map(async ([key, model]) => [key, await model] as const))
    await setMany(
      [
        [keyOf(hash), read],
        [modelsKeyOf(id), kept],
      ],
      store,
    )
  } catch {
    // full or forbidden: it is read again the next time
  }
}
