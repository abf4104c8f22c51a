import { encode } from 'fast-png'
import type { Movement } from '../budget/movements.ts'
import { boundsOf, type Mesh, type Morph } from '../mesh/Mesh.ts'
import { computeNormals, createNormalScratch, type NormalScratch } from '../mesh/normals.ts'
import { gltfScale, type Target } from '../recipe/target.ts'
import type { HelperPoint } from '../rig/helperPoints.ts'
import { GlbWriter, QUANTIZED, type Moves, type Values } from '../scene/GlbWriter.ts'
import { packMeshopt } from '../scene/meshopt.ts'
import { localPlace, localScale } from './boneAxes.ts'
import { ClipWriter, writeClip } from './ClipWriter.ts'
import type { Leaving } from './conform.ts'
import { EXTRAS_KEY, type FileExtras } from './extras.ts'
import { fillPattern } from './names.ts'
import type { Prepared } from './prepare.ts'
import { turnedClip } from './turnedClip.ts'
import { counted, directionBytes, unitFor, uvShorts, vertexColors, weightBytes } from './vertexBytes.ts'
import { writeSkeleton } from './writeSkeleton.ts'

/** What is written: a figure that is ready, its clips, helper points as nodes under their joints, and what it was made from. */
export type ShipContents = Pick<Prepared, 'leaving' | 'recipe' | 'target'> & Partial<Pick<Prepared, 'clips' | 'points'>>

/**
 * Writes a figure as binary glTF 2.0: one skinned mesh, one material, the atlas as PNG, clips, the
 * coarser levels (MSFT_lod) if the figure has them, and the recipe. Metres (see `gltfTarget`), +Y up, facing +Z.
 * Same figure, same bytes.
 *
 * A slider kept for the game is a morph target and a clip of its name, "slider belly+", a second
 * long: its end is the slider at full effect. The clip moves the joints too, and with them what
 * hangs on them; the target holds what is left. Played together they are the slider; bones bend
 * where the limb bends.
 *
 * Where the target wants it, vertices are whole numbers (KHR_mesh_quantization): places of a power of two of a metre,
 * which the bind matrices bring back, directions of a 127th. Packed ones want `packerReady`.
 */
export const writeFigure = (contents: ShipContents): Uint8Array => glbOf(contents).file.bytes()

/** The target by which a figure is made glTF: as large as its game counts in it. */
export function gltfTarget(target: Target): Target {
  const times = gltfScale(target)
  if (times === 1) return target
  const { convention } = target
  return { ...target, convention: { ...convention, scale: (convention.scale ?? 1) * times } }
}

/** A figure as it lies in a file that is not closed yet, so that more can be said of its nodes. */
export interface OpenGlb {
  file: GlbWriter
  /** The nodes of its bones, and of each level of detail, the finest first. */
  joints: readonly number[]
  levels: readonly number[]
}

/**
 * The same, still open; see `writeFigure`.
 *
 * @param level of detail that its mesh is
 */
export function glbOf({ leaving, clips = [], points = [], recipe, target }: ShipContents, level = 0): OpenGlb {
  const scale = gltfScale(target)
  const size = sizeOf(leaving.mesh, scale)
  const extras: FileExtras = { recipe, target: target.id, size, ...(scale !== 1 && { scale }) }
  const { vertices = 'full' } = target.gltf ?? {}
  const about = { generator: 'Idle Tinker', extras: { [EXTRAS_KEY]: extras } }
  const file = new GlbWriter(about, vertices === 'packed' ? packMeshopt : null)
  const unit = vertices === 'full' ? null : unitFor(leaving.mesh.positions)
  const skeleton = writeSkeleton(file, leaving.bones, { above: leaving.above, ...(unit && { unit }) })
  writePoints(file, points, leaving, skeleton.joints)
  const painted = target.gltf?.colors === 'vertices' && !leaving.atlas.painted
  const material = writeMaterial(file, leaving, painted)
  const meshes = [leaving.mesh, ...leaving.lods]
  const levels = meshes.map((mesh, i) => {
    const name = meshName(leaving.name, level + i, target)
    return writeMesh(file, mesh, leaving, { name, material, skin: skeleton.skin, unit, painted })
  })
  const used: string[] = []
  if (levels.length > 1) {
    file.json.nodes![levels[0]!]!.extensions = { [LOD_EXTENSION]: { ids: levels.slice(1) } }
    used.push(LOD_EXTENSION)
  }
  if (unit) {
    used.push(QUANTIZED)
    file.json.extensionsRequired = [QUANTIZED]
  }
  if (used.length) file.json.extensionsUsed = used
  file.json.scenes = [{ name: leaving.name, nodes: [skeleton.root, levels[0]!] }]
  file.json.scene = 0
  const face = { node: levels[0]!, morphs: leaving.movements.map((m) => m.name) }
  for (const clip of clips) writeClip(file, turnedClip(clip, leaving), skeleton.joints, face, skeleton.above)
  const slid = meshes.map((mesh, i) => ({ node: levels[i]!, morphs: mesh.morphs.length }))
  leaving.movements.forEach(({ kind }, i) => kind === 'slider' && writeSlider(file, leaving, i, skeleton.joints, slid))
  return { file, joints: skeleton.joints, levels }
}

/** What the mesh of a level of detail is called. */
export function meshName(figure: string, level: number, { convention: { names = {} }, id }: Target): string {
  if (names.mesh) return fillPattern(names.mesh, { name: figure, target: id, level })
  return level === 0 ? figure : `${figure} LOD${level}`
}

/** The published vendor extension for levels of detail. */
const LOD_EXTENSION = 'MSFT_lod'

/** How large the drawn points are along x, y and z, metres, to a tenth of a millimetre; a metre is so many of theirs. */
function sizeOf({ positions, cornerPoints }: Mesh, scale: number): [number, number, number] {
  const drawn = new Float32Array(cornerPoints.length * 3)
  for (let c = 0; c < cornerPoints.length; c++)
    for (let k = 0; k < 3; k++) drawn[c * 3 + k] = positions[cornerPoints[c]! * 3 + k]!
  const { min, max } = boundsOf(drawn)
  return [0, 1, 2].map((k) => Math.round(((max[k]! - min[k]!) / scale) * 1e4) / 1e4) as [number, number, number]
}

/** A figure's colors as PNG. */
export function atlasPng({ atlas: { size, pixels } }: Pick<Leaving, 'atlas'>): Uint8Array {
  return new Uint8Array(encode({ width: size, height: size, data: pixels, channels: 4, depth: 8 }))
}

function writeMaterial(file: GlbWriter, leaving: Leaving, painted: boolean): number {
  const { doubleSided } = leaving
  return file.add('materials', {
    name: 'figure',
    pbrMetallicRoughness: {
      ...(!painted && { baseColorTexture: { index: writeTexture(file, leaving) } }),
      ...{ metallicFactor: 0, roughnessFactor: 0.9 },
    },
    ...(doubleSided && { doubleSided }),
  })
}

function writeTexture(file: GlbWriter, { atlas }: Leaving): number {
  // nearest: a cell is one flat color, and neighbours must not bleed in; pictures want smooth ones
  const filter = atlas.painted ? 9729 : 9728
  const sampler = file.add('samplers', { magFilter: filter, minFilter: filter, wrapS: 33071, wrapT: 33071 })
  const source = file.image('atlas', 'image/png', atlasPng({ atlas }))
  return file.add('textures', { name: 'atlas', sampler, source })
}

/** Each is a node under its joint, called by its id and this: "headTopPoint". */
const POINT = 'Point'

function writePoints(
  file: GlbWriter,
  points: readonly HelperPoint[],
  { bones }: Leaving,
  joints: readonly number[],
): void {
  for (const { id, bone, at } of points) {
    // what is hung on it keeps its size, whatever its joint is scaled by
    const size = localScale(bones[bone]!, {})
    const node = file.add('nodes', {
      ...{ name: `${id}${POINT}`, translation: localPlace(bones[bone]!, at) },
      ...(size !== 1 && { scale: [size, size, size] as [number, number, number] }),
    })
    ;(file.json.nodes![joints[bone]!]!.children ??= []).push(node)
  }
}

/** What a mesh is written with; metres in a unit of its vertices, null if they are metres. */
interface MeshStyle {
  name: string
  material: number
  skin: number
  unit: number | null
  /** Whether its colors lie on its vertices. */
  painted: boolean
}

/** @returns the node of the mesh */
function writeMesh(
  file: GlbWriter,
  mesh: Mesh,
  { bones, movements, atlas }: Leaving,
  { name, material, skin, unit, painted }: MeshStyle,
): number {
  const corners = mesh.cornerPoints.length
  const positions = new (unit ? Int16Array : Float32Array)(corners * 3)
  const joints = bones.length > 256 ? new Uint16Array(corners * 4) : new Uint8Array(corners * 4)
  const weights = new Uint8Array(corners * 4)
  const colors = painted ? vertexColors(mesh, atlas) : new Uint8Array(corners * 4)
  const bytes = new Uint8Array(4)
  for (let c = 0; c < corners; c++) {
    const p = mesh.cornerPoints[c]!
    for (let k = 0; k < 3; k++) {
      const at = mesh.positions[p * 3 + k]!
      positions[c * 3 + k] = unit ? counted(at, unit) : at
    }
    weightBytes(mesh.weights, p * 4, bytes)
    for (let k = 0; k < 4; k++) {
      weights[c * 4 + k] = bytes[k]!
      joints[c * 4 + k] = bytes[k]! > 0 ? mesh.joints[p * 4 + k]! : 0
    }
    if (painted) continue
    colors[c * 4] = colors[c * 4 + 1] = colors[c * 4 + 2] = mesh.shades[c]!
    colors[c * 4 + 3] = 255
  }
  const values: Record<string, Values> = {
    POSITION: { type: 'VEC3', array: positions, bounds: true },
    NORMAL: unit
      ? { type: 'VEC3', array: directionBytes(mesh.normals), normalized: true }
      : { type: 'VEC3', array: mesh.normals },
    ...(!painted && { TEXCOORD_0: { type: 'VEC2', array: uvShorts(mesh.uvs), normalized: true } }),
    COLOR_0: { type: 'VEC4', array: colors, normalized: true },
    JOINTS_0: { type: 'VEC4', array: joints },
    WEIGHTS_0: { type: 'VEC4', array: weights, normalized: true },
  }
  const attributes = file.vertices(values)
  const indices = file.triangles(corners > 65_535 ? mesh.indices : Uint16Array.from(mesh.indices))
  const scratch = createTargetScratch(mesh)
  const targets = mesh.morphs.map((morph, m) => {
    const { positions, normals } = targetOf(mesh, morph, movements[m]!, scratch)
    if (!unit) return { POSITION: file.moves(positions), NORMAL: file.moves(normals) }
    return { POSITION: file.moves(countedMoves(positions, unit)), NORMAL: file.moves(sharedMoves(normals)) }
  })
  const written = file.add('meshes', {
    name,
    primitives: [{ attributes, indices, material, ...(targets.length && { targets }) }],
    ...(targets.length && {
      weights: targets.map(() => 0),
      extras: { targetNames: mesh.morphs.map((m) => m.name) },
    }),
  })
  return file.add('nodes', { name, mesh: written, skin })
}

/** Moves shorter than this are none, metres. */
const STILL = 1e-6
/** A normal that turns less than this keeps its place, radians: a fifth of a degree, which no shading shows. */
const UNTURNED = 0.0035

/** The arrays that targets of a mesh are worked out in, one after the other. */
interface TargetScratch {
  /** xyz a point: how it moves, less what its joints do. */
  moves: Float32Array
  /** xyz a point. */
  positions: Float32Array
  /** xyz a corner. */
  normals: Float32Array
  forNormals: NormalScratch
}

function createTargetScratch(mesh: Mesh): TargetScratch {
  return {
    moves: new Float32Array(mesh.positions.length),
    positions: mesh.positions.slice(),
    normals: new Float32Array(mesh.normals.length),
    forNormals: createNormalScratch(mesh),
  }
}

/** A morph as moves of corners, less what its joints do already, and of their normals. */
function targetOf(
  mesh: Mesh,
  morph: Morph,
  { joints }: Movement,
  { moves, positions, normals, forNormals }: TargetScratch,
): { positions: Moves; normals: Moves } {
  moves.fill(0)
  morph.points.forEach((p, i) => {
    for (let k = 0; k < 3; k++) positions[p * 3 + k]! += moves[p * 3 + k] = morph.deltas[i * 3 + k]!
  })
  const going = Uint8Array.from({ length: joints.length / 3 }, (_, b) =>
    joints[b * 3] || joints[b * 3 + 1] || joints[b * 3 + 2] ? 1 : 0,
  )
  if (going.includes(1))
    for (let i = 0; i < mesh.weights.length; i++) {
      const bone = mesh.joints[i]!
      const w = going[bone] ? mesh.weights[i]! : 0
      if (w > 0) for (let k = 0; k < 3; k++) moves[(i >> 2) * 3 + k]! -= w * joints[bone * 3 + k]!
    }
  computeNormals(mesh, positions, normals, forNormals, mesh)
  for (const p of morph.points) for (let k = p * 3; k < p * 3 + 3; k++) positions[k] = mesh.positions[k]!
  const { cornerPoints } = mesh
  for (let i = 0; i < normals.length; i++) normals[i]! -= mesh.normals[i]!
  return {
    positions: rowsThatMove(moves, cornerPoints.length, STILL, cornerPoints),
    normals: rowsThatMove(normals, cornerPoints.length, UNTURNED),
  }
}

/** The rows of three that are not shorter than the least; row i is that of `places[i]`, if there are any. */
function rowsThatMove(table: Float32Array, count: number, least: number, places?: Uint32Array): Moves {
  const rows: number[] = []
  const values: number[] = []
  for (let row = 0; row < count; row++) {
    const i = (places ? places[row]! : row) * 3
    const x = table[i]!
    const y = table[i + 1]!
    const z = table[i + 2]!
    if (x * x + y * y + z * z < least * least) continue
    rows.push(row)
    values.push(x, y, z)
  }
  return { count, rows, values: Float32Array.from(values) }
}

/** Moves as whole numbers of units, less those too small to be counted. */
function countedMoves({ count, rows, values }: Moves, unit: number): Moves {
  const [kept, whole]: [number[], number[]] = [[], []]
  for (let i = 0; i < rows.length; i++) {
    const move = [0, 1, 2].map((k) => counted(values[i * 3 + k]!, unit))
    if (move.every((v) => v === 0)) continue
    kept.push(rows[i]!)
    whole.push(...move)
  }
  return { count, rows: kept, values: Int16Array.from(whole) }
}

/** Moves of directions as shares of sixteen bits, where none is longer than one. */
function sharedMoves(moves: Moves): Moves {
  if (moves.values.some((v) => Math.abs(v) > 1)) return moves
  return { ...moves, values: Int16Array.from(moves.values, (v) => Math.round(v * 32_767)), normalized: true }
}

/** The clip that plays one kept slider: its target on every level, and the joints that go along. */
function writeSlider(
  file: GlbWriter,
  { movements, bones, above }: Leaving,
  which: number,
  joints: readonly number[],
  levels: readonly { node: number; morphs: number }[],
): void {
  const { name, joints: moves } = movements[which]!
  const clip = new ClipWriter(file, `slider ${name}`)
  const input = clip.input(Float32Array.of(0, 1))
  for (const { node, morphs } of levels) {
    const weights = new Float32Array(morphs * 2)
    weights[morphs + which] = 1
    clip.track(node, 'weights', input, 'SCALAR', weights)
  }
  bones.forEach(({ at, parent }, b) => {
    const way = [0, 1, 2].map((k) => moves[b * 3 + k]! - (parent >= 0 ? moves[parent * 3 + k]! : 0))
    if (way.every((v) => Math.abs(v) < STILL)) return
    const from = parent >= 0 ? bones[parent]! : (above.at(-1) ?? null)
    const values = [
      ...localPlace(from, at),
      ...localPlace(
        from,
        at.map((v, k) => v + way[k]!),
      ),
    ]
    clip.track(joints[b]!, 'translation', input, 'VEC3', Float32Array.from(values))
  })
}
