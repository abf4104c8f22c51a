/**
 * Finds rows that are equal to the bit: the first row of each kind keeps its place.
 *
 * @param rows   numbers, `stride` a row
 * @returns `kindOf` row -> kind and `first` kind -> the row that stands for it
 */
export function weldRows(rows: Float32Array, stride: number): { kindOf: Uint32Array; first: Uint32Array } {
  const bits = new Uint32Array(rows.buffer, rows.byteOffset, rows.length)
  const count = rows.length / stride
  const kindOf = new Uint32Array(count)
  const first: number[] = []
  const buckets = new Map<number, number[]>()
  for (let row = 0; row < count; row++) {
    let hash = 2166136261
    for (let k = 0; k < stride; k++) {
      // -0 and 0 are one place
      const word = bits[row * stride + k]! === 0x80000000 ? 0 : bits[row * stride + k]!
      hash = Math.imul(hash ^ word, 16777619)
      hash ^= hash >>> 15
    }
    const bucket = buckets.get(hash)
    const same = bucket?.find((kind) => equalRows(rows, stride, first[kind]!, row))
    if (same !== undefined) {
      kindOf[row] = same
      continue
    }
    kindOf[row] = first.length
    if (bucket) bucket.push(first.length)
    else buckets.set(hash, [first.length])
    first.push(row)
  }
  return { kindOf, first: Uint32Array.from(first) }
}

function equalRows(rows: Float32Array, stride: number, a: number, b: number): boolean {
  for (let k = 0; k < stride; k++) if (rows[a * stride + k] !== rows[b * stride + k]) return false
  return true
}
