/** A copy without reactivity, as workers and requests want it. For documents, which are JSON. */
export function plain<T>(document: T): T {
  return JSON.parse(JSON.stringify(document)) as T
}
