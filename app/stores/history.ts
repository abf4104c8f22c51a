/** Past and future of a document. Pure: every function returns a new history. */
export interface History<T> {
  past: T[]
  now: T
  future: T[]
  /** Edits with the same mark, one after another, are one step (a drag). */
  mark: string | null
}

const DEPTH = 200

export function startHistory<T>(now: T): History<T> {
  return { past: [], now, future: [], mark: null }
}

/** Adds a step. What says the same as before is none: fields tell of a value when they are left, too. */
export function record<T>(history: History<T>, next: T, mark: string | null = null): History<T> {
  if (next === history.now || JSON.stringify(next) === JSON.stringify(history.now)) return history
  const joins = mark !== null && mark === history.mark
  const past = joins ? history.past : [...history.past, history.now].slice(-DEPTH)
  return { past, now: next, future: [], mark }
}

export function undo<T>(history: History<T>): History<T> {
  const before = history.past[history.past.length - 1]
  if (before === undefined) return history
  return { past: history.past.slice(0, -1), now: before, future: [history.now, ...history.future], mark: null }
}

export function redo<T>(history: History<T>): History<T> {
  const [after, ...future] = history.future
  if (after === undefined) return history
  return { past: [...history.past, history.now], now: after, future, mark: null }
}

/** Ends a run of joined edits: the next one is a step of its own. */
export function settle<T>(history: History<T>): History<T> {
  return history.mark === null ? history : { ...history, mark: null }
}
