import { computed, reactive, shallowRef, toRefs } from 'vue'
import { defineStore } from 'pinia'
import type { Read } from '@idle-tinker/core'
import type { Entry } from '../documents/Keeper'
import { keeperFor, type OpenDocument } from '../documents/keeperFor'
import { plain } from '../workers/plain'
import { record, redo, settle, startHistory, undo, type History } from './history'
import { listOf, useProject, type Contents } from './project'

/**
 * A store of the one document of a kind that is being changed: what is changed holds at once, everywhere.
 *
 * @param keepAsOwn keeps what was made here beside what another window made of it, as a document of its own
 */
export function openStore<K extends 'target' | 'pose' | 'clip' | 'picks'>(
  kind: K,
  read: (document: unknown, where: string) => Read<Contents[K]>,
  keepAsOwn: (mine: Contents[K]) => Promise<Entry<Contents[K]>>,
) {
  type Content = Contents[K]
  return defineStore(kind, () => {
    const project = useProject()
    const state = reactive<OpenDocument>({ id: null, version: 0, save: 'saved', unkept: [] })
    const history = shallowRef<History<Content> | null>(null)
    const keeper = keeperFor<Content>(state, kind, read, (entry) =>
      // what has been changed since that save was sent goes on holding
      project.saved(kind, { ...entry, content: keeper.contentOf(entry.id) ?? entry.content }),
    )

    function open(id: string): void {
      const entry = listOf(project.documents, kind).find((e) => e.id === id)
      if (!entry) return
      void keeper.flush()
      state.id = id
      history.value = startHistory(keeper.open(plain(entry)))
      project.amend(kind, id, history.value.now)
    }
    /** Nothing is being changed any more; what was changed goes on being kept. */
    function close(): void {
      void keeper.flush()
      Object.assign(state, { id: null, save: 'saved', unkept: [] } satisfies Partial<OpenDocument>)
      history.value = null
    }
    /** The one that was open has been deleted. */
    function forget(): void {
      if (state.id) keeper.forget(state.id)
      close()
    }
    function travel(next: History<Content>): void {
      if (next === history.value || !state.id) return
      history.value = next
      const now = plain(next.now)
      keeper.edit(state.id, now)
      project.amend(kind, state.id, now)
    }
    return {
      ...toRefs(state),
      history,
      now: computed(() => history.value?.now ?? null),
      canUndo: computed(() => (history.value?.past.length ?? 0) > 0),
      canRedo: computed(() => (history.value?.future.length ?? 0) > 0),
      open,
      close,
      forget,
      /** Records a change; those with one mark, one after another, are one step. */
      change: (next: Content, mark: string | null = null) => {
        if (history.value) travel(record(history.value, next, mark))
      },
      /** The next change is a step of its own. */
      settle: () => {
        if (history.value) history.value = settle(history.value)
      },
      undo: () => {
        if (history.value) travel(undo(history.value))
      },
      redo: () => {
        if (history.value) travel(redo(history.value))
      },
      flush: () => void keeper.flush(),
      /** After a conflict: takes what the server has, or saves mine as a document of its own. */
      resolveConflict: async (mine: boolean) => {
        const { id } = state
        const now = history.value?.now
        if (!id || !now) return
        // mine first: until it is safe elsewhere, the copy here stays
        const copy = mine ? await keepAsOwn({ ...plain(now), name: `${now.name} (mine)`.slice(0, 80) }) : null
        await keeper.takeTheirs(id)
        open(copy?.id ?? id)
      },
    }
  })
}
