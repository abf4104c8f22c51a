import type { Mesh } from '../mesh/Mesh.ts'

/** Skin weights as a table, a share for every bone at every point, while they are worked out. */
export interface DenseSkin {
  /** `stride` a point: the body's bones. */
  shares: Float32Array
  stride: number
  add(point: number, bone: number, share: number): void
  /**
   * The four strongest bones of each point, falling, summing to one. Points that the part's own
   * model hangs on bones it brings keep that share; the rest is what was carried over.
   */
  strongest(own: Pick<Mesh, 'joints' | 'weights'>): { joints: Uint16Array; weights: Float32Array }
}

/** Smaller shares are left out. */
const LEAST = 0.004

export function denseSkin(points: number, bodyBones: number, ownBones: number): DenseSkin {
  const shares = new Float32Array(points * bodyBones)
  return {
    shares,
    stride: bodyBones,
    add(point, bone, share) {
      shares[point * bodyBones + bone]! += share
    },
    strongest(own) {
      const all = bodyBones + ownBones
      const row = new Float32Array(all)
      const joints = new Uint16Array(points * 4)
      const weights = new Float32Array(points * 4)
      for (let p = 0; p < points; p++) {
        row.fill(0)
        let kept = 0
        if (ownBones)
          for (let k = 0; k < 4; k++) {
            const w = own.weights[p * 4 + k]!
            row[bodyBones + own.joints[p * 4 + k]!]! += w
            kept += w
          }
        for (let b = 0; b < bodyBones; b++) row[b] = shares[p * bodyBones + b]! * (1 - kept)
        takeFour(row, p, joints, weights)
      }
      return { joints, weights }
    },
  }
}

function takeFour(row: Float32Array, p: number, joints: Uint16Array, weights: Float32Array): void {
  let sum = 0
  for (let slot = 0; slot < 4; slot++) {
    let best = -1
    for (let b = 0; b < row.length; b++) if (row[b]! > LEAST && (best < 0 || row[b]! > row[best]!)) best = b
    if (best < 0) break
    joints[p * 4 + slot] = best
    weights[p * 4 + slot] = row[best]!
    sum += row[best]!
    row[best] = 0
  }
  for (let slot = 0; slot < 4; slot++) if (sum > 0) weights[p * 4 + slot]! /= sum
}

/** The columns of a table in which anything but zero stands, in order. */
export function usedColumns(values: Float32Array, stride: number): number[] {
  const used = new Uint8Array(stride)
  for (let row = 0; row < values.length; row += stride)
    for (let k = 0; k < stride; k++) if (values[row + k] !== 0) used[k] = 1
  return [...used.keys()].filter((k) => used[k])
}

/** Carries the skin of some points of a body over to a point, by shares. */
export function carrySkin(
  dense: DenseSkin,
  point: number,
  skin: Pick<Mesh, 'joints' | 'weights'>,
  sources: readonly number[],
  shares: readonly number[],
): void {
  sources.forEach((s, i) => {
    const share = Math.max(0, shares[i]!)
    for (let j = 0; j < 4; j++) {
      const w = skin.weights[s * 4 + j]! * share
      if (w > 0) dense.add(point, skin.joints[s * 4 + j]!, w)
    }
  })
}
