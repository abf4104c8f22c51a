import type { BodyDef } from '../kit/schema.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import type { Piece } from './mergeOutfit.ts'
import type { CareOptions } from './stretchByCare.ts'

/** How finely reduction keeps what hangs on each bone and each piece, from the regions and slots of the kits. */
export function careOf(
  { regions }: Pick<BodyDef, 'regions'>,
  { bones }: Skeleton,
  pieces: readonly Piece[],
  ofSlot: (slot: string) => number,
): CareOptions {
  const regionOf = bones.map((bone) => regions.find((r) => r.bones.includes(bone.name)))
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
