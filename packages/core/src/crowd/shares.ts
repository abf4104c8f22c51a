/** Whole numbers in such shares that add up to a count (Hamilton's method). */
export function inShares(shares: readonly number[], count: number): number[] {
  const sum = shares.reduce((s, v) => s + v, 0)
  const exact = shares.map((s) => (s / sum) * count)
  const whole = exact.map(Math.floor)
  const order = exact.map((e, i) => ({ i, rest: e - whole[i]! })).sort((a, b) => b.rest - a.rest || a.i - b.i)
  let left = count - whole.reduce((s, q) => s + q, 0)
  for (const { i } of order) if (left-- > 0) whole[i]!++
  return whole
}
