import { defineStore } from 'pinia'
import {
  fullName,
  newTarget,
  readMix,
  withinMix,
  type Costs,
  type Crowd,
  type Mix,
  type Recipe,
  type Target,
} from '@idle-tinker/core'
import { keeperFor, type OpenDocument } from '../documents/keeperFor'
import { theBooth } from '../stage/Booth'
import { proxy } from 'comlink'
import { POOL } from '../workers'
import { plain } from '../workers/plain'
import { record, redo, settle, startHistory, undo, type History } from './history'
import { inPool, useProject } from './project'
import { useView } from './view'

export interface VariantCard {
  recipe: Recipe
  picture: string | null
  costs: Costs | null
  /** The target it was built for, as text. */
  builtFor: string | null
  /** How far away the variant is that is most like it, and its place. */
  nearest: number
  nearestTo: number
  pinned: boolean
}

/** How large variants are drawn, pixels: as large as the sheet ever shows them. */
export const PICTURE = { width: 162, height: 252 }

interface State extends OpenDocument {
  history: History<Mix> | null
  /** The mix as it was when the cards were made. */
  madeFrom: Mix | null
  cards: VariantCard[]
  twins: Crowd['twins']
  problems: Crowd['problems']
  phase: 'idle' | 'choosing' | 'drawing'
  /** How much of the choosing is done, 0 to 1. */
  chosen: number
  done: number
  message: string
}

const looksOf = (recipe: Recipe) => JSON.stringify({ ...recipe, name: '' })

let run = 0

/** One crowd: its mix, and the variants made from it. */
export const useCrowd = defineStore('crowd', {
  state: (): State => ({
    id: null,
    history: null,
    madeFrom: null,
    save: 'saved',
    version: 0,
    unkept: [],
    cards: [],
    twins: [],
    problems: [],
    phase: 'idle',
    chosen: 0,
    done: 0,
    message: '',
  }),
  getters: {
    mix: (s): Mix | null => s.history?.now ?? null,
    canUndo: (s) => (s.history?.past.length ?? 0) > 0,
    canRedo: (s) => (s.history?.future.length ?? 0) > 0,
    /** The target chosen for crowds; until one is, that which comes closest to what the mix allows a figure. */
    baseTarget(): Target {
      const targets = [...useProject().targets].sort((a, b) => a.limits.triangles - b.limits.triangles)
      const wanted = this.mix?.triangles ?? 0
      return (
        targets.find((t) => t.id === useView().crowdTargetId) ??
        targets.find((t) => t.limits.triangles >= wanted) ??
        targets.at(-1) ??
        newTarget('crowd', 'Crowd')
      )
    },
    /** That target, with the mix's own limit where it is lower. */
    target(): Target {
      return withinMix(this.baseTarget, this.mix)
    },
    /** Costs of the figures that were built for the target as it is now. */
    measured(): Costs[] {
      const target = JSON.stringify(this.target)
      return this.cards.flatMap((card) => (card.builtFor === target && card.costs ? [card.costs] : []))
    },
    partUse(): { part: string; slot: string; count: number }[] {
      const counts = new Map<string, { part: string; slot: string; count: number }>()
      for (const { recipe } of this.cards)
        for (const { slot, part } of recipe.parts) {
          const name = fullName(part)
          const entry = counts.get(name) ?? { part: name, slot, count: 0 }
          entry.count++
          counts.set(name, entry)
        }
      return [...counts.values()].sort((a, b) => b.count - a.count || (a.part < b.part ? -1 : 1))
    },
  },
  actions: {
    open(id: string) {
      const entry = useProject().mixes.find((m) => m.id === id)
      if (!entry) return
      void keeper().flush()
      this.cancel()
      this.id = id
      this.history = startHistory(keeper().open(plain(entry)))
      this.madeFrom = null
      this.cards = []
      this.twins = []
      this.problems = []
      this.message = ''
    },

    /** The mix that was open is gone: the first one there is takes its place, or none. */
    close() {
      if (this.id) keeper().forget(this.id)
      this.id = null
      this.history = null
      this.cards = []
      const [first] = useProject().mixes
      if (first) this.open(first.id)
    },

    /** Records a change; those with the same mark join to one step. */
    change(next: Mix, mark: string | null = null) {
      if (this.history) this.travel(record(this.history, next, mark))
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

    travel(history: History<Mix>) {
      if (history === this.history || !this.id) return
      this.history = history
      keeper().edit(this.id, plain(history.now))
      // what is pinned is said on the cards as well
      const pins = history.now.pins ?? {}
      this.cards.forEach((card, i) => (card.pinned = Object.hasOwn(pins, i)))
    },

    flush() {
      void keeper().flush()
    },

    /** After a conflict: takes what the server has, or saves mine as a mix of its own. */
    async resolveConflict(mine: boolean) {
      const { id, mix } = this
      if (!id || !mix) return
      // mine first: until it is safe elsewhere, the copy here stays
      const copy = mine
        ? await useProject().addNamed('mix', { ...plain(mix), name: `${mix.name} (mine)`.slice(0, 80) })
        : null
      await keeper().takeTheirs(id)
      this.open(copy?.id ?? id)
    },

    /** Makes the crowd its mix describes; pictures of variants that did not change are kept. */
    async make() {
      if (!this.mix) return
      const mine = ++run
      const mix = plain(this.mix)
      const before = new Map(this.cards.map((card) => [looksOf(card.recipe), card]))
      this.phase = 'choosing'
      this.chosen = 0
      this.done = 0
      this.message = ''
      try {
        const watch = (share: number) => {
          if (mine !== run) return false
          this.chosen = share
          return true
        }
        const crowd = await inPool((worker) => worker.crowd(mix, proxy(watch)))
        if (mine !== run || !crowd) return
        this.madeFrom = mix
        this.twins = crowd.twins
        this.problems = crowd.problems
        this.cards = crowd.variants.map((v) => {
          const old = before.get(looksOf(v.recipe))
          return {
            recipe: v.recipe,
            picture: old?.picture ?? null,
            costs: old?.costs ?? null,
            builtFor: old?.builtFor ?? null,
            nearest: v.nearest.distance,
            nearestTo: v.nearest.index,
            pinned: v.pinned,
          }
        })
        this.phase = 'drawing'
        await this.draw(() => mine !== run)
        if (mine === run) this.phase = 'idle'
      } catch (error) {
        if (mine !== run) return
        this.phase = 'idle'
        this.message = error instanceof Error ? error.message : String(error)
      }
    },
    /** Has the figures that are there measured and drawn for another target. */
    async setTarget(id: string) {
      useView().crowdTargetId = id
      if (this.cards.length === 0 || this.phase === 'choosing') return
      const mine = ++run
      this.phase = 'drawing'
      this.message = ''
      try {
        await this.draw(() => mine !== run)
      } catch (error) {
        if (mine === run) this.message = error instanceof Error ? error.message : String(error)
      } finally {
        if (mine === run) this.phase = 'idle'
      }
    },
    /** Builds and draws every variant that is not for the target as it is: while one is drawn, the workers of the pool build the next ones. */
    async draw(stopped: () => boolean) {
      const target = plain(this.target)
      const builtFor = JSON.stringify(target)
      const open = this.cards.filter((card) => card.builtFor !== builtFor)
      this.done = this.cards.length - open.length
      const next = open[Symbol.iterator]()
      const lane = async () => {
        for (const card of next) {
          if (stopped()) return
          const { view } = await inPool((worker) => worker.build(plain(card.recipe), target, true))
          if (stopped()) return
          if (view) {
            card.costs = view.costs
            const taken = theBooth().take(view, PICTURE.width, PICTURE.height, { turn: 0.4, armsDown: true })
            card.picture = taken?.toDataURL() ?? null
            card.builtFor = builtFor
          }
          this.done++
        }
      }
      // one more than there are workers: each has its next one waiting while a picture is taken
      await Promise.all(Array.from({ length: POOL.length + 1 }, lane))
    },
    cancel() {
      run++
      this.phase = 'idle'
    },
    /** Keeps a variant where it stands, or lets it go; saved with the mix. */
    pin(index: number) {
      const card = this.cards[index]
      if (!card || !this.mix) return
      const { [index]: _, ...others } = this.mix.pins ?? {}
      this.change({ ...this.mix, pins: card.pinned ? others : { ...others, [index]: plain(card.recipe) } })
    },
    /** Another variant in one place; all the others stay. Saved with the mix. */
    async reroll(index: number) {
      if (!this.mix || this.cards[index]?.pinned) return
      this.change({ ...this.mix, rerolls: [...(this.mix.rerolls ?? []), index] })
      await this.make()
    },
    /** Changes the rules: places made anew one by one belonged to the crowd before. */
    changeRules(next: Mix, mark: string | null = null) {
      const { rerolls: _, ...rules } = next
      this.change(rules, mark)
    },
  },
})

/** The keeper of mixes, for the store that stands. */
const keeper = () => keeperFor<Mix>(useCrowd(), 'mix', readMix, (entry) => useProject().saved('mix', entry))
