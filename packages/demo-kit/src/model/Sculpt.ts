import { add, along, cross, dot, flipX, mean, scale, size, sub, unit, type V3 } from './vector.ts'

/** A point of a model in the making. `limb`, `row` and `u` say where on the body it belongs. */
export interface Point {
  at: V3
  /** Which limb it is on; parts are picked by this, never by position. */
  limb: string
  /** Ring number along the limb. */
  row: number
  /** Place along the limb's axis, in the limb's own measure (height for the trunk). */
  u: number
  /** Away from the limb's axis, unit length. */
  out: V3
  /** Its name, where it has one: the same on both sides. */
  spot?: string
}

export interface Face {
  /** Three or four points, counter-clockwise from outside. */
  v: number[]
  /** Color region. */
  region: string
  /** Piece it belongs to: a limb, or a detail such as "button". */
  tag: string
  /** Row and column on its limb, -1 for details. */
  row: number
  col: number
}

/** A chain or loop of point indices. */
export type Chain = number[]

/**
 * A model in the making: polygons over points that remember where they belong. One unit is a
 * hundredth of the body's height.
 */
export class Sculpt {
  points: Point[] = []
  faces: Face[] = []
  /** What new points and faces are labeled with. */
  region = 'plain'
  tag = 'detail'
  limb = 'detail'

  add(at: V3, more: Partial<Point> = {}): number {
    for (const c of at) if (!Number.isFinite(c)) throw new RangeError(`point is not finite on ${this.limb}`)
    return this.points.push({ limb: this.limb, row: -1, u: 0, out: [0, 0, 0], ...more, at }) - 1
  }

  at(i: number): V3 {
    return this.points[i]!.at
  }

  /** Adds a polygon; repeated points are dropped and fewer than three make nothing. */
  face(v: readonly number[], more: Partial<Face> = {}): void {
    const clean = v.filter((p, i) => p !== v[(i + 1) % v.length])
    if (clean.length >= 3) this.faces.push({ region: this.region, tag: this.tag, row: -1, col: -1, ...more, v: clean })
  }

  /** Sets the labels for what is made inside. */
  as<T>(labels: { region?: string; tag?: string; limb?: string }, make: () => T): T {
    const { region, tag, limb } = this
    Object.assign(this, labels)
    const made = make()
    Object.assign(this, { region, tag, limb })
    return made
  }

  /** Quads between two chains of equal length; `closed` joins the ends. The second lies "after" the first, columns run counter-clockwise seen along the way. */
  loft(a: Chain, b: Chain, closed: boolean, more: Partial<Face> = {}, skip: readonly number[] = []): void {
    const n = a.length
    if (b.length !== n) throw new RangeError(`loft of ${n} and ${b.length} points`)
    for (let i = 0; i < (closed ? n : n - 1); i++) {
      if (skip.includes(i)) continue
      const j = (i + 1) % n
      this.face([a[i]!, a[j]!, b[j]!, b[i]!], { ...more, col: i + (more.col ?? 0) })
    }
  }

  /** Triangles between two chains of any lengths: each step takes the shorter diagonal, weighed by how far along each side is. */
  stitch(a: Chain, b: Chain, closed: boolean, more: Partial<Face> = {}): void {
    const ring = (c: Chain) => (closed ? [...c, c[0]!] : c)
    const [p, q] = [ring(a), ring(b)]
    let i = 0
    let j = 0
    while (i < p.length - 1 || j < q.length - 1) {
      const stepA =
        i < p.length - 1
          ? size(sub(this.at(p[i + 1]!), this.at(q[j]!))) + 4 * Math.abs((i + 1) / (p.length - 1) - j / (q.length - 1))
          : Infinity
      const stepB =
        j < q.length - 1
          ? size(sub(this.at(p[i]!), this.at(q[j + 1]!))) + 4 * Math.abs(i / (p.length - 1) - (j + 1) / (q.length - 1))
          : Infinity
      if (stepA <= stepB) {
        this.face([p[i]!, p[i + 1]!, q[j]!], { col: i, ...more })
        i++
      } else {
        this.face([p[i]!, q[j + 1]!, q[j]!], { col: i, ...more })
        j++
      }
    }
  }

  /** A fan from a loop to one point. */
  fan(loop: Chain, tip: number, more: Partial<Face> = {}): void {
    loop.forEach((p, i) => this.face([p, loop[(i + 1) % loop.length]!, tip], { col: i, ...more }))
  }

  /** Closes a loop with a fan around its middle, moved by `lift`. */
  cap(loop: Chain, lift: V3 = [0, 0, 0], more: Partial<Face> = {}): number {
    const { limb, row, u } = this.points[loop[0]!]!
    const tip = this.add(add(mean(loop.map((p) => this.at(p))), lift), { limb, row, u, out: unit(lift) })
    this.fan(loop, tip, more)
    return tip
  }

  /** A new chain beside an old one, and the quads between. */
  extrude(chain: Chain, closed: boolean, move: (p: Point, i: number) => V3, more: Partial<Face> = {}): Chain {
    const next = chain.map((p, i) => {
      const from = this.points[p]!
      return this.add(move(from, i), { limb: from.limb, row: from.row, u: from.u, out: from.out })
    })
    this.loft(chain, next, closed, more)
    return next
  }

  /** Adds another model's points and faces; returns the index of its first point. */
  merge(other: Sculpt, move: (p: V3) => V3 = (p) => p): number {
    const base = this.points.length
    for (const p of other.points) this.points.push({ ...p, at: move(p.at) })
    for (const f of other.faces) this.faces.push({ ...f, v: f.v.map((i) => i + base) })
    return base
  }

  copy(): Sculpt {
    const s = new Sculpt()
    s.merge(this)
    return s
  }

  flip(): this {
    for (const f of this.faces) f.v.reverse()
    return this
  }

  /** Completes a half made at x >= 0: points on x = 0 are shared, the rest doubled. Limbs "left…" become "right…". */
  mirror(): this {
    const twin = this.points.map((p, i) =>
      Math.abs(p.at[0]) < 1e-6
        ? i
        : this.points.push({ ...p, limb: otherSide(p.limb), at: flipX(p.at), out: flipX(p.out) }) - 1,
    )
    for (const p of this.points) if (Math.abs(p.at[0]) < 1e-6) p.at = [0, p.at[1], p.at[2]]
    for (const f of [...this.faces])
      this.faces.push({ ...f, tag: otherSide(f.tag), v: f.v.map((i) => twin[i]!).reverse() })
    return this
  }

  /** A mirrored copy of a detail, beside the original. */
  both(): this {
    const other = this.copy()
    for (const p of other.points) Object.assign(p, { at: flipX(p.at), out: flipX(p.out), limb: otherSide(p.limb) })
    for (const f of other.faces) f.tag = otherSide(f.tag)
    this.merge(other.flip())
    return this
  }

  move(f: (p: V3, point: Point) => V3): this {
    for (const p of this.points) p.at = f(p.at, p)
    return this
  }

  /** The faces that pass, with only their points. */
  peel(keep: (f: Face) => boolean): Sculpt {
    const s = new Sculpt()
    const placed = new Map<number, number>()
    for (const f of this.faces) {
      if (!keep(f)) continue
      s.faces.push({
        ...f,
        v: f.v.map((i) => {
          if (!placed.has(i)) placed.set(i, s.points.push({ ...this.points[i]! }) - 1)
          return placed.get(i)!
        }),
      })
    }
    return s
  }

  /** Pushes every point away from its limb's axis. */
  inflate(by: (p: Point) => number): this {
    for (const p of this.points) p.at = along(p.at, p.out, by(p))
    return this
  }

  paint(region: string | ((f: Face) => string)): this {
    for (const f of this.faces) f.region = typeof region === 'string' ? region : region(f)
    return this
  }

  /** Boundary edges joined to chains; closed ones are loops. They run with the faces they border. */
  rims(): Chain[] {
    const next = new Map<number, number[]>()
    const used = new Set<string>()
    for (const f of this.faces) f.v.forEach((a, i) => used.add(`${a} ${f.v[(i + 1) % f.v.length]!}`))
    for (const f of this.faces)
      f.v.forEach((a, i) => {
        const b = f.v[(i + 1) % f.v.length]!
        if (!used.has(`${b} ${a}`)) next.set(a, [...(next.get(a) ?? []), b])
      })
    const rims: Chain[] = []
    while (next.size) {
      const start = Math.min(...next.keys())
      const chain = [start]
      for (let at = start; next.has(at);) {
        const ways = next.get(at)!
        const to = ways.pop()!
        if (ways.length === 0) next.delete(at)
        if (to === start) break
        chain.push(to)
        at = to
      }
      rims.push(chain)
    }
    return rims
  }

  /** The loops around a limb's opening: the rim most of whose points lie on the limb. */
  opening(limb: string): Chain {
    const share = (rim: Chain) => rim.filter((p) => this.points[p]!.limb === limb).length / rim.length
    const best = this.rims().sort((a, b) => share(b) - share(a))[0]
    if (!best || share(best) < 0.5) throw new RangeError(`no opening at ${limb}`)
    return best
  }

  /** The points of one ring of a limb, in order around the vertical axis from front (+z) by the left (+x). */
  ring(limb: string, row: number): Chain {
    return this.points
      .map((p, i) => ({ p, i, angle: Math.atan2(p.at[0], p.at[2]) }))
      .filter(({ p }) => p.limb === limb && p.row === row)
      .map((e) => ({ ...e, angle: e.angle < -1e-6 ? e.angle + 2 * Math.PI : Math.max(0, e.angle) }))
      .sort((a, b) => a.angle - b.angle)
      .map(({ i }) => i)
  }

  /** Unit normals of the points: area-weighted over the faces around. */
  normals(): V3[] {
    const sums: V3[] = this.points.map(() => [0, 0, 0])
    for (const f of this.faces) {
      const n = this.faceNormal(f)
      for (const p of f.v) sums[p] = add(sums[p]!, n)
    }
    return sums.map(unit)
  }

  /** Normal with the length of twice the face's area (Newell 1974). */
  faceNormal(f: Face): V3 {
    let n: V3 = [0, 0, 0]
    f.v.forEach((p, i) => (n = add(n, cross(this.at(p), this.at(f.v[(i + 1) % f.v.length]!)))))
    return n
  }

  /** Turns a closed piece inside out if its faces wind inward. */
  outward(): this {
    let six = 0
    for (const f of this.faces)
      for (let i = 1; i + 1 < f.v.length; i++)
        six += dot(this.at(f.v[0]!), cross(this.at(f.v[i]!), this.at(f.v[i + 1]!)))
    return six < 0 ? this.flip() : this
  }

  /**
   * Turns an open shell into cloth: an inner wall `depth` below, and rims between. The inner wall
   * takes the lining region; where `inner` says no, it is left out, because nothing will ever show it.
   */
  thicken(depth: number | ((p: Point) => number), lining: string, inner: (f: Face) => boolean = () => true): this {
    const normals = this.normals()
    const outer = [...this.faces]
    const rims = this.rims()
    const base = this.points.length
    const depthAt = typeof depth === 'number' ? () => depth : depth
    const count = this.points.length
    for (let i = 0; i < count; i++) {
      const p = this.points[i]!
      this.points.push({ ...p, at: along(p.at, normals[i]!, -depthAt(p)) })
    }
    for (const f of outer)
      if (inner(f)) this.faces.push({ ...f, region: lining, v: f.v.map((i) => i + base).reverse() })
    for (const chain of rims)
      chain.forEach((a, i) => {
        const b = chain[(i + 1) % chain.length]!
        const owner = outer.find((f) => f.v.some((p, k) => p === a && f.v[(k + 1) % f.v.length] === b))
        if (owner) this.faces.push({ ...owner, v: [b, a, a + base, b + base] })
      })
    return this.tidy()
  }

  /** Drops points that no face uses. */
  tidy(): this {
    const used = new Set(this.faces.flatMap((f) => f.v))
    const kept = this.points.map((_, i) => i).filter((i) => used.has(i))
    const place = new Map(kept.map((i, k) => [i, k]))
    this.points = kept.map((i) => this.points[i]!)
    for (const f of this.faces) f.v = f.v.map((i) => place.get(i)!)
    return this
  }
}

function otherSide(name: string): string {
  return name.startsWith('left') ? `right${name.slice(4)}` : name
}

/**
 * Half of a superellipse ring: x = w sgn(s) |s|^(2/e), with its own depth to the front and to the
 * back; `n` points from the front center by +x to the back center.
 */
export function halfRing(n: number, w: number, front: number, back: number, e: number): V3[] {
  return Array.from({ length: n }, (_, k) => {
    const angle = (Math.PI * k) / (n - 1)
    const [s, c] = [Math.sin(angle), Math.cos(angle)]
    const x = k === 0 || k === n - 1 ? 0 : w * Math.abs(s) ** (2 / e)
    return [x, 0, (c >= 0 ? front : -back) * Math.abs(c) ** (2 / e)] as const
  })
}

/** A whole ring about an axis: `n` points starting in direction `up`, turning towards `front`; radii up, down, front, back. */
export function ringAround(
  center: V3,
  up: V3,
  front: V3,
  radii: readonly [number, number, number, number],
  e: number,
  n: number,
): V3[] {
  return Array.from({ length: n }, (_, k) => {
    const angle = (2 * Math.PI * k) / n
    const [c, s] = [Math.cos(angle), Math.sin(angle)]
    const ru = (c >= 0 ? radii[0] : -radii[1]) * Math.abs(c) ** (2 / e)
    const rf = (s >= 0 ? radii[2] : -radii[3]) * Math.abs(s) ** (2 / e)
    return along(along(center, up, ru), front, rf)
  })
}

/** A closed tube along a path: a ring of `sides` at every stop, capped at both ends. Radius 0 makes a tip. */
export function tube(
  path: readonly V3[],
  radius: number | readonly number[],
  sides: number,
  region: string,
  tag = 'detail',
  flat = 1,
): Sculpt {
  const s = new Sculpt()
  s.region = region
  s.tag = tag
  const r = (i: number) => (typeof radius === 'number' ? radius : radius[Math.min(i, radius.length - 1)]!)
  let last: Chain | null = null
  let side: V3 = [0, 0, 0]
  path.forEach((at, i) => {
    const dir = unit(sub(path[Math.min(i + 1, path.length - 1)]!, path[Math.max(0, i - 1)]!))
    // parallel transport keeps the tube from twisting
    side =
      i === 0
        ? unit(cross(dir, Math.abs(dir[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0]))
        : unit(sub(side, scale(dir, dot(side, dir))))
    const up = cross(side, dir)
    if (r(i) === 0) {
      const tip = s.add(at)
      if (last) s.fan(last, tip)
      else last = Array.from({ length: sides }, () => tip)
      return
    }
    const ring = Array.from({ length: sides }, (_, k) => {
      const angle = (2 * Math.PI * (k + 0.5)) / sides
      return s.add(along(along(at, side, r(i) * Math.cos(angle)), up, r(i) * flat * Math.sin(angle)))
    }).reverse()
    if (last) s.loft(last, ring, true)
    else if (sides > 4) s.cap([...ring].reverse())
    else s.face([...ring].reverse())
    last = ring
  })
  if (last && r(path.length - 1) > 0) {
    if (sides > 4) s.cap(last)
    else s.face(last)
  }
  return s.outward()
}

/** A closed tube without ends, around a loop of places. */
export function ropeRing(path: readonly V3[], radius: number, sides: number, region: string, flat = 1): Sculpt {
  const s = new Sculpt()
  s.region = region
  const center = mean(path)
  const rings = path.map((at, i) => {
    const dir = unit(sub(path[(i + 1) % path.length]!, path[(i + path.length - 1) % path.length]!))
    const out = unit(sub(sub(at, center), scale(dir, dot(sub(at, center), dir))))
    const up = cross(dir, out)
    return Array.from({ length: sides }, (_, k) => {
      const angle = (2 * Math.PI * (k + 0.5)) / sides
      return s.add(along(along(at, out, radius * flat * Math.cos(angle)), up, radius * Math.sin(angle)))
    })
  })
  rings.forEach((ring, i) => s.loft(rings[(i + 1) % rings.length]!, ring, true))
  return s.outward()
}

/** A box from its center, half sizes along three directions, tapered towards `top` (+up). */
export function box(
  center: V3,
  half: V3,
  region: string,
  taper = 1,
  axes: readonly [V3, V3, V3] = [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ],
): Sculpt {
  const s = new Sculpt()
  s.region = region
  const corner = (x: number, y: number, z: number) => {
    const t = y > 0 ? taper : 1
    return s.add(along(along(along(center, axes[0], x * half[0] * t), axes[1], y * half[1]), axes[2], z * half[2] * t))
  }
  const low = [corner(-1, -1, 1), corner(1, -1, 1), corner(1, -1, -1), corner(-1, -1, -1)]
  const high = [corner(-1, 1, 1), corner(1, 1, 1), corner(1, 1, -1), corner(-1, 1, -1)]
  s.loft(low, high, true)
  s.face(high)
  s.face([...low].reverse())
  return s.outward()
}

/** Rings of a solid of revolution about +y, [height, radius] from bottom to top, closed at both ends. */
export function lathe(
  profile: readonly (readonly [number, number])[],
  sides: number,
  region: string,
  center: V3 = [0, 0, 0],
  squash = 1,
): Sculpt {
  const s = new Sculpt()
  s.region = region
  let last: Chain | null = null
  profile.forEach(([y, r], i) => {
    if (r === 0) {
      const tip = s.add(add(center, [0, y, 0]))
      if (last) s.fan(last, tip)
      else last = Array.from({ length: sides }, () => tip)
      return
    }
    const ring = Array.from({ length: sides }, (_, k) => {
      const angle = (2 * Math.PI * k) / sides
      return s.add(add(center, [r * Math.sin(angle), y, r * squash * Math.cos(angle)]))
    })
    if (last) s.loft(last, ring, true)
    else s.cap([...ring].reverse())
    if (i === profile.length - 1) s.cap(ring)
    last = ring
  })
  return s.outward()
}
