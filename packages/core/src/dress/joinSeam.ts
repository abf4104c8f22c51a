import { problem, type Problem } from '../base/problem.ts'
import type { PreparedBody } from '../body/PreparedBody.ts'
import { seamArea } from '../body/seams.ts'
import type { PartModel } from '../kit/Kit.ts'
import { pointNeighbours } from '../mesh/adjacency.ts'
import { openLoops, type Area } from '../mesh/loops.ts'
import { pointCount, pointTriangles, type Mesh, type Morph } from '../mesh/Mesh.ts'

/** A part that meets a seam: its edge is the body's loop, point for point. */
export interface Joined {
  /** The part itself where it met the loop already, else one whose edge was drawn on to it. */
  part: PartModel
  /** The body's point that each of its points is one with, or `APART`. */
  weld: Uint32Array
  /** What was done to its edge; null where it met the loop already. */
  drawn: { edge: number; loop: number; gap: number } | null
}

export const APART = 0xffffffff

/** An edge of more points is none that was made to meet something. */
const MOST_EDGE = 2000
/** Nearer than this is met, metres: kits write tenths of a millimetre. */
const MET = 1e-4
/** How far the move of the edge runs into the part: as a share of the loop's radius, or of its own length. */
const BLEND_RADIUS = 0.8
const BLEND_MOVE = 2.5

/**
 * Joins a part's edge to the loop of its seam. Each point of the edge goes to a point of the loop, in order, so that the
 * sum of squared distances is least once both are brought to one middle and size; points that share one collapse,
 * points of the loop that none goes to are inserted into the part's edge. Then both run through the same points: there
 * is no gap and no T-junction, whatever moves the loop. The move of the edge fades out over the part.
 *
 * @returns null where the part has no edge of its own near the loop that runs as the loop does
 */
export function joinSeam(body: PreparedBody, part: PartModel): Joined | null {
  const { def, mesh } = part
  const area = def.how === 'replaces' ? seamArea(body, def.seam) : null
  if (!area) return null
  const skin = body.model.mesh.positions
  const edge = nearestEdge(mesh, area, skin)
  if (!edge) return null
  const [own, loop] = [ringOf(mesh.positions, edge), ringOf(skin, area.loop)]
  const { goesTo, sum } = inOrder(own, loop)
  // an edge that runs the other way around is that of a part turned inside out
  if (inOrder({ ...own, at: own.at.toReversed() }, loop).sum < sum / 2) return null
  const moves = edge.map((p, i) => distance(mesh.positions, p, skin, area.loop[goesTo[i]! % area.loop.length]!))
  const gap = Math.max(...moves)
  const weld = new Uint32Array(mesh.positions.length / 3).fill(APART)
  if (gap <= MET && edge.length === area.loop.length && new Set(goesTo).size === edge.length) {
    edge.forEach((p, i) => (weld[p] = area.loop[goesTo[i]! % area.loop.length]!))
    return { part, weld, drawn: null }
  }
  const redrawn = redraw(mesh, { edge, goesTo, loop: area.loop, skin })
  return {
    part: { ...part, mesh: redrawn.mesh, hash: `${part.hash} joined` },
    weld: redrawn.weld,
    drawn: { edge: edge.length, loop: area.loop.length, gap },
  }
}

/** What is to be said of a part and its seam: that its edge was drawn on to it, or that it does not meet it. */
export function seamProblems(body: PreparedBody, part: PartModel, joined: Joined | null, where: string): Problem[] {
  const { def } = part
  if (def.how !== 'replaces') return []
  const seam = body.model.def.seams.find((s) => s.id === def.seam)
  if (!seam) return []
  if (!joined)
    return meets(part, seam.points)
      ? []
      : [
          problem(
            'seam-apart',
            where,
            `“${def.name}” has no open edge near “${seam.name}” of “${body.model.def.name}”: there may be a gap.`,
            'Leave it open where it meets the body, its faces outward.',
            'warning',
          ),
        ]
  if (!joined.drawn) return []
  const { edge, loop, gap } = joined.drawn
  const counts = edge === loop ? '' : ` It has ${edge} points there, the body ${loop}.`
  return [
    problem(
      'seam-drawn',
      where,
      `The edge of “${def.name}” was drawn on to “${seam.name}”, by ${(gap * 1000).toFixed(1)} mm at most.${counts}`,
      'Give it a vertex at every point of the seam to keep its own form there.',
      'info',
    ),
  ]
}

/** Whether a part has a vertex at every point of a seam, as one may that is closed there. */
function meets({ mesh }: PartModel, points: readonly (readonly number[])[]): boolean {
  const { positions: at } = mesh
  return points.every(([x, y, z]) => {
    for (let p = 0; p < at.length; p += 3)
      if (Math.hypot(at[p]! - x!, at[p + 1]! - y!, at[p + 2]! - z!) <= MET) return true
    return false
  })
}

/** The open edge of a part that lies nearest to a loop, if one lies about as near as the loop is wide. */
function nearestEdge(mesh: Mesh, { loop }: Area, skin: Float32Array): number[] | null {
  const ring = ringOf(skin, loop)
  let best: { edge: number[]; far: number } | null = null
  for (const edge of openLoops(pointTriangles(mesh), pointCount(mesh))) {
    const own = ringOf(mesh.positions, edge)
    const far = Math.hypot(...own.middle.map((v, k) => v - ring.middle[k]!)) + Math.abs(own.radius - ring.radius)
    if (!best || far < best.far) best = { edge, far }
  }
  return best && best.far < 1.5 * ring.radius && best.edge.length <= MOST_EDGE ? best.edge : null
}

/** Points in a ring about its middle. */
interface Ring {
  middle: [number, number, number]
  /** Mean distance to the middle, metres. */
  radius: number
  /** Each point seen from the middle, in radii. */
  at: [number, number, number][]
}

function ringOf(positions: Float32Array, points: readonly number[]): Ring {
  const middle: Ring['middle'] = [0, 0, 0]
  for (const p of points) for (let k = 0; k < 3; k++) middle[k]! += positions[p * 3 + k]! / points.length
  const seen = points.map((p) => middle.map((m, k) => positions[p * 3 + k]! - m) as Ring['middle'])
  const radius = seen.reduce((sum, v) => sum + Math.hypot(...v), 0) / points.length || 1e-9
  return { middle, radius, at: seen.map((v) => v.map((x) => x / radius) as Ring['middle']) }
}

/**
 * To which point of the loop each point of the edge goes: never backwards, once around (dynamic programming over all
 * starts). Numbers run on past the loop's length where the way around has passed its first point.
 */
function inOrder(edge: Ring, loop: Ring): { goesTo: number[]; sum: number } {
  const [m, n] = [edge.at.length, loop.at.length]
  const cost = edge.at.map((a) =>
    Float64Array.from(loop.at, (b) => (a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2),
  )
  const came = new Uint16Array(m * (n + 1))
  let best: { sum: number; goesTo: number[] } = { sum: Infinity, goesTo: [] }
  for (let start = 0; start < n; start++) {
    let row = new Float64Array(n + 1).fill(Infinity)
    row[0] = cost[0]![start]!
    for (let i = 1; i < m; i++) {
      const next = new Float64Array(n + 1)
      let least = 0
      for (let k = 0; k <= n; k++) {
        if (row[k]! < row[least]!) least = k
        came[i * (n + 1) + k] = least
        next[k] = row[least]! + cost[i]![(start + k) % n]!
      }
      row = next
    }
    let last = 0
    for (let k = 1; k <= n; k++) if (row[k]! < row[last]!) last = k
    if (row[last]! >= best.sum) continue
    const goesTo = Array<number>(m)
    for (let i = m - 1, k = last; i >= 0; k = came[i * (n + 1) + k]!, i--) goesTo[i] = start + k
    best = { sum: row[last]!, goesTo }
  }
  return best
}

interface Plan {
  edge: readonly number[]
  goesTo: readonly number[]
  loop: readonly number[]
  skin: Float32Array
}

/** The part's mesh with the loop's points for its edge: its other points first, in their order, then those of the loop. */
function redraw(mesh: Mesh, plan: Plan): { mesh: Mesh; weld: Uint32Array } {
  const { edge, goesTo, loop, skin } = plan
  const count = mesh.positions.length / 3
  const place = new Map(edge.map((p, i) => [p, i]))
  const kept = Array.from({ length: count }, (_, p) => p).filter((p) => !place.has(p))
  const moved = blended(mesh, plan)
  const positions = new Float32Array((kept.length + loop.length) * 3)
  const weld = new Uint32Array(kept.length + loop.length).fill(APART)
  kept.forEach((p, i) => positions.set(moved.subarray(p * 3, p * 3 + 3), i * 3))
  loop.forEach((p, i) => {
    positions.set(skin.subarray(p * 3, p * 3 + 3), (kept.length + i) * 3)
    weld[kept.length + i] = p
  })
  const renamed = new Uint32Array(count)
  kept.forEach((p, i) => (renamed[p] = i))
  edge.forEach((p, i) => (renamed[p] = kept.length + (goesTo[i]! % loop.length)))
  const four = <T extends Uint16Array | Float32Array>(from: T, out: T): T => {
    kept.forEach((p, i) => out.set(from.subarray(p * 4, p * 4 + 4), i * 4))
    return out
  }
  const corners = cornersOf(mesh, renamed)
  const indices: number[] = []
  for (let t = 0; t < mesh.indices.length; t += 3) {
    const ring: { corner: number; point: number }[] = []
    for (let k = 0; k < 3; k++) {
      const a = mesh.indices[t + k]!
      const b = mesh.indices[t + ((k + 1) % 3)]!
      const from = place.get(mesh.cornerPoints[a]!)
      const to = place.get(mesh.cornerPoints[b]!)
      ring.push({ corner: a, point: renamed[mesh.cornerPoints[a]!]! })
      if (from === undefined || to !== (from + 1) % edge.length) continue
      const end = to === 0 ? goesTo[0]! + loop.length : goesTo[to]!
      for (let j = goesTo[from]! + 1; j < end; j++) {
        const point = kept.length + (j % loop.length)
        ring.push({ corner: corners.between(a, b, (j - goesTo[from]!) / (end - goesTo[from]!), point), point })
      }
    }
    const open = ring.filter((r, i) => r.point !== ring[(i + 1) % ring.length]!.point)
    // a fan from a point off the edge, so that no triangle lies along it
    const tip = Math.max(
      0,
      open.findIndex((r) => r.point < kept.length),
    )
    for (let i = 1; i + 1 < open.length; i++)
      indices.push(...[0, i, i + 1].map((step) => open[(tip + step) % open.length]!.corner))
  }
  return {
    mesh: {
      ...mesh,
      ...corners.all(),
      positions,
      joints: four(mesh.joints, new Uint16Array(weld.length * 4)),
      weights: four(mesh.weights, new Float32Array(weld.length * 4)),
      morphs: mesh.morphs.map((m) => withoutPoints(m, place, renamed)),
      indices: Uint32Array.from(indices),
    },
    weld,
  }
}

/** A morph less what moved the edge: that goes with the body. */
function withoutPoints(morph: Morph, gone: ReadonlyMap<number, number>, renamed: Uint32Array): Morph {
  const stay = [...morph.points.keys()].filter((i) => !gone.has(morph.points[i]!))
  return {
    name: morph.name,
    points: Uint32Array.from(stay, (i) => renamed[morph.points[i]!]!),
    deltas: Float32Array.from(stay.flatMap((i) => [...morph.deltas.subarray(i * 3, i * 3 + 3)])),
  }
}

/** A mesh's corners on its renamed points, and new ones between two of them. */
function cornersOf(mesh: Mesh, renamed: Uint32Array) {
  const points = Array.from(mesh.cornerPoints, (p) => renamed[p]!)
  const [softness, shades, regions] = [[...mesh.softness], [...mesh.shades], [...mesh.regions]]
  const [normals, uvs] = [[...mesh.normals], [...mesh.uvs]]
  const mixed = (list: number[], size: number, a: number, b: number, t: number) => {
    for (let k = 0; k < size; k++) list.push(list[a * size + k]! * (1 - t) + list[b * size + k]! * t)
  }
  return {
    between(a: number, b: number, t: number, point: number): number {
      mixed(softness, 1, a, b, t)
      mixed(shades, 1, a, b, t)
      mixed(normals, 3, a, b, t)
      mixed(uvs, 2, a, b, t)
      regions.push(regions[a]!)
      return points.push(point) - 1
    },
    all: () => ({
      cornerPoints: Uint32Array.from(points),
      softness: Uint8Array.from(softness, Math.round),
      shades: Uint8Array.from(shades, Math.round),
      regions: Uint16Array.from(regions),
      normals: Float32Array.from(normals),
      uvs: Float32Array.from(uvs),
    }),
  }
}

/** Where a part's points go when its edge goes to the loop: those near the edge go along, by inverse squared distance. */
function blended(mesh: Mesh, { edge, goesTo, loop, skin }: Plan): Float32Array {
  const { positions } = mesh
  const moves = edge.map((p, i) => {
    const to = loop[goesTo[i]! % loop.length]!
    return [0, 1, 2].map((k) => skin[to * 3 + k]! - positions[p * 3 + k]!)
  })
  const farthest = Math.max(...moves.map((m) => Math.hypot(...m)))
  const out = positions.slice()
  if (farthest <= MET) return out
  const reach = Math.max(ringOf(skin, loop).radius * BLEND_RADIUS, farthest * BLEND_MOVE)
  const along = alongSurface(mesh, edge, reach)
  for (let p = 0; p < along.length; p++) {
    if (along[p]! >= reach) continue
    const fade = 1 - along[p]! / reach
    const weight = fade * fade * (3 - 2 * fade)
    const sum = [0, 0, 0]
    let all = 0
    edge.forEach((e, i) => {
      const w = 1 / (distance(positions, p, positions, e) ** 2 + 1e-10)
      for (let k = 0; k < 3; k++) sum[k]! += w * moves[i]![k]!
      all += w
    })
    for (let k = 0; k < 3; k++) out[p * 3 + k]! += (weight * sum[k]!) / all
  }
  return out
}

/** How far each point is from some others along edges (Dijkstra), metres; Infinity beyond the reach. */
export function alongSurface(mesh: Mesh, from: readonly number[], reach: number): Float64Array {
  const { positions } = mesh
  const { starts, items } = pointNeighbours(pointTriangles(mesh), positions.length / 3)
  const out = new Float64Array(positions.length / 3).fill(Infinity)
  for (const p of from) out[p] = 0
  const open = new Set(from)
  while (open.size) {
    let nearest = -1
    for (const p of open) if (nearest < 0 || out[p]! < out[nearest]!) nearest = p
    open.delete(nearest)
    for (let i = starts[nearest]!; i < starts[nearest + 1]!; i++) {
      const far = out[nearest]! + distance(positions, nearest, positions, items[i]!)
      if (far >= out[items[i]!]! || far > reach) continue
      out[items[i]!] = far
      open.add(items[i]!)
    }
  }
  return out
}

function distance(a: Float32Array, p: number, b: Float32Array, q: number): number {
  return Math.hypot(a[p * 3]! - b[q * 3]!, a[p * 3 + 1]! - b[q * 3 + 1]!, a[p * 3 + 2]! - b[q * 3 + 2]!)
}
