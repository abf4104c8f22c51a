import { mlsWeights } from '../body/mlsWeights.ts'
import type { PreparedBody } from '../body/PreparedBody.ts'
import type { PartModel } from '../kit/Kit.ts'
import { movementsOf } from '../kit/movements.ts'
import type { Area } from '../mesh/loops.ts'
import { carrySkin, type DenseSkin } from './carrySkin.ts'
import { alongSurface, APART, type Joined } from './joinSeam.ts'

/** How many points of an area speak for all of it. */
const SPOKEN_FOR = 24
/** With fewer than these an affine map of them tells nothing. */
const FEWEST = 8

/**
 * How a part follows what it replaces when it has a form of its own, as another kind of head: away from its edge it
 * takes on the least-squares affine map of the whole area, and moves with the bone that holds most of it; at its edge
 * it is one with the loop. Between lies a radius of the loop, along the part's surface.
 *
 * @param dense gets its skin
 */
export function followWhole(
  body: PreparedBody,
  area: Area,
  { mesh }: Pick<PartModel, 'mesh'>,
  joined: Joined | null,
  dense: DenseSkin,
): { sources: number[]; weights: number[] }[] {
  const skin = body.model.mesh
  const held = spreadOver(body, area)
  const middle = meanOf(skin.positions, held)
  const width = Math.max(1e-3, ...held.map((p) => apart(skin.positions, p, middle)))
  const reach = meanRadius(skin.positions, area.loop)
  const edge = joined ? [...joined.weld.keys()].filter((p) => joined.weld[p] !== APART) : []
  const away = alongSurface(mesh, edge, reach)
  const bone = mainBone(body, area)
  return Array.from(away, (far, p) => {
    const welded = joined ? joined.weld[p]! : APART
    if (welded !== APART) {
      carrySkin(dense, p, skin, [welded], [1])
      return { sources: [welded], weights: [1] }
    }
    const at = [...mesh.positions.subarray(p * 3, p * 3 + 3)] as [number, number, number]
    const weights = mlsWeights(at, skin.positions, held, width)
    const t = Math.min(1, far / reach)
    const free = t * t * (3 - 2 * t)
    dense.add(p, bone, free)
    if (free === 1) return { sources: held, weights }
    const on = ontoLoop(skin.positions, area.loop, at)
    carrySkin(
      dense,
      p,
      skin,
      on.points,
      on.shares.map((s) => s * (1 - free)),
    )
    return {
      sources: [...held, ...on.points],
      weights: [...weights.map((w) => w * free), ...on.shares.map((s) => s * (1 - free))],
    }
  })
}

/**
 * Points of an area, each as far from those before it as can be; the first is the lowest in number. What moves by itself,
 * as a mouth does, speaks for nothing else while enough is still.
 */
function spreadOver(body: PreparedBody, { faces }: Area): number[] {
  const { positions } = body.model.mesh
  const all = new Set<number>()
  faces.forEach((inside, t) => {
    if (inside) for (let k = 0; k < 3; k++) all.add(body.triangles[t * 3 + k]!)
  })
  const restless = movingPoints(body)
  const still = [...all].filter((p) => !restless.has(p))
  const points = (still.length < FEWEST ? [...all] : still).sort((a, b) => a - b)
  const far = new Float64Array(points.length).fill(Infinity)
  const chosen: number[] = []
  let next = 0
  while (chosen.length < Math.min(SPOKEN_FOR, points.length)) {
    chosen.push(points[next]!)
    const at = [...positions.subarray(points[next]! * 3, points[next]! * 3 + 3)]
    points.forEach((p, i) => (far[i] = Math.min(far[i]!, apart(positions, p, at))))
    next = far.indexOf(Math.max(...far))
  }
  return chosen
}

/** The points that some movement of the body reaches. */
function movingPoints({ model: { def, mesh } }: PreparedBody): Set<number> {
  const names = new Set(movementsOf(def).flatMap((s) => [s.up, s.down]))
  return new Set(mesh.morphs.filter((m) => names.has(m.name)).flatMap((m) => [...m.points]))
}

/** The bone that holds most of an area. */
function mainBone(body: PreparedBody, { faces }: Area): number {
  const { joints, weights } = body.model.mesh
  const sums = new Float64Array(body.model.bones.length)
  faces.forEach((inside, t) => {
    if (!inside) return
    for (let k = 0; k < 3; k++) {
      const p = body.triangles[t * 3 + k]!
      for (let j = 0; j < 4; j++) sums[joints[p * 4 + j]!]! += weights[p * 4 + j]!
    }
  })
  return sums.indexOf(Math.max(...sums))
}

/** The place of a loop nearest to a point: two of its points, and their shares. */
function ontoLoop(positions: Float32Array, loop: readonly number[], at: readonly number[]) {
  let best = { far: Infinity, points: [loop[0]!, loop[0]!], shares: [1, 0] }
  loop.forEach((a, i) => {
    const b = loop[(i + 1) % loop.length]!
    let [along, length] = [0, 0]
    for (let k = 0; k < 3; k++) {
      const edge = positions[b * 3 + k]! - positions[a * 3 + k]!
      along += edge * (at[k]! - positions[a * 3 + k]!)
      length += edge * edge
    }
    const t = Math.min(1, Math.max(0, along / (length || 1)))
    const far = Math.hypot(...at.map((v, k) => v - positions[a * 3 + k]! * (1 - t) - positions[b * 3 + k]! * t))
    if (far < best.far) best = { far, points: [a, b], shares: [1 - t, t] }
  })
  return best
}

function meanOf(positions: Float32Array, points: readonly number[]): number[] {
  return [0, 1, 2].map((k) => points.reduce((sum, p) => sum + positions[p * 3 + k]!, 0) / points.length)
}

function meanRadius(positions: Float32Array, loop: readonly number[]): number {
  const middle = meanOf(positions, loop)
  return loop.reduce((sum, p) => sum + apart(positions, p, middle), 0) / loop.length
}

const apart = (positions: Float32Array, p: number, at: readonly number[]) =>
  Math.hypot(positions[p * 3]! - at[0]!, positions[p * 3 + 1]! - at[1]!, positions[p * 3 + 2]! - at[2]!)
