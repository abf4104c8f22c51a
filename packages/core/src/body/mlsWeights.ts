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
  const n = neighbours.length
  const rows = new Float64Array(n * 4)
  const gauss = new Float64Array(n)
  let nearest = Infinity
  for (let i = 0; i < n; i++) {
    const p = neighbours[i]! * 3
    rows[i * 4] = 1
    let length = 0
    for (let k = 0; k < 3; k++) {
      const v = (positions[p + k]! - at[k]!) / width
      rows[i * 4 + k + 1] = v
      length += v * v
    }
    gauss[i] = length
    if (length < nearest) nearest = length
  }
  const a = new Float64Array(20)
  let ridge = 0
  for (let i = 0; i < n; i++) {
    const g = (gauss[i] = Math.exp(nearest - gauss[i]!))
    ridge += g
    // a row at a time: a process that has just begun would wait for loops within
    addRow(a, 0, g, rows, i * 4)
    addRow(a, 5, g * rows[i * 4 + 1]!, rows, i * 4)
    addRow(a, 10, g * rows[i * 4 + 2]!, rows, i * 4)
    addRow(a, 15, g * rows[i * 4 + 3]!, rows, i * 4)
  }
  for (let r = 1; r < 4; r++) a[r * 6]! += 0.05 * ridge
  a[4] = 1
  const lambda = solve4(a)
  const weights = Array<number>(n)
  let sum = 0
  for (let i = 0; i < n; i++) {
    let own = 0
    for (let k = 0; k < 4; k++) own += rows[i * 4 + k]! * lambda[k]!
    sum += weights[i] = gauss[i]! * own
  }
  for (let i = 0; i < n; i++) weights[i]! /= sum
  return weights
}

/** Adds four numbers, times another, to a row; the first of them is 1. */
function addRow(a: Float64Array, row: number, by: number, numbers: Float64Array, at: number): void {
  a[row]! += by
  a[row + 1]! += by * numbers[at + 1]!
  a[row + 2]! += by * numbers[at + 2]!
  a[row + 3]! += by * numbers[at + 3]!
}

/** Gaussian elimination with partial pivoting on a 4 x 5 system, row after row; the ridge keeps it regular. */
function solve4(a: Float64Array): [number, number, number, number] {
  for (let c = 0; c < 4; c++) {
    let pivot = c
    for (let r = c + 1; r < 4; r++) if (Math.abs(a[r * 5 + c]!) > Math.abs(a[pivot * 5 + c]!)) pivot = r
    for (let k = 0; k < 5; k++) {
      const held = a[c * 5 + k]!
      a[c * 5 + k] = a[pivot * 5 + k]!
      a[pivot * 5 + k] = held
    }
    for (let r = 0; r < 4; r++) {
      if (r === c) continue
      const f = a[r * 5 + c]! / a[c * 5 + c]!
      for (let k = c; k < 5; k++) a[r * 5 + k]! -= f * a[c * 5 + k]!
    }
  }
  return [a[4]! / a[0]!, a[9]! / a[6]!, a[14]! / a[12]!, a[19]! / a[18]!]
}
