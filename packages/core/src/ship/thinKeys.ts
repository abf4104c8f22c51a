/**
 * Drops keys that linear interpolation between the kept ones restores to within a tolerance
 * (greedy, one pass; after Ramer 1972 in spirit but forward only, so O(n · longest gap)).
 *
 * @param values `stride` numbers a key; quaternions are compared by component
 */
export function thinKeys(
  times: Float32Array,
  values: Float32Array,
  stride: number,
  tolerance: number,
): { times: Float32Array; values: Float32Array } {
  const n = times.length
  const kept = [0]
  let from = 0
  while (from < n - 1) {
    let to = from + 1
    while (to + 1 < n && restores(times, values, stride, from, to + 1, tolerance)) to++
    kept.push(to)
    from = to
  }
  return {
    times: Float32Array.from(kept, (k) => times[k]!),
    values: Float32Array.from(kept.flatMap((k) => [...values.subarray(k * stride, (k + 1) * stride)])),
  }
}

function restores(
  times: Float32Array,
  values: Float32Array,
  stride: number,
  a: number,
  b: number,
  tolerance: number,
): boolean {
  for (let k = a + 1; k < b; k++) {
    const f = (times[k]! - times[a]!) / (times[b]! - times[a]!)
    for (let c = 0; c < stride; c++) {
      const v = values[a * stride + c]! * (1 - f) + values[b * stride + c]! * f
      if (Math.abs(v - values[k * stride + c]!) > tolerance) return false
    }
  }
  return true
}
