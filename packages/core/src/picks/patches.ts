import { bindPart } from '../dress/bindPart.ts'
import { findCovered } from '../dress/cover.ts'
import type { Layer } from '../dress/Layer.ts'
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
  const options = [...parts].flatMap(
    ([name, { kit, def }]): { name: string; layer: Pick<Layer, 'bound' | 'ridesOn'> }[] => {
      const part = kits.get(kit)?.parts.get(def.id)
      return part ? [{ name, layer: { bound: bindPart(body, part), ridesOn: null } }] : []
    },
  )
  const alone = options.map(({ layer }) => findCovered(body, [layer]).hiddenBody)
  const names = options.map((o) => o.name)
  const skin = patched(null, body.triangles.length / 3, names, alone, (t) => skinCost(body, t))
  const worn = options.flatMap(({ name, layer: inner }) => {
    const over = options.filter((o) => o.name !== name && liesOver(o.layer, inner))
    const hidden = over.map(({ layer }) => findCovered(body, [inner, layer]).hiddenLayers[0]!)
    return patched(
      name,
      inner.bound.triangles.length / 3,
      over.map((o) => o.name),
      hidden,
      () => ({ triangles: 1 }),
    )
  })
  const bonesWith = (more: readonly PlannedBone[]) => new Set(foldBones([...body.model.bones, ...more], detail)).size
  const bare = bonesWith([])
  const own = options.flatMap(({ name, layer }): CostPiece[] => {
    const bones = bonesWith(layer.bound.bones) - bare
    return bones > 0 ? [{ of: name, hiddenBy: [], cost: { bones } }] : []
  })
  return [{ of: null, hiddenBy: [], cost: { bones: bare } }, ...skin, ...worn, ...own]
}

/** Faces as patches, by who hides them. */
function patched(
  of: string | null,
  count: number,
  names: readonly string[],
  hidden: readonly Uint8Array[],
  costOf: (triangle: number) => Record<string, number>,
): CostPiece[] {
  const patches = new Map<string, CostPiece & { cost: Record<string, number> }>()
  for (let t = 0; t < count; t++) {
    const by = names.filter((_, i) => hidden[i]![t])
    const key = by.join('|')
    if (!patches.has(key)) patches.set(key, { of, hiddenBy: by, cost: {} })
    const { cost } = patches.get(key)!
    for (const [measure, much] of Object.entries(costOf(t))) cost[measure] = (cost[measure] ?? 0) + much
  }
  for (const { cost } of patches.values())
    for (const measure of Object.keys(cost)) cost[measure] = Math.round(cost[measure]!)
  return [...patches.values()]
}

function skinCost(body: PreparedBody, t: number): Record<string, number> {
  const { positions } = body.model.mesh
  const [a, b, c] = [0, 1, 2].map((k) => body.triangles[t * 3 + k]!) as [number, number, number]
  const [u, v] = [b, c].map((p) => [0, 1, 2].map((k) => positions[p * 3 + k]! - positions[a * 3 + k]!)) as [
    number[],
    number[],
  ]
  const across = [0, 1, 2].map((k) => u[(k + 1) % 3]! * v[(k + 2) % 3]! - u[(k + 2) % 3]! * v[(k + 1) % 3]!)
  const region = body.model.def.regions[body.regionOf[t]!]?.id
  return { triangles: 1, ...(region !== undefined && { [bareOf(region)]: (Math.hypot(...across) / 2) * MM2 }) }
}

/** Whether one worn thing lies over another. */
function liesOver(outer: Pick<Layer, 'bound'>, inner: Pick<Layer, 'bound'>): boolean {
  const [a, b] = [outer, inner].map(({ bound }) => bound.part.def) as [
    Layer['bound']['part']['def'],
    Layer['bound']['part']['def'],
  ]
  return a.how === 'worn' && b.how === 'worn' && a.layer > b.layer && a.slot !== b.slot
}
