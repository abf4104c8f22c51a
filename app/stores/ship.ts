import { defineStore } from 'pinia'
import type { Mix, Problem, Recipe, Target } from '@idle-tinker/core'
import { ask } from './api'

export interface ShipJob {
  id: string
  state: 'waiting' | 'running' | 'done' | 'failed' | 'canceled'
  done: number
  total: number
  result: { file: string; name: string; triangles: number; bones: number; bytes: number; passed: string[] }[] | null
  error: Problem[] | null
}

export interface ShipOrder {
  name: string
  recipes: Recipe[]
  mix: Mix | null
  target: Target
  pattern: string
  lods: boolean
}

const LAST = 'tinker.job'
let events: EventSource | null = null

/** The crowd being made into files by the server. The job outlives the page: it is found again after a reload. */
export const useShip = defineStore('ship', {
  state: () => ({ job: null as ShipJob | null }),
  getters: {
    busy: (s) => s.job?.state === 'waiting' || s.job?.state === 'running',
  },
  actions: {
    async start(order: ShipOrder) {
      this.job = null
      const { id } = await ask<{ id: string }>('/api/jobs', 'POST', order)
      localStorage.setItem(LAST, id)
      this.follow(id)
    },
    follow(id: string) {
      events?.close()
      events = new EventSource(`/api/jobs/${id}/events`)
      events.onmessage = ({ data }) => {
        this.job = JSON.parse(data as string) as ShipJob
        if (!this.busy) events?.close()
      }
    },
    /** Takes up the last job of this browser, if the server still has it. */
    async resume() {
      const id = localStorage.getItem(LAST)
      if (!id || this.job) return
      try {
        this.job = await ask<ShipJob>(`/api/jobs/${id}`)
        if (this.busy) this.follow(id)
      } catch {
        localStorage.removeItem(LAST)
      }
    },
    async cancel() {
      if (this.job) this.job = await ask<ShipJob>(`/api/jobs/${this.job.id}/cancel`, 'POST')
      events?.close()
    },
  },
})
