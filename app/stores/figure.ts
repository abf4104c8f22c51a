import { defineStore } from 'pinia'
import { adoptVersions, parseJson, problem, readRecipe, type Problem, type Recipe } from '@idle-tinker/core'
import type { FigureView } from '../workers/protocol'
import { workshop } from '../workers'
import { plain } from '../workers/plain'
import { flushSteps, forgetSteps, keepSteps, stepsOf } from '../documents/keptSteps'
import { keeperFor, type OpenDocument } from '../documents/keeperFor'
import { DEPTH, jump, record, redo, settle, startHistory, undo, type History } from './history'
import { useProject, type FigureEntry } from './project'
import { useView } from './view'

interface State extends OpenDocument {
  history: History<Recipe> | null
  view: FigureView | null
  /** The figure that `view` was built of; the open one may still be on its way. */
  viewOf: string | null
  /** What is wrong with the figure as it was built last. */
  built: Problem[]
  busy: boolean
}

const LAST = 'tinker.figure'

let building = false
let again = false

/** The figure on the Bench: its recipe with history, what was built from it, and how it is kept. */
export const useFigure = defineStore('figure', {
  state: (): State => ({
    id: null,
    version: 0,
    history: null,
    save: 'saved',
    view: null,
    viewOf: null,
    built: [],
    unkept: [],
    busy: false,
  }),
  getters: {
    recipe: (s): Recipe | null => s.history?.now ?? null,
    problems: (s): Problem[] => [...s.unkept, ...s.built],
    canUndo: (s) => (s.history?.past.length ?? 0) > 0,
    canRedo: (s) => (s.history?.future.length ?? 0) > 0,
  },
  actions: {
    open(entry: FigureEntry) {
      this.flush()
      adoptOldCopy(entry.id)
      this.id = entry.id
      this.history = startHistory(keeper().open(entry))
      void this.takeUpSteps()
      localStorage.setItem(LAST, entry.id)
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
    /** Finds the steps of earlier visits again; edits that were quicker are steps after them. */
    async takeUpSteps() {
      const { id, recipe, history } = this
      if (!id || !recipe) return
      const steps = await stepsOf('figure', id, plain(recipe), readRecipe)
      if (!steps || this.id !== id || !this.history) return
      const { past, now } = this.history
      if (this.history === history) this.history = steps
      // what was opened is where they lead to
      else if (JSON.stringify(past[0] ?? now) === JSON.stringify(recipe))
        this.history = { ...this.history, past: [...steps.past, ...past].slice(-DEPTH) }
    },
    settle() {
      if (this.history) this.history = settle(this.history)
    },
    /** Goes to one of its steps: back is a step of its own. */
    jump(place: number) {
      if (this.history) this.travel(jump(this.history, place))
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
          const { recipe, id } = this
          if (!recipe) break
          const view = useView()
          const answer = await workshop('bench').build(plain(recipe), plain(view.target), view.reduced)
          // another figure has been opened meanwhile: its own answer follows
          if (id !== this.id) continue
          if (answer.view) {
            this.viewOf = id
            this.view = markRaw(answer.view)
          }
          this.built = answer.problems
        } while (again)
      } catch (error) {
        const message = error instanceof Error ? error.message : String(error)
        this.built = [problem('not-built', 'figure', message, 'It is built again with the next change.')]
      } finally {
        building = false
      }
    },
    /** What a hand asked for could not be done: told until the next build. */
    tellUndone(error: unknown) {
      const message = error instanceof Error ? error.message : String(error)
      this.built = [...this.built, problem('not-done', 'recipe/hand', message, 'Try it again.')]
    },
    /** Keeps the edit here at once and on the server soon. */
    keep() {
      const { id, history } = this
      if (!id || !history) return
      keeper().edit(id, plain(history.now))
      keepSteps('figure', id, () => plain(history))
    },

    flush() {
      void keeper().flush()
      flushSteps()
    },

    /** After a conflict: takes what the server has, or saves mine as a figure of its own. */
    async resolveConflict(mine: boolean) {
      const { id, recipe } = this
      if (!id || !recipe) return
      // mine first: until it is safe elsewhere, the copy here stays
      const copy = mine
        ? await useProject().add('figure', { ...plain(recipe), name: `${recipe.name} (mine)`.slice(0, 80) })
        : null
      const theirs = await keeper().takeTheirs(id)
      this.open(copy ?? theirs)
    },

    /** The figure on the Bench is gone: the first one there is takes its place, or none. */
    close() {
      if (this.id) {
        keeper().forget(this.id)
        void forgetSteps('figure', this.id)
      }
      this.id = null
      const [first] = useProject().figures
      if (first) this.open(first)
      else
        Object.assign(this, {
          history: null,
          view: null,
          viewOf: null,
          built: [],
          unkept: [],
          save: 'saved',
        } satisfies Partial<State>)
    },
  },
})

/** The keeper of figures, for the store that stands. */
const keeper = () =>
  keeperFor<Recipe>(useFigure(), 'figure', readRecipe, (entry) => useProject().saved('figure', entry))

/** Copies in the browser were once kept under another name. */
function adoptOldCopy(id: string): void {
  const key = `tinker.unsaved.${id}`
  const old = localStorage.getItem(key)
  if (old === null) return
  const { version, recipe } = (parseJson(old, 'unsaved').value ?? {}) as { version?: unknown; recipe?: unknown }
  localStorage.setItem(`tinker.unsaved.figure.${id}`, JSON.stringify({ version, content: recipe, unanswered: [] }))
  localStorage.removeItem(key)
}
