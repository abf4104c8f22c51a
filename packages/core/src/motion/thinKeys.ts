/**
 * Drops keys that linear interpolation between the kept ones restores to within a tolerance: each
 * kept key reaches as far as one slope a component passes all keys between (the swing filter of
 * Elmeleegy et al. 2009, its ends held to true keys). O(n).
 *
 * @param values `stride` numbers a key; quaternions are compared by component
 * @returns the numbers of the kept keys, their times and values
 */
export function thinKeys(
  times: Float32Array,
  values: Float32Array,
  stride: number,
  tolerance: number,
): { keys: Uint32Array; times: Float32Array; values: Float32Array } {
  const kept = new Uint32Array(times.length)
  let count = 1
  const steepest = new Float64Array(stride)
  const flattest = new Float64Array(stride)
  const open = () => {
    steepest.fill(Infinity)
    flattest.fill(-Infinity)
  }
  /** Whether a line from key `a` to key `b` passes all between; if so, it must pass `b` from now on. */
  const reaches = (a: number, b: number) => {
    const span = times[b]! - times[a]!
    for (let c = 0; c < stride; c++) {
      const slope = (values[b * stride + c]! - values[a * stride + c]!) / span
      if (slope > steepest[c]! || slope < flattest[c]!) return false
    }
    for (let c = 0; c < stride; c++) {
      const rise = values[b * stride + c]! - values[a * stride + c]!
      steepest[c] = Math.min(steepest[c]!, (rise + tolerance) / span)
      flattest[c] = Math.max(flattest[c]!, (rise - tolerance) / span)
    }
    return true
  }
  open()
  for (let b = 1; b < times.length; b++) {
    if (reaches(kept[count - 1]!, b)) continue
    kept[count++] = b - 1
    open()
    reaches(b - 1, b)
  }
  if (times.length > 1) kept[count++] = times.length - 1
  const out = { keys: kept.slice(0, count), times: new Float32Array(count), values: new Float32Array(count * stride) }
  for (let i = 0; i < count; i++) {
    out.times[i] = times[kept[i]!]!
    for (let c = 0; c < stride; c++) out.values[i * stride + c] = values[kept[i]! * stride + c]!
  }
  return out
}
