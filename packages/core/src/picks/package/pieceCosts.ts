import type { CostPiece } from '../ChoiceModel.ts'
import { bareCost, skinPatches } from '../patches.ts'
import type { PackedLevel, PackedPiece } from './pieces.ts'
import type { Standing } from './standing.ts'

/**
 * What the pieces of a package cost on a level, as a proof counts it: triangles, bones, skin that is bare, and vertices, of
 * which a few more are counted than are ever drawn.
 */
export function costsOf(standing: Standing, pieces: readonly PackedPiece[], level: number): CostPiece[] {
  const { body, options, outfit } = standing
  const nameOf = (option: number) => options[option]!.name
  const bones = new Map<number | null, number>()
  for (const of of standing.boneOf) bones.set(of, (bones.get(of) ?? 0) + 1)
  const parts = options.map(({ name, layer }) => ({ name, bound: outfit.layers[layer]!.bound }))
  return [
    ...[...bones].map(([of, count]): CostPiece => ({
      of: of === null ? null : nameOf(of),
      hiddenBy: [],
      cost: { bones: count },
    })),
    ...pieces.flatMap(({ option, levels }) =>
      levels[level]!.patches.map(({ triangles, hiddenBy }): CostPiece => ({
        of: option === null ? null : nameOf(option),
        hiddenBy: hiddenBy.map(nameOf),
        cost: { triangles },
      })),
    ),
    ...pieces.flatMap(({ option, levels }) =>
      cornersOf(levels[level]!).map(({ vertices, hiddenBy }): CostPiece => ({
        of: option === null ? null : nameOf(option),
        hiddenBy: hiddenBy.map(nameOf),
        cost: { vertices },
      })),
    ),
    ...(level === 0 ? skinPatches(body, parts, (t) => bareCost(body, t)) : []),
  ]
}

/**
 * Corners by who hides them for certain: what hides every patch that a corner is of. Where each of its patches is hidden by
 * another the corner goes too, and is counted all the same.
 */
function cornersOf({ corners, indices, patches }: PackedLevel): { vertices: number; hiddenBy: number[] }[] {
  const by: (number[] | null)[] = Array.from(corners, () => null)
  let at = 0
  for (const { triangles, hiddenBy } of patches)
    for (const end = at + triangles * 3; at < end; at++) {
      const corner = indices[at]!
      const before = by[corner]
      by[corner] = before ? before.filter((o) => hiddenBy.includes(o)) : hiddenBy
    }
  const counts = new Map<string, { vertices: number; hiddenBy: number[] }>()
  for (const hiddenBy of by) {
    if (!hiddenBy) continue
    const key = hiddenBy.join()
    if (!counts.has(key)) counts.set(key, { vertices: 0, hiddenBy })
    counts.get(key)!.vertices++
  }
  return [...counts.values()]
}
