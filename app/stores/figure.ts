import { defineStore } from 'pinia'
import { adoptVersions, parseJson, readRecipe, type Problem, type Recipe } from '@idle-tinker/core'
import type { FigureView } from '../workers/protocol'
import { workshop } from '../workers'
import { plain } from '../workers/plain'
import { ask, Refused } from './api'
import { record, redo, settle, startHistory, undo, type History } from './history'
import { useProject, type FigureEntry } from './project'
import { useView } from './view'

type SaveState = 'saved' | 'waiting' | 'saving' | 'away' | 'conflict' | 'refused'

interface State {
  id: string | null
  version: number
  history: History<Recipe> | null
  save: SaveState
  view: FigureView | null
  problems: Problem[]
  busy: boolean
}

const SAVE_AFTER = 500
const RETRY_AFTER = 2000
const LAST = 'tinker.figure'
const unsavedKey = (id: string) => `tinker.unsaved.${id}`

let saveTimer: ReturnType<typeof setTimeout> | null = null
/** Saves run one after another: each knows the version that the one before it made. */
let saving: Promise<void> = Promise.resolve()
let building = false
let again = false

/** The figure on the Bench: its recipe with history, what was built from it, and how it is kept. */
export const useFigure = defineStore('figure', {
  state: (): State => ({ id: null, version: 0, history: null, save: 'saved', view: null, problems: [], busy: false }),
  getters: {
    recipe: (s): Recipe | null => s.history?.now ?? null,
    canUndo: (s) => (s.history?.past.length ?? 0) > 0,
    canRedo: (s) => (s.history?.future.length ?? 0) > 0,
  },
  actions: {
    open(entry: FigureEntry) {
      this.flush()
      this.id = entry.id
      this.version = entry.version
      // an edit the server has not seen comes back from this browser
      const kept = localStorage.getItem(unsavedKey(entry.id))
      let recipe = entry.recipe
      if (kept) {
        // it may be from an older workshop, or not be whole
        const { version, recipe: mine } = (parseJson(kept, 'unsaved').value ?? {}) as {
          version?: unknown
          recipe?: unknown
        }
        const read = version === entry.version ? readRecipe(mine, 'unsaved') : null
        if (read?.value) recipe = read.value
        else if (read) this.problems = read.problems
      }
      this.history = startHistory(recipe)
      this.save = 'saved'
      localStorage.setItem(LAST, entry.id)
      if (recipe !== entry.recipe) this.keep()
      void this.rebuild()
    },
    openLast() {
      const project = useProject()
      const last = project.figures.find((f) => f.id === localStorage.getItem(LAST)) ?? project.figures[0]
      if (last && last.id !== this.id) this.open(last)
    },
    /** Records an edit; edits with the same mark join to one step. */
    edit(next: Recipe, mark: string | null = null) {
      if (!this.history || next === this.history.now) return
      // what is edited here is made with the kits that are here
      const versions = new Map(useProject().kits.map(({ manifest }) => [manifest.id, manifest.kitVersion]))
      this.history = record(this.history, adoptVersions(next, versions), mark)
      this.keep()
      void this.rebuild()
    },
    settle() {
      if (this.history) this.history = settle(this.history)
    },
    undo() {
      if (this.history) this.travel(undo(this.history))
    },
    redo() {
      if (this.history) this.travel(redo(this.history))
    },
    travel(history: History<Recipe>) {
      if (history === this.history) return
      this.history = history
      this.keep()
      void this.rebuild()
    },
    /** Builds what the recipe says now; while one build runs, only the newest waits. */
    async rebuild() {
      if (building) {
        again = true
        return
      }
      building = true
      try {
        do {
          again = false
          const recipe = this.recipe
          if (!recipe) break
          const view = useView()
          const answer = await workshop('bench').build(plain(recipe), plain(view.target), view.reduced)
          if (answer.view) this.view = markRaw(answer.view)
          this.problems = answer.problems
        } while (again)
      } finally {
        building = false
      }
    },
    /** Keeps the edit here at once and on the server soon. */
    keep() {
      if (!this.id || !this.recipe) return
      localStorage.setItem(unsavedKey(this.id), JSON.stringify({ version: this.version, recipe: this.recipe }))
      if (this.save === 'conflict') return
      this.save = 'waiting'
      if (saveTimer) clearTimeout(saveTimer)
      saveTimer = setTimeout(() => void this.store(), SAVE_AFTER)
    },
    /** Saves what stands here now, after any save that is under way. */
    store(): Promise<void> {
      const { id, recipe } = this
      if (id && recipe) saving = saving.then(() => this.put(id, recipe))
      return saving
    },
    async put(id: string, recipe: Recipe) {
      const here = () => this.id === id
      if (here() && this.save === 'conflict') return
      const version = here() ? this.version : useProject().figures.find((f) => f.id === id)?.version
      if (version === undefined) return
      if (here()) this.save = 'saving'
      try {
        const entry = await ask<FigureEntry>(`/api/figures/${id}`, 'PUT', { version, recipe })
        useProject().saved(entry)
        if (here()) this.version = entry.version
        if (here() && this.recipe !== recipe) this.keep()
        else {
          localStorage.removeItem(unsavedKey(id))
          if (here()) this.save = 'saved'
        }
      } catch (error) {
        if (!here()) return
        if (error instanceof Refused && error.status === 409) this.save = 'conflict'
        else if (error instanceof Refused && error.status < 500) {
          this.save = 'refused'
          this.problems = error.problems
        } else {
          this.save = 'away'
          saveTimer = setTimeout(() => void this.store(), RETRY_AFTER)
        }
      }
    },
    flush() {
      if (saveTimer) clearTimeout(saveTimer)
      saveTimer = null
      if (this.save === 'waiting' || this.save === 'away') void this.store()
    },
    /** After a conflict: takes what the server has, or saves mine as a figure of its own. */
    async resolveConflict(mine: boolean) {
      const { id, recipe } = this
      if (!id || !recipe) return
      localStorage.removeItem(unsavedKey(id))
      const theirs = await ask<FigureEntry>(`/api/figures/${id}`)
      useProject().saved(theirs)
      if (mine) this.open(await useProject().add({ ...recipe, name: `${recipe.name} (mine)`.slice(0, 80) }))
      else this.open(theirs)
    },
  },
})
