import { del, get, set } from 'idb-keyval'
import { hasErrors, type Read } from '@idle-tinker/core'
import { ask } from '../stores/api'
import { DEPTH, startHistory, type History } from '../stores/history'

/** Steps are written when nothing has been changed for a while, ms. */
const QUIET = 800

const waiting = new Map<string, { timer: ReturnType<typeof setTimeout>; write: () => Promise<void> }>()
const keyOf = (kind: string, id: string) => `tinker.steps.${kind}.${id}`

/** A browser without a database, or a private window, keeps no steps over a reload; the document itself is kept elsewhere. */
async function tried<T>(work: () => Promise<T>): Promise<T | undefined> {
  try {
    return await work()
  } catch (error) {
    console.error('steps:', error)
    return undefined
  }
}

/**
 * Keeps the steps of a document in this browser, soon.
 *
 * @param history asked for when it is written: while a slider is drawn nothing of it is copied
 */
export function keepSteps<T>(kind: string, id: string, history: () => History<T>): void {
  const key = keyOf(kind, id)
  clearTimeout(waiting.get(key)?.timer)
  const write = async () => {
    waiting.delete(key)
    const { past, now, future } = history()
    await tried(() => set(key, { past, now, future }))
  }
  waiting.set(key, { write, timer: setTimeout(() => void write(), QUIET) })
}

/** Writes at once what waits: the page is being left. */
export function flushSteps(): void {
  for (const { timer, write } of waiting.values()) {
    clearTimeout(timer)
    void write()
  }
}

/** Forgets the steps of a document that is gone. */
export async function forgetSteps(kind: string, id: string): Promise<void> {
  const key = keyOf(kind, id)
  clearTimeout(waiting.get(key)?.timer)
  waiting.delete(key)
  await tried(() => del(key))
}

type Reader<T> = (document: unknown, where: string) => Read<T>

/**
 * The steps that led to a document as it stands; those of an older workshop are read as they are today. From an
 * earlier visit of this browser, with what was taken back; where it has none, or the document has been changed
 * elsewhere since, from the server, a step for each save. Null where there are none.
 */
export async function stepsOf<T extends object>(
  kind: string,
  id: string,
  now: T,
  read: Reader<T>,
): Promise<History<T> | null> {
  const one = (document: unknown): T | null => {
    const { value, problems } = read(document, 'steps')
    return hasErrors(problems) ? null : value
  }
  return (await stepsHere(kind, id, now, one)) ?? (await tried(() => stepsThere(kind, id, now, one))) ?? null
}

/** From what the server has kept: every save. */
async function stepsThere<T extends object>(
  kind: string,
  id: string,
  now: T,
  one: (document: unknown) => T | null,
): Promise<History<T> | null> {
  const states = (await ask<unknown[]>(`/api/documents/${kind}/${id}/versions`)).map(one)
  const texts = states.map((state) => JSON.stringify(state))
  // what the server has not seen yet is a step further
  const until = texts.lastIndexOf(JSON.stringify(now))
  const past = until < 0 ? states : states.slice(0, until)
  const known = past.slice(past.lastIndexOf(null) + 1) as T[]
  return known.length ? { ...startHistory(now), past: known.slice(-DEPTH) } : null
}

/** From what this browser has kept. */
async function stepsHere<T extends object>(
  kind: string,
  id: string,
  now: T,
  one: (document: unknown) => T | null,
): Promise<History<T> | null> {
  const kept = await tried(() => get<Partial<Record<'past' | 'now' | 'future', unknown>>>(keyOf(kind, id)))
  if (!kept || JSON.stringify(one(kept.now)) !== JSON.stringify(now)) return null
  const list = (documents: unknown) => (Array.isArray(documents) ? documents : []).map(one)
  const [past, future] = [list(kept.past), list(kept.future)]
  // beyond one that cannot be read no way leads back
  const from = past.lastIndexOf(null) + 1
  const until = future.indexOf(null)
  return {
    ...startHistory(now),
    past: past.slice(from) as T[],
    future: (until < 0 ? future : future.slice(0, until)) as T[],
  }
}
