import type { BodyDef } from '../kit/schema.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import type { Piece } from './mergeOutfit.ts'
import type { CareOptions } from './stretchByCare.ts'

/** How finely reduction keeps what hangs on each bone and each piece, from the regions and slots of the kits. */
export function careOf(
  { regions }: Pick<BodyDef, 'regions'>,
  { bones, limbs }: Skeleton,
  pieces: readonly Piece[],
  ofSlot: (slot: string) => number,
): CareOptions {
  // a bone that no plan names counts as the one whose skin it has
  const planned = new Map(limbs.flatMap((l) => l.plays?.map(({ bone }, i) => [l.bones[i]!, bone] as const) ?? []))
  const regionOf = bones.map(({ name, twist, parent }) => {
    const named = twist ? bones[parent]!.name : (planned.get(name) ?? name)
    return regions.find((r) => r.bones.includes(named))
  })
  const root = (bone: number): number => {
    const parent = bones[bone]!.parent
    return parent >= 0 && regionOf[parent] === regionOf[bone] ? root(parent) : bone
  }
  return {
    ofBones: Float32Array.from(regionOf, (region) => region?.care ?? 1),
    centers: Float32Array.from(bones.flatMap((_, i) => bones[root(i)]!.at)),
    ofPieces: Float32Array.from(pieces, ({ slot }) => ofSlot(slot)),
  }
}
