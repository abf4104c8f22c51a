/** Results that depend on a pair of things only, kept as long as they live. */
export class PairMemory<A extends object, B extends object, V> {
  private readonly rows = new WeakMap<A, WeakMap<B, { value: V }>>()

  get(a: A, b: B, make: () => V): V {
    let row = this.rows.get(a)
    if (!row) this.rows.set(a, (row = new WeakMap()))
    let kept = row.get(b)
    if (!kept) row.set(b, (kept = { value: make() }))
    return kept.value
  }
}
