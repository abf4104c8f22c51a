import { defineStore } from 'pinia'
import {
  describeProblem,
  newTarget,
  type KitManifest,
  type Manifests,
  type Mix,
  type Recipe,
  type Target,
} from '@idle-tinker/core'
import { theBooth } from '../stage/Booth'
import type { FigureView, KitAddress, LoadedKit } from '../workers/protocol'
import { workshop } from '../workers'
import { plain } from '../workers/plain'
import { ask, Refused } from './api'

export interface FigureEntry {
  id: string
  name: string
  version: number
  recipe: Recipe
  hasPicture: boolean
  savedAt: string
}

export interface TargetEntry {
  id: string
  version: number
  target: Target
}

interface State {
  kits: LoadedKit[]
  addresses: KitAddress[]
  figures: FigureEntry[]
  deleted: FigureEntry[]
  mixes: { id: string; version: number; mix: Mix }[]
  targetEntries: TargetEntry[]
  state: 'loading' | 'ready' | 'failed'
  message: string
  pictureVersion: number
}

/** What the project holds: kits, figures, mixes, targets. */
export const useProject = defineStore('project', {
  state: (): State => ({
    kits: [],
    addresses: [],
    figures: [],
    deleted: [],
    mixes: [],
    targetEntries: [],
    state: 'loading',
    message: '',
    pictureVersion: 0,
  }),
  getters: {
    targets: (s): readonly Target[] => s.targetEntries.map((t) => t.target),
    /** The kits by id, as the core looks things up in them. */
    library: (s): Manifests => new Map(s.kits.map((kit) => [kit.manifest.id, kit])),
    manifest(): (id: string) => KitManifest | undefined {
      return (id) => this.kits.find((k) => k.manifest.id === id)?.manifest
    },
    regionsOf(): (kit: string, id: string) => string[] {
      return (kit, id) => this.kits.find((k) => k.manifest.id === kit)?.regions[id] ?? []
    },
  },
  actions: {
    async load() {
      try {
        const [kits, figures, mixes, targets] = await Promise.all([
          ask<{ id: string; files: { path: string }[] }[]>('/api/kits'),
          ask<FigureEntry[]>('/api/figures'),
          ask<State['mixes']>('/api/mixes'),
          ask<TargetEntry[]>('/api/targets'),
        ])
        this.targetEntries = targets
        this.addresses = kits.map(({ id, files }) => ({ id, files: files.map((f) => f.path) }))
        this.kits = markRaw(await workshop('bench').loadKits(plain(this.addresses), location.origin))
        crowdReady = null
        // only now: a figure opened before its kits are there could not be built
        this.figures = figures
        this.mixes = mixes
        this.state = 'ready'
      } catch (error) {
        this.state = 'failed'
        this.message = error instanceof Error ? error.message : String(error)
      }
    },
    /** Adds the figure in a file; what stands in the way is thrown as a refusal. */
    async openFile(file: File): Promise<FigureEntry> {
      const bytes = new Uint8Array(await file.arrayBuffer())
      const { value, problems } = await workshop('bench').open(bytes, file.name)
      if (!value) throw new Refused(422, problems.map(describeProblem).join(' '), problems)
      return this.add(value)
    },
    async add(recipe: Recipe): Promise<FigureEntry> {
      const entry = await ask<FigureEntry>('/api/figures', 'POST', recipe)
      this.figures = [...this.figures, entry]
      return entry
    },
    async remove(id: string) {
      await ask(`/api/figures/${id}`, 'DELETE')
      this.figures = this.figures.filter((f) => f.id !== id)
    },
    async restore(id: string) {
      const entry = await ask<FigureEntry>(`/api/figures/${id}/restore`, 'POST')
      this.deleted = this.deleted.filter((f) => f.id !== id)
      this.figures = [...this.figures.filter((f) => f.id !== id), entry]
    },
    async loadDeleted() {
      this.deleted = await ask<FigureEntry[]>('/api/figures?deleted=true')
    },
    async loadTargets() {
      this.targetEntries = await ask<TargetEntry[]>('/api/targets')
    },
    async addTarget(target: Target) {
      const entry = await ask<TargetEntry>('/api/targets', 'POST', target)
      this.targetEntries = [...this.targetEntries, entry]
    },
    /** Saves a target over the version this window has seen; another window's is never overwritten. */
    async saveTarget(target: Target) {
      const known = this.targetEntries.find((t) => t.id === target.id)
      const entry = await ask<TargetEntry>(`/api/targets/${target.id}`, 'PUT', { version: known?.version ?? 1, target })
      this.targetEntries = this.targetEntries.map((t) => (t.id === entry.id ? entry : t))
    },
    async removeTarget(id: string) {
      await ask(`/api/targets/${id}`, 'DELETE')
      this.targetEntries = this.targetEntries.filter((t) => t.id !== id)
    },
    saved(entry: FigureEntry) {
      this.figures = this.figures.map((f) => (f.id === entry.id ? entry : f))
    },
    /** Draws a figure as the list shows it and keeps the picture; a failure only leaves the old one. */
    async takePicture(id: string, view: FigureView) {
      const canvas = theBooth().take(view, 88, 120, { turn: 0.4, armsDown: true })
      const png = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve))
      if (png) await this.setPicture(id, png).catch(() => undefined)
    },
    /** Gives every figure a picture that has none yet, one after another. */
    async takeMissingPictures() {
      if (picturing) return
      picturing = true
      try {
        for (const { id, recipe } of this.figures.filter((f) => !f.hasPicture)) {
          const worker = await crowdWorkshop()
          const { view } = await worker.build(plain(recipe), plain(PLAIN), false)
          if (view) await this.takePicture(id, view)
        }
      } finally {
        picturing = false
      }
    },
    async setPicture(id: string, png: Blob) {
      await ask(`/api/figures/${id}/picture`, 'PUT', png)
      this.figures = this.figures.map((f) => (f.id === id ? { ...f, hasPicture: true } : f))
      this.pictureVersion++
    },
  },
})

let picturing = false
/** What pictures are built for: a figure as its kit made it. */
const PLAIN = newTarget('picture', 'Pictures')
let crowdReady: Promise<unknown> | null = null

/** The second worker, with the kits in it; started when first needed, and given new kits when they have come. */
export async function crowdWorkshop() {
  const project = useProject()
  crowdReady ??= workshop('crowd')
    .loadKits(plain(project.addresses), location.origin)
    .catch((error: unknown) => {
      crowdReady = null
      throw error
    })
  await crowdReady
  return workshop('crowd')
}
