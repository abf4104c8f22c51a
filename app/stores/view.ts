import { defineStore } from 'pinia'
import { TARGETS, type Target } from '@idle-tinker/core'

const THEME = 'tinker.theme'

/** How the project is looked at: theme, selection, target. */
export const useView = defineStore('view', {
  state: () => ({ lamp: false, slot: null as string | null, targetId: 'near', reduced: false, sheet: false }),
  getters: {
    target: (s): Target => TARGETS.find((t) => t.id === s.targetId) ?? TARGETS[0]!,
  },
  actions: {
    start() {
      const kept = localStorage.getItem(THEME)
      this.setLamp(kept ? kept === 'lamp' : matchMedia('(prefers-color-scheme: dark)').matches)
    },
    setLamp(on: boolean) {
      this.lamp = on
      document.documentElement.classList.toggle('lamp', on)
      localStorage.setItem(THEME, on ? 'lamp' : 'paper')
    },
    select(slot: string | null) {
      this.slot = slot
    },
  },
})
