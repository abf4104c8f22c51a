import type { Builder } from './build.ts'
import { brush, type Stroke } from './dress/brush.ts'
import { regionsOfTriangles } from './body/PreparedBody.ts'
import type { BodyModel } from './kit/Kit.ts'
import { pointTriangles } from './mesh/Mesh.ts'
import { nudgeOn, nudgeWithout, setNudge } from './recipe/nudges.ts'
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
