import { GlbWriter, QUANTIZED } from '../../scene/GlbWriter.ts'
import type { KeyedClip } from '../../ship/clipKeys.ts'
import { writeClip } from '../../ship/ClipWriter.ts'
import { counted, uvShorts, weightBytes } from '../../ship/vertexBytes.ts'
import { writeSkeleton } from '../../ship/writeSkeleton.ts'
import type { Bone } from '../../rig/Skeleton.ts'
import type { Fit } from './fits.ts'
import type { PackedPiece } from './pieces.ts'
import type { PlacedRegion } from './packageAtlas.ts'
import type { Standing } from './standing.ts'

/** What a runtime finds in a mesh's extras besides what every reader of glTF sees. Numbers are those of accessors. */
export interface PieceExtras {
  /** null for the body. */
  option: number | null
  level: number
  /** Vertex, shade and softness of each corner, and the corners of triangles. */
  corners: number
  shades: number
  softness: number
  triangles: number
  /** How many triangles there are, and the options that hide them, one patch after the other. */
  patches: [triangles: number, hiddenBy: number[]][]
  /** Of the finest level alone: color region of each vertex. */
  regions?: number
  /** Pairs of vertices: see `PackedPiece`. Left out where there are none. */
  same?: number
  welds?: number
  ground?: number
  /** How vertices lie otherwise while other options are worn: for one option after the other so many rows and moves. */
  fits?: { of: [withOption: number, rows: number][]; rows: number; moves: number }
}

/** The name of what is ours within `extras`. */
const PIECE_KEY = 'idleTinkerPiece'

/** How all pieces of a body are written. */
export interface PieceStyle {
  standing: Standing
  placed: readonly PlacedRegion[]
  /** Metres in one of the units of vertices. */
  unit: number
  fits: readonly Fit[]
  /** Cells of regions at the start. */
  startCell: (region: number) => number
}

/**
 * Pieces as binary glTF 2.0 (KHR_mesh_quantization): a skinned mesh each, on one skeleton, with a morph target for each
 * movement that reaches it, and coarser levels over the same vertices (MSFT_lod). Normals are left out, which by the
 * standard is flat shading; how soft each corner is, and everything else a dressing room needs, lies in the extras.
 */
export function writePieces(
  style: PieceStyle,
  pieces: readonly { piece: PackedPiece; name: string }[],
  clips: readonly KeyedClip[] = [],
): Uint8Array {
  const file = new GlbWriter({ generator: 'Idle Tinker' })
  const { bones } = style.standing.skeleton
  const { skin, joints } = writeSkeleton(file, bones, { unit: style.unit })
  const material = file.add('materials', {
    name: 'figure',
    pbrMetallicRoughness: { metallicFactor: 0, roughnessFactor: 0.9 },
  })
  const nodes = pieces.flatMap(({ piece, name }) => {
    const shared = writeVertices(file, style, piece, bones)
    const levels = piece.levels.map((_, level) => {
      const title = level ? `${name} LOD${level}` : name
      const mesh = writeLevel(file, style, piece, level, shared, material, title)
      return file.add('nodes', { name: title, mesh, skin })
    })
    if (levels.length > 1) {
      file.json.nodes![levels[0]!]!.extensions = { MSFT_lod: { ids: levels.slice(1) } }
      file.json.extensionsUsed = [QUANTIZED, 'MSFT_lod']
    }
    return [levels[0]!]
  })
  file.json.extensionsUsed ??= [QUANTIZED]
  file.json.extensionsRequired = [QUANTIZED]
  file.json.scenes = [{ nodes: [joints[0]!, ...nodes] }]
  file.json.scene = 0
  for (const clip of clips) writeClip(file, clip, joints, null)
  return file.bytes()
}

interface Shared {
  attributes: Record<string, number>
  targets: { POSITION: number }[]
  names: string[]
  /** The vertices at each point. */
  vertexOf: ReadonlyMap<number, readonly number[]>
}

function writeVertices(
  file: GlbWriter,
  { standing, placed, unit, startCell }: PieceStyle,
  { points, regions, uvs }: PackedPiece,
  bones: readonly Bone[],
): Shared {
  const { mesh } = standing.merged
  const count = points.length
  const positions = new Int16Array(count * 3)
  const joints = bones.length > 256 ? new Uint16Array(count * 4) : new Uint8Array(count * 4)
  const weights = new Uint8Array(count * 4)
  const places = new Float32Array(count * 2)
  const bytes = new Uint8Array(4)
  for (let v = 0; v < count; v++) {
    const p = points[v]!
    for (let k = 0; k < 3; k++) positions[v * 3 + k] = counted(mesh.positions[p * 3 + k]!, unit)
    weightBytes(standing.weights, p * 4, bytes)
    for (let k = 0; k < 4; k++) {
      weights[v * 4 + k] = bytes[k]!
      joints[v * 4 + k] = bytes[k]! > 0 ? standing.joints[p * 4 + k]! : 0
    }
    const { cells, picture } = placed[regions[v]!]!
    const own = [uvs[v * 2]!, uvs[v * 2 + 1]!].map((n) => Math.min(1, Math.max(0, n)))
    const at = picture
      ? [picture[0] + own[0]! * picture[2], picture[1] + own[1]! * picture[3]]
      : cells[startCell(regions[v]!)]!
    places.set(at, v * 2)
  }
  const attributes = file.vertices({
    POSITION: { type: 'VEC3', array: positions, bounds: true },
    TEXCOORD_0: { type: 'VEC2', array: uvShorts(places), normalized: true },
    JOINTS_0: { type: 'VEC4', array: joints },
    WEIGHTS_0: { type: 'VEC4', array: weights, normalized: true },
  })
  const vertexOf = new Map<number, number[]>()
  points.forEach((p, v) => {
    if (vertexOf.has(p)) vertexOf.get(p)!.push(v)
    else vertexOf.set(p, [v])
  })
  const targets: Shared['targets'] = []
  const names: string[] = []
  for (const { morph } of standing.morphs) {
    const rows = rowsOf(morph.points, morph.deltas, vertexOf, unit)
    // what it does not reach has no target of it
    if (rows.rows.length === 0) continue
    targets.push({ POSITION: file.moves({ count, ...rows }) })
    names.push(morph.name)
  }
  return { attributes, targets, names, vertexOf }
}

/** Moves of points as those of vertices, in units; those too small to be counted are left out. */
function rowsOf(
  points: Uint32Array,
  moves: Float32Array,
  vertexOf: ReadonlyMap<number, readonly number[]>,
  unit: number,
): { rows: number[]; values: Int16Array } {
  const found: [row: number, at: number][] = []
  points.forEach((p, i) => {
    for (const v of vertexOf.get(p) ?? [])
      if ([0, 1, 2].some((k) => counted(moves[i * 3 + k]!, unit) !== 0)) found.push([v, i])
  })
  found.sort((a, b) => a[0] - b[0])
  return {
    rows: found.map(([row]) => row),
    values: Int16Array.from(found.flatMap(([, i]) => [0, 1, 2].map((k) => counted(moves[i * 3 + k]!, unit)))),
  }
}

function writeLevel(
  file: GlbWriter,
  { unit, fits }: PieceStyle,
  piece: PackedPiece,
  level: number,
  { attributes, targets, names, vertexOf }: Shared,
  material: number,
  name: string,
): number {
  const { corners, shades, softness, indices, patches } = piece.levels[level]!
  const list = (array: Uint16Array | Uint8Array | Int16Array, type: 'SCALAR' | 'VEC3' = 'SCALAR') =>
    file.accessor(`${array.BYTES_PER_ELEMENT} bytes`, { type, array })
  const extras: PieceExtras = {
    ...{ option: piece.option, level },
    ...{ corners: list(corners), shades: list(shades), softness: list(softness), triangles: list(indices) },
    patches: patches.map((p) => [p.triangles, p.hiddenBy]),
  }
  if (level === 0) {
    extras.regions = list(piece.regions)
    for (const key of ['same', 'welds', 'ground'] as const) if (piece[key].length) extras[key] = list(piece[key])
    const own = fits
      .filter((f) => f.option === piece.option)
      .map((f) => ({ with: f.with, ...rowsOf(f.points, f.moves, vertexOf, unit) }))
      .filter((f) => f.rows.length)
    if (own.length)
      extras.fits = {
        of: own.map((f) => [f.with, f.rows.length]),
        rows: list(Uint16Array.from(own.flatMap((f) => f.rows))),
        moves: list(Int16Array.from(own.flatMap((f) => [...f.values])), 'VEC3'),
      }
  }
  return file.add('meshes', {
    name,
    primitives: [
      {
        ...{ attributes, material, indices: file.triangles(indices.map((c) => corners[c]!)) },
        ...(targets.length && { targets }),
      },
    ],
    ...(targets.length && { weights: targets.map(() => 0) }),
    extras: { ...(targets.length && { targetNames: names }), [PIECE_KEY]: extras },
  })
}
