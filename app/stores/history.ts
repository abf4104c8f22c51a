/** Past and future of a document. Pure: every function returns a new history. */
export interface History<T> {
  past: T[]
  now: T
  future: T[]
  /** Edits with the same mark, one after another, are one step (a drag). */
  mark: string | null
}

/** So many steps lead back. */
export const DEPTH = 200

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

/** A state of a document on its way: what was, what is, and what was taken back. */
export interface Step<T> {
  state: T
  at: 'past' | 'now' | 'future'
  /** What led to it, in words; null of the oldest that is known. */
  name: string | null
}

/** All states in order, the oldest first. One that was there before is called a way back to it. */
export function stepsIn<T>({ past, now, future }: History<T>, describe: (before: T, after: T) => string): Step<T>[] {
  const states = [...past, now, ...future]
  const texts = states.map((state) => JSON.stringify(state))
  const steps: Step<T>[] = []
  states.forEach((state, i) => {
    const again = i < 2 ? -1 : texts.lastIndexOf(texts[i]!, i - 2)
    const name =
      i === 0
        ? null
        : again >= 0
          ? `Back to: ${steps[again]!.name ?? 'the beginning'}`
          : describe(states[i - 1]!, state)
    steps.push({ state, at: i < past.length ? 'past' : i === past.length ? 'now' : 'future', name })
  })
  return steps
}

/** Goes to the state at a place in `stepsIn`: back is a step of its own, which loses nothing; forward redoes. */
export function jump<T>(history: History<T>, place: number): History<T> {
  const { past } = history
  if (place < past.length) return record(history, past[place]!)
  let next = history
  for (let i = past.length; i < place; i++) next = redo(next)
  return next
}
