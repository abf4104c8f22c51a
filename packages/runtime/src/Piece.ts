import { Glb } from './readGlb.ts'
import type { BodyEntry } from './manifest.ts'

/** Some of a piece's vertices, and how each moves: xyz a row, metres. */
export interface Moves {
  rows: Uint16Array
  values: Float32Array
}

/** Triangles that are drawn unless one of some options is worn. */
export interface Patch {
  /** In corners of triangles, from the first on. */
  from: number
  to: number
  hiddenBy: number[]
}

export interface PieceLevel {
  /** The vertex under each corner. */
  corners: Uint16Array
  shades: Uint8Array
  softness: Uint8Array
  triangles: Uint16Array
  patches: Patch[]
}

/** The body, or what one option puts on. */
export interface Piece {
  /** null for the body. */
  option: number | null
  count: number
  /** xyz a vertex, metres, with every slider at 0. */
  positions: Float32Array
  joints: Uint16Array
  weights: Float32Array
  uvs: Float32Array
  regions: Uint16Array
  /** By vertex: the first at the same point. */
  first: Uint16Array
  /** Vertex and the body's vertex it is one with, in pairs. */
  welds: Uint16Array
  ground: Uint16Array
  morphs: { morph: number; moves: Moves }[]
  fits: { with: number; moves: Moves }[]
  levels: PieceLevel[]
}

interface Extras {
  option: number | null
  level: number
  corners: number
  shades: number
  softness: number
  triangles: number
  patches: [number, number[]][]
  regions?: number
  same?: number
  welds?: number
  ground?: number
  fits?: { of: [number, number][]; rows: number; moves: number }
}

const KEY = 'idleTinkerPiece'

/** Reads the pieces of a file. Throws where it is not whole, or made for another skeleton than the manifest has. */
export function readPieces(glb: Glb, body: BodyEntry): Piece[] {
  const { nodes = [], meshes = [], skins = [] } = glb.json
  const bones = (skins[0]?.joints ?? []).map((j) => nodes[j]?.name)
  if (bones.length !== body.bones.length || body.bones.some((b, i) => b.name !== bones[i]))
    throw new Error('it is for another skeleton')
  const morphOf = new Map(body.morphs.map((m, i) => [m.name, i]))
  const pieces: Piece[] = []
  for (const mesh of meshes) {
    const extras = mesh.extras?.[KEY] as Extras | undefined
    if (!extras) continue
    if (extras.level > 0) {
      const piece = pieces.at(-1)
      if (!piece || piece.option !== extras.option) throw new Error('a level is of no piece')
      piece.levels.push(readLevel(glb, extras, piece.count, body))
      continue
    }
    const { attributes, targets = [] } = mesh.primitives[0]!
    const counted = glb.numbers(attributes.POSITION!)
    const count = counted.length / 3
    const metres = (values: ArrayLike<number>) => Float32Array.from(values, (v) => v * body.unit)
    const rowsWithin = (rows: Uint16Array) => {
      if (rows.some((r) => r >= count)) throw new Error('it names vertices it does not have')
      return rows
    }
    const list = (index: number | undefined) =>
      index === undefined ? new Uint16Array(0) : rowsWithin(Uint16Array.from(glb.numbers(index)))
    const first = Uint16Array.from({ length: count }, (_, v) => v)
    const same = list(extras.same)
    for (let i = 0; i < same.length; i += 2) first[same[i]!] = same[i + 1]!
    const joints = Uint16Array.from(glb.numbers(attributes.JOINTS_0!))
    if (joints.some((j) => j >= bones.length)) throw new Error('it names bones it does not have')
    const regions = Uint16Array.from(glb.numbers(extras.regions!))
    if (regions.length !== count || regions.some((r) => r >= body.regions.length))
      throw new Error('it names colors there are not')
    const names = mesh.extras?.targetNames ?? []
    pieces.push({
      ...{ option: extras.option, count, positions: metres(counted), joints, regions, first },
      weights: glb.floats(attributes.WEIGHTS_0!),
      uvs: glb.floats(attributes.TEXCOORD_0!),
      // pairs: the second of each is a vertex of the body
      welds: extras.welds === undefined ? new Uint16Array(0) : Uint16Array.from(glb.numbers(extras.welds)),
      ground: list(extras.ground),
      morphs: targets.flatMap((target, i) => {
        const morph = morphOf.get(names[i] ?? '')
        if (morph === undefined) return []
        const { rows, values } = glb.moves(target.POSITION!)
        return [{ morph, moves: { rows: rowsWithin(rows), values: metres(values) } }]
      }),
      fits: readFits(glb, extras, rowsWithin, metres),
      levels: [readLevel(glb, extras, count, body)],
    })
  }
  return pieces
}

function readFits(
  glb: Glb,
  { fits }: Extras,
  rowsWithin: (rows: Uint16Array) => Uint16Array,
  metres: (values: ArrayLike<number>) => Float32Array,
): Piece['fits'] {
  if (!fits) return []
  const rows = rowsWithin(Uint16Array.from(glb.numbers(fits.rows)))
  const values = metres(glb.numbers(fits.moves))
  let at = 0
  return fits.of.map(([withOption, count]) => {
    const [from, to] = [at, (at += count)]
    return { with: withOption, moves: { rows: rows.slice(from, to), values: values.slice(from * 3, to * 3) } }
  })
}

function readLevel(glb: Glb, extras: Extras, count: number, body: BodyEntry): PieceLevel {
  const corners = Uint16Array.from(glb.numbers(extras.corners))
  const triangles = Uint16Array.from(glb.numbers(extras.triangles))
  const [shades, softness] = [glb.numbers(extras.shades), glb.numbers(extras.softness)]
  let at = 0
  const patches = extras.patches.map(([n, hiddenBy]): Patch => ({ from: at, to: (at += n * 3), hiddenBy }))
  const whole =
    at === triangles.length &&
    shades.length === corners.length &&
    softness.length === corners.length &&
    corners.every((v) => v < count) &&
    triangles.every((c) => c < corners.length) &&
    patches.every((p) => p.hiddenBy.every((o) => o < body.options.length))
  if (!whole) throw new Error('its triangles are not whole')
  return { corners, shades: Uint8Array.from(shades), softness: Uint8Array.from(softness), triangles, patches }
}
