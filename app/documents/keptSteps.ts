import { del, get, set } from 'idb-keyval'
import { hasErrors, type Read } from '@idle-tinker/core'
import { startHistory, type History } from '../stores/history'

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

/**
 * The steps that led to a document as it stands, from an earlier visit; those of an older workshop are read as
 * they are today. Null where there are none, or where it has been changed elsewhere since.
 */
export async function stepsOf<T extends object>(
  kind: string,
  id: string,
  now: T,
  read: (document: unknown, where: string) => Read<T>,
): Promise<History<T> | null> {
  const kept = await tried(() => get<Partial<Record<'past' | 'now' | 'future', unknown>>>(keyOf(kind, id)))
  if (!kept) return null
  const one = (document: unknown): T | null => {
    const { value, problems } = read(document, 'steps')
    return hasErrors(problems) ? null : value
  }
  if (JSON.stringify(one(kept.now)) !== JSON.stringify(now)) return null
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
