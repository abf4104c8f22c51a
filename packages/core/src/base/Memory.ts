/** Remembers the last few results of each of several stages under the content they were made from. */
export class Memory {
  private readonly capacity: number
  private readonly stages = new Map<string, Map<string, unknown>>()

  constructor(capacity: number) {
    this.capacity = capacity
  }

  /**
   * The result kept under the key, or a new one.
   *
   * @param made      told when it was made anew
   * @param forgotten given what is not kept any more: what it holds may be used again
   */
  recall<T>(stage: string, key: string, make: () => T, made?: () => void, forgotten?: (value: T) => void): T {
    let kept = this.stages.get(stage)
    if (!kept) this.stages.set(stage, (kept = new Map()))
    if (kept.has(key)) {
      const value = kept.get(key) as T
      // what was used last is forgotten last
      kept.delete(key)
      kept.set(key, value)
      return value
    }
    const value = make()
    kept.set(key, value)
    if (kept.size > this.capacity) {
      const [oldest, old] = kept.entries().next().value!
      kept.delete(oldest)
      forgotten?.(old as T)
    }
    made?.()
    return value
  }

  /** What is kept of a stage, the last used first. */
  kept<T>(stage: string): T[] {
    return [...(this.stages.get(stage)?.values() ?? [])].reverse() as T[]
  }

  /**
   * Lets go of all of it. Key by key: a map that is cleared, or given up, leaves its table as it was, and one that has
   * grown old keeps what was in it until the engine clears up all memory and not the young alone.
   */
  forget(): void {
    for (const kept of this.stages.values()) for (const key of kept.keys()) kept.delete(key)
  }
}
