import { bindPart, type BoundPart } from '../dress/bindPart.ts'
import { hiddenOfBody, hiddenOfPart } from '../dress/cover.ts'
import type { PreparedBody } from '../body/PreparedBody.ts'
import type { Kit } from '../kit/Kit.ts'
import { foldBones, type DetailLevel, type PlannedBone } from '../kit/plan.ts'
import type { CostPiece } from './ChoiceModel.ts'
import type { BodyChoices } from './choicesOf.ts'

/** The measure of what is seen of a region's skin, square millimetres. */
export const bareOf = (region: string): string => `bare ${region}`

/** Square metres in those of the measure. */
const MM2 = 1e6

/**
 * What body and parts are cut into so that they can ship apart: faces that the same parts hide are one patch. A face counts
 * as hidden by a part that hides it alone, in every pose that is checked; what only two parts together hide stays, so that
 * no choice shows a hole.
 *
 * @param detail of the skeleton whose bones are counted
 */
export function patchesOf(
  body: PreparedBody,
  { parts }: BodyChoices,
  kits: ReadonlyMap<string, Kit>,
  detail: DetailLevel,
): CostPiece[] {
  const options = [...parts].flatMap(([name, { kit, def }]): { name: string; bound: BoundPart }[] => {
    const part = kits.get(kit)?.parts.get(def.id)
    return part ? [{ name, bound: bindPart(body, part) }] : []
  })
  const skin = skinPatches(body, options, (t) => ({ triangles: 1, ...bareCost(body, t) }))
  const worn = options.flatMap(({ name: of, bound: inner }) => {
    const over = options.flatMap(({ name, bound }) => {
      // of one slot one alone is worn
      const hidden = bound.part.def.slot === inner.part.def.slot ? null : hiddenOfPart(body, inner, bound)
      return hidden ? [{ name, hidden }] : []
    })
    return patched(of, inner.triangles.length / 3, over, () => ({ triangles: 1 }))
  })
  const bonesWith = (more: readonly PlannedBone[]) => new Set(foldBones([...body.model.bones, ...more], detail)).size
  const bare = bonesWith([])
  const own = options.flatMap(({ name, bound }): CostPiece[] => {
    const bones = bonesWith(bound.bones) - bare
    return bones > 0 ? [{ of: name, hiddenBy: [], cost: { bones } }] : []
  })
  return [{ of: null, hiddenBy: [], cost: { bones: bare } }, ...skin, ...worn, ...own]
}

/** The body's own faces as patches, by which parts hide them. */
export function skinPatches(
  body: PreparedBody,
  parts: readonly { name: string; bound: BoundPart }[],
  costOf: (triangle: number) => Record<string, number>,
): CostPiece[] {
  const hiders = parts.map(({ name, bound }) => ({ name, hidden: hiddenOfBody(body, bound) }))
  return patched(null, body.triangles.length / 3, hiders, costOf)
}

/** Faces as patches, by who hides them. */
function patched(
  of: string | null,
  count: number,
  hiders: readonly { name: string; hidden: Uint8Array }[],
  costOf: (triangle: number) => Record<string, number>,
): CostPiece[] {
  const patches = new Map<string, CostPiece & { cost: Record<string, number> }>()
  for (let t = 0; t < count; t++) {
    const by = hiders.filter((h) => h.hidden[t]).map((h) => h.name)
    const key = by.join('|')
    if (!patches.has(key)) patches.set(key, { of, hiddenBy: by, cost: {} })
    const { cost } = patches.get(key)!
    for (const [measure, much] of Object.entries(costOf(t))) cost[measure] = (cost[measure] ?? 0) + much
  }
  for (const { cost } of patches.values())
    for (const measure of Object.keys(cost)) cost[measure] = Math.round(cost[measure]!)
  return [...patches.values()]
}

/** How much of its region's skin a face of the body is. */
export function bareCost(body: PreparedBody, t: number): Record<string, number> {
  const { positions } = body.model.mesh
  const [a, b, c] = [0, 1, 2].map((k) => body.triangles[t * 3 + k]!) as [number, number, number]
  const [u, v] = [b, c].map((p) => [0, 1, 2].map((k) => positions[p * 3 + k]! - positions[a * 3 + k]!)) as [
    number[],
    number[],
  ]
  const across = [0, 1, 2].map((k) => u[(k + 1) % 3]! * v[(k + 2) % 3]! - u[(k + 2) % 3]! * v[(k + 1) % 3]!)
  const region = body.model.def.regions[body.regionOf[t]!]?.id
  return region === undefined ? {} : { [bareOf(region)]: (Math.hypot(...across) / 2) * MM2 }
}
