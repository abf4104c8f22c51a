import type { Builder } from './build.ts'
import { regionsOfTriangles } from './body/PreparedBody.ts'
import { addDelta } from './body/shapeBody.ts'
import { brush, type Stroke } from './dress/brush.ts'
import { nudgeMoves, nudgeTo, type Nudgeable } from './dress/nudge.ts'
import type { BodyModel } from './kit/Kit.ts'
import { pointNeighbours } from './mesh/adjacency.ts'
import { pointTriangles } from './mesh/Mesh.ts'
import { mirroredPoints } from './mesh/mirrored.ts'
import { nudgeFault, nudgeOn, nudgeWithout, setNudge } from './recipe/nudges.ts'
import type { Side } from './recipe/symmetry.ts'
import type { Nudge, Recipe } from './recipe/schema.ts'

/**
 * A figure after one more stroke of the brush, its path in the figure's own space; the figure as it was where there is
 * nothing to nudge.
 *
 * @param on the instance that is nudged; undefined for the body
 */
export function nudgeFigure(builder: Builder, recipe: Recipe, on: string | undefined, stroke: Stroke): Recipe {
  const surface = builder.nudgeable(recipe, on)
  if (!surface) return recipe
  const before = nudgeOn(recipe, on)
  const usable = before?.topology === surface.topology ? before : null
  // nudged soles raise the figure: what was seen higher lies lower on what the brush works on
  const path = stroke.path.map(([x, y, z]) => [x, y - surface.risen, z] as const)
  return setNudge(recipe, on, brush(surface, usable, { ...stroke, path }, on, surface.topology))
}

/** The regions of a body in which something was nudged, by id. */
export function nudgedRegions(body: BodyModel, nudge: Nudge): string[] {
  const found = new Set(nudge.points.flatMap((p) => [...regionsAt(body)[p]!]))
  return body.def.regions.filter((_, r) => found.has(r)).map(({ id }) => id)
}

/** A figure whose body is brought back, in one region or everywhere, to what sliders make of it. */
export function unnudgeBody(recipe: Recipe, body: BodyModel, region: string | null): Recipe {
  const before = nudgeOn(recipe, undefined)
  if (!before) return recipe
  if (region === null) return setNudge(recipe, undefined, null)
  const index = body.def.regions.findIndex((r) => r.id === region)
  return setNudge(
    recipe,
    undefined,
    nudgeWithout(before, (p) => regionsAt(body)[p]?.has(index) ?? false),
  )
}

/** So much the two sides of a nudge may differ and still be alike, metres: offsets are kept to a hundredth of a millimetre. */
const ALIKE = 5e-5

interface Sides {
  surface: Nudgeable
  /** The counterpart of each point. */
  others: Int32Array
}
const sidesKnown = new WeakMap<BodyModel, Sides>()

/** A body as it is made, before any slider: there its sides are alike. */
function sidesOfBody(body: BodyModel): Sides {
  let sides = sidesKnown.get(body)
  if (!sides) {
    const { positions } = body.mesh
    const triangles = pointTriangles(body.mesh)
    const surface = { positions, triangles, neighbours: pointNeighbours(triangles, positions.length / 3) }
    sidesKnown.set(body, (sides = { surface, others: mirroredPoints(positions) }))
  }
  return sides
}

/** How far a nudge moves each point of a body as it is made, and how far it would with both sides alike; xyz, metres. */
function evenMoves(body: BodyModel, nudge: Nudge, like: Side): [now: Float32Array, even: Float32Array] {
  const { surface, others } = sidesOfBody(body)
  const now = new Float32Array(surface.positions.length)
  addDelta(nudgeMoves(surface, nudge), 1, now)
  const even = now.map((move, i) => {
    const p = Math.floor(i / 3)
    const q = others[p]!
    // what has no counterpart stays as it is
    if (q < 0) return move
    const mirrored = now[q * 3 + (i % 3)]! * (i % 3 === 0 ? -1 : 1)
    const x = p === q ? 0 : surface.positions[p * 3]!
    // the figure's own left is where x is above zero
    if (like === 'both' || x === 0) return (move + mirrored) / 2
    return x > 0 === (like === 'left') ? move : mirrored
  })
  return [now, even]
}

/** Whether the two sides of a body are nudged differently. */
export function isNudgeUneven(body: BodyModel, nudge: Nudge): boolean {
  const [now, even] = evenMoves(body, nudge, 'both')
  return now.some((v, i) => Math.abs(v - even[i]!) > ALIKE)
}

/** Makes what was nudged on a body alike on both sides: the middle of both, or as on one of them. */
export function evenOutNudge(recipe: Recipe, body: BodyModel, like: Side): Recipe {
  const nudge = nudgeOn(recipe, undefined)
  if (!nudge || nudgeFault(nudge, body.mesh)) return recipe
  const { surface } = sidesOfBody(body)
  const [, even] = evenMoves(body, nudge, like)
  const wanted = surface.positions.map((v, i) => v + even[i]!)
  return setNudge(recipe, undefined, nudgeTo(surface, wanted, undefined, nudge.topology))
}

const known = new WeakMap<BodyModel, Set<number>[]>()

/** The regions that meet at each point of a body. */
function regionsAt(body: BodyModel): Set<number>[] {
  let at = known.get(body)
  if (!at) {
    const sets = Array.from({ length: body.mesh.positions.length / 3 }, () => new Set<number>())
    const triangles = pointTriangles(body.mesh)
    regionsOfTriangles(body, triangles).forEach((region, t) => {
      for (let k = 0; k < 3; k++) sets[triangles[t * 3 + k]!]!.add(region)
    })
    known.set(body, (at = sets))
  }
  return at
}
