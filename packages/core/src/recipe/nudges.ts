import type { Mesh } from '../mesh/Mesh.ts'
import { topologyOf } from '../mesh/topology.ts'
import type { Nudge, Recipe } from './schema.ts'

/** Why a nudge cannot be used on a mesh; null if it can. */
export function nudgeFault(nudge: Nudge, mesh: Mesh): 'topology' | 'points' | null {
  if (nudge.topology !== topologyOf(mesh)) return 'topology'
  const { points, offsets } = nudge
  if (offsets.length !== points.length * 3) return 'points'
  const count = mesh.positions.length / 3
  return points.every((p, i) => p < count && (i === 0 || p > points[i - 1]!)) ? null : 'points'
}

/** What was nudged on the body, or on an instance; null where nothing was. */
export function nudgeOn(recipe: Recipe, on: string | undefined): Nudge | null {
  return recipe.nudges?.find((n) => n.on === on) ?? null
}

/** Puts another nudge in the place of one; null takes it back. */
export function setNudge(recipe: Recipe, on: string | undefined, nudge: Nudge | null): Recipe {
  const before = nudgeOn(recipe, on)
  if (before === nudge || (before && nudge && isSame(before, nudge))) return recipe
  const others = (recipe.nudges ?? []).filter((n) => n.on !== on)
  const all = nudge ? [...others, nudge].sort((a, b) => ((a.on ?? '') < (b.on ?? '') ? -1 : 1)) : others
  return withNudges(recipe, all)
}

function isSame(a: Nudge, b: Nudge): boolean {
  const same = (x: readonly number[], y: readonly number[]) => x.length === y.length && x.every((v, i) => v === y[i])
  return a.on === b.on && a.topology === b.topology && same(a.points, b.points) && same(a.offsets, b.offsets)
}

/** Without the nudges of instances that are not on the figure any more, or are another part now. */
export function withoutNudgesOf(recipe: Recipe, instances: ReadonlySet<string>): Recipe {
  const kept = recipe.nudges?.filter((n) => n.on === undefined || !instances.has(n.on))
  return !kept || kept.length === recipe.nudges!.length ? recipe : withNudges(recipe, kept)
}

/** What is left of a nudge where some points are brought back. */
export function nudgeWithout(nudge: Nudge, gone: (point: number) => boolean): Nudge | null {
  const kept = nudge.points.flatMap((p, i) => (gone(p) ? [] : [i]))
  if (kept.length === 0) return null
  return {
    ...nudge,
    points: kept.map((i) => nudge.points[i]!),
    offsets: kept.flatMap((i) => nudge.offsets.slice(i * 3, i * 3 + 3)),
  }
}

function withNudges({ nudges: _before, ...recipe }: Recipe, nudges: Nudge[]): Recipe {
  return nudges.length ? { ...recipe, nudges } : recipe
}
