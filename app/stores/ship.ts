import { defineStore } from 'pinia'
import type { KeptClip, Mix, Motion, Recipe, ShipFormat, Target } from '@idle-tinker/core'
import { ask } from './api'
import { isBusy, JobFollower, type Job } from './followJob'

export type ShipJob = Job<
  { file: string; name: string; triangles: number; bones: number; bytes: number; passed: string[] }[]
>

export interface ShipOrder {
  name: string
  recipes: Recipe[]
  mix: Mix | null
  target: Target
  pattern: string
  lods: boolean
  formats?: ShipFormat[]
  insist?: boolean
  motions: Motion[]
  keyed: KeptClip[]
}

const LAST = 'tinker.job'
const follower: JobFollower<NonNullable<ShipJob['result']>> = new JobFollower(
  () => useShip(),
  () => localStorage.removeItem(LAST),
)

/** The crowd being made into files by the server. The job outlives the page: it is found again after a reload. */
export const useShip = defineStore('ship', {
  /**
   * `away`: how it stands cannot be told at the moment. `what`: which of the two is about to leave. `formats`: what a figure leaves as. `motions`: what else
   * than the clips of their kits figures take along, by id.
   */
  state: () => ({
    job: null as ShipJob | null,
    away: false,
    what: 'figure' as 'figure' | 'crowd',
    motions: [] as string[],
    formats: ['glb'] as ShipFormat[],
  }),
  getters: {
    busy: (s) => isBusy(s.job),
  },
  actions: {
    async start(order: ShipOrder) {
      this.job = null
      const { id } = await ask<{ id: string }>('/api/jobs', 'POST', order)
      localStorage.setItem(LAST, id)
      follower.follow(id)
    },
    /** Takes up the last job of this browser, if the server still has it. */
    async resume() {
      const id = localStorage.getItem(LAST)
      if (id && !this.job) await follower.look(id)
    },
    cancel: () => follower.cancel(),
  },
})
