import type { PreparedBody } from '../body/PreparedBody.ts'
import { connectedPieces } from '../mesh/adjacency.ts'
import type { DenseSkin } from './carrySkin.ts'

/** How far under the hip joint trouser legs are apart, of a grown person, metres. */
const CROTCH = 0.14
/** A piece belongs to one leg when that has so much more of it than the other. */
const ONE_SIDED = 1.5

/**
 * Where a garment has two legs, each follows its own: weights of the other leg move to the bones
 * that mirror them. Cloth that is near both legs would else stretch a web between them in a wide
 * stance. A garment that goes round both legs in one (a skirt) keeps both.
 */
export function keepLegsApart(
  body: PreparedBody,
  positions: Float32Array,
  triangles: Uint32Array,
  dense: DenseSkin,
): void {
  const { limbs, bones, plan } = body.model
  const index = new Map(bones.map((b, i) => [b.name, i]))
  for (const left of limbs) {
    if (left.kind !== 'leg' || left.side !== 'left') continue
    const mirrored = left.bones.map((name) => plan.pairs.find((pair) => pair.left === name)?.right)
    const right = limbs.find((limb) => limb.kind === 'leg' && limb.bones[0] === mirrored[0])
    if (!right) continue
    const own = left.bones.map((name) => index.get(name)!)
    const other = left.bones.map((_, k) => index.get(mirrored[k] ?? '') ?? -1)
    if (other.includes(-1)) continue
    const hip = body.landmarks[body.jointLandmarks[own[0]!]! * 3 + 1]!
    const below = (p: number) => positions[p * 3 + 1]! < hip - CROTCH * body.scale
    separate(below, triangles, positions.length / 3, own, other, dense)
  }
}

function separate(
  below: (p: number) => boolean,
  triangles: Uint32Array,
  points: number,
  left: readonly number[],
  right: readonly number[],
  { shares, stride }: DenseSkin,
): void {
  const low: number[] = []
  for (let t = 0; t < triangles.length; t += 3)
    if (below(triangles[t]!) && below(triangles[t + 1]!) && below(triangles[t + 2]!))
      low.push(triangles[t]!, triangles[t + 1]!, triangles[t + 2]!)
  const { pieceOf, count } = connectedPieces(Uint32Array.from(low), points)
  const used = new Set(low)
  const sums = new Float64Array(count * 2)
  for (const p of used)
    [left, right].forEach((bones, side) => {
      for (const b of bones) sums[pieceOf[p]! * 2 + side]! += shares[p * stride + b]!
    })
  for (const p of used) {
    const l = sums[pieceOf[p]! * 2]!
    const r = sums[pieceOf[p]! * 2 + 1]!
    const [from, to] = l > r * ONE_SIDED ? [right, left] : r > l * ONE_SIDED ? [left, right] : [[], []]
    from.forEach((bone, k) => {
      shares[p * stride + to[k]!]! += shares[p * stride + bone]!
      shares[p * stride + bone] = 0
    })
  }
}
