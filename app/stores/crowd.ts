import { defineStore } from 'pinia'
import type { Costs, Crowd, Mix, Recipe, Target } from '@idle-tinker/core'
import { theBooth } from '../stage/Booth'
import { plain } from '../workers/plain'
import { ask, Refused } from './api'
import { crowdWorkshop, useProject } from './project'

export interface VariantCard {
  recipe: Recipe
  picture: string | null
  costs: Costs | null
  nearest: number
  pinned: boolean
}

interface State {
  mix: Mix | null
  version: number
  cards: VariantCard[]
  twins: Crowd['twins']
  problems: Crowd['problems']
  phase: 'idle' | 'choosing' | 'drawing'
  done: number
  message: string
}

let run = 0
let saveTimer: ReturnType<typeof setTimeout> | null = null

/** One crowd: its mix, and the variants made from it. */
export const useCrowd = defineStore('crowd', {
  state: (): State => ({ mix: null, version: 0, cards: [], twins: [], problems: [], phase: 'idle', done: 0, message: '' }),
  getters: {
    /** The crowd target with the mix's own triangle limit. */
    target(): Target {
      const base = useProject().targets.find((t) => t.id === 'crowd')!
      return this.mix ? { ...base, limits: { ...base.limits, triangles: this.mix.triangles } } : base
    },
    partUse(): { part: string; slot: string; count: number }[] {
      const counts = new Map<string, { part: string; slot: string; count: number }>()
      for (const { recipe } of this.cards)
        for (const [slot, { id }] of Object.entries(recipe.parts)) {
          const entry = counts.get(id) ?? { part: id, slot, count: 0 }
          entry.count++
          counts.set(id, entry)
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
        const { version } = await ask<{ version: number }>(`/api/mixes/${this.mix.id}`, 'PUT', { version: this.version, mix: this.mix })
        this.version = version
        const entry = useProject().mixes.find((m) => m.id === this.mix?.id)
        if (entry) Object.assign(entry, { version, mix: plain(this.mix) })
        this.message = ''
      } catch (error) {
        this.message = error instanceof Refused ? error.message : 'The server is away; the mix is kept here and saved with your next change.'
      }
    },
    /** Makes the crowd; pinned variants stay where they are. */
    async make(keep: ReadonlySet<number> | null = null, seed?: number) {
      if (!this.mix) return
      const mine = ++run
      const mix = plain(seed === undefined ? this.mix : { ...this.mix, seed })
      const pinned: [number, Recipe][] = this.cards.flatMap((c, i) => (keep ? keep.has(i) : c.pinned) && i < mix.count ? [[i, plain(c.recipe)] as [number, Recipe]] : [])
      const pins = new Set(this.cards.flatMap((c, i) => (c.pinned ? [i] : [])))
      const kept = new Map(pinned.map(([i]) => [i, this.cards[i]!]))
      this.phase = 'choosing'
      this.done = 0
      this.message = ''
      try {
        const worker = await crowdWorkshop()
        const crowd = await worker.crowd(mix, pinned)
        if (mine !== run) return
        this.twins = crowd.twins
        this.problems = crowd.problems
        this.cards = crowd.variants.map((v, i) => {
          const old = kept.get(i)
          return { recipe: v.recipe, picture: old?.picture ?? null, costs: old?.costs ?? null, nearest: v.nearest.distance, pinned: pins.has(i) }
        })
        this.phase = 'drawing'
        const booth = theBooth()
        for (const [i, card] of this.cards.entries()) {
          if (mine !== run) return
          if (!card.picture) {
            const { view } = await worker.build(plain(card.recipe), plain(this.target), true)
            if (mine !== run) return
            if (view) {
              card.costs = view.costs
              card.picture = booth.take(view, 108, 168, { turn: 0.4, armsDown: true }).toDataURL()
            }
          }
          this.done = i + 1
        }
        this.phase = 'idle'
      } catch (error) {
        if (mine !== run) return
        this.phase = 'idle'
        this.message = error instanceof Error ? error.message : String(error)
      }
    },
    cancel() {
      run++
      this.phase = 'idle'
    },
    pin(index: number) {
      const card = this.cards[index]
      if (card) card.pinned = !card.pinned
    },
    /** Another variant in one place; all the others stay. */
    async reroll(index: number) {
      const others = new Set(this.cards.map((_, i) => i).filter((i) => i !== index))
      const seed = (this.mix!.seed + 7919 * (index + 1) + Math.floor(performance.now())) % 2147483647
      await this.make(others, seed)
    },
  },
})
