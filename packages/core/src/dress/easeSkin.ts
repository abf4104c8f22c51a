import type { Packed } from '../mesh/adjacency.ts'
import { usedColumns, type DenseSkin } from './carrySkin.ts'

/**
 * How much skin may change along an edge, as the sum of the changes of all shares (2: all of it goes
 * to other bones) a metre, on a grown person. In a strong pose two neighbouring limbs part by about a
 * quarter of a metre where cloth joins them: at 30 no edge is drawn out to five times its length.
 */
const STEEPEST = 30
const PASSES = 40

/**
 * Evens out skin where it changes too fast from point to point (where the nearest skin changes from
 * one leg to the other, or from arm to trunk): along each steep edge both ends draw near to each
 * other until the change is small enough for the edge's length. Other points stay as they are.
 */
export function easeSkin(
  { shares, stride }: DenseSkin,
  positions: Float32Array,
  { starts, items }: Packed,
  scale: number,
): void {
  const count = positions.length / 3
  // of a table of bones most columns are empty
  const used = usedColumns(shares, stride)
  // an edge that was not steep, and whose ends have not changed since, is not looked at again
  const changed = new Uint8Array(count).fill(1)
  const changing = new Uint8Array(count)
  for (let pass = 0; pass < PASSES; pass++) {
    let steep = false
    for (let a = 0; a < count; a++)
      for (let i = starts[a]!; i < starts[a + 1]!; i++) {
        const b = items[i]!
        if (b < a) continue
        if (!(changed[a]! | changed[b]! | changing[a]! | changing[b]!)) continue
        let change = 0
        for (const k of used) change += Math.abs(shares[a * stride + k]! - shares[b * stride + k]!)
        if (change < 0.05) continue
        const length = Math.hypot(
          positions[a * 3]! - positions[b * 3]!,
          positions[a * 3 + 1]! - positions[b * 3 + 1]!,
          positions[a * 3 + 2]! - positions[b * 3 + 2]!,
        )
        const allowed = (STEEPEST * length) / scale
        if (change <= allowed * 1.02) continue
        steep = true
        changing[a] = 1
        changing[b] = 1
        const by = (1 - allowed / change) / 2
        for (const k of used) {
          const d = (shares[b * stride + k]! - shares[a * stride + k]!) * by
          shares[a * stride + k]! += d
          shares[b * stride + k]! -= d
        }
      }
    if (!steep) return
    changed.set(changing)
    changing.fill(0)
  }
}
