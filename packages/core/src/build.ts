import { canonicalJson } from './base/canonical.ts'
import { problem, type Problem } from './base/problem.ts'
import { prepareBody, type PreparedBody } from './body/PreparedBody.ts'
import { applyMorphs, morphStrengths, shapeLandmarks } from './body/shapeBody.ts'
import { estimateFileBytes, meshBytes, overBudget, type Costs, type PieceCost } from './budget/costs.ts'
import { mergeOutfit, type Piece } from './budget/mergeOutfit.ts'
import { outerShell } from './budget/outerShell.ts'
import { reduceMesh } from './budget/reduceMesh.ts'
import { stretchByCare, type CareOptions } from './budget/stretchByCare.ts'
import { cellUv, paintAtlas, type Atlas } from './color/atlas.ts'
import { assembleOutfit, dressOutfit } from './dress/outfit.ts'
import { cornerCount, triangleCount, type Mesh } from './mesh/Mesh.ts'
import { computeNormals, createNormalScratch } from './mesh/normals.ts'
import { resolveRecipe, type Kits, type Resolved } from './recipe/resolve.ts'
import type { Recipe, Target } from './recipe/schema.ts'
import { buildSkeleton, foldSkin, type Skeleton } from './rig/Skeleton.ts'

/** A built figure. Its arrays belong to the builder and hold until its next build. */
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
}

export const STAGES = ['resolve', 'shape', 'dress', 'hide', 'rig', 'color', 'reduce', 'measure'] as const
export type Stage = (typeof STAGES)[number]

export interface BuildOptions {
  /** Bring the finest level within the target's triangle limit. */
  reduce?: boolean
  /** Make the coarser levels as well. */
  lods?: boolean
}

export interface BuildResult {
  figure: Figure | null
  problems: Problem[]
  /** The stages that had to be done anew; the others were remembered. */
  done: Stage[]
}

/** Below this share of its triangles a figure gives up all but its outer shell first. */
const KEEPS_INSIDE = 0.7

/** The whole pipeline once, from nothing. A pure function: same input, same figure. */
export function build(recipe: Recipe, kits: Kits, target: Target, options: BuildOptions = {}): BuildResult {
  return new Builder(kits).build(recipe, target, options)
}

/**
 * The pipeline with a memory: each stage is kept under the content of its inputs, so that a slider
 * drag redoes only what hangs from it.
 */
export class Builder {
  private readonly kits: Kits
  private readonly memory = new Map<string, { key: string; value: unknown }>()
  private done: Stage[] = []

  constructor(kits: Kits) {
    this.kits = kits
  }

  private remember<T>(stage: Stage, name: string, key: string, make: () => T): T {
    const kept = this.memory.get(name)
    if (kept?.key === key) return kept.value as T
    const value = make()
    this.memory.set(name, { key, value })
    if (!this.done.includes(stage)) this.done.push(stage)
    return value
  }

  private careOfSlot(resolved: Resolved, slot: string): number {
    const kit = resolved.parts.find((p) => p.slot === slot)?.part.kit
    return this.kits.get(kit ?? '')?.manifest.slots.find((s) => s.id === slot)?.care ?? 1
  }

  build(recipe: Recipe, target: Target, options: BuildOptions = {}): BuildResult {
    this.done = []
    const problems: Problem[] = []

    // resolve: names to parts, faults told
    const sliderKey = JSON.stringify(Object.entries(recipe.sliders).map(([k, v]) => [k, String(v)]))
    const resolveKey = canonicalJson([recipe.body, recipe.parts, recipe.colors]) + sliderKey
    const resolution = this.remember('resolve', 'resolve', resolveKey, () => resolveRecipe(recipe, this.kits))
    problems.push(...resolution.problems)
    const resolved = resolution.value
    if (!resolved) return { figure: null, problems, done: this.done }
    const body = prepareBody(resolved.body)

    // dress and hide, as far as no slider matters: bindings, layers, covered faces, one merged mesh
    const outfitKey = canonicalJson([
      resolved.body.kit,
      resolved.body.def.id,
      ...resolved.parts.map(({ slot, part }) => [slot, part.kit, part.def.id]),
    ])
    const outfit = this.remember('dress', 'outfit', outfitKey, () => assembleOutfit(body, resolved.parts))
    const merged = this.remember('hide', 'merged', outfitKey, () => mergeOutfit(outfit))
    const { mesh, pieces } = merged

    // shape and dress: what a dragging hand waits for
    const strengths = morphStrengths(body, resolved.sliders)
    const shapeKey = outfitKey + strengths.join()
    const shaped = this.remember('shape', 'shape', shapeKey, () => {
      const scratch = this.remember('shape', 'scratch', outfitKey, () => ({
        normals: createNormalScratch(mesh),
        landmarks: new Float32Array(body.landmarks.length),
        feet: groundPoints(mesh, body.model.bones),
      }))
      applyMorphs(body.model.mesh.positions, body.model.mesh.morphs, strengths, merged.bodyPositions)
      dressOutfit(outfit, merged.bodyPositions, strengths)
      shapeLandmarks(body, strengths, scratch.landmarks)
      const lift = standOnGround(mesh.positions, scratch.feet)
      computeNormals(mesh, mesh.positions, mesh.normals, scratch.normals)
      return { lift, landmarks: scratch.landmarks }
    })

    // rig: joints from the landmarks, weights folded onto the bones there are
    const skeleton = this.remember('rig', 'skeleton', `${shapeKey} ${target.detail}`, () =>
      buildSkeleton(body, shaped.landmarks, target.detail, shaped.lift),
    )
    const skin = this.remember('rig', 'skin', `${outfitKey} ${target.detail} ${target.influences}`, () =>
      foldSkin(mesh.joints, mesh.weights, skeleton.fold, target.influences),
    )

    // color: regions to one atlas
    const swatches = mesh.regionNames.map((region) => resolved.colorOf(region))
    const painted = this.remember('color', 'atlas', `${swatches.join()} ${target.atlas}`, () =>
      paintAtlas(swatches, target.atlas),
    )
    problems.push(...painted.problems)
    const grid = painted.atlas.grid
    const uvs = this.remember('color', 'uvs', `${outfitKey} ${grid}`, () => regionUvs(mesh, grid))
    const whole: Mesh = { ...mesh, ...skin, uvs }

    // reduce: to the limit, then the coarser levels
    const limits = [options.reduce ? target.limits.triangles : Infinity, ...(options.lods ? target.lods : [])]
    const levels = this.remember(
      'reduce',
      'levels',
      `${shapeKey} ${target.detail} ${target.influences} ${grid} ${limits.join()} ${target.keepSliders.join()}`,
      () => {
        const kept = keptMorphs(mesh, body.model.def.sliders, target.keepSliders)
        const base: Mesh = { ...whole, morphs: kept }
        const joints = Float32Array.from(skeleton.bones.flatMap((b) => b.at))
        const care = careOf(body, skeleton, joints, pieces, (slot) => this.careOfSlot(resolved, slot))
        const distant = () => {
          const { dropped, moves } = this.remember('reduce', 'shell', outfitKey, () => outerShell(body, merged))
          const positions = base.positions.map((v, i) => v + moves[i]!)
          return withoutTriangles({ ...base, positions }, dropped)
        }
        return limits.map((triangles) => {
          if (triangles === Infinity) return { mesh: base, cameFrom: null, error: 0, shell: false }
          const shell = triangles < KEEPS_INSIDE * triangleCount(base)
          const from = shell ? distant() : base
          const measured = stretchByCare(from, pieces, care)
          const reduced = reduceMesh(from, { triangles, joints, protect: kept, measured })
          if (reduced.mesh !== base) reduced.mesh.uvs = regionUvs(reduced.mesh, grid)
          return { ...reduced, shell }
        })
      },
    )
    const finest = levels[0]!

    // measure
    const measured = this.remember(
      'measure',
      'result',
      `${shapeKey} ${swatches.join()} ${JSON.stringify(target)} ${limits.join()} ${recipe.name}`,
      () => {
        const costs: Costs = {
          triangles: triangleCount(finest.mesh),
          vertices: cornerCount(finest.mesh),
          bones: skeleton.bones.length,
          influences: mostInfluences(finest.mesh.weights),
          drawCalls: 1,
          textureBytes: target.atlas * target.atlas * 4,
          fileBytes: 0,
        }
        const all = levels.reduce(
          (sum, l) => ({
            triangles: sum.triangles + triangleCount(l.mesh),
            vertices: sum.vertices + cornerCount(l.mesh),
          }),
          { triangles: 0, vertices: 0 },
        )
        costs.fileBytes = estimateFileBytes({ ...all, bones: costs.bones })
        const found = overBudget(costs, target)
        if (costs.vertices > 65_535)
          found.push(
            problem(
              'index-width',
              'costs/vertices',
              'More than 65,535 vertices need 32-bit indices, which some devices lack.',
              'Bring the figure under the limit.',
              'warning',
            ),
          )
        const shown = finest.cameFrom ? reducedPieces(finest.mesh, pieces, finest.cameFrom) : pieces
        const figure: Figure = {
          name: recipe.name,
          mesh: finest.mesh,
          lods: levels.slice(1).map((l) => l.mesh),
          pieces: shown,
          skeleton,
          landmarks: namedLandmarks(body.landmarkIndex, shaped.landmarks, shaped.lift),
          atlas: painted.atlas,
          costs,
          pieceCosts: costsByPiece(finest.mesh, shown),
          lift: shaped.lift,
          doubleSided: levels.some((l) => l.shell),
          reductionError: finest.error,
        }
        return { figure, found }
      },
    )
    return { figure: measured.figure, problems: [...problems, ...measured.found], done: this.done }
  }
}

/** The mesh less some triangles; points and corners stay. */
function withoutTriangles(mesh: Mesh, drop: Uint8Array): Mesh {
  const indices: number[] = []
  for (let t = 0; t < drop.length; t++)
    if (!drop[t]) indices.push(mesh.indices[t * 3]!, mesh.indices[t * 3 + 1]!, mesh.indices[t * 3 + 2]!)
  return { ...mesh, indices: Uint32Array.from(indices) }
}

function regionUvs(mesh: Mesh, grid: number): Float32Array {
  const uvs = new Float32Array(mesh.regions.length * 2)
  mesh.regions.forEach((region, corner) => uvs.set(cellUv(region, grid), corner * 2))
  return uvs
}

/** The points that stand on the ground: visible ones whose strongest bone is a foot or toes. */
function groundPoints(mesh: Mesh, bones: readonly { name: string }[]): Uint32Array {
  const feet = new Set(bones.flatMap((b, i) => (/Foot$|Toes$/.test(b.name) ? [i] : [])))
  const seen = [...new Set(mesh.cornerPoints)].sort((a, b) => a - b)
  const found = seen.filter((p) => feet.has(mesh.joints[p * 4]!) && mesh.weights[p * 4]! > 0.5)
  return Uint32Array.from(found.length ? found : seen)
}

/** Moves everything up or down so that the lowest ground point is at height zero; returns by how much. */
function standOnGround(positions: Float32Array, ground: Uint32Array): number {
  let lowest = Infinity
  for (let i = 0; i < ground.length; i++) lowest = Math.min(lowest, positions[ground[i]! * 3 + 1]!)
  const lift = Number.isFinite(lowest) ? -lowest : 0
  for (let i = 1; i < positions.length; i += 3) positions[i]! += lift
  return lift
}

function keptMorphs(
  mesh: Mesh,
  sliders: readonly { id: string; up: string; down?: string }[],
  keep: readonly string[],
) {
  const names = new Set(sliders.filter((s) => keep.includes(s.id)).flatMap((s) => [s.up, s.down ?? s.up]))
  return mesh.morphs.filter((m) => names.has(m.name))
}

/** How finely reduction keeps what hangs on each bone and each piece, from the regions and slots of the kit. */
function careOf(
  body: PreparedBody,
  skeleton: Skeleton,
  joints: Float32Array,
  pieces: readonly Piece[],
  ofSlot: (slot: string) => number,
): CareOptions {
  const regions = body.model.def.regions
  const regionOf = skeleton.bones.map((bone) => regions.find((r) => r.bones.includes(bone.name)))
  const root = (bone: number): number => {
    const parent = skeleton.bones[bone]!.parent
    return parent >= 0 && regionOf[parent] === regionOf[bone] ? root(parent) : bone
  }
  return {
    ofBones: Float32Array.from(regionOf, (region) => region?.care ?? 1),
    centers: Float32Array.from(skeleton.bones.flatMap((_, i) => [...joints.subarray(root(i) * 3, root(i) * 3 + 3)])),
    ofPieces: Float32Array.from(pieces, ({ slot }) => ofSlot(slot)),
  }
}

function mostInfluences(weights: Float32Array): number {
  let most = 0
  for (let p = 0; p < weights.length; p += 4) {
    let n = 0
    for (let k = 0; k < 4; k++) if (weights[p + k]! > 0) n++
    if (n > most) most = n
  }
  return most
}

function namedLandmarks(
  index: ReadonlyMap<string, number>,
  landmarks: Float32Array,
  lift: number,
): Figure['landmarks'] {
  return new Map(
    [...index].map(([id, i]) => [id, [landmarks[i * 3]!, landmarks[i * 3 + 1]! + lift, landmarks[i * 3 + 2]!]]),
  )
}

/**
 * The pieces of a reduced mesh. Reduction keeps triangles in their order and makes points and
 * corners as triangles need them, so each piece is one run of all three.
 */
function reducedPieces(mesh: Mesh, pieces: readonly Piece[], cameFrom: Uint32Array): Piece[] {
  const origin = (triangle: number) => cameFrom[mesh.cornerPoints[mesh.indices[triangle * 3]!]!]!
  const total = triangleCount(mesh)
  let [point, corner, triangle] = [0, 0, 0]
  return pieces.map((piece) => {
    const [fromPoint, fromCorner, fromTriangle] = [point, corner, triangle]
    while (triangle < total && origin(triangle) < piece.points[1]) triangle++
    while (point < cameFrom.length && cameFrom[point]! < piece.points[1]) point++
    while (corner < mesh.cornerPoints.length && mesh.cornerPoints[corner]! < point) corner++
    return { ...piece, points: [fromPoint, point], corners: [fromCorner, corner], triangles: [fromTriangle, triangle] }
  })
}

function costsByPiece(mesh: Mesh, pieces: readonly Piece[]): PieceCost[] {
  return pieces.map((piece) => {
    const triangles = piece.triangles[1] - piece.triangles[0]
    const vertices = piece.corners[1] - piece.corners[0]
    const bones = new Set<number>()
    let influences = 0
    for (let c = piece.corners[0]; c < piece.corners[1]; c++) {
      const p = mesh.cornerPoints[c]! * 4
      let n = 0
      for (let k = 0; k < 4; k++)
        if (mesh.weights[p + k]! > 0) {
          bones.add(mesh.joints[p + k]!)
          n++
        }
      influences = Math.max(influences, n)
    }
    const fileBytes = meshBytes(vertices, triangles)
    return { slot: piece.slot, id: piece.id, triangles, vertices, bones: bones.size, influences, fileBytes }
  })
}
