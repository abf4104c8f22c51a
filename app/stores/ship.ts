import { defineStore } from 'pinia'
import type { KeptClip, Mix, Motion, Problem, Recipe, Target } from '@idle-tinker/core'
import { ask, Refused } from './api'

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
  motions: Motion[]
  keyed: KeptClip[]
}

const LAST = 'tinker.job'
const LOOK_AGAIN = 2000
let events: EventSource | null = null
let again: ReturnType<typeof setTimeout> | null = null

/** The crowd being made into files by the server. The job outlives the page: it is found again after a reload. */
export const useShip = defineStore('ship', {
  /**
   * `away`: how it stands cannot be told at the moment. `what`: which of the two is about to leave. `motions`: what else
   * than the clips of their kits figures take along, by id.
   */
  state: () => ({
    job: null as ShipJob | null,
    away: false,
    what: 'figure' as 'figure' | 'crowd',
    motions: [] as string[],
  }),
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
      if (again) clearTimeout(again)
      const stream = new EventSource(`/api/jobs/${id}/events`)
      events = stream
      stream.onmessage = ({ data }) => {
        this.job = JSON.parse(data as string) as ShipJob
        this.away = false
        if (!this.busy) stream.close()
      }
      // a stream that only broke is taken up again by the browser; one that was refused is closed for good
      stream.onerror = () => {
        if (stream.readyState !== EventSource.CLOSED || events !== stream) return
        this.away = true
        again = setTimeout(() => void this.look(id), LOOK_AGAIN)
      }
    },
    /** Asks how a job stands whose stream was refused, until an answer comes. */
    async look(id: string) {
      try {
        this.job = await ask<ShipJob>(`/api/jobs/${id}`)
        this.away = false
        if (this.busy) this.follow(id)
      } catch (error) {
        if (error instanceof Refused && error.status === 404) {
          this.job = null
          this.away = false
          localStorage.removeItem(LAST)
        } else again = setTimeout(() => void this.look(id), LOOK_AGAIN)
      }
    },
    /** Takes up the last job of this browser, if the server still has it. */
    async resume() {
      const id = localStorage.getItem(LAST)
      if (id && !this.job) await this.look(id)
    },
    async cancel() {
      if (!this.job) return
      this.job = await ask<ShipJob>(`/api/jobs/${this.job.id}/cancel`, 'POST')
      events?.close()
    },
  },
})
