import { defineStore } from 'pinia'
import { fullName, newTarget, type Costs, type Crowd, type Mix, type Recipe, type Target } from '@idle-tinker/core'
import { theBooth } from '../stage/Booth'
import type { Remote } from 'comlink'
import { workshop } from '../workers'
import { plain } from '../workers/plain'
import type { Workshop } from '../workers/protocol'
import { ask, Refused } from './api'
import { crowdWorkshop, useProject } from './project'

export interface VariantCard {
  recipe: Recipe
  picture: string | null
  costs: Costs | null
  /** The triangle limit it was built for. */
  triangles: number
  nearest: number
  pinned: boolean
}

interface State {
  mix: Mix | null
  /** The mix as it was when the cards were made. */
  madeFrom: Mix | null
  version: number
  cards: VariantCard[]
  twins: Crowd['twins']
  problems: Crowd['problems']
  phase: 'idle' | 'choosing' | 'drawing'
  done: number
  message: string
}

const looksOf = (recipe: Recipe) => JSON.stringify({ ...recipe, name: '' })

let run = 0
let saveTimer: ReturnType<typeof setTimeout> | null = null

/** One crowd: its mix, and the variants made from it. */
export const useCrowd = defineStore('crowd', {
  state: (): State => ({
    mix: null,
    madeFrom: null,
    version: 0,
    cards: [],
    twins: [],
    problems: [],
    phase: 'idle',
    done: 0,
    message: '',
  }),
  getters: {
    /** The crowd target with the mix's own triangle limit. */
    target(): Target {
      const { targets } = useProject()
      // the one for crowds; where a person has none of that name, the cheapest there is
      const cheapest = [...targets].sort((a, b) => a.limits.triangles - b.limits.triangles)[0]
      const base = targets.find((t) => t.id === 'crowd') ?? cheapest ?? newTarget('crowd', 'Crowd')
      return this.mix ? { ...base, limits: { ...base.limits, triangles: this.mix.triangles } } : base
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
      this.cancel()
      this.mix = plain(entry.mix)
      this.version = entry.version
      this.madeFrom = null
      this.cards = []
      this.twins = []
      this.problems = []
    },
    change(next: Mix) {
      this.mix = next
      if (saveTimer) clearTimeout(saveTimer)
      saveTimer = setTimeout(() => void this.store(), 600)
    },
    async store() {
      if (!this.mix) return
      try {
        const { version } = await ask<{ version: number }>(`/api/mixes/${this.mix.id}`, 'PUT', {
          version: this.version,
          mix: this.mix,
        })
        this.version = version
        const entry = useProject().mixes.find((m) => m.id === this.mix?.id)
        if (entry) Object.assign(entry, { version, mix: plain(this.mix) })
        this.message = ''
      } catch (error) {
        this.message =
          error instanceof Refused
            ? error.message
            : 'The server is away; the mix is kept here and saved with your next change.'
      }
    },
    /** Makes the crowd its mix describes; pictures of variants that did not change are kept. */
    async make() {
      if (!this.mix) return
      const mine = ++run
      const mix = plain(this.mix)
      const before = new Map(this.cards.map((card) => [looksOf(card.recipe), card]))
      this.phase = 'choosing'
      this.done = 0
      this.message = ''
      try {
        const crowd = await (await crowdWorkshop()).crowd(mix)
        if (mine !== run) return
        this.madeFrom = mix
        this.twins = crowd.twins
        this.problems = crowd.problems
        this.cards = crowd.variants.map((v) => {
          const old = before.get(looksOf(v.recipe))
          const made = old?.triangles === mix.triangles ? old : undefined
          return {
            recipe: v.recipe,
            picture: made?.picture ?? null,
            costs: made?.costs ?? null,
            triangles: mix.triangles,
            nearest: v.nearest.distance,
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
    /** Builds and draws every variant without a picture: while one is drawn, both workers build the next ones. */
    async draw(stopped: () => boolean) {
      const target = plain(this.target)
      const open = this.cards.filter((card) => !card.picture)
      this.done = this.cards.length - open.length
      const next = open[Symbol.iterator]()
      const lane = async (worker: Remote<Workshop>) => {
        for (const card of next) {
          if (stopped()) return
          const { view } = await worker.build(plain(card.recipe), target, true)
          if (stopped()) return
          if (view) {
            card.costs = view.costs
            card.picture = theBooth().take(view, 108, 168, { turn: 0.4, armsDown: true }).toDataURL()
          }
          this.done++
        }
      }
      const [crowd, bench] = [await crowdWorkshop(), workshop('bench')]
      await Promise.all([lane(crowd), lane(crowd), lane(bench)])
    },
    cancel() {
      run++
      this.phase = 'idle'
    },
    /** Keeps a variant where it stands, or lets it go; saved with the mix. */
    pin(index: number) {
      const card = this.cards[index]
      if (!card || !this.mix) return
      card.pinned = !card.pinned
      const { [index]: _, ...others } = this.mix.pins ?? {}
      this.change({ ...this.mix, pins: card.pinned ? { ...others, [index]: plain(card.recipe) } : others })
    },
    /** Another variant in one place; all the others stay. Saved with the mix. */
    async reroll(index: number) {
      if (!this.mix || this.cards[index]?.pinned) return
      this.change({ ...this.mix, rerolls: [...(this.mix.rerolls ?? []), index] })
      await this.make()
    },
    /** Changes the rules: places made anew one by one belonged to the crowd before. */
    changeRules(next: Mix) {
      const { rerolls: _, ...rules } = next
      this.change(rules)
    },
  },
})
