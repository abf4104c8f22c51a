/** A smooth curve that is nowhere under the values: widened by their neighbours, then averaged. */
export function easeUp(values: readonly number[], loop: boolean): number[] {
  const n = values.length
  const at = (list: readonly number[], i: number) => list[loop ? ((i % n) + n) % n : Math.min(n - 1, Math.max(0, i))]!
  const window = [-2, -1, 0, 1, 2]
  const wide = values.map((_, i) => Math.max(...window.map((k) => at(values, i + k))))
  return wide.map((_, i) => window.reduce((s, k) => s + at(wide, i + k), 0) / window.length)
}
