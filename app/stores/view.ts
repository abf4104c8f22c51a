import { defineStore } from 'pinia'
import { newTarget, type Target } from '@idle-tinker/core'
import { useProject } from './project'

const THEME = 'tinker.theme'
const TARGET = 'tinker.target'
const STARTING = newTarget('start', 'To start with')

/** How the project is looked at: theme, selection, target. */
export const useView = defineStore('view', {
  state: () => ({ lamp: false, slot: null as string | null, targetId: 'near', reduced: false, sheet: false }),
  getters: {
    /** The one chosen; the project's first if that is gone, one of our own until there is any. */
    target: (s): Target => useProject().targets.find((t) => t.id === s.targetId) ?? useProject().targets[0] ?? STARTING,
  },
  actions: {
    start() {
      const kept = localStorage.getItem(THEME)
      this.setTarget(localStorage.getItem(TARGET) ?? this.targetId)
      this.setLamp(kept ? kept === 'lamp' : matchMedia('(prefers-color-scheme: dark)').matches)
    },
    setLamp(on: boolean) {
      this.lamp = on
      document.documentElement.classList.toggle('lamp', on)
      localStorage.setItem(THEME, on ? 'lamp' : 'paper')
    },
    setTarget(id: string) {
      this.targetId = id
      localStorage.setItem(TARGET, id)
    },
    select(slot: string | null) {
      this.slot = slot
    },
  },
})
