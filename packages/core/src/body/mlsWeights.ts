/**
 * Weights by which a point near a surface follows points of that surface: moving least squares
 * with a linear basis (Lancaster & Salkauskas 1981), Gaussian of the given width. Where the
 * neighbours span space, any affine movement of theirs is followed exactly; where they lie in a
 * plane, the ridge keeps the weights small and the point keeps its distance.
 *
 * @param at         xyz of the point
 * @param positions  xyz of all points of the surface
 * @param neighbours the points to follow, at least one
 * @param width      metres
 * @returns one weight a neighbour, summing to one
 */
export function mlsWeights(
  at: readonly [number, number, number],
  positions: ArrayLike<number>,
  neighbours: readonly number[],
  width: number,
): number[] {
  const gauss: number[] = []
  const rows: number[][] = []
  let nearest = Infinity
  for (const p of neighbours) {
    const row = [1, ...[0, 1, 2].map((k) => (positions[p * 3 + k]! - at[k]!) / width)]
    rows.push(row)
    nearest = Math.min(nearest, row[1]! ** 2 + row[2]! ** 2 + row[3]! ** 2)
  }
  for (const row of rows) gauss.push(Math.exp(nearest - (row[1]! ** 2 + row[2]! ** 2 + row[3]! ** 2)))
  const a = [0, 1, 2, 3].map(() => [0, 0, 0, 0, 0])
  for (const [i, row] of rows.entries())
    for (let r = 0; r < 4; r++) for (let c = 0; c < 4; c++) a[r]![c]! += gauss[i]! * row[r]! * row[c]!
  const ridge = 0.05 * gauss.reduce((s, g) => s + g, 0)
  for (let r = 1; r < 4; r++) a[r]![r]! += ridge
  a[0]![4] = 1
  const lambda = solve4(a)
  const weights = rows.map((row, i) => gauss[i]! * row.reduce((s, v, k) => s + v * lambda[k]!, 0))
  const sum = weights.reduce((s, w) => s + w, 0)
  return weights.map((w) => w / sum)
}

/** Gaussian elimination with partial pivoting on a 4 x 5 system; the ridge keeps it regular. */
function solve4(a: number[][]): number[] {
  for (let c = 0; c < 4; c++) {
    let pivot = c
    for (let r = c + 1; r < 4; r++) if (Math.abs(a[r]![c]!) > Math.abs(a[pivot]![c]!)) pivot = r
    ;[a[c], a[pivot]] = [a[pivot]!, a[c]!]
    for (let r = 0; r < 4; r++) {
      if (r === c) continue
      const f = a[r]![c]! / a[c]![c]!
      for (let k = c; k < 5; k++) a[r]![k]! -= f * a[c]![k]!
    }
  }
  return a.map((row, i) => row[4]! / row[i]!)
}
