import { createStore, delMany, get, keys, set } from 'idb-keyval'

/** Pictures of parts, as this build of the workshop has taken them. */
const store = typeof indexedDB === 'undefined' ? null : createStore('tinker-pictures', 'taken')
let cleared: Promise<void> | null = null

/** The build that is running; pictures of another may look otherwise. */
const build = () => `${useRuntimeConfig().app.buildId} `

/** Drops what other builds have taken, once a visit. */
async function clearOthers(): Promise<void> {
  const mine = build()
  await delMany(
    (await keys<string>(store!)).filter((key) => !key.startsWith(mine)),
    store!,
  )
}

/** A picture from an earlier visit of this browser; undefined where there is none. */
export async function keptPicture(key: string): Promise<string | undefined> {
  // in development the code changes without another build
  if (!store || import.meta.dev) return undefined
  try {
    await (cleared ??= clearOthers())
    return await get<string>(build() + key, store)
  } catch {
    // a private window: it is taken anew
    return undefined
  }
}

export async function keepPicture(key: string, picture: string): Promise<void> {
  if (!store || import.meta.dev) return
  try {
    await set(build() + key, picture, store)
  } catch {
    // full or forbidden: it is taken anew the next time
  }
}
