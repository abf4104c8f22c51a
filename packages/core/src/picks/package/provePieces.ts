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

/** By measure of a package the most that a target allows. */
export function limitsOf({ limits }: Target): Record<string, number> {
  const { triangles, vertices, bones, textureBytes, fileBytes } = limits
  return { triangles, vertices, bones, texture: textureBytes, download: fileBytes }
}

/**
 * Proves what any look of a package costs, as its pieces are: on the finest level all there is, on the others triangles.
 *
 * @param loads bytes of what is always loaded, of the file each option is in, and of the atlas as a card has it
 * @returns why there is no look at all, where there is none
 */
export function provePieces(
  prover: Prover,
  { choices, pick, target }: { choices: BodyChoices; pick: PickBody; target: Target },
  standing: Standing,
  pieces: readonly PackedPiece[],
  loads: { always: number; of: ReadonlyMap<string, number>; texture: number },
): { proof: Proof; triangles: PackageBody['triangles'] } | Contradiction {
  const files: CostPiece[] = [
    { of: null, hiddenBy: [], cost: { download: loads.always, texture: loads.texture } },
    // of a slot one option is on, and its file is loaded whole
    ...[...loads.of].map(([of, download]) => ({ of, hiddenBy: [], cost: { download } })),
  ]
  const finest = { ...choices, pieces: [...costsOf(standing, pieces, 0), ...files] }
  const proof = provePicks(prover, finest, limitsOf(target), pick.covered)
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
