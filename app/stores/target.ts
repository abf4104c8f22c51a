import { defineStore } from 'pinia'
import { readTarget, type Target } from '@idle-tinker/core'
import type { Keeper } from '../documents/Keeper'
import { keeperFor, type OpenDocument } from '../documents/keeperFor'
import { plain } from '../workers/plain'
import { record, redo, startHistory, undo, type History } from './history'
import { useProject } from './project'

interface State extends OpenDocument {
  history: History<Target> | null
}

/** The target whose limits are being changed: what is changed holds at once, everywhere. */
export const useTarget = defineStore('target', {
  state: (): State => ({ id: null, version: 0, history: null, save: 'saved', unkept: [] }),
  getters: {
    target: (s): Target | null => s.history?.now ?? null,
    canUndo: (s) => (s.history?.past.length ?? 0) > 0,
    canRedo: (s) => (s.history?.future.length ?? 0) > 0,
  },
  actions: {
    open(id: string) {
      const entry = useProject().documents.target.find((t) => t.id === id)
      if (!entry) return
      void keeper().flush()
      this.id = id
      this.history = startHistory(keeper().open(plain(entry)))
      useProject().amend('target', id, this.history.now)
    },
    /** Nothing is being changed any more; what was changed goes on being kept. */
    close() {
      void keeper().flush()
      Object.assign(this, { id: null, history: null, save: 'saved', unkept: [] } satisfies Partial<State>)
    },
    /** The one that was open has been deleted. */
    forget() {
      if (this.id) keeper().forget(this.id)
      this.close()
    },
    /** Records a change, each a step of its own: nothing here is dragged. */
    change(next: Target) {
      if (this.history) this.travel(record(this.history, next))
    },
    undo() {
      if (this.history) this.travel(undo(this.history))
    },
    redo() {
      if (this.history) this.travel(redo(this.history))
    },
    travel(history: History<Target>) {
      if (history === this.history || !this.id) return
      this.history = history
      const now = plain(history.now)
      keeper().edit(this.id, now)
      useProject().amend('target', this.id, now)
    },
    flush() {
      void keeper().flush()
    },
    /** After a conflict: takes what the server has, or saves mine as a target of its own. */
    async resolveConflict(mine: boolean) {
      const { id, target } = this
      if (!id || !target) return
      // mine first: until it is safe elsewhere, the copy here stays
      const copy = mine
        ? await useProject().addNamed('target', { ...plain(target), name: `${target.name} (mine)`.slice(0, 80) })
        : null
      await keeper().takeTheirs(id)
      this.open(copy?.id ?? id)
    },
  },
})

/** The keeper of targets, for the store that stands. */
const keeper = (): Keeper<Target> =>
  keeperFor<Target>(useTarget(), 'target', readTarget, (entry) =>
    // what has been changed since that save was sent goes on holding
    useProject().saved('target', { ...entry, content: keeper().contentOf(entry.id) ?? entry.content }),
  )
