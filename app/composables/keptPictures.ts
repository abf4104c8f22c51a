import { createStore, delMany, entries, get, set, type UseStore } from 'idb-keyval'

/** A picture, or several that belong together, and when it was taken. */
interface Taken {
  pictures: readonly string[]
  at: number
}

/** Pictures of one kind that this browser keeps from visit to visit, as this build of the workshop has taken them. */
export interface KeptPictures {
  /** Those from an earlier visit; undefined where there are none. */
  get(key: string): Promise<readonly string[] | undefined>
  keep(key: string, pictures: readonly string[]): Promise<void>
}

/** The build that is running; pictures of another may look otherwise. */
const build = () => `${useRuntimeConfig().app.buildId} `

/**
 * @param name of the kind, one of this workshop's own
 * @param most are kept, the newest; those beyond and those of other builds are dropped as a visit begins, and whenever
 *   it has brought as many again
 */
export function keptPictures(name: string, most: number): KeptPictures {
  const store = typeof indexedDB === 'undefined' ? null : createStore(`tinker-${name}`, 'taken')
  let cleared: Promise<void> | null = null
  let come = 0

  async function clear(from: UseStore): Promise<void> {
    const mine = build()
    const all = await entries<string, Taken>(from)
    const kept = all.filter(([key]) => key.startsWith(mine)).sort(([, a], [, b]) => b.at - a.at)
    const stay = new Set(kept.slice(0, most).map(([key]) => key))
    await delMany(
      all.map(([key]) => key).filter((key) => !stay.has(key)),
      from,
    )
  }

  return {
    async get(key) {
      // in development the code changes without another build
      if (!store || import.meta.dev) return undefined
      try {
        await (cleared ??= clear(store))
        return (await get<Taken>(build() + key, store))?.pictures
      } catch {
        // a private window: it is taken anew
        return undefined
      }
    },
    async keep(key, pictures) {
      if (!store || import.meta.dev) return
      try {
        await set(build() + key, { pictures, at: Date.now() } satisfies Taken, store)
        if (++come % most === 0) await (cleared = clear(store))
      } catch {
        // full or forbidden: it is taken anew the next time
      }
    },
  }
}
