import { prepareBody, jointsAt, type PreparedBody } from '../../body/PreparedBody.ts'
import { activeDeltas, applyDeltas, shapeLandmarks, type ActiveDelta } from '../../body/shapeBody.ts'
import { mergeOutfit, mergedMorphs, type KeptMorph, type Merged, type Piece } from '../../budget/mergeOutfit.ts'
import { movesOfMorphs, type Movement } from '../../budget/movements.ts'
import { dressOutfit, partJoints, standApart, type Outfit } from '../../dress/outfit.ts'
import { createNormalScratch } from '../../mesh/normals.ts'
import type { Morph } from '../../mesh/Mesh.ts'
import type { Shelf } from '../../base/Shelf.ts'
import type { BodyModel } from '../../kit/Kit.ts'
import { expressionName } from '../../kit/movements.ts'
import { groundPoints } from '../../body/standOnGround.ts'
import { withExpression } from '../../recipe/expressions.ts'
import type { Kits, ResolvedPart } from '../../recipe/resolve.ts'
import type { Target } from '../../recipe/target.ts'
import { foldSkin, type Skeleton } from '../../rig/Skeleton.ts'
import { rigOutfit, skeletonOf } from '../../rigFigure.ts'
import type { BodyChoices } from '../choicesOf.ts'
import { instanceNames } from '../limbsOffered.ts'
import type { PickBody } from '../picks.ts'

/** A body with every part a player may put on it, each standing by itself: what pieces are cut from. */
export interface Standing {
  body: PreparedBody
  outfit: Outfit
  merged: Merged
  /** By option, in their order: the part as it is worn, and its run in the merged mesh. */
  options: { name: string; part: ResolvedPart; piece: Piece; layer: number }[]
  /** What always acts on the body, whatever the player does. */
  active: ActiveDelta[]
  skeleton: Skeleton
  /** By option, or null for the body, whose each bone is. */
  boneOf: (number | null)[]
  joints: Uint16Array
  weights: Float32Array
  morphs: StandingMorph[]
  /** Points that stand on the ground. */
  ground: Uint32Array
}

/** A movement of everything that a player has a hand on. */
export interface StandingMorph {
  morph: Morph
  kind: 'slider' | 'corrective' | 'expression'
  when: { slider: number; end: 'up' | 'down' }[]
  expression?: number
  moves: Movement
}

/** Places everything a player may choose on the body, as it is while every slider a player has is at 0. */
export function standAll(
  pick: PickBody,
  choices: BodyChoices,
  kits: Kits,
  target: Target,
  shelf: Shelf | null,
): Standing | null {
  const model = kits.get(pick.body.kit)?.bodies.get(pick.body.id)
  if (!model) return null
  const body = prepareBody(model, shelf)
  const parts = wornParts(choices, kits)
  const outfit = standApart(
    body,
    parts.map((p) => p.part),
  )
  const merged = mergeOutfit(outfit)
  const active = activeDeltas(body, restingSliders(pick, model))
  applyDeltas(model.mesh.positions, active, merged.bodyPositions)
  dressOutfit(outfit, merged.bodyPositions, active)
  const landmarks = new Float32Array(body.landmarks.length)
  shapeLandmarks(body, active, landmarks)
  const joints = Float32Array.from([...jointsAt(body, landmarks), ...partJoints(outfit, active)])
  const dressed = {
    ...{ body, outfit, merged, spare: [], last: null, scratch: createNormalScratch(merged.mesh) },
    ground: groundPoints(merged.mesh, model),
  }
  const { detail, influences, chains = {} } = target
  const refined = rigOutfit(dressed, {}, { twists: detail === 'full', chains })
  const { skeleton, fold } = skeletonOf(refined, { joints, positions: merged.mesh.positions }, detail)
  const { skin } = refined
  const folded = foldSkin(skin.joints, skin.weights, fold, influences, skin.stride)
  const kept = keptMorphs(pick, body)
  const own = mergedMorphs(
    outfit,
    merged,
    kept.map((k) => k.kept),
  )
  const base = { ...merged.mesh, morphs: own }
  const moves = movesOfMorphs(
    ...([outfit, skeleton, refined, base] as const),
    // how high it stands is found when it is worn
    new Uint32Array(0),
    active,
    kept.map((k) => k.kept),
  )
  const byInstance = new Map(parts.map(({ part }, i) => [part.instance, i]))
  return {
    ...{ body, outfit, merged, active, skeleton, ground: dressed.ground },
    options: parts.map(({ name, part }) => {
      const layer = outfit.layers.findIndex((l) => l.instance === part.instance)
      return { name, part, layer, piece: merged.pieces[layer + 1]! }
    }),
    boneOf: bonesByOption(outfit, skeleton, byInstance),
    ...folded,
    morphs: kept.map(({ kept: _, ...rest }, i) => ({ ...rest, morph: own[i]!, moves: moves[i]! })),
  }
}

/** The choices as parts that are worn all at once, each under an instance of its own. */
function wornParts({ parts }: BodyChoices, kits: Kits): { name: string; part: ResolvedPart }[] {
  const names = instanceNames(parts)
  return [...parts].map(([name, { kit, def }]) => {
    const part = kits.get(kit)!.parts.get(def.id)!
    return { name, part: { instance: names.get(name)!, slot: def.slot, part } }
  })
}

/** What the body's sliders are while all of the player's are at 0. */
function restingSliders(pick: PickBody, { def }: BodyModel): Record<string, number> {
  return Object.fromEntries(def.sliders.map(({ id, default: rest }) => [id, slidOf(pick, id) ? 0 : rest]))
}

const slidOf = (pick: PickBody, id: string) => pick.sliders.some((s) => s.slider === id)

interface Kept {
  kept: KeptMorph
  kind: StandingMorph['kind']
  when: StandingMorph['when']
  expression?: number
}

/** Ends of the player's sliders, what is to be mended where several act together, and the player's expressions. */
function keptMorphs(pick: PickBody, body: PreparedBody): Kept[] {
  const { def, mesh } = body.model
  const deltaOf = (name: string) => mesh.morphs[body.morphIndex.get(name) ?? -1]
  const out: Kept[] = []
  const taken = new Set<string>()
  const add = (as: string, kind: Kept['kind'], acts: KeptMorph['acts'], more: Pick<Kept, 'when' | 'expression'>) => {
    // pieces are told by it which movement a target is
    let name = as
    for (let n = 2; taken.has(name); n++) name = `${as} ${n}`
    taken.add(name)
    out.push({ kept: { name, kind: kind === 'expression' ? 'expression' : 'slider', acts }, kind, ...more })
  }
  const places = new Map<string, number>()
  pick.sliders
    .filter((s) => def.sliders.some((d) => d.id === s.slider))
    .forEach(({ slider }, place) => places.set(slider, place))
  for (const [id, place] of places) {
    const { up, down } = def.sliders.find((d) => d.id === id)!
    for (const [end, name, weight] of [
      ['up', up, 1],
      ['down', down ?? up, down === undefined ? -1 : 1],
    ] as const) {
      const delta = deltaOf(name)
      if (delta) add(`${id} ${end}`, 'slider', [{ delta, weight }], { when: [{ slider: place, end }] })
    }
  }
  for (const { morph, when } of def.correctives ?? []) {
    const delta = deltaOf(morph)
    const own = when.flatMap(({ slider, end }) =>
      places.has(slider)
        ? [{ slider: places.get(slider)!, end: end === 'up' ? ('up' as const) : ('down' as const) }]
        : [],
    )
    if (!delta || own.length === 0) continue
    // what the player has no hand on stays as it is
    const rest = when
      .filter(({ slider }) => !places.has(slider))
      .reduce((product, { slider, end }) => {
        const value = def.sliders.find((s) => s.id === slider)?.default ?? 0
        return product * Math.max(0, end === 'up' ? value : -value)
      }, 1)
    if (rest > 0) add(morph, 'corrective', [{ delta, weight: rest }], { when: own })
  }
  pick.expressions.forEach((id, i) => {
    const expression = def.expressions?.find((e) => e.id === id)
    if (!expression) return
    // from the face that everybody has
    const sums = new Map<Morph, number>()
    for (const { delta, weight } of activeDeltas(body, withExpression({}, def, expression)))
      sums.set(delta, (sums.get(delta) ?? 0) + weight)
    for (const { delta, weight } of activeDeltas(body, {})) sums.set(delta, (sums.get(delta) ?? 0) - weight)
    const acts = [...sums].filter(([, w]) => Math.abs(w) > 1e-6).map(([delta, weight]) => ({ delta, weight }))
    if (acts.length) add(expressionName(expression), 'expression', acts, { when: [], expression: i })
  })
  return out
}

function bonesByOption(outfit: Outfit, skeleton: Skeleton, byInstance: ReadonlyMap<string, number>): (number | null)[] {
  const of = new Map<string, number>()
  let at = 0
  for (const { instance, bound } of outfit.layers)
    for (let b = 0; b < bound.bones.length; b++) of.set(outfit.bones[at++]!.name, byInstance.get(instance)!)
  const own = skeleton.bones.map(({ name }) => of.get(name) ?? null)
  // bones that were made anew along a part's chain, or twist with one of it, go with it
  skeleton.bones.forEach(({ parent, twist }, i) => {
    if (own[i] !== null || outfit.body.model.bones.some((b) => b.name === skeleton.bones[i]!.name)) return
    const from = twist ? twist.of : parent
    if (from >= 0) own[i] = own[from]!
  })
  return own
}
