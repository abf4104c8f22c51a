import type { BodyEntry, Look } from './manifest.ts'
import type { Moves, Piece } from './Piece.ts'

/* Lengths are metres; +Y up, +Z to the front. Nothing here knows what draws it. */

/** Numbers of a mesh that is made again and again: they grow, and are used as far as `corners` and `indices` say. */
export interface AssembledMesh {
  corners: number
  indices: number
  position: Float32Array // xyz a corner
  normal: Float32Array // xyz a corner, unit length
  uv: Float32Array // uv a corner, in the atlas
  color: Uint8Array // rgb a corner, shares of 255, linear
  skinIndex: Uint16Array // four a corner, into `bones`
  skinWeight: Float32Array // four a corner
  index: Uint32Array
}

/** What acts on a shape: a morph's place, and how strongly. */
export type Active = readonly (readonly [morph: number, weight: number])[]

/** How strongly each of a body's morphs acts in a look. */
export const weightsOf = (body: BodyEntry, look: Look): [number, number][] =>
  body.morphs.map((_, m) => [m, weightOf(body, m, look)])

/** How strongly a morph acts in a look. */
export function weightOf(body: BodyEntry, morph: number, look: Look): number {
  const { kind, when } = body.morphs[morph]!
  if (kind === 'expression') {
    for (let i = 0; i < body.expressions.length; i++)
      if (body.expressions[i]!.morph === morph) return body.expressions[i]!.id === look.expression ? 1 : 0
    return 0
  }
  let weight = 1
  for (let i = 0; i < when.length; i++) {
    const { id, start } = body.sliders[when[i]!.slider]!
    const value = look.sliders[id] ?? start
    weight *= Math.max(0, when[i]!.end === 'up' ? value : -value)
  }
  return weight
}

/**
 * Pieces put together to one mesh. Dressing anew allocates only where it needs more room than ever before; sliders
 * allocate nothing.
 */
export class Assembly {
  readonly mesh: AssembledMesh = {
    ...{ corners: 0, indices: 0, position: new Float32Array(0), normal: new Float32Array(0) },
    ...{ uv: new Float32Array(0), color: new Uint8Array(0), skinIndex: new Uint16Array(0) },
    ...{ skinWeight: new Float32Array(0), index: new Uint32Array(0) },
  }
  /** Bones that what is worn hangs on: places in the manifest's list, parents first. */
  bones: number[] = []
  /** Joints as sliders have them: xyz a bone of the manifest, not yet raised. */
  readonly joints: Float32Array
  /** The pieces that are drawn, the body's first: runs of `mesh.index`. */
  runs: { option: number | null; from: number; to: number }[] = []
  /** How far it has to be raised so that its soles stand on the ground. */
  lift = 0

  private vertices = 0
  private rest = new Float32Array(0)
  private shaped = new Float32Array(0)
  private smooth = new Float32Array(0)
  /** By vertex: the one whose normal it shares. */
  private first = new Uint32Array(0)
  private fitted = new Float32Array(0)
  /** 1 for vertices that are drawn. */
  private drawn = new Uint8Array(0)
  /** By corner. */
  private vertexOf = new Uint32Array(0)
  private regionOf = new Uint16Array(0)
  private shadeOf = new Uint8Array(0)
  private softnessOf = new Uint8Array(0)
  private ownUv = new Float32Array(0)
  private cornerOf = new Int32Array(0)
  private standing: number[] = []
  private moving: { morph: number; moves: Moves; base: number }[] = []

  constructor(private readonly body: BodyEntry) {
    this.joints = new Float32Array(body.bones.length * 3)
  }

  /**
   * Puts pieces together, as they lie with each other; the shape is to be made after it.
   *
   * @param pieces the body's first, then those of the options that are worn
   * @param level  0 for the finest; a piece that has fewer gives its coarsest
   */
  dress(pieces: readonly Piece[], level: number): void {
    const worn = new Set(pieces.flatMap((p) => (p.option === null ? [] : [p.option])))
    const total = pieces.reduce((sum, p) => sum + p.count, 0)
    this.vertices = total
    this.rest = room(this.rest, total * 3)
    this.shaped = room(this.shaped, total * 3)
    this.smooth = room(this.smooth, total * 3)
    this.first = room(this.first, total)
    this.fitted = room(this.fitted, total * 3)
    this.drawn = room(this.drawn, total)
    this.drawn.fill(0, 0, total)
    this.moving = []
    this.standing = []
    this.bonesWorn(worn)
    const boneAt = new Int32Array(this.body.bones.length)
    this.bones.forEach((bone, i) => (boneAt[bone] = i))
    const { mesh } = this
    mesh.corners = mesh.indices = 0
    const most = pieces.map((p) => p.levels[Math.min(level, p.levels.length - 1)]!)
    this.makeRoom(
      most.reduce((sum, l) => sum + l.corners.length, 0),
      most.reduce((sum, l) => sum + l.triangles.length, 0),
    )
    this.runs = []
    let base = 0
    for (const [i, piece] of pieces.entries()) {
      const from = mesh.indices
      this.rest.set(piece.positions, base * 3)
      for (let v = 0; v < piece.count; v++) this.first[base + v] = base + piece.first[v]!
      // along a seam it is shaded with the body, which comes first
      for (let k = 0; k < piece.welds.length; k += 2)
        if (piece.welds[k + 1]! < pieces[0]!.count) this.first[base + piece.welds[k]!] = piece.welds[k + 1]!
      this.fit(piece, base, worn)
      for (const { morph, moves } of piece.morphs) this.moving.push({ morph, moves, base })
      this.addCorners(piece, most[i]!, base, worn, boneAt)
      this.runs.push({ option: piece.option, from, to: mesh.indices })
      base += piece.count
    }
  }

  /** Sliders and face as strongly as they act: moves, joints, the ground, normals. */
  shape(active: Active): void {
    const { mesh, vertices, shaped } = this
    shaped.set(this.rest.subarray(0, vertices * 3))
    for (let a = 0; a < active.length; a++) {
      const morph = active[a]![0]
      const weight = active[a]![1]
      if (weight === 0) continue
      for (let i = 0; i < this.moving.length; i++)
        if (this.moving[i]!.morph === morph) addMoves(this.moving[i]!.moves, weight, this.moving[i]!.base, shaped)
    }
    this.moveJoints(active)
    let lowest = Infinity
    const { standing } = this
    for (let i = 0; i < standing.length; i++) lowest = Math.min(lowest, shaped[standing[i]! * 3 + 1]!)
    if (standing.length === 0)
      for (let c = 0; c < mesh.corners; c++) lowest = Math.min(lowest, shaped[this.vertexOf[c]! * 3 + 1]!)
    this.lift = Number.isFinite(lowest) ? -lowest : 0
    for (let c = 0; c < mesh.corners; c++) {
      const from = this.vertexOf[c]! * 3
      const to = c * 3
      mesh.position[to] = shaped[from]!
      mesh.position[to + 1] = shaped[from + 1]!
      mesh.position[to + 2] = shaped[from + 2]!
    }
    this.makeNormals()
  }

  /**
   * Colors by region.
   *
   * @param swatchOf which swatch of its color a region has
   */
  paint(swatchOf: (region: number) => number): void {
    const { mesh, body } = this
    const looks = body.regions.map(({ cells, picture, color }, region) => {
      const swatch = swatchOf(region)
      const tint = picture && color !== null ? linear(body.colors[color]!.swatches[swatch]?.color ?? '#ffffff') : null
      return { cell: picture ? null : (cells[swatch] ?? cells[0] ?? [0, 0]), tint }
    })
    for (let c = 0; c < mesh.corners; c++) {
      const { cell, tint } = looks[this.regionOf[c]!]!
      mesh.uv[c * 2] = cell ? cell[0] : this.ownUv[c * 2]!
      mesh.uv[c * 2 + 1] = cell ? cell[1] : this.ownUv[c * 2 + 1]!
      for (let k = 0; k < 3; k++) mesh.color[c * 3 + k] = Math.round(this.shadeOf[c]! * (tint ? tint[k]! : 1))
    }
  }

  /** Colors as a look has them. */
  paintLook({ colors }: Pick<Look, 'colors'>): void {
    const { body } = this
    const chosen = body.colors.map(({ id, swatches, start }) => {
      const at = swatches.findIndex((s) => s.color === colors[id])
      return at < 0 ? start : at
    })
    this.paint((region) => {
      const { color } = body.regions[region]!
      return color === null ? 0 : chosen[color]!
    })
  }

  private bonesWorn(worn: ReadonlySet<number>): void {
    this.bones = this.body.bones.flatMap(({ of }, i) => (of === null || worn.has(of) ? [i] : []))
  }

  private makeRoom(corners: number, indices: number): void {
    const { mesh } = this
    mesh.position = room(mesh.position, corners * 3)
    mesh.normal = room(mesh.normal, corners * 3)
    mesh.uv = room(mesh.uv, corners * 2)
    mesh.color = room(mesh.color, corners * 3)
    mesh.skinIndex = room(mesh.skinIndex, corners * 4)
    mesh.skinWeight = room(mesh.skinWeight, corners * 4)
    mesh.index = room(mesh.index, indices)
    this.vertexOf = room(this.vertexOf, corners)
    this.regionOf = room(this.regionOf, corners)
    this.shadeOf = room(this.shadeOf, corners)
    this.softnessOf = room(this.softnessOf, corners)
    this.ownUv = room(this.ownUv, corners * 2)
    this.cornerOf = room(this.cornerOf, corners)
  }

  /** Out over what is worn beneath, in under what is worn above: of several the strongest counts. */
  private fit({ fits }: Piece, base: number, worn: ReadonlySet<number>): void {
    const { rest, fitted } = this
    const own = fits.filter((f) => worn.has(f.with))
    for (const { moves } of own)
      for (let i = 0; i < moves.rows.length; i++)
        fitted.fill(0, (base + moves.rows[i]!) * 3, (base + moves.rows[i]!) * 3 + 3)
    for (const { moves } of own)
      for (let i = 0; i < moves.rows.length; i++) {
        const at = (base + moves.rows[i]!) * 3
        const { values } = moves
        const [x, y, z] = [values[i * 3]!, values[i * 3 + 1]!, values[i * 3 + 2]!]
        const before = fitted[at]! ** 2 + fitted[at + 1]! ** 2 + fitted[at + 2]! ** 2
        if (x * x + y * y + z * z <= before) continue
        for (let k = 0; k < 3; k++) {
          rest[at + k]! += values[i * 3 + k]! - fitted[at + k]!
          fitted[at + k] = values[i * 3 + k]!
        }
      }
  }

  private addCorners(
    piece: Piece,
    { corners, shades, softness, triangles, patches }: Piece['levels'][number],
    base: number,
    worn: ReadonlySet<number>,
    boneAt: Int32Array,
  ): void {
    const { mesh, cornerOf } = this
    cornerOf.fill(-1, 0, corners.length)
    for (const { from, to, hiddenBy } of patches) {
      if (hiddenBy.some((o) => worn.has(o))) continue
      for (let i = from; i < to; i++) {
        const corner = triangles[i]!
        let at = cornerOf[corner]!
        if (at < 0) {
          at = cornerOf[corner] = mesh.corners++
          const v = corners[corner]!
          this.vertexOf[at] = base + v
          this.drawn[base + v] = 1
          this.regionOf[at] = piece.regions[v]!
          this.shadeOf[at] = shades[corner]!
          this.softnessOf[at] = softness[corner]!
          this.ownUv[at * 2] = piece.uvs[v * 2]!
          this.ownUv[at * 2 + 1] = piece.uvs[v * 2 + 1]!
          for (let k = 0; k < 4; k++) {
            const weight = piece.weights[v * 4 + k]!
            mesh.skinWeight[at * 4 + k] = weight
            mesh.skinIndex[at * 4 + k] = weight > 0 ? boneAt[piece.joints[v * 4 + k]!]! : 0
          }
        }
        mesh.index[mesh.indices++] = at
      }
    }
    for (const v of piece.ground) if (this.drawn[base + v]) this.standing.push(base + v)
  }

  private moveJoints(active: Active): void {
    const { joints, body } = this
    for (let b = 0; b < body.bones.length; b++) for (let k = 0; k < 3; k++) joints[b * 3 + k] = body.bones[b]!.at[k]!
    for (let a = 0; a < active.length; a++) {
      const morph = active[a]![0]
      const weight = active[a]![1]
      if (weight === 0) continue
      const moves = body.morphs[morph]!.joints
      for (let i = 0; i < moves.length; i++)
        for (let k = 0; k < 3; k++) joints[moves[i]![0] * 3 + k]! += weight * moves[i]![k + 1]!
    }
  }

  /** A corner has the mean of its own triangles, leaned towards that of its point as far as it is soft. */
  private makeNormals(): void {
    const { mesh, shaped, smooth, first, vertexOf } = this
    const { normal, index } = mesh
    normal.fill(0, 0, mesh.corners * 3)
    smooth.fill(0, 0, this.vertices * 3)
    // written out: arrays that are taken apart at once are garbage all the same
    for (let t = 0; t < mesh.indices; t += 3) {
      const ca = index[t]!
      const cb = index[t + 1]!
      const cc = index[t + 2]!
      const va = vertexOf[ca]!
      const vb = vertexOf[cb]!
      const vc = vertexOf[cc]!
      const a = va * 3
      const ux = shaped[vb * 3]! - shaped[a]!
      const uy = shaped[vb * 3 + 1]! - shaped[a + 1]!
      const uz = shaped[vb * 3 + 2]! - shaped[a + 2]!
      const vx = shaped[vc * 3]! - shaped[a]!
      const vy = shaped[vc * 3 + 1]! - shaped[a + 1]!
      const vz = shaped[vc * 3 + 2]! - shaped[a + 2]!
      const x = uy * vz - uz * vy
      const y = uz * vx - ux * vz
      const z = ux * vy - uy * vx
      add(normal, ca, x, y, z)
      add(normal, cb, x, y, z)
      add(normal, cc, x, y, z)
      add(smooth, first[va]!, x, y, z)
      add(smooth, first[vb]!, x, y, z)
      add(smooth, first[vc]!, x, y, z)
    }
    for (let c = 0; c < mesh.corners; c++) {
      const i = c * 3
      unit(normal, i)
      const soft = this.softnessOf[c]! / 255
      if (soft === 0) continue
      const s = first[vertexOf[c]!]! * 3
      const length = Math.sqrt(smooth[s]! ** 2 + smooth[s + 1]! ** 2 + smooth[s + 2]! ** 2)
      if (length > 0) for (let k = 0; k < 3; k++) normal[i + k]! += (smooth[s + k]! / length - normal[i + k]!) * soft
      unit(normal, i)
    }
  }
}

function add(out: Float32Array, at: number, x: number, y: number, z: number): void {
  out[at * 3]! += x
  out[at * 3 + 1]! += y
  out[at * 3 + 2]! += z
}

function unit(out: Float32Array, i: number): void {
  const length = Math.sqrt(out[i]! ** 2 + out[i + 1]! ** 2 + out[i + 2]! ** 2)
  if (length > 1e-20) for (let k = 0; k < 3; k++) out[i + k]! /= length
  else out[i + 1] = 1
}

function addMoves({ rows, values }: Moves, weight: number, base: number, out: Float32Array): void {
  for (let i = 0; i < rows.length; i++) {
    const o = (base + rows[i]!) * 3
    out[o]! += weight * values[i * 3]!
    out[o + 1]! += weight * values[i * 3 + 1]!
    out[o + 2]! += weight * values[i * 3 + 2]!
  }
}

/** The same array while it is large enough, else one with half as much room again. */
function room<T extends Float32Array | Uint32Array | Uint16Array | Uint8Array | Int32Array>(old: T, length: number): T {
  if (old.length >= length) return old
  return new (old.constructor as new (length: number) => T)(Math.ceil(length * 1.5))
}

/** "#rrggbb" as shares of light. */
function linear(color: string): [number, number, number] {
  const n = Number.parseInt(color.slice(1), 16) || 0
  const one = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
  return [one((n >> 16) / 255), one(((n >> 8) & 255) / 255), one((n & 255) / 255)]
}
