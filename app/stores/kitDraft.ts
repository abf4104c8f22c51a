import { defineStore } from 'pinia'
import { createStore, del, entries, set } from 'idb-keyval'
import { zip } from 'fflate'
import {
  changePart,
  problem,
  type KitManifest,
  type PartDef,
  type Problem,
  type Recipe,
  versionAfter,
} from '@idle-tinker/core'
import { workshop } from '../workers'
import { PICTURES } from '../workers/pictureTarget'
import { fetchKit } from '../workers/fetchKit'
import { plain } from '../workers/plain'
import type { DraftAnswer } from '../workers/protocol'
import { ask, Refused } from './api'
import { useProject } from './project'

/** A kit as it is to become; nothing of it counts until it is saved. */
interface Draft {
  json: string
  /** New files by path. */
  files: [string, Uint8Array][]
  /** Hash of the kit that it was made from. */
  over: string
}

interface State {
  drafts: Record<string, Draft>
  /** What is wrong with the draft of a kit, as far as it has been looked at. */
  problems: Record<string, Problem[]>
  /** Color regions of parts whose file is new. */
  regions: Record<string, Record<string, string[]>>
  saving: boolean
}

const store = typeof indexedDB === 'undefined' ? null : createStore('tinker-kit-drafts', 'drafts')

/** Changes of kits that have not been saved: kept in this browser, so that closing the page loses none. */
export const useKitDraft = defineStore('kitDraft', {
  state: (): State => ({ drafts: {}, problems: {}, regions: {}, saving: false }),
  getters: {
    isDirty: (s) => (id: string) => id in s.drafts,
    /** Whether its text can be read at all. */
    isReadable: (s) => (id: string) => !(id in s.drafts) || parsed(s.drafts[id]!.json) !== null,
    /** A kit's description as it is to become; as it is while its text is none. */
    manifestOf:
      (s) =>
      (id: string): KitManifest | undefined =>
        (id in s.drafts ? parsed(s.drafts[id]!.json) : null) ?? useProject().manifest(id),
    jsonOf: (s) => (id: string) => s.drafts[id]?.json ?? textOf(useProject().manifest(id)),
    /** Somebody has saved the kit since the draft was made. */
    isStale: (s) => (id: string) => id in s.drafts && s.drafts[id]!.over !== useProject().hashOf(id),
  },
  actions: {
    /** Takes up what was not saved the last time. */
    async open() {
      if (opened) return
      opened = true
      try {
        // what is being changed in this page by now stays
        for (const [id, draft] of store ? await entries<string, Draft>(store) : []) this.drafts[id] ??= draft
      } catch (error) {
        // a private window: drafts live as long as the page
        console.error('kit drafts:', error)
      }
      for (const id of Object.keys(this.drafts)) this.lookSoon(id)
    },
    write(id: string, json: string, file?: [string, Uint8Array]) {
      const over = this.drafts[id]?.over ?? useProject().hashOf(id)
      if (over === undefined) return
      const files = this.drafts[id]?.files ?? []
      const next = file ? [...files.filter(([path]) => path !== file[0]), file] : files
      if (next.length === 0 && json === textOf(useProject().manifest(id))) this.drop(id)
      else this.drafts[id] = { json, files: next.map((one) => markRaw(one)), over }
      this.keep(id)
      this.lookSoon(id)
    },
    /** Changes the description; not while its text is none, which would be lost. */
    change(id: string, change: (manifest: KitManifest) => KitManifest) {
      const now = this.manifestOf(id)
      if (now && this.isReadable(id)) this.write(id, textOf(change(plain(now))))
    },
    changePart(id: string, def: PartDef) {
      this.change(id, (kit) => changePart(kit, def))
    },
    /** Puts a file in the place of a part's; recipes know the part, not the file. */
    replaceFile(id: string, part: string, bytes: Uint8Array) {
      const def = this.manifestOf(id)?.parts.find((p) => p.id === part)
      if (def) this.write(id, this.jsonOf(id), [def.file, bytes])
    },
    drop(id: string) {
      const { [id]: _gone, ...others } = this.drafts
      this.drafts = others
      this.problems = without(this.problems, id)
      this.regions = without(this.regions, id)
      this.keep(id)
    },
    /** Each kit by itself: another window may have another one in hand. */
    keep(id: string) {
      if (!store) return
      const draft = this.drafts[id]
      const done = draft ? set(id, { ...toRaw(draft), files: bytesOf(draft) }, store) : del(id, store)
      // full or forbidden: it lives as long as the page
      done.catch((error: unknown) => console.error('kit drafts:', error))
    },
    /** Looks at a draft when there is time; that it cannot be is a fault of its own. */
    lookSoon(id: string) {
      this.look(id).catch((error: unknown) => {
        const message = error instanceof Error ? error.message : String(error)
        this.problems[id] = [problem('draft-unread', id, message, 'Change something, or load the page again.')]
      })
    },
    /** Reads the draft as it would be saved; the figure, if one is asked for, is built with it. */
    async look(id: string, recipe: Recipe | null = null): Promise<DraftAnswer | null> {
      const draft = this.drafts[id]
      const address = useProject().addresses.find((a) => a.id === id)
      if (!draft || !address) return null
      const mark = ++looks
      const worker = await drafting()
      const answer = await worker.tryDraft(
        { address: plain(address), base: location.origin, json: draft.json, files: bytesOf(draft) },
        recipe && plain(recipe),
        plain(PICTURES),
      )
      if (this.drafts[id] !== draft) return recipe ? answer : null
      if (mark >= (shown.get(id) ?? 0)) {
        shown.set(id, mark)
        this.problems[id] = answer.problems
        this.regions[id] = answer.regions
      }
      return answer
    },
    /** Saves a draft as the kit's next version. @throws Refused where it cannot be */
    async save(id: string): Promise<Problem[]> {
      const project = useProject()
      this.saving = true
      try {
        const { draft, answer } = await this.settled(id)
        const now = project.kits.find((k) => k.manifest.id === id)
        if (!answer.manifest || !now || newProblems(answer.problems, now.problems).some((p) => p.severity === 'error'))
          throw new Refused(422, 'Not while something is wrong with it.', answer.problems)
        const kitVersion = versionAfter(now.manifest.kitVersion, answer.manifest.kitVersion)
        const manifest = { ...answer.manifest, kitVersion }
        const files = { ...Object.fromEntries(draft.files), 'kit.json': new TextEncoder().encode(textOf(manifest)) }
        const { problems } = await ask<{ problems: Problem[] }>(
          `/api/kits/${id}/changes`,
          'POST',
          await zipped(files),
          { 'if-match': `"${draft.over}"` },
        )
        await project.load()
        // what was changed while it was on its way is a change of what it has become
        if (this.drafts[id] === draft) this.drop(id)
        else this.rebase(id)
        return problems
      } finally {
        this.saving = false
      }
    },
    /** A draft and how it was read, when it has not been changed meanwhile. @throws Refused where its kit is gone */
    async settled(id: string) {
      for (;;) {
        const draft = this.drafts[id]
        if (!draft || !useProject().hashOf(id))
          throw new Refused(404, 'The kit, or its change, is not here any more.', [])
        const answer = await this.look(id)
        if (answer && this.drafts[id] === draft) return { draft, answer }
      }
    },
    /** From now on it is a change of the kit as it is by now. */
    rebase(id: string) {
      const over = useProject().hashOf(id)
      const draft = this.drafts[id]
      if (draft && over !== undefined) this.drafts[id] = { ...draft, over }
      this.keep(id)
      this.lookSoon(id)
    },
  },
})

/** A description that is one as far as the page needs it; null in the middle of a word. */
function parsed(json: string): KitManifest | null {
  try {
    const value = JSON.parse(json) as KitManifest | null
    return Array.isArray(value?.parts) && Array.isArray(value.bodies) ? value : null
  } catch {
    return null
  }
}

/** Its files as they are, not as the store watches them. */
const bytesOf = ({ files }: Draft) => files.map(([path, bytes]): [string, Uint8Array] => [path, toRaw(bytes)])

let opened = false
let looks = 0
/** Kit to the last look at it that was taken over. */
const shown = new Map<string, number>()
let read = ''
let reading: Promise<unknown> | null = null

/** The worker of drafts, with the kits in it as they are now. */
export async function drafting() {
  const { addresses } = useProject()
  const now = JSON.stringify(addresses)
  if (read !== now || !reading) {
    read = now
    const begun = workshop('draft').loadKits(plain(addresses), location.origin)
    reading = begun
    // it is tried again with the next look
    begun.catch(() => reading === begun && (reading = null))
  }
  await reading
  return workshop('draft')
}

/** One that has ended by itself has no kits any more. */
export function forgetDrafting(): void {
  reading = null
}

/** What is wrong with a draft that was not wrong with its kit before: where it stands may have changed, not what it says. */
export function newProblems(problems: readonly Problem[], before: readonly Problem[]): Problem[] {
  const known = new Set(before.map((p) => `${p.code} ${p.message}`))
  return problems.filter((p) => p.severity !== 'info' && !known.has(`${p.code} ${p.message}`))
}

export const textOf = (manifest: KitManifest | undefined): string =>
  manifest ? `${JSON.stringify(manifest, null, 1)}\n` : ''

const without = <T>(map: Record<string, T>, id: string): Record<string, T> => {
  const { [id]: _gone, ...others } = map
  return others
}

/** Stored, not pressed: models hardly get smaller, and the person waits. */
export function zipped(files: Record<string, Uint8Array>): Promise<Uint8Array> {
  return new Promise((resolve, reject) =>
    zip(files, { level: 0 }, (error, data) => (error ? reject(new Error(error.message)) : resolve(data))),
  )
}

/** All files of a kit as it is, as a zip. */
export async function zipOfKit(id: string): Promise<Uint8Array> {
  const address = useProject().addresses.find((a) => a.id === id)
  if (!address) throw new Refused(404, 'The kit is not here any more.', [])
  return zipped(Object.fromEntries(await fetchKit(location.origin, id, address.files)))
}
