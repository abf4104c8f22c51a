import { Memory } from './base/Memory.ts'
import { problem, type Problem } from './base/problem.ts'
import type { Shelf } from './base/Shelf.ts'
import { prepareBody, type PreparedBody } from './body/PreparedBody.ts'
import { activeDeltas, type ActiveDelta } from './body/shapeBody.ts'
import { groundPoints } from './body/standOnGround.ts'
import { careOf } from './budget/careOf.ts'
import {
  contentsOf,
  costsByPiece,
  estimateFileBytes,
  keysOf,
  mostInfluences,
  overBudget,
  type Costs,
  type PieceCost,
} from './budget/costs.ts'
import { LevelMaker, reducedPieces, withoutTriangles, type Level } from './budget/levels.ts'
import { mergedMorphs, mergeOutfit, type KeptMorph, type Piece } from './budget/mergeOutfit.ts'
import { movesOfMorphs, type Movement } from './budget/movements.ts'
import { outerShell } from './budget/outerShell.ts'
import { atlasUvs, layoutAtlas, paintAtlas, type Atlas, type AtlasLayout } from './color/atlas.ts'
import { decodeImage, type Pixels } from './color/decodeImage.ts'
import type { Nudgeable } from './dress/nudge.ts'
import type { StandingSurface } from './dress/spots.ts'
import { socketPlaces } from './dress/bindPart.ts'
import { assembleOutfit, nudgeable } from './dress/outfit.ts'
import type { Paint } from './kit/readModel.ts'
import { cornerCount, triangleCount, type Mesh, type Morph } from './mesh/Mesh.ts'
import { topologyOf } from './mesh/topology.ts'
import { createNormalScratch } from './mesh/normals.ts'
import { expressionName, movementsOf } from './kit/movements.ts'
import { clipsFor, wantedBy } from './recipe/clips.ts'
import { withExpression } from './recipe/expressions.ts'
import { setNudge } from './recipe/nudges.ts'
import { resolveRecipe, resolveWorn, type Kits, type Resolved } from './recipe/resolve.ts'
import type { Nudge, Recipe } from './recipe/schema.ts'
import type { Target } from './recipe/target.ts'
import { makeShape, namedLandmarks, type Dressed, type Shape } from './shapeFigure.ts'
import { placePoints, type HelperPoint } from './rig/helperPoints.ts'
import type { RefinedRig } from './rig/refineRig.ts'
import { foldSkin, type Skeleton } from './rig/Skeleton.ts'
import { rigOutfit, skeletonOf } from './rigFigure.ts'

/** A built figure. Its arrays belong to the builder and hold for its next two builds. */
export interface Figure {
  name: string
  /** The finest level of detail; joints index `skeleton.bones`. */
  mesh: Mesh
  /** Coarser levels, LOD1 on; empty unless asked for. */
  lods: Mesh[]
  /** The body and its parts, as runs of the finest level's arrays. */
  pieces: Piece[]
  skeleton: Skeleton
  /** Landmarks of the shaped body in the figure's space, by id. */
  landmarks: Map<string, [number, number, number]>
  atlas: Atlas
  costs: Costs
  pieceCosts: PieceCost[]
  /** How far the figure was lifted so that its soles stand on the ground, metres. */
  lift: number
  /** Inner walls of cloth were left out: draw both sides of what is left. */
  doubleSided: boolean
  /** Deviation of the reduced mesh as a share of the figure's size; 0 if it was not reduced. */
  reductionError: number
  /** What moves with each morph of the meshes, by the morph's name: sliders kept for the game. */
  movements: Movement[]
}

/** In the order they run. */
export const STAGES = ['resolve', 'dress', 'hide', 'shape', 'rig', 'color', 'reduce', 'measure'] as const
export type Stage = (typeof STAGES)[number]

export interface BuildOptions {
  /** Bring the finest level within the target's triangle limit. */
  reduce?: boolean
  /** Make the coarser levels as well. */
  lods?: boolean
  /** To be looked at, not shipped: a mesh that is not reduced comes without the morphs it keeps for the game; its costs count them. */
  still?: boolean
}

export interface BuildResult {
  figure: Figure | null
  problems: Problem[]
  /** The stages that had to be done anew; the others were remembered. */
  done: Stage[]
}

/** Figures one goes to and fro between: what was just there comes back without work. */
const REMEMBERED = 3

/** The whole pipeline once, from nothing. A pure function: same input, same figure. */
export function build(recipe: Recipe, kits: Kits, target: Target, options: BuildOptions = {}): BuildResult {
  return new Builder(kits).build(recipe, target, options)
}

/** How a figure's regions lie in its atlas. */
interface Look {
  atlas: Atlas
  uvs: Float32Array
  layout: AtlasLayout
  layoutKey: string
  painted: ReadonlySet<number>
  problems: Problem[]
}

/** A figure on its way: what the stages before reduction have made. */
interface Stand {
  dressed: Dressed
  resolved: Resolved
  active: readonly ActiveDelta[]
  whole: Mesh
  skeleton: Skeleton
  refined: RefinedRig
  look: Look
  /** How many go along in the file. */
  clips: number
  target: Target
  options: BuildOptions
  keys: { outfit: string; shape: string; level: string }
}

/**
 * The pipeline with a memory: each stage keeps a few results under the content of its inputs, so
 * that a slider drag redoes only what hangs from it, and going back to what just was redoes nothing.
 */
export class Builder {
  private readonly kits: Kits
  private readonly memory = new Memory(REMEMBERED)
  private done: Stage[] = []
  private shortened = 0
  private readonly active = new WeakMap<Resolved, ActiveDelta[]>()

  private readonly shelf: Shelf | null

  /** @param shelf where what bodies and parts come to together is looked for first, and put */
  constructor(kits: Kits, shelf: Shelf | null = null) {
    this.kits = kits
    this.shelf = shelf
  }

  /**
   * Lets go of all figures: of the many of a crowd hardly one comes twice, and what is remembered of one grows old while
   * the next is built. What bodies and parts come to stays.
   */
  forget(): void {
    this.memory.forget()
  }

  private remember<T>(stage: Stage, name: string, key: string, make: () => T, forgotten?: (value: T) => void): T {
    const made = () => {
      if (!this.done.includes(stage)) this.done.push(stage)
    }
    return this.memory.recall(name, key, make, made, forgotten)
  }

  /** A short key in the place of a long one, as long as stages remember what was made for it: many ask with it. */
  private short(stage: string, key: string): string {
    return this.memory.recall(`short ${stage}`, key, () => `${stage} ${++this.shortened}`)
  }

  build(recipe: Recipe, target: Target, options: BuildOptions = {}): BuildResult {
    this.done = []
    const resolution = this.resolve(recipe)
    const resolved = resolution.value
    if (!resolved) return { figure: null, problems: resolution.problems, done: this.done }
    const { dressed, active, shape, outfitKey, shapeKey } = this.stand(resolved)
    const { skeleton, skin, refined } = this.rig(dressed, resolved, shape, target, outfitKey, shapeKey)
    const look = this.color(dressed, resolved, target, outfitKey)
    const whole: Mesh = {
      ...dressed.merged.mesh,
      ...skin,
      positions: shape.positions,
      normals: shape.normals,
      uvs: look.uvs,
    }
    const rigKey = JSON.stringify([target.detail, target.chains, target.influences, resolved.joints])
    const levelKey = `${rigKey} ${look.layoutKey} ${target.keepSliders.join()} ${JSON.stringify(target.keepExpressions)}`
    const keys = { outfit: outfitKey, shape: shapeKey, level: levelKey }
    const clips = clipsFor(this.kits, recipe.body).filter(wantedBy(target)).length
    const stand: Stand = { dressed, resolved, active, whole, skeleton, refined, look, clips, target, options, keys }
    const reduced = this.reduce(stand)
    const measured = this.measure(stand, reduced.levels)
    const finest = reduced.levels[0]!
    const figure: Figure = {
      name: recipe.name,
      mesh: finest.mesh,
      lods: reduced.levels.slice(1).map((l) => l.mesh),
      pieces: measured.pieces,
      skeleton,
      landmarks: namedLandmarks(dressed.body, shape),
      atlas: look.atlas,
      costs: { ...measured.costs },
      pieceCosts: measured.pieceCosts,
      lift: shape.lift,
      doubleSided: reduced.levels.some((l) => l.shell),
      reductionError: finest.error,
      movements: reduced.movements,
    }
    return {
      figure,
      problems: [...resolution.problems, ...dressed.outfit.problems, ...look.problems, ...measured.problems],
      done: this.done,
    }
  }

  /** Places on a figure that games ask for: those of its plan, and the body's sockets. None where it cannot be built. */
  helperPoints(recipe: Recipe, target: Target): HelperPoint[] {
    const resolved = this.resolve(recipe).value
    if (!resolved) return []
    const { dressed, shape, outfitKey, shapeKey } = this.stand(resolved)
    const { skeleton } = this.rig(dressed, resolved, shape, target, outfitKey, shapeKey)
    const { body, merged, ground } = dressed
    const { bones, plan, def } = body.model
    const [own, ...worn] = merged.pieces.map((p) => p.points)
    const instead = worn.filter((_, i) => dressed.outfit.layers[i]!.bound.part.def.how === 'replaces')
    const planned = placePoints(plan.points ?? [], {
      ...{ bones, joints: shape.joints, positions: shape.positions, ground, flesh: [...instead, own!] },
      ...{ joint: merged.mesh.joints, weights: merged.mesh.weights },
    })
    const places = socketPlaces(body, shape.positions.subarray(0, own![1] * 3))
    const sockets = def.sockets.map(({ id, name, bone }, i): HelperPoint => ({
      ...{ id, name, at: places[i]! },
      bone: bones.findIndex((b) => b.name === bone),
    }))
    // a body's own place is better than the plan's guess
    const named = new Set(sockets.map((s) => s.id))
    return [...planned.filter((p) => !named.has(p.id)), ...sockets].map((p) => ({ ...p, bone: skeleton.fold[p.bone]! }))
  }

  /** The body as it stands, and what is worn on it: what a hand can touch. None where there is no such body. */
  surfaces(recipe: Recipe): StandingSurface[] {
    const resolved = this.resolve(recipe).value
    if (!resolved) return []
    const { dressed, shape } = this.stand(resolved)
    const { body, outfit, merged } = dressed
    return merged.pieces.flatMap(({ instance, id, points: [start, end] }, i): StandingSurface[] => {
      const layer = i === 0 ? null : outfit.layers[i - 1]!
      if (layer && layer.bound.part.def.how !== 'worn') return []
      return [
        {
          instance: layer ? instance : null,
          part: layer ? id : null,
          positions: shape.positions.slice(start * 3, end * 3),
          triangles: layer ? layer.bound.triangles : body.triangles,
        },
      ]
    })
  }

  /**
   * The body, or what an instance wears, as it would be without what was nudged on it: what a brush works on.
   *
   * @returns null where the figure has no such surface; `risen` is how much higher the figure stands for the nudge, metres
   */
  nudgeable(recipe: Recipe, on: string | undefined): (Nudgeable & { topology: string; risen: number }) | null {
    const seen = this.resolve(recipe).value
    const resolved = this.resolve(setNudge(recipe, on, null)).value
    if (!seen || !resolved) return null
    const { lift } = this.stand(seen).shape
    const { dressed, shape } = this.stand(resolved)
    const { body, outfit, merged } = dressed
    const index = on === undefined ? 0 : outfit.layers.findIndex((l) => l.instance === on) + 1
    if (on !== undefined && index === 0) return null
    const [start, end] = merged.pieces[index]!.points
    const positions = shape.positions.slice(start * 3, end * 3)
    const risen = lift - shape.lift
    if (index === 0) {
      const { triangles, neighbours } = body
      return { positions, triangles, neighbours, topology: topologyOf(body.model.mesh), risen }
    }
    const { bound } = outfit.layers[index - 1]!
    return { ...nudgeable(bound, positions), topology: topologyOf(bound.part.mesh), risen }
  }

  private stand(resolved: Resolved) {
    const outfitKey = this.short(
      'outfits',
      JSON.stringify([
        resolved.body.hash,
        ...resolved.parts.map(({ instance, slot, part }) => [instance, slot, part.hash]),
      ]),
    )
    const dressed = this.dress(resolved, outfitKey)
    // asked for again with every step of a stroke, of a figure that stays as it is
    let active = this.active.get(resolved)
    if (!active) this.active.set(resolved, (active = activeDeltas(dressed.body, resolved.sliders)))
    const nudged = [...resolved.nudges].map(([on, nudge]) => ` ${JSON.stringify(on)} ${nudgeKey(nudge)}`).join('')
    const played = active.map(({ delta, weight }) => `${delta.name} ${weight}`).join()
    const slidersKey = this.short('sliders', `${outfitKey} ${played}`)
    const shapeKey = this.short('shapes', `${slidersKey}${nudged}`)
    const shape = this.shape(dressed, active, resolved.nudges, shapeKey, slidersKey)
    return { dressed, active, shape, outfitKey, shapeKey }
  }

  /** Names to parts, faults told. */
  private resolve(recipe: Recipe) {
    // numbers that JSON cannot hold are faults to be told, not to be mistaken for each other
    const key = JSON.stringify([
      recipe.body,
      recipe.parts,
      inOrder(recipe.colors),
      inOrder(recipe.sliders, String),
      recipe.nudges?.map(nudgeKey) ?? 0,
      inOrder(recipe.joints ?? {}),
    ])
    return this.remember('resolve', 'resolve', key, () => {
      const wornKey = JSON.stringify([recipe.body, recipe.parts])
      const worn = this.remember('resolve', 'worn', wornKey, () => resolveWorn(recipe, this.kits))
      return resolveRecipe(recipe, this.kits, worn)
    })
  }

  /** Parts onto the body, what is covered left out, one merged mesh: all that no slider changes. */
  private dress(resolved: Resolved, outfitKey: string): Dressed {
    const body = prepareBody(resolved.body, this.shelf)
    const outfit = this.remember('dress', 'outfit', outfitKey, () => assembleOutfit(body, resolved.parts))
    return this.remember('hide', 'merged', outfitKey, () => {
      const merged = mergeOutfit(outfit)
      return {
        body,
        outfit,
        merged,
        ground: groundPoints(merged.mesh, resolved.body),
        scratch: createNormalScratch(merged.mesh),
        spare: [],
        last: null,
      }
    })
  }

  /** What a dragging hand waits for: body and layers follow, soles find the ground, normals. */
  private shape(
    dressed: Dressed,
    shaping: readonly ActiveDelta[],
    nudges: Resolved['nudges'],
    shapeKey: string,
    slidersKey: string,
  ): Shape {
    const make = () => {
      // a hand that nudges waits for what it moves, not for all that stays as it was
      const before = nudges.size ? this.memory.kept<Shape>('shape').find((s) => s.slidersKey === slidersKey) : undefined
      return makeShape(dressed, { shaping, nudges, slidersKey }, before)
    }
    return this.remember('shape', 'shape', shapeKey, make, (old) => old.spare.push(old))
  }

  /** Joints from the landmarks, weights folded onto the bones there are. */
  private rig(dressed: Dressed, resolved: Resolved, shape: Shape, target: Target, outfitKey: string, shapeKey: string) {
    const { detail, influences, chains = {} } = target
    const wanted = { twists: detail === 'full', chains }
    const jointsKey = `${outfitKey} ${JSON.stringify(Object.entries(resolved.joints).sort())}`
    const rigKey = `${detail} ${JSON.stringify(chains)}`
    const refined = this.remember('rig', 'refined', `${jointsKey} ${JSON.stringify(wanted)}`, () =>
      rigOutfit(dressed, resolved.joints, wanted),
    )
    const { skeleton, fold } = this.remember('rig', 'skeleton', `${shapeKey} ${rigKey}`, () =>
      skeletonOf(refined, shape, detail),
    )
    const { joints, weights, stride } = refined.skin
    const skin = this.remember('rig', 'skin', `${jointsKey} ${rigKey} ${influences}`, () =>
      foldSkin(joints, weights, fold, influences, stride),
    )
    return { skeleton, skin, refined }
  }

  /** Regions to one atlas: flat colors, and pictures where the models have them. */
  private color({ merged }: Dressed, resolved: Resolved, target: Target, outfitKey: string): Look {
    const { mesh, paints } = merged
    const pictures = this.remember('color', 'pictures', outfitKey, () => decodeAll(paints))
    const layoutKey = `${outfitKey} ${target.atlas}`
    const { layout, problems } = this.remember('color', 'layout', layoutKey, () =>
      layoutAtlas(pictures.pixels, target.atlas),
    )
    const painted = new Set(pictures.pixels.flatMap((p, i) => (p ? [i] : [])))
    const uvs = this.remember('color', 'uvs', layoutKey, () =>
      atlasUvs(layout, mesh.regions, mesh.uvs, (r) => painted.has(r)),
    )
    // a picture has its own colors, unless the recipe gives its region another
    const swatches = mesh.regionNames.map((region, i) => resolved.colorOf(region, painted.has(i)))
    const atlas = this.remember('color', 'atlas', `${layoutKey} ${swatches.join()}`, () =>
      paintAtlas(
        layout,
        swatches.map((swatch, i) => ({ swatch, picture: pictures.pixels[i]! })),
      ),
    )
    return { atlas, uvs, layout, layoutKey, painted, problems: [...pictures.problems, ...problems] }
  }

  /** To the limit, then the coarser levels; sliders kept for the game survive as morphs. */
  private reduce(stand: Stand): { levels: Level[]; movements: Movement[] } {
    const { dressed, resolved, active, whole, skeleton, refined, look, target, options, keys } = stand
    const { body, outfit, merged, ground } = dressed
    const limits = limitsOf(target, options)
    // what the game keeps hangs on the face: worked out with every step of one, a drawn face would wait for it
    if (isStill(options)) return { levels: [{ mesh: whole, error: 0, cameFrom: null, shell: false }], movements: [] }
    const reduced = this.remember('reduce', 'levels', `${keys.shape} ${keys.level} ${limits.join()}`, () => {
      // what they move hangs on the face alone, not on the shape: a slider step finds them as they were
      const face = Object.fromEntries(movementsOf(body.model.def).map((s) => [s.id, resolved.sliders[s.id]!]))
      const kept = this.remember('reduce', 'morphs', `${keys.outfit} ${keys.level} ${JSON.stringify(face)}`, () => {
        const wanted = keptMorphs(body, face, target)
        return { wanted, morphs: mergedMorphs(outfit, merged, wanted) }
      })
      const { morphs } = kept
      const base: Mesh = { ...whole, morphs }
      const movements = movesOfMorphs(outfit, skeleton, refined, base, ground, active, kept.wanted)
      const careOfSlot = (slot: string) => resolved.slots.find((s) => s.id === slot)?.care ?? 1
      const maker = new LevelMaker(base, merged.pieces, {
        joints: Float32Array.from(skeleton.bones.flatMap((b) => b.at)),
        care: careOf(body.model.def, skeleton, merged.pieces, careOfSlot),
        // places in the atlas, as far as they are not one for the whole region
        painted: look.painted,
        distant: () => {
          const { indices, moves } = this.remember('reduce', 'shell', keys.outfit, () => {
            const { dropped, moves } = outerShell(outfit, merged)
            return { indices: withoutTriangles(merged.mesh.indices, dropped), moves }
          })
          return { ...base, indices, positions: base.positions.map((v, i) => v + moves[i]!) }
        },
      })
      const levels = limits.map((triangles) => {
        const level = maker.level(triangles)
        if (level.mesh === base) return level
        // flat regions lost their coordinates, painted ones kept them
        const { regions, uvs } = level.mesh
        const flat = atlasUvs(look.layout, regions, uvs, () => false)
        for (let c = 0; c < regions.length; c++)
          if (look.painted.has(regions[c]!)) flat.set(uvs.subarray(c * 2, c * 2 + 2), c * 2)
        return { ...level, mesh: { ...level.mesh, uvs: flat } }
      })
      // from where the coarser levels are seen, no face is read; sliders come first, so that numbers stay
      for (const level of levels.slice(1)) {
        const morphs = level.mesh.morphs.filter((_, m) => movements[m]!.kind === 'slider')
        level.mesh = { ...level.mesh, morphs }
      }
      return { levels, movements }
    })
    // a level that is not reduced has the shape's own arrays, and those may have been written over since
    const own = { positions: whole.positions, normals: whole.normals }
    const levels = reduced.levels.map((l) => (l.cameFrom ? l : { ...l, mesh: { ...l.mesh, ...own } }))
    return { ...reduced, levels }
  }

  /** Costs by figure and by piece, and what is over budget. */
  private measure(stand: Stand, levels: readonly Level[]): Measured {
    const {
      dressed: { merged },
      skeleton,
      clips,
      target,
      options,
      keys,
    } = stand
    const finest = levels[0]!
    // as long as nothing is reduced, costs are the outfit's, whatever its shape
    const whole = levels.length === 1 && finest.cameFrom === null
    const from = whole ? keys.outfit : keys.shape
    const key = `${from} ${keys.level} ${limitsOf(target, options).join()} ${clips} ${JSON.stringify(target)}${isStill(options) ? ' still' : ''}`
    return this.remember('measure', 'costs', key, () => {
      // what is looked at without its morphs costs what it will cost when it is shipped
      if (isStill(options)) {
        const full = { ...stand, options: { ...options, still: false } }
        return this.measure(full, this.reduce(full).levels)
      }
      const costs: Costs = {
        triangles: triangleCount(finest.mesh),
        vertices: cornerCount(finest.mesh),
        bones: skeleton.bones.length,
        influences: mostInfluences(finest.mesh.weights),
        drawCalls: 1,
        textureBytes: target.atlas * target.atlas * 4,
        fileBytes: estimateFileBytes({
          ...contentsOf(
            levels.map((l) => l.mesh),
            skeleton.bones.length,
          ),
          clips,
          keys: keysOf(target),
        }),
      }
      const problems = overBudget(costs, target)
      if (costs.vertices > 65_535)
        problems.push(
          problem(
            'index-width',
            'costs/vertices',
            'More than 65,535 vertices need 32-bit indices, which some devices lack.',
            'Bring the figure under the limit.',
            'warning',
          ),
        )
      const pieces = finest.cameFrom ? reducedPieces(finest.mesh, merged.pieces, finest.cameFrom) : merged.pieces
      return { costs, problems, pieces, pieceCosts: costsByPiece(finest.mesh, pieces) }
    })
  }
}

/** What a figure costs, as measured. */
interface Measured {
  costs: Costs
  problems: Problem[]
  pieces: Piece[]
  pieceCosts: PieceCost[]
}

const isStill = ({ still, reduce, lods }: BuildOptions) => Boolean(still && !reduce && !lods)

/** The triangle limit of each level asked for; Infinity for a finest level that is left as it is. */
function limitsOf(target: Target, { reduce, lods }: BuildOptions): number[] {
  return [reduce ? target.limits.triangles : Infinity, ...(lods ? target.lods.map((l) => l.triangles) : [])]
}

/** What a record holds, by its keys in order: a hand that draws waits for it, and whole entries would be compared as texts. */
function inOrder<T>(record: Readonly<Record<string, T>>, told: (value: T) => unknown = (value) => value): unknown[] {
  return Object.keys(record)
    .sort()
    .flatMap((key) => [key, told(record[key]!)])
}

const nudgeKeys = new WeakMap<Nudge, string>()

/** What a nudge holds, as a text; written once, as a stroke asks for it again and again. */
function nudgeKey(nudge: Nudge): string {
  let key = nudgeKeys.get(nudge)
  if (key === undefined) nudgeKeys.set(nudge, (key = JSON.stringify(nudge)))
  return key
}

function decodeAll(paints: readonly (Paint | null)[]): { pixels: (Pixels | null)[]; problems: Problem[] } {
  const problems: Problem[] = []
  const pixels = paints.map((paint) => {
    if (!paint) return null
    const read = decodeImage(paint, 'colors')
    problems.push(...read.problems)
    return read.value
  })
  return { pixels, problems }
}

/**
 * What the target keeps for the game: the ends of sliders, and expressions as ways from the face the figure has.
 * Correctives between shape and movements have no part in it: the game plays its faces on any shape it is given.
 */
function keptMorphs(body: PreparedBody, face: Resolved['sliders'], target: Target): KeptMorph[] {
  const { def } = body.model
  const ends = def.sliders.filter((s) => target.keepSliders.includes(s.id)).flatMap((s) => [s.up, s.down ?? s.up])
  const sliders = body.model.mesh.morphs
    .filter((m) => ends.includes(m.name))
    .map((delta): KeptMorph => ({ name: delta.name, kind: 'slider', acts: [{ delta, weight: 1 }] }))
  const keep = target.keepExpressions ?? []
  const expressions = (def.expressions ?? [])
    .filter((e) => keep === 'all' || keep.includes(e.id))
    .map((expression): KeptMorph => {
      const to = activeDeltas(body, withExpression({}, def, expression))
      const from = activeDeltas(body, face).map(({ delta, weight }) => ({ delta, weight: -weight }))
      const sums = new Map<Morph, number>()
      for (const { delta, weight } of [...to, ...from]) sums.set(delta, (sums.get(delta) ?? 0) + weight)
      const acts = [...sums].filter(([, w]) => Math.abs(w) > 1e-6).map(([delta, weight]) => ({ delta, weight }))
      return { name: expressionName(expression), kind: 'expression', acts }
    })
    // the face it has already is no way to go
    .filter(({ acts }) => acts.length > 0)
  return [...sliders, ...expressions]
}
