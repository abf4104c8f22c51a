import type { Problem, Read } from '@idle-tinker/core'
import { Keeper, type Entry, type SaveState } from './Keeper'

/** What a store says of the document that is open in it. */
export interface OpenDocument {
  id: string | null
  save: SaveState
  version: number
  /** Why it is not kept. */
  unkept: Problem[]
}

const keepers = new WeakMap<OpenDocument, unknown>()

/** The keeper of a store's documents, one as long as the store lives: it tells the store of the one that is open. */
export function keeperFor<T extends object>(
  store: OpenDocument,
  kind: string,
  read: (document: unknown, where: string) => Read<T>,
  saved: (entry: Entry<T>) => void,
): Keeper<T> {
  let keeper = keepers.get(store) as Keeper<T> | undefined
  if (!keeper) {
    keeper = new Keeper<T>(kind, read, saved, (id, { state, version, problems }) => {
      if (store.id === id)
        Object.assign(store, { save: state, version, unkept: problems } satisfies Partial<OpenDocument>)
    })
    keepers.set(store, keeper)
  }
  return keeper
}
