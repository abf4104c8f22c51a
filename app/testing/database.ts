/** The browser's database as tests have it: what goes in and out is copied, as there; broken, it refuses everything. */
export function databaseOf(base: { kept: Map<string, unknown>; broken: boolean }) {
  const ask = async <T>(work: () => T): Promise<T> => {
    if (base.broken) throw new Error('no database')
    return await Promise.resolve(work())
  }
  return {
    createStore: () => base,
    get: (key: string) => ask(() => structuredClone(base.kept.get(key))),
    set: (key: string, value: unknown) => ask(() => void base.kept.set(key, structuredClone(value))),
    setMany: (entries: [string, unknown][]) =>
      ask(() => {
        for (const [key, value] of entries) base.kept.set(key, structuredClone(value))
      }),
    del: (key: string) => ask(() => void base.kept.delete(key)),
    keys: () => ask(() => [...base.kept.keys()]),
    entries: () => ask(() => structuredClone([...base.kept])),
    delMany: (keys: string[]) =>
      ask(() => {
        for (const key of keys) base.kept.delete(key)
      }),
  }
}
