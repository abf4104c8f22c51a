import { defineStore } from 'pinia'
import { TARGETS, type Target } from '@idle-tinker/core'

const THEME = 'tinker.theme'
const TARGET = 'tinker.target'

/** How the project is looked at: theme, selection, target. */
export const useView = defineStore('view', {
  state: () => ({ lamp: false, slot: null as string | null, targetId: 'near', reduced: false, sheet: false }),
  getters: {
    target: (s): Target => TARGETS.find((t) => t.id === s.targetId) ?? TARGETS[0]!,
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
      if (!TARGETS.some((t) => t.id === id)) return
      this.targetId = id
      localStorage.setItem(TARGET, id)
    },
    select(slot: string | null) {
      this.slot = slot
    },
  },
})
