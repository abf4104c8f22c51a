import { defineStore } from 'pinia'
import { useLocalStorage } from '@vueuse/core'
import type { Picks, Target } from '@idle-tinker/core'
import type { PackageReport } from '../../server/jobs/buildPicksTask'
import { ask } from './api'
import { useProject } from './project'
import { isBusy, JobFollower, type Job } from './followJob'

export type PackageJob = Job<PackageReport>

/** By picks: the last job of this browser, and what it was made from. */
const last = useLocalStorage<Record<string, { job: string; from: string }>>('tinker.packages', {})

/**
 * A short text for what a package is made from: another for anything else, be it the picks, the target, a kit, or the
 * workshop that made it.
 */
export function markOf(picks: Picks, target: Target): string {
  const { buildId } = useRuntimeConfig().app as { buildId?: string }
  const kits = useProject().kits.map(({ hash }) => hash)
  const text = JSON.stringify([picks, target, kits, buildId])
  let h = 0x811c9dc5
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193) >>> 0
  return `${h.toString(36)} ${text.length}`
}

const follower: JobFollower<PackageReport> = new JobFollower(
  () => usePackage(),
  (id) => (last.value = Object.fromEntries(Object.entries(last.value).filter(([, { job }]) => job !== id))),
)

/** The package that is built of the open picks, by the server. What was built before stays in sight until another is. */
export const usePackage = defineStore('package', {
  state: () => ({
    job: null as PackageJob | null,
    /** What the job is made from. */
    from: '',
    earlier: null as { job: PackageJob; from: string } | null,
    away: false,
  }),
  getters: {
    busy: (s) => isBusy(s.job),
    /** The one that is looked at. */
    built: (s) => (s.job?.state === 'done' ? { job: s.job, from: s.from } : s.earlier),
    /** Where its files are. */
    address(): string | null {
      return this.built ? `/api/jobs/${this.built.job.id}/files` : null
    },
    report(): PackageReport | null {
      return this.built?.job.result ?? null
    },
  },
  actions: {
    /** @param triples whether every three parts that lie on each other are tried on as well */
    async build(picks: Picks, target: Target, triples = false) {
      // what was built before is still there until the order is taken
      const { id } = await ask<{ id: string }>('/api/jobs/picks', 'POST', { picks, target, triples })
      Object.assign(this, { earlier: this.built, job: null, from: markOf(picks, target) })
      last.value = { ...last.value, [picks.id]: { job: id, from: this.from } }
      follower.follow(id)
    },
    /** Takes up what was last built of some picks, if the server still has it. */
    async resume(id: string) {
      follower.stop()
      Object.assign(this, { job: null, earlier: null, away: false, from: '' })
      const known = last.value[id]
      if (!known) return
      this.from = known.from
      await follower.look(known.job)
    },
    /** Stops the work on some picks; what was built of them before is the last again. */
    async cancel(id: string) {
      await follower.cancel()
      if (this.job?.state !== 'canceled' || !this.earlier) return
      const { job, from } = this.earlier
      Object.assign(this, { job, from, earlier: null })
      last.value = { ...last.value, [id]: { job: job.id, from } }
    },
    /** Nobody looks any more; the work goes on. */
    leave: () => follower.stop(),
  },
})
