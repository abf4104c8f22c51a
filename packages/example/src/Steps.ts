/** What was, to go back to. */
export class Steps<T> {
  private past: T[] = []
  private future: T[] = []

  constructor(
    private now: T,
    private readonly same: (a: T, b: T) => boolean,
    private readonly most = 100,
  ) {}

  get canUndo(): boolean {
    return this.past.length > 0
  }

  get canRedo(): boolean {
    return this.future.length > 0
  }

  /** A step; what is as it was is none. */
  take(next: T): void {
    if (this.same(this.now, next)) return
    this.past = [...this.past, this.now].slice(-this.most)
    this.future = []
    this.now = next
  }

  undo(): T {
    const before = this.past.pop()
    if (before === undefined) return this.now
    this.future.push(this.now)
    return (this.now = before)
  }

  redo(): T {
    const next = this.future.pop()
    if (next === undefined) return this.now
    this.past.push(this.now)
    return (this.now = next)
  }
}
