import type { Mesh, Morph } from '../mesh/Mesh.ts'
import type { ActiveDelta } from '../body/shapeBody.ts'
import type { PreparedBody } from '../body/PreparedBody.ts'
import { deltaOf, type BoundPart } from '../dress/bindPart.ts'
import { APART } from '../dress/joinSeam.ts'
import { isCloth } from '../dress/Layer.ts'
import type { Outfit } from '../dress/outfit.ts'
import { PairMemory } from '../base/PairMemory.ts'
import type { PartBone } from '../kit/Kit.ts'
import type { Limb } from '../kit/plan.ts'
import type { Paint } from '../kit/readModel.ts'

/** One piece of a merged figure: the body (slot "body") or a part; ranges in the merged arrays. */
export interface Piece {
  /** The instance's id in the recipe; "body" for the body. */
  instance: string
  slot: string
  /** The kit it is from. */
  kit: string
  id: string
  name: string
  /** Cloth hides what is beneath it; what lies flat on the skin (eyes, brows) does not; the rest stands by itself. */
  lies: 'over' | 'on' | 'free'
  /** Movements (by name) that act here: those that may move a point of the piece by more than 2 mm. */
  morphs: string[]
  points: [start: number, end: number]
  corners: [start: number, end: number]
  /** In triangles, not indices. */
  triangles: [start: number, end: number]
}

export interface Merged {
  /** What can be seen, as one mesh. Positions hold every point; corners only those in use; no morphs. */
  mesh: Mesh
  pieces: Piece[]
  /** What each of the mesh's regions is painted with; null where it is of one flat color. */
  paints: (Paint | null)[]
  /** 1 where a triangle is the inner wall of cloth. */
  lining: Uint8Array
  /** Every point before any slider: xyz, metres. */
  rest: Float32Array
  /** The body's part of `mesh.positions`. */
  bodyPositions: Float32Array
  /** Bones that parts bring: the mesh's joints count them after the body's. */
  bones: PartBone[]
  /** Limbs that these make. */
  limbs: Limb[]
}

interface Source {
  instance: string
  slot: string
  kit: string
  id: string
  name: string
  lies: Piece['lies']
  rest: Float32Array
  mesh: Mesh
  paints: ReadonlyMap<string, Paint>
  joints: Uint16Array
  weights: Float32Array
  bound: BoundPart | null
  /** How many bones other parts have brought before. */
  bonesBefore: number
  hidden: Uint8Array
  lining: Uint8Array | null
  /** The body's point that each of its points is one with, or `APART`. */
  weld: Uint32Array | null
}

/** A movement that moves nothing farther than this acts nowhere, metres of a grown person. */
const ACTS = 0.002

interface Moved {
  name: string
  points: Uint32Array
}
const movedBy = new WeakMap<PreparedBody, Moved[]>()
const actingOn = new PairMemory<PreparedBody, BoundPart, string[]>()

/** Points of the body that each of its morphs moves by more than that. */
function movedPoints(body: PreparedBody): Moved[] {
  let moved = movedBy.get(body)
  if (!moved) movedBy.set(body, (moved = findMoved(body)))
  return moved
}

function findMoved(body: PreparedBody): Moved[] {
  const least = (ACTS * body.scale) ** 2
  return body.model.mesh.morphs.map(({ name, points, deltas }) => ({
    name,
    points: points.filter((_, i) => deltas[i * 3]! ** 2 + deltas[i * 3 + 1]! ** 2 + deltas[i * 3 + 2]! ** 2 > least),
  }))
}

/** The movements that reach a piece: for a part, those of the points it follows, and its own. */
function actingMorphs(body: PreparedBody, bound: BoundPart | null): string[] {
  const moved = movedPoints(body)
  if (!bound) return moved.filter((m) => m.points.length > 0).map((m) => m.name)
  return actingOn.get(body, bound, () => findActing(moved, bound))
}

function findActing(moved: readonly Moved[], bound: BoundPart): string[] {
  const followed = new Uint8Array(bound.tie.sources)
  for (const p of bound.tie.following.sources) followed[p] = 1
  return moved.filter((m) => bound.own.has(m.name) || m.points.some((p) => followed[p] === 1)).map((m) => m.name)
}

/** A morph a figure keeps for the game: its name there, and which of the body's deltas it plays, how strongly. */
export interface KeptMorph {
  name: string
  kind: 'slider' | 'expression'
  acts: readonly ActiveDelta[]
}

/** Moves shorter than this are left out of what is kept for the game, metres: a fiftieth of a millimetre. */
const UNSEEN = 2e-5

/** Morphs of a whole figure, on the merged mesh's points. */
export function mergedMorphs(outfit: Outfit, { pieces }: Pick<Merged, 'pieces'>, kept: readonly KeptMorph[]): Morph[] {
  const all = pieces.reduce((n, piece) => Math.max(n, piece.points[1]), 0)
  const sums = new Float64Array(all * 3)
  return kept.map(({ name, acts }) => {
    // most of a figure does not move with its face
    const moved = new Uint8Array(pieces.length)
    for (const { delta, weight } of acts) {
      const own = [delta, ...outfit.layers.map((layer) => deltaOf(layer.bound, delta))]
      for (const [i, { points, deltas }] of own.entries()) {
        const first = pieces[i]!.points[0]
        if (points.length) moved[i] = 1
        for (let n = 0; n < points.length; n++) {
          const at = (points[n]! + first) * 3
          sums[at]! += weight * deltas[n * 3]!
          sums[at + 1]! += weight * deltas[n * 3 + 1]!
          sums[at + 2]! += weight * deltas[n * 3 + 2]!
        }
      }
    }
    // ties spread what nobody sees over half the figure
    const points: number[] = []
    const deltas: number[] = []
    for (const [i, piece] of pieces.entries()) {
      if (!moved[i]) continue
      const [start, end] = piece.points
      for (let p = start, o = start * 3; p < end; p++, o += 3) {
        const x = sums[o]!
        const y = sums[o + 1]!
        const z = sums[o + 2]!
        if (x * x + y * y + z * z <= UNSEEN * UNSEEN) continue
        points.push(p)
        deltas.push(x, y, z)
      }
      sums.fill(0, start * 3, end * 3)
    }
    return { name, points: Uint32Array.from(points), deltas: Float32Array.from(deltas) }
  })
}

/**
 * Joins the visible triangles of an outfit into one mesh. The layers' positions become views of
 * the merged ones, so that dressing writes straight into it.
 */
export function mergeOutfit(outfit: Outfit): Merged {
  const { model } = outfit.body
  const sources: Source[] = [
    {
      instance: 'body',
      slot: 'body',
      kit: model.kit,
      id: model.def.id,
      name: model.def.name,
      lies: 'free',
      rest: model.mesh.positions,
      mesh: model.mesh,
      paints: model.paints,
      joints: model.mesh.joints,
      weights: model.mesh.weights,
      bound: null,
      bonesBefore: 0,
      hidden: outfit.hiddenBody,
      lining: null,
      weld: null,
    },
    ...outfit.layers.map(({ instance, slot, bound, rest }, i): Source => ({
      instance,
      slot,
      kit: bound.part.kit,
      id: bound.part.def.id,
      name: bound.part.def.name,
      lies: isCloth(bound.part) ? 'over' : bound.part.def.how === 'worn' ? 'on' : 'free',
      rest,
      mesh: bound.part.mesh,
      paints: bound.part.paints,
      joints: bound.joints,
      weights: bound.weights,
      bound,
      bonesBefore: outfit.layers.slice(0, i).reduce((n, l) => n + l.bound.bones.length, 0),
      hidden: outfit.hiddenLayers[i]!,
      lining: outfit.linings[i]!,
      weld: bound.joined?.weld ?? null,
    })),
  ]
  const points = sources.reduce((n, s) => n + s.mesh.positions.length / 3, 0)
  const positions = new Float32Array(points * 3)
  const rest = new Float32Array(points * 3)
  const joints = new Uint16Array(points * 4)
  const weights = new Float32Array(points * 4)
  const regionNames: string[] = []
  // as many as there can be; what is hidden is left out
  const corners = sources.reduce((n, s) => n + s.mesh.cornerPoints.length, 0)
  const cornerPoints = new Uint32Array(corners)
  const softness = new Uint8Array(corners)
  const shades = new Uint8Array(corners)
  const regions = new Uint16Array(corners)
  const uvs = new Float32Array(corners * 2)
  const triangles = sources.reduce((n, s) => n + s.hidden.length, 0)
  const indices = new Uint32Array(triangles * 3)
  const lining = new Uint8Array(triangles)
  const pieces: Piece[] = []
  const paints: Merged['paints'] = []
  let base = 0
  let corner = 0
  let triangle = 0
  for (const [s, source] of sources.entries()) {
    const { mesh, hidden } = source
    const count = mesh.positions.length / 3
    if (s > 0) outfit.layers[s - 1]!.positions = positions.subarray(base * 3, (base + count) * 3)
    rest.set(source.rest, base * 3)
    for (let i = 0, o = base * 4; i < source.joints.length; i++, o++) {
      const joint = source.joints[i]!
      joints[o] = joint < model.bones.length ? joint : joint + source.bonesBefore
    }
    weights.set(source.weights, base * 4)
    const regionOf = mesh.regionNames.map((name) => {
      const paint = source.paints.get(name) ?? null
      const at = regionNames.findIndex((known, i) => known === name && paints[i] === paint)
      if (at >= 0) return at
      paints.push(paint)
      return regionNames.push(name) - 1
    })
    const cornerOf = new Int32Array(mesh.cornerPoints.length).fill(-1)
    const cornerStart = corner
    const triangleStart = triangle
    for (let t = 0; t < hidden.length; t++) {
      if (hidden[t]) continue
      lining[triangle] = source.lining ? source.lining[t]! : 0
      for (let k = 0; k < 3; k++) {
        const own = mesh.indices[t * 3 + k]!
        if (cornerOf[own]! < 0) {
          const point = mesh.cornerPoints[own]!
          // what meets a seam has the body's own points there: one surface, shaded and reduced as one
          const welded = source.weld ? source.weld[point]! : APART
          cornerPoints[corner] = welded === APART ? base + point : welded
          softness[corner] = mesh.softness[own]!
          shades[corner] = mesh.shades[own]!
          regions[corner] = regionOf[mesh.regions[own]!]!
          uvs[corner * 2] = mesh.uvs[own * 2]!
          uvs[corner * 2 + 1] = mesh.uvs[own * 2 + 1]!
          cornerOf[own] = corner++
        }
        indices[triangle * 3 + k] = cornerOf[own]!
      }
      triangle++
    }
    pieces.push({
      instance: source.instance,
      slot: source.slot,
      kit: source.kit,
      id: source.id,
      name: source.name,
      lies: source.lies,
      morphs: actingMorphs(outfit.body, source.bound),
      points: [base, base + count],
      corners: [cornerStart, corner],
      triangles: [triangleStart, triangle],
    })
    base += count
  }
  const mesh: Mesh = {
    positions,
    joints,
    weights,
    morphs: [],
    cornerPoints: cornerPoints.slice(0, corner),
    normals: new Float32Array(corner * 3),
    softness: softness.slice(0, corner),
    shades: shades.slice(0, corner),
    regions: regions.slice(0, corner),
    regionNames,
    uvs: uvs.slice(0, corner * 2),
    indices: indices.slice(0, triangle * 3),
  }
  return {
    mesh,
    pieces,
    paints,
    bones: outfit.bones,
    limbs: outfit.limbs,
    lining: lining.slice(0, triangle),
    rest,
    bodyPositions: positions.subarray(0, model.mesh.positions.length),
  }
}
