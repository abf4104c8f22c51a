import { defineStore } from 'pinia'
import {
  describeProblem,
  type Problem,
  fileName,
  type Kept,
  type KeptClip,
  type KeptPose,
  type KitManifest,
  type Manifests,
  type Mix,
  type Motion,
  type Picks,
  type Recipe,
  type Target,
} from '@idle-tinker/core'
import type { Entry } from '../documents/Keeper'
import { theBooth } from '../stage/Booth'
import type { FigureView, KitAddress, LoadedKit, LoadedKits, Workshop } from '../workers/protocol'
import type { Remote } from 'comlink'
import { POOL, workshop, type WorkerName } from '../workers'
import { plain } from '../workers/plain'
import { PICTURES } from '../workers/pictureTarget'
import { ask, Refused } from './api'

/** What is kept with versions, by kind. */
export interface Contents {
  figure: Recipe
  mix: Mix
  target: Target
  kept: Kept
  motion: Motion
  pose: KeptPose
  clip: KeptClip
  picks: Picks
}
export type Kind = keyof Contents
export type FigureEntry = Entry<Recipe>
export type MixEntry = Entry<Mix>

type Lists = { [K in Kind]: Entry<Contents[K]>[] }

interface State {
  kits: LoadedKit[]
  /** Kits that are kept but cannot be read, and why. */
  broken: LoadedKits['broken']
  addresses: KitAddress[]
  documents: Lists
  deleted: Lists
  state: 'loading' | 'ready' | 'failed'
  message: string
  pictureVersion: number
  /** Whether the motions that are kept have been asked for. */
  motionsRead: boolean
}

/** What the project holds: kits, figures, mixes, targets. */
export const useProject = defineStore('project', {
  state: (): State => ({
    kits: [],
    broken: [],
    addresses: [],
    documents: { figure: [], mix: [], target: [], kept: [], motion: [], pose: [], clip: [], picks: [] },
    deleted: { figure: [], mix: [], target: [], kept: [], motion: [], pose: [], clip: [], picks: [] },
    state: 'loading',
    message: '',
    pictureVersion: 0,
    motionsRead: false,
  }),
  getters: {
    figures: (s): readonly FigureEntry[] => s.documents.figure,
    mixes: (s): readonly MixEntry[] => s.documents.mix,
    looks: (s): readonly Entry<Kept>[] => s.documents.kept.filter((k) => k.content.purpose === 'look'),
    /** The snapshots of a figure, the newest first. */
    snapshotsOf: (s) => (figure: string | null) =>
      s.documents.kept.filter((k) => k.content.purpose === 'snapshot' && k.content.figure === figure).reverse(),
    targets: (s): readonly Target[] => s.documents.target.map((t) => t.content),
    /** The kits by id, as the core looks things up in them. */
    library: (s): Manifests => new Map(s.kits.map((kit) => [kit.manifest.id, kit])),
    /** Every body of every kit, as one starts something new from it. */
    bodies: (s): { kit: string; id: string; name: string }[] =>
      s.kits.flatMap(({ manifest }) => manifest.bodies.map(({ id, name }) => ({ kit: manifest.id, id, name }))),
    manifest(): (id: string) => KitManifest | undefined {
      return (id) => this.kits.find((k) => k.manifest.id === id)?.manifest
    },
    /** Of all files of a kit. */
    hashOf(): (id: string) => string | undefined {
      return (id) => this.kits.find((k) => k.manifest.id === id)?.hash
    },
    regionsOf(): (kit: string, id: string) => string[] {
      return (kit, id) => this.kits.find((k) => k.manifest.id === kit)?.regions[id] ?? []
    },
  },
  actions: {
    async load() {
      try {
        const [kits, figures, mixes, targets, kept, poses, clips, picks] = await Promise.all([
          ask<{ id: string; hash: string; files: { path: string }[] }[]>('/api/kits'),
          list('figure'),
          list('mix'),
          list('target'),
          list('kept'),
          list('pose'),
          list('clip'),
          list('picks'),
        ])
        this.documents.target = targets
        const { buildId } = useRuntimeConfig().app
        this.addresses = kits.map(({ id, hash, files }) => ({
          ...{ id, hash, files: files.map((f) => f.path) },
          reading: `/api/readings/${id}/${hash}?by=${buildId}`,
        }))
        await this.openKits()
        // only now: a figure opened before its kits are there could not be built
        this.documents.figure = figures
        this.documents.mix = mixes
        this.documents.kept = kept
        this.documents.pose = poses
        this.documents.clip = clips
        this.documents.picks = picks
        this.state = 'ready'
      } catch (error) {
        this.state = 'failed'
        this.message = error instanceof Error ? error.message : String(error)
      }
    },
    /** Has the worker of the Bench read the kits; also again, when it had to be started anew. */
    async openKits() {
      const { loaded, broken } = await workshop('bench').loadKits(plain(this.addresses), location.origin)
      this.kits = markRaw(loaded)
      this.broken = broken
      forgetPool()
    },
    /** Adds the figure in a file; what stands in the way is thrown as a refusal. */
    async openFile(file: File): Promise<FigureEntry> {
      const bytes = new Uint8Array(await file.arrayBuffer())
      const { value, problems } = await workshop('bench').open(bytes, file.name)
      if (!value) throw new Refused(422, problems.map(describeProblem).join(' '), problems)
      return this.add('figure', value)
    },
    /** Adds the crowd in a file, as a mix of its own, and tells of it; what stands in the way is thrown as a refusal. */
    async openCrowd(file: File): Promise<{ entry: Entry<Mix>; problems: Problem[] }> {
      const bytes = new Uint8Array(await file.arrayBuffer())
      const { value, problems } = await workshop('bench').openCrowd(bytes, file.name)
      if (!value) throw new Refused(422, problems.map((p) => describeProblem(p)).join(' '), problems)
      return { entry: await this.addNamed('mix', value), problems }
    },
    /** Adds a kit from its zip; one that is there keeps its place unless it is to be replaced. */
    async addKit(file: File, replace = false): Promise<{ id: string; problems: Problem[] }> {
      const path = `/api/kits${replace ? '?replace=true' : ''}`
      const added = await ask<{ id: string; problems: Problem[] }>(path, 'POST', file)
      await this.load()
      return added
    },
    async add<K extends Kind>(kind: K, content: Contents[K]): Promise<Entry<Contents[K]>> {
      const entry = await ask<Entry<Contents[K]>>(`/api/documents/${kind}`, 'POST', content)
      setList(this.documents, kind, [...listOf(this.documents, kind), entry])
      return entry
    },
    /** Adds a document that is known by a name of its own; the first free one of a name, “name 2”, “name 3” … */
    async addNamed<K extends 'mix' | 'target' | 'picks'>(kind: K, content: Contents[K]): Promise<Entry<Contents[K]>> {
      const taken = new Set([...this.documents[kind], ...this.deleted[kind]].flatMap(({ id, name }) => [id, name]))
      const stem = idOf(content.name)
      for (let n = 1; ; n++) {
        const named =
          n === 1 ? { id: stem, name: content.name } : { id: `${stem}-${n}`, name: `${content.name.slice(0, 72)} ${n}` }
        if (taken.has(named.id) || taken.has(named.name)) continue
        try {
          return await this.add(kind, { ...content, ...named })
        } catch (error) {
          // another window has just taken it, or one that was deleted bears it
          if (!(error instanceof Refused && error.status === 409 && n < MOST_NAMES)) throw error
        }
      }
    },
    async remove(kind: Kind, id: string) {
      await ask(`/api/documents/${kind}/${id}`, 'DELETE')
      setList(this.documents, kind, without(listOf(this.documents, kind), id))
    },
    /** Changes a document that nothing is being done to; refused where another window has changed it since. */
    async amendKept<K extends 'kept' | 'motion' | 'pose'>(
      kind: K,
      { id, version, content }: Entry<Contents[K]>,
      change: Partial<Contents[K]>,
    ) {
      const writing = {
        version,
        content: { ...plain(content), ...plain(change) },
        token: `${crypto.randomUUID()}.1`,
        after: [],
      }
      try {
        this.saved(kind, await ask<Entry<Contents[K]>>(`/api/documents/${kind}/${id}`, 'PUT', writing))
      } catch (error) {
        // another window was first: what it made of it is here from now on, so that the next change can be made over it
        if (error instanceof Refused && error.status === 409) await this.fetchAgain(kind, id)
        throw error
      }
    },
    /** Takes a document as the server has it; one that is gone goes here too. */
    async fetchAgain(kind: Kind, id: string) {
      try {
        this.saved(kind, await ask<Entry<Contents[Kind]>>(`/api/documents/${kind}/${id}`))
      } catch (error) {
        if (!(error instanceof Refused && error.status === 404)) throw error
        setList(this.documents, kind, without(listOf(this.documents, kind), id))
      }
    },
    async restore(kind: Kind, id: string) {
      const entry = await ask<Entry<Contents[Kind]>>(`/api/documents/${kind}/${id}/restore`, 'POST')
      setList(this.deleted, kind, without(listOf(this.deleted, kind), id))
      setList(this.documents, kind, [...without(listOf(this.documents, kind), id), entry])
    },
    async loadDeleted(kind: Kind) {
      setList(this.deleted, kind, await list(kind, true))
    },
    /** Shows a document as it is being changed here, before the server has it. */
    amend<K extends Kind>(kind: K, id: string, content: Contents[K]) {
      setList(
        this.documents,
        kind,
        listOf(this.documents, kind).map((f) => (f.id === id ? { ...f, content } : f)),
      )
    },
    saved<K extends Kind>(kind: K, entry: Entry<Contents[K]>) {
      setList(
        this.documents,
        kind,
        listOf(this.documents, kind).map((f) => (f.id === entry.id ? entry : f)),
      )
    },
    /** Draws a figure as the list shows it and keeps the picture; a failure only leaves the old one. */
    async takePicture(id: string, view: FigureView) {
      const canvas = theBooth().take(view, 88, 120, { turn: 0.4, armsDown: true })
      const png = canvas && (await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve)))
      if (png) await this.setPicture(id, png).catch(() => undefined)
    },
    /** Gives every figure a picture that has none yet, one after another. */
    async takeMissingPictures() {
      if (picturing) return
      picturing = true
      try {
        for (const { id, content: recipe } of this.figures.filter((f) => !f.hasPicture)) {
          const { view } = await inPool((worker) => worker.build(plain(recipe), plain(PICTURES), false))
          if (view) await this.takePicture(id, view)
        }
      } finally {
        picturing = false
      }
    },
    /** Motions from elsewhere are large: they come when they are first asked for. */
    async loadMotions() {
      if (this.motionsRead) return
      const read = await list('motion')
      const here = new Set(this.documents.motion.map((m) => m.id))
      setList(this.documents, 'motion', [...read.filter((m) => !here.has(m.id)), ...this.documents.motion])
      this.motionsRead = true
    },
    async setPicture(id: string, png: Blob) {
      await ask(`/api/documents/figure/${id}/picture`, 'PUT', png)
      this.documents.figure = this.documents.figure.map((f) => (f.id === id ? { ...f, hasPicture: true } : f))
      this.pictureVersion++
    },
  },
})

/** Numbers behind a name that are tried. */
const MOST_NAMES = 200

// which list belongs to which kind cannot be told to the compiler in one place: here it is
export function listOf<K extends Kind>(lists: Lists, kind: K): Entry<Contents[K]>[] {
  return lists[kind] as unknown as Entry<Contents[K]>[]
}

function setList<K extends Kind>(lists: Lists, kind: K, entries: Entry<Contents[K]>[]): void {
  Object.assign(lists, { [kind]: entries })
}

function without<T extends { id: string }>(entries: readonly T[], id: string): T[] {
  return entries.filter((entry) => entry.id !== id)
}

function list<K extends Kind>(kind: K, deleted = false): Promise<Entry<Contents[K]>[]> {
  return ask<Entry<Contents[K]>[]>(`/api/documents/${kind}${deleted ? '?deleted=true' : ''}`)
}

/** A name as an id: small letters, digits and dashes. */
export function idOf(name: string): string {
  const plainName = fileName('{name}', { name, number: 1, target: '' })
    .replace(/^[_-]+/, '')
    .replaceAll('_', '-')
  return plainName.slice(0, 50) || 'one'
}

let picturing = false
/** Workers of the pool that have the kits in them, or are reading them. */
const ready = new Map<WorkerName, Promise<unknown>>()
const busy = new Map<WorkerName, number>()

/** One that was started anew has no kits; when there are others, none has the right ones. */
export function forgetPool(name?: WorkerName): void {
  if (name) ready.delete(name)
  else ready.clear()
}

/** Has one worker of the pool do something, with the kits in it: one that has nothing to do, started when first needed. */
export async function inPool<T>(work: (worker: Remote<Workshop>) => Promise<T>): Promise<T> {
  const load = (name: WorkerName) => busy.get(name) ?? 0
  // the first of the least busy ones: a second is started only when the first is at work
  const name = POOL.reduce((best, other) => (load(other) < load(best) ? other : best))
  busy.set(name, load(name) + 1)
  try {
    if (!ready.has(name)) {
      const reading = workshop(name).loadKits(plain(useProject().addresses), location.origin)
      ready.set(name, reading)
      // it is tried again with the next piece of work
      reading.catch(() => ready.get(name) === reading && ready.delete(name))
    }
    await ready.get(name)
    return await work(workshop(name))
  } finally {
    busy.set(name, load(name) - 1)
  }
}
