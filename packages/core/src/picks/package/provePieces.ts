import type { Target } from '../../recipe/target.ts'
import type { CostPiece } from '../ChoiceModel.ts'
import type { BodyChoices } from '../choicesOf.ts'
import type { PickBody } from '../picks.ts'
import { provePicks, type Proof } from '../provePicks.ts'
import type { Contradiction, Prover } from '../Prover.ts'
import type { PackageBody } from './manifest.ts'
import { costsOf } from './pieceCosts.ts'
import type { PackedPiece } from './pieces.ts'
import type { Standing } from './standing.ts'

/**
 * Proves what any look of a package costs, as its pieces are: on the finest level all there is, on the others triangles.
 *
 * @param downloads bytes of what is always loaded, and of the file each option is in
 * @returns why there is no look at all, where there is none
 */
export function provePieces(
  prover: Prover,
  { choices, pick, target }: { choices: BodyChoices; pick: PickBody; target: Target },
  standing: Standing,
  pieces: readonly PackedPiece[],
  downloads: { always: number; of: ReadonlyMap<string, number> },
): { proof: Proof; triangles: PackageBody['triangles'] } | Contradiction {
  const files: CostPiece[] = [
    { of: null, hiddenBy: [], cost: { download: downloads.always } },
    // of a slot one option is on, and its file is loaded whole
    ...[...downloads.of].map(([of, download]) => ({ of, hiddenBy: [], cost: { download } })),
  ]
  const { triangles, vertices, bones, fileBytes } = target.limits
  const finest = { ...choices, pieces: [...costsOf(standing, pieces, 0), ...files] }
  const limits = { triangles, vertices, bones, download: fileBytes }
  const proof = provePicks(prover, finest, limits, pick.covered)
  if (!('costs' in proof)) return proof
  const coarser = pieces[0]!.levels.slice(1).map((_, level) => {
    const model = { ...choices, pieces: costsOf(standing, pieces, level + 1) }
    return {
      least: prover.extreme(model, 'triangles', 'least')!.cost,
      most: prover.extreme(model, 'triangles', 'most')!.cost,
    }
  })
  const { least, most } = proof.costs.triangles!
  return { proof, triangles: [{ least, most: most.cost }, ...coarser] }
}
