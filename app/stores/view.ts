import { defineStore } from 'pinia'
import { useLocalStorage, usePreferredReducedMotion } from '@vueuse/core'
import { newTarget, type BrushKind, type Side, type Target } from '@idle-tinker/core'
import type { SurfaceKind } from '../stage/surfaceLook'
import { useProject } from './project'

const STARTING = newTarget('start', 'To start with')

/** How the project is looked at: theme, selection, target. */
export const useView = defineStore('view', {
  state: () => ({
    lamp: false,
    /** What was chosen in this browser; the system's own until then. */
    theme: useLocalStorage<'lamp' | 'paper' | null>('tinker.theme', null),
    targetId: useLocalStorage('tinker.target', ''),
    /** A skeleton that is tried on the figure, in place of the target's own. */
    skeleton: null as Pick<Target, 'detail' | 'chains'> | null,
    /** The one for crowds; none until one is chosen. */
    crowdTargetId: useLocalStorage('tinker.crowd-target', ''),
    /** The one for what players put on; none until one is chosen. */
    picksTargetId: useLocalStorage('tinker.picks-target', ''),
    slot: null as string | null,
    reduced: false,
    sheet: false,
    /** How much shuffling changes, 0 to 1. */
    strength: useLocalStorage('tinker.strength', 1),
    /** The groups of sliders that stand open. */
    openGroups: useLocalStorage<string[]>('tinker.groups', ['whole']),
    /** What the tray shows of the body. */
    tray: 'shape' as 'shape' | 'face' | 'nudge',
    /** The brush that nudges: what it does, how wide it is in metres, how it fades and how strongly it acts. */
    brush: useLocalStorage('tinker.brush', {
      kind: 'pull' as BrushKind,
      radius: 0.1,
      softness: 1,
      strength: 0.6,
      mirrored: true,
    }),
    /** Whether the pointer on the stage shows where the figure looks. */
    pointing: false,
    /** Whether figures on the stage blink by themselves. */
    blinks: useLocalStorage('tinker.blinks', usePreferredReducedMotion().value !== 'reduce'),
    /** Whether what is looked at in Kits turns by itself. */
    turns: useLocalStorage('tinker.turns', usePreferredReducedMotion().value !== 'reduce'),
    /** How the surface of the figure is shown on the Bench. */
    surface: 'made' as SurfaceKind,
    /** Of a slot that holds several: the one that is worked on. */
    instance: null as string | null,
    /** Whether the next click on the stage sets it. */
    placing: false,
    /** One that is to come into sight. */
    groupToShow: null as string | null,
    /** Which side of the figure shaping works on. */
    side: 'both' as Side,
  }),
  getters: {
    /** The one chosen; without, the project's first, one of our own until there is any. */
    ownTarget(s): Target {
      const { targets } = useProject()
      return targets.find((t) => t.id === s.targetId) ?? targets[0] ?? STARTING
    },
    /** The one that players' figures are held against; without, the roomiest, as nothing of them is reduced. */
    picksTarget(s): Target {
      const { targets } = useProject()
      const roomy = [...targets].sort((a, b) => b.limits.triangles - a.limits.triangles)
      return targets.find((t) => t.id === s.picksTargetId) ?? roomy[0] ?? STARTING
    },
    /** The same, with the skeleton that is tried. */
    target(s): Target {
      return s.skeleton ? { ...this.ownTarget, ...s.skeleton } : this.ownTarget
    },
  },
  actions: {
    start() {
      this.show(this.theme ? this.theme === 'lamp' : matchMedia('(prefers-color-scheme: dark)').matches)
    },
    setLamp(on: boolean) {
      this.theme = on ? 'lamp' : 'paper'
      this.show(on)
    },
    show(lamp: boolean) {
      this.lamp = lamp
      document.documentElement.classList.toggle('lamp', lamp)
    },
    setTarget(id: string) {
      this.targetId = id
      this.skeleton = null
    },
    /** Tries another skeleton on the figure; the target's own again where it is that one. */
    trySkeleton(change: Partial<Pick<Target, 'detail' | 'chains'>>) {
      const { detail, chains = {} } = { ...this.target, ...change }
      const own = this.ownTarget
      const same = detail === own.detail && JSON.stringify(chains) === JSON.stringify(own.chains ?? {})
      this.skeleton = same ? null : { detail, chains }
    },
    /** Opens a group of sliders, or folds it away. */
    turnGroup(id: string) {
      this.openGroups = this.openGroups.includes(id)
        ? this.openGroups.filter((g) => g !== id)
        : [...this.openGroups, id]
    },
    /** Opens a group and brings it into sight. */
    showGroup(id: string) {
      if (!this.openGroups.includes(id)) this.turnGroup(id)
      this.groupToShow = id
    },
    select(slot: string | null, instance: string | null = null) {
      this.slot = slot
      this.instance = instance
      this.placing = false
    },
  },
})
