import type { Surface } from '@idle-tinker/core'
import { surfaceOf } from './bake.ts'
import { Sculpt, tube, type Chain, type Face, type Point } from './Sculpt.ts'
import { along, cross, lerp, mean, scale, sub, unit, type V3 } from './vector.ts'

/** What parts are fitted to: a body's shape, its surface and smooth normals. */
export class Dummy {
  readonly sculpt: Sculpt
  readonly surface: Surface
  private readonly normals: V3[]
  private readonly bodyOnly: Surface
  private readonly headOnly: Surface

  constructor(sculpt: Sculpt) {
    this.sculpt = sculpt
    this.surface = surfaceOf(sculpt)
    this.bodyOnly = surfaceOf(sculpt.peel((f) => f.tag !== 'ear'))
    this.headOnly = surfaceOf(sculpt.peel((f) => f.tag === 'head' || (f.tag === 'neck' && f.row >= 1)))
    this.normals = sculpt.normals()
  }

  /** The chosen faces of the body, moved off it along the body's normals: the start of every garment. */
  wear(keep: (f: Face) => boolean, region: string, offset: (p: Point) => number): Sculpt {
    const out = new Map(this.sculpt.points.map((p, i) => [p.at, this.normals[i]!]))
    const s = this.sculpt.peel((f) => f.tag !== 'ear' && keep(f))
    for (const p of s.points) p.at = along(p.at, out.get(p.at)!, offset(p))
    s.region = region
    return s.paint(region)
  }

  /** The place on the body seen from outside along a direction towards an axis point, lifted off it. */
  from(axis: V3, direction: V3, lift: number): V3 {
    const d = unit(direction)
    const far = along(axis, d, 60)
    const hit = this.bodyOnly.castRay(far[0], far[1], far[2], -d[0], -d[1], -d[2], 0, 120)
    const r = hit === Infinity ? 6 : 60 - hit
    return along(axis, d, r + lift)
  }

  /** The same on the trunk alone, with the roots of its limbs. */
  fromTrunk(axis: V3, direction: V3, lift: number): V3 {
    const d = unit(direction)
    const hit = this.trunk.castRay(...along(axis, d, 80), -d[0], -d[1], -d[2], 0, 80)
    return along(axis, d, (hit === Infinity ? 6 : 80 - hit) + lift)
  }

  /** The same on the head alone, its ears left out. */
  fromHead(axis: V3, direction: V3, lift: number): V3 {
    const d = unit(direction)
    const hit = this.headOnly.castRay(...along(axis, d, 40), -d[0], -d[1], -d[2], 0, 39.5)
    return along(axis, d, (hit === Infinity ? 8.5 : 40 - hit) + lift)
  }

  /** The place on the front of the body at x, y. */
  front(x: number, y: number, lift: number): V3 {
    const hit = this.bodyOnly.castRay(x, y, 60, 0, 0, -1, 0, 120)
    return [x, y, (hit === Infinity ? 0 : 60 - hit) + lift]
  }

  /** A level ring around the trunk at a height, by rays towards its axis. Counter-clockwise from the front. */
  trunkRing(y: number, offset: number | ((angle: number) => number), n = 16, z = -0.5): V3[] {
    const torso = this.trunk
    return Array.from({ length: n }, (_, k) => {
      const a = (2 * Math.PI * k) / n
      const d: V3 = [Math.sin(a), 0, Math.cos(a)]
      const hit = torso.castRay(d[0] * 60, y, z + d[2] * 60, -d[0], 0, -d[2], 0, 120)
      const r = (hit === Infinity ? 8 : 60 - hit) + (typeof offset === 'number' ? offset : offset(a))
      return [d[0] * r, y, z + d[2] * r]
    })
  }

  private trunkSurface: Surface | null = null
  private get trunk(): Surface {
    this.trunkSurface ??= surfaceOf(
      this.sculpt.peel((f) => f.tag === 'torso' || f.tag === 'neck' || (/Leg$/.test(f.tag) && f.row <= 1)),
    )
    return this.trunkSurface
  }
}

export type RowRange = readonly [first: number, last: number]

/** Picks body faces by limb and band. */
export function bands(pick: {
  torso?: RowRange
  neck?: RowRange
  arm?: RowRange
  hand?: RowRange
  leg?: RowRange
  foot?: RowRange
}): (f: Face) => boolean {
  const within = (row: number, range: RowRange | undefined) => range !== undefined && row >= range[0] && row <= range[1]
  return (f) => {
    if (f.tag === 'torso') return within(f.row, pick.torso)
    if (f.tag === 'neck') return within(f.row, pick.neck)
    if (f.tag.endsWith('Arm')) return within(f.row, pick.arm)
    if (f.tag.endsWith('Hand')) return within(f.row, pick.hand)
    if (f.tag.endsWith('Leg')) return within(f.row, pick.leg)
    if (f.tag.endsWith('Foot')) return within(f.row, pick.foot)
    return false
  }
}

/** The rim points whose limb passes, in order, as loops or chains. */
export function rimAt(s: Sculpt, pick: (p: Point) => boolean): Chain {
  const rims = s.rims()
  const share = (rim: Chain) => rim.filter((p) => pick(s.points[p]!)).length / rim.length
  const best = rims.sort((a, b) => share(b) - share(a))[0]
  if (!best || share(best) < 0.5) throw new RangeError('no such rim')
  return best
}

/**
 * Widens an opening in steps from its rim: [outward, along] for each step, where outward is away
 * from the rim's middle and along is the direction given. Rims run with their faces, so new bands
 * are laid the other way round.
 */
export function flare(
  s: Sculpt,
  rim: Chain,
  direction: V3,
  steps: readonly (readonly [number, number])[],
  region: string,
  tag = 'cuff',
): Chain {
  let chain = rim
  const d = unit(direction)
  for (const [outward, forward] of steps) {
    const middle = mean(chain.map((p) => s.at(p)))
    const from = chain
    const next = from.map((p) => {
      const at = s.at(p)
      const radial = sub(at, middle)
      const flat = unit(sub(radial, scale(d, radial[0] * d[0] + radial[1] * d[1] + radial[2] * d[2])))
      const { limb, row, u } = s.points[p]!
      return s.add(along(along(at, flat, outward), d, forward), { limb, row, u, out: flat })
    })
    // a rim runs with the faces inside it, so a band beyond it runs against
    from.forEach((p, i) => {
      const j = (i + 1) % from.length
      s.face([from[j]!, p, next[i]!, next[j]!], { region, tag })
    })
    chain = next
  }
  return chain
}

/** A closed band around rings of equal length: outer wall, inner wall, both edges. */
export function thickBand(
  lower: readonly V3[],
  upper: readonly V3[],
  thick: number,
  region: string,
  tag = 'band',
): Sculpt {
  const s = new Sculpt()
  s.region = region
  s.tag = tag
  const middle = mean([...lower, ...upper])
  const ring = (points: readonly V3[], out: number) =>
    points.map((p) => s.add(along(p, unit([p[0] - middle[0], 0, p[2] - middle[2]]), out)))
  const [a, b, c, d] = [ring(lower, thick), ring(upper, thick), ring(upper, -0.1), ring(lower, -0.1)]
  s.loft(a, b, true)
  s.loft(b, c, true)
  s.loft(c, d, true)
  s.loft(d, a, true)
  return s.outward()
}

/** A patch of cloth standing on rows of points: a grid with thickness, closed. */
export function slab(
  grid: readonly (readonly V3[])[],
  thick: number,
  region: string,
  back = region,
  tag = 'slab',
): Sculpt {
  const s = new Sculpt()
  s.region = region
  s.tag = tag
  const rows = grid.map((row) => row.map((p) => s.add(p)))
  for (let r = 0; r + 1 < rows.length; r++) s.loft(rows[r]!, rows[r + 1]!, false, { row: r })
  return s.thicken(thick, back).outward()
}

/** A button or rivet facing a direction; its underside is sunk and left open. */
export function stud(at: V3, facing: V3, radius: number, height: number, region: string, sides = 5): Sculpt {
  const s = new Sculpt()
  s.region = region
  s.tag = 'stud'
  const n = unit(facing)
  const side = unit(cross(Math.abs(n[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0], n))
  const up = cross(n, side)
  const ring = (r: number, h: number) =>
    Array.from({ length: sides }, (_, k) => {
      const a = (2 * Math.PI * k) / sides
      return s.add(along(along(along(at, n, h), side, r * Math.cos(a)), up, r * Math.sin(a)))
    })
  const top = ring(radius * 0.7, height)
  s.loft(ring(radius, -height), top, true)
  s.cap(top)
  return s
}

/** A tapered, flattened lock of hair, leaf or fin along a path. */
export function lock(path: readonly V3[], width: number, region: string, sides = 4, tag = 'hair'): Sculpt {
  const n = path.length - 1
  const radii = path.map((_, i) => (i === n ? 0 : i === 0 ? width * 0.55 : width * (1 - (0.55 * i) / n)))
  return tube(path, radii, sides, region, tag, 0.55)
}

/** A path bent through places, with `n` stops (Catmull-Rom 1974). */
export function bentPath(places: readonly V3[], n: number): V3[] {
  const at = (i: number) => places[Math.min(places.length - 1, Math.max(0, i))]!
  return Array.from({ length: n }, (_, k) => {
    const t = (k / (n - 1)) * (places.length - 1)
    const i = Math.min(places.length - 2, Math.floor(t))
    const f = t - i
    const [a, b, c, d] = [at(i - 1), at(i), at(i + 1), at(i + 2)]
    const axis = (x: number, y: number, z: number, w: number) =>
      0.5 * (2 * y + (z - x) * f + (2 * x - 5 * y + 4 * z - w) * f * f + (3 * y - x - 3 * z + w) * f ** 3)
    return [axis(a[0], b[0], c[0], d[0]), axis(a[1], b[1], c[1], d[1]), axis(a[2], b[2], c[2], d[2])]
  })
}

export interface ShellSpec {
  region: string
  columns: number
  rows: number
  /** Elevation of the lower edge at an azimuth, degrees; 0 front, 90 the left ear, 180 back. */
  edge: (azimuth: number) => number
  /** Distance from the scalp at an azimuth and a share 0 (crown) .. 1 (edge). */
  thick: (azimuth: number, share: number) => number
  /** Elevation at which the shell begins; 90 for a whole cap. */
  from?: (azimuth: number) => number
  /** How much every other point of the edge hangs down, degrees. */
  zigzag?: number
  tag?: string
  /** Azimuths at which the shell is open, as [from, to] of what there is; whole if absent. */
  span?: readonly [number, number]
}

/** A shell around a head as seen from its middle: hair, hoods, caps. Its edges turn in to the scalp. */
export function headShell(dummy: Dummy, center: V3, spec: ShellSpec): Sculpt {
  const s = new Sculpt()
  s.region = spec.region
  s.tag = spec.tag ?? 'hair'
  s.limb = 'headwear'
  const { columns, rows } = spec
  const whole = !spec.span
  const [start, end] = spec.span ?? [0, 360]
  const azimuths = Array.from(
    { length: whole ? columns : columns + 1 },
    (_, k) => start + ((end - start) * k) / columns,
  )
  const place = (az: number, elevation: number, lift: number): V3 => {
    const [a, e] = [(az * Math.PI) / 180, (elevation * Math.PI) / 180]
    return dummy.fromHead(center, [Math.sin(a) * Math.cos(e), Math.sin(e), Math.cos(a) * Math.cos(e)], lift)
  }
  const elevation = (az: number, share: number, k: number) => {
    const from = spec.from?.(az) ?? 90
    const to = spec.edge(az) - (k % 2 ? (spec.zigzag ?? 0) : 0)
    return from + (to - from) * share
  }
  const first = spec.from ? 0 : 1
  const rings: Chain[] = []
  for (let r = rows; r >= first; r--)
    rings.push(azimuths.map((az, k) => s.add(place(az, elevation(az, r / rows, k), spec.thick(az, r / rows)))))
  const inner = azimuths.map((az, k) => s.add(place(az, elevation(az, 0.97, k), -0.25)))
  rings.unshift(inner)
  for (let i = 0; i + 1 < rings.length; i++) s.loft(rings[i]!, rings[i + 1]!, whole, { row: i })
  const top = rings[rings.length - 1]!
  if (!spec.from) s.fan(top, s.add(place(0, 90, spec.thick(0, 0))))
  else {
    const tuck = azimuths.map((az) => s.add(place(az, spec.from!(az) - 1, -0.25)))
    s.loft(top, tuck, whole)
  }
  if (!whole)
    for (const [k, dir] of [
      [0, 1],
      [azimuths.length - 1, -1],
    ] as const) {
      const side = rings.map((r) => r[k]!)
      const inside = rings.map((r) => s.add(lerp(s.at(r[k]!), center, 0.14)))
      if (dir > 0) s.loft(side, inside, false)
      else s.loft(inside, side, false)
    }
  return s
}
