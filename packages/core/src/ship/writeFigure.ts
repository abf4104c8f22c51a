import {
  Document,
  WebIO,
  type Accessor,
  type Buffer,
  type Material,
  type Node,
  type Skin,
  type TypedArray,
} from '@gltf-transform/core'
import { encode } from 'fast-png'
import type { Figure } from '../build.ts'
import type { Movement } from '../budget/movements.ts'
import { boundsOf, type Mesh, type Morph } from '../mesh/Mesh.ts'
import { computeNormals, createNormalScratch } from '../mesh/normals.ts'
import type { Clip } from '../motion/Clip.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Target } from '../recipe/target.ts'
import { EXTRAS_KEY, type FileExtras } from './extras.ts'
import { LodExtension } from './LodExtension.ts'
import { thinKeys } from './thinKeys.ts'

export interface ShipContents {
  figure: Figure
  clips: readonly Clip[]
  /** Written into the file, so that it can be opened again as a figure. */
  recipe: Recipe
  target: Target
}

/**
 * Writes a figure as binary glTF 2.0: one skinned mesh, one material, the atlas as PNG, clips, the
 * coarser levels (MSFT_lod) if the figure has them, and the recipe. Metres, +Y up, facing +Z.
 * Same figure, same bytes.
 *
 * A slider kept for the game is a morph target and a clip of its name, "slider belly+", a second
 * long: its end is the slider at full effect. The clip moves the joints too, and with them what
 * hangs on them; the target holds what is left. Played together they are the slider; bones bend
 * where the limb bends.
 */
export async function writeFigure({ figure, clips, recipe, target }: ShipContents): Promise<Uint8Array> {
  const document = new Document()
  const root = document.getRoot()
  root.getAsset().generator = 'Idle Tinker'
  root.getAsset().extras = {
    [EXTRAS_KEY]: { recipe, target: target.id, size: sizeOf(figure.mesh) } satisfies FileExtras,
  }
  const buffer = document.createBuffer()
  const scene = document.createScene(figure.name)
  root.setDefaultScene(scene)
  const material = writeMaterial(document, figure)
  const { skin, joints } = writeSkeleton(document, figure, buffer)
  scene.addChild(joints[0]!)

  const levels = [figure.mesh, ...figure.lods].map((mesh, level) =>
    writeMesh(
      document,
      buffer,
      mesh,
      figure.movements,
      level === 0 ? figure.name : `${figure.name} LOD${level}`,
      material,
      skin,
    ),
  )
  scene.addChild(levels[0]!)
  if (levels.length > 1) {
    const list = document.createExtension(LodExtension).createLevels()
    for (const node of levels.slice(1)) list.addNode(node)
    levels[0]!.setExtension('MSFT_lod', list)
  }
  for (const clip of clips) writeClip(document, buffer, clip, joints)
  figure.movements.forEach((_, i) => writeSlider(document, buffer, figure, i, joints, levels))
  return new WebIO().registerExtensions([LodExtension]).writeBinary(document)
}

/** How large the drawn points are along x, y and z, metres, to a tenth of a millimetre. */
function sizeOf({ positions, cornerPoints }: Mesh): [number, number, number] {
  const drawn = new Float32Array(cornerPoints.length * 3)
  for (let c = 0; c < cornerPoints.length; c++)
    for (let k = 0; k < 3; k++) drawn[c * 3 + k] = positions[cornerPoints[c]! * 3 + k]!
  const { min, max } = boundsOf(drawn)
  return [0, 1, 2].map((k) => Math.round((max[k]! - min[k]!) * 1e4) / 1e4) as [number, number, number]
}

function writeMaterial(document: Document, figure: Figure): Material {
  const { size, pixels } = figure.atlas
  const png = encode({ width: size, height: size, data: pixels, channels: 4, depth: 8 })
  const texture = document.createTexture('atlas').setImage(new Uint8Array(png)).setMimeType('image/png')
  const material = document
    .createMaterial('figure')
    .setBaseColorTexture(texture)
    .setMetallicFactor(0)
    .setRoughnessFactor(0.9)
    .setDoubleSided(figure.doubleSided)
  // nearest: a cell is one flat color, and neighbours must not bleed in; pictures want smooth ones
  const filter = figure.atlas.painted ? 9729 : 9728
  material.getBaseColorTextureInfo()!.setMagFilter(filter).setMinFilter(filter).setWrapS(33071).setWrapT(33071)
  return material
}

function writeSkeleton(document: Document, figure: Figure, buffer: Buffer): { skin: Skin; joints: Node[] } {
  const { bones } = figure.skeleton
  const skin = document.createSkin('skeleton')
  const inverse = new Float32Array(bones.length * 16)
  const joints = bones.map((bone, i) => {
    const from = bone.parent >= 0 ? bones[bone.parent]!.at : ([0, 0, 0] as const)
    const node = document
      .createNode(bone.name)
      .setTranslation([bone.at[0] - from[0], bone.at[1] - from[1], bone.at[2] - from[2]])
    inverse.set([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -bone.at[0], -bone.at[1], -bone.at[2], 1], i * 16)
    return node
  })
  bones.forEach((bone, i) => {
    if (bone.parent >= 0) joints[bone.parent]!.addChild(joints[i]!)
    skin.addJoint(joints[i]!)
  })
  skin.setSkeleton(joints[0]!)
  skin.setInverseBindMatrices(accessor(document, buffer, 'MAT4', inverse))
  return { skin, joints }
}

function accessor(
  document: Document,
  buffer: Buffer,
  type: Parameters<Accessor['setType']>[0],
  array: TypedArray,
): Accessor {
  return document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
}

function writeMesh(
  document: Document,
  buffer: Buffer,
  mesh: Mesh,
  movements: readonly Movement[],
  name: string,
  material: Material,
  skin: Skin,
): Node {
  const corners = mesh.cornerPoints.length
  const positions = new Float32Array(corners * 3)
  const joints = skin.listJoints().length > 256 ? new Uint16Array(corners * 4) : new Uint8Array(corners * 4)
  const weights = new Uint8Array(corners * 4)
  const colors = new Uint8Array(corners * 4)
  const bytes = new Uint8Array(4)
  for (let c = 0; c < corners; c++) {
    const p = mesh.cornerPoints[c]!
    for (let k = 0; k < 3; k++) positions[c * 3 + k] = mesh.positions[p * 3 + k]!
    weightBytes(mesh.weights, p * 4, bytes)
    for (let k = 0; k < 4; k++) {
      weights[c * 4 + k] = bytes[k]!
      joints[c * 4 + k] = bytes[k]! > 0 ? mesh.joints[p * 4 + k]! : 0
    }
    colors.fill(mesh.shades[c]!, c * 4, c * 4 + 3)
    colors[c * 4 + 3] = 255
  }
  const indices = corners > 65_535 ? mesh.indices.slice() : Uint16Array.from(mesh.indices)
  const primitive = document
    .createPrimitive()
    .setMaterial(material)
    .setIndices(accessor(document, buffer, 'SCALAR', indices))
    .setAttribute('POSITION', accessor(document, buffer, 'VEC3', positions))
    .setAttribute('NORMAL', accessor(document, buffer, 'VEC3', mesh.normals.slice()))
    .setAttribute('TEXCOORD_0', accessor(document, buffer, 'VEC2', uvShorts(mesh.uvs)).setNormalized(true))
    .setAttribute('COLOR_0', accessor(document, buffer, 'VEC4', colors).setNormalized(true))
    .setAttribute('JOINTS_0', accessor(document, buffer, 'VEC4', joints))
    .setAttribute('WEIGHTS_0', accessor(document, buffer, 'VEC4', weights).setNormalized(true))
  const gltfMesh = document.createMesh(name).addPrimitive(primitive)
  if (mesh.morphs.length) {
    mesh.morphs.forEach((morph, m) => {
      const { positions, normals } = targetOf(mesh, morph, movements[m]!)
      primitive.addTarget(
        document
          .createPrimitiveTarget(morph.name)
          .setAttribute('POSITION', accessor(document, buffer, 'VEC3', positions).setSparse(isSparse(positions)))
          .setAttribute('NORMAL', accessor(document, buffer, 'VEC3', normals).setSparse(isSparse(normals))),
      )
    })
    gltfMesh.setExtras({ targetNames: mesh.morphs.map((m) => m.name) }).setWeights(mesh.morphs.map(() => 0))
  }
  return document.createNode(name).setMesh(gltfMesh).setSkin(skin)
}

/** Moves shorter than this are none: metres, and as a change of a unit normal. */
const STILL = 1e-6

/** A morph as moves of corners, less what its joints do already, and of their normals; xyz a corner. */
function targetOf(
  mesh: Mesh,
  morph: Morph,
  { joints }: Movement,
): { positions: Float32Array<ArrayBuffer>; normals: Float32Array<ArrayBuffer> } {
  const full = new Float32Array(mesh.positions.length)
  const moved = mesh.positions.slice()
  morph.points.forEach((p, i) => {
    for (let k = 0; k < 3; k++) moved[p * 3 + k]! += full[p * 3 + k] = morph.deltas[i * 3 + k]!
  })
  for (let i = 0; i < mesh.weights.length; i++) {
    const w = mesh.weights[i]!
    if (w > 0) for (let k = 0; k < 3; k++) full[(i >> 2) * 3 + k]! -= w * joints[mesh.joints[i]! * 3 + k]!
  }
  const after = new Float32Array(mesh.normals.length)
  computeNormals(mesh, moved, after, createNormalScratch(mesh))
  const corners = mesh.cornerPoints.length
  const positions = new Float32Array(corners * 3)
  const normals = new Float32Array(corners * 3)
  const settle = (v: number) => (Math.abs(v) < STILL ? 0 : v)
  for (let c = 0; c < corners; c++)
    for (let k = 0; k < 3; k++) {
      positions[c * 3 + k] = settle(full[mesh.cornerPoints[c]! * 3 + k]!)
      normals[c * 3 + k] = settle(after[c * 3 + k]! - mesh.normals[c * 3 + k]!)
    }
  return { positions, normals }
}

/** Whether naming the rows that are not zero is shorter than writing them all. */
function isSparse(rows: Float32Array): boolean {
  let moved = 0
  for (let i = 0; i < rows.length; i += 3) if (rows[i] !== 0 || rows[i + 1] !== 0 || rows[i + 2] !== 0) moved++
  return moved * 6 < rows.length
}

/** The clip that plays one kept slider: its target on every level, and the joints that go along. */
function writeSlider(
  document: Document,
  buffer: Buffer,
  { movements, skeleton }: Figure,
  which: number,
  joints: readonly Node[],
  levels: readonly Node[],
): void {
  const { name, joints: moves } = movements[which]!
  const animation = document.createAnimation(`slider ${name}`)
  const input = accessor(document, buffer, 'SCALAR', Float32Array.of(0, 1))
  const track = (
    node: Node,
    path: 'translation' | 'weights',
    type: 'VEC3' | 'SCALAR',
    values: Float32Array<ArrayBuffer>,
  ) => {
    const output = accessor(document, buffer, type, values)
    const sampler = document.createAnimationSampler().setInput(input).setOutput(output).setInterpolation('LINEAR')
    animation
      .addSampler(sampler)
      .addChannel(document.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler))
  }
  const weights = new Float32Array(movements.length * 2)
  weights[movements.length + which] = 1
  for (const level of levels) track(level, 'weights', 'SCALAR', weights)
  skeleton.bones.forEach(({ parent }, b) => {
    const way = [0, 1, 2].map((k) => moves[b * 3 + k]! - (parent >= 0 ? moves[parent * 3 + k]! : 0))
    if (way.every((v) => Math.abs(v) < STILL)) return
    const from = joints[b]!.getTranslation()
    track(joints[b]!, 'translation', 'VEC3', Float32Array.from([...from, ...from.map((v, k) => v + way[k]!)]))
  })
}

/** Texture coordinates as shares of 65535: a thousandth of a pixel of any atlas of ours. */
function uvShorts(uvs: Float32Array): Uint16Array<ArrayBuffer> {
  const shorts = new Uint16Array(uvs.length)
  for (let i = 0; i < uvs.length; i++) shorts[i] = Math.round(Math.min(1, Math.max(0, uvs[i]!)) * 65535)
  return shorts
}

/** Four weights as bytes that sum to 255 exactly (largest remainder). */
function weightBytes(weights: Float32Array, at: number, out: Uint8Array): void {
  let left = 255
  for (let k = 0; k < 4; k++) left -= out[k] = Math.floor(weights[at + k]! * 255 + 1e-4)
  while (left > 0) {
    let best = 0
    for (let k = 1; k < 4; k++) if (weights[at + k]! * 255 - out[k]! > weights[at + best]! * 255 - out[best]!) best = k
    out[best]!++
    left--
  }
}

function writeClip(document: Document, buffer: Buffer, clip: Clip, joints: readonly Node[]): void {
  const animation = document.createAnimation(clip.name)
  const times = new Map<string, Accessor>()
  const track = (node: Node, path: 'rotation' | 'translation', values: Float32Array, stride: 3 | 4) => {
    const kept = thinKeys(clip.times, values, stride, path === 'rotation' ? 8e-4 : 5e-4)
    const key = kept.times.join()
    let input = times.get(key)
    if (!input) times.set(key, (input = accessor(document, buffer, 'SCALAR', new Float32Array(kept.times))))
    const output = accessor(document, buffer, stride === 4 ? 'VEC4' : 'VEC3', new Float32Array(kept.values))
    const sampler = document.createAnimationSampler().setInput(input).setOutput(output).setInterpolation('LINEAR')
    animation
      .addSampler(sampler)
      .addChannel(document.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler))
  }
  clip.rotations.forEach((turns, i) => {
    if (turns) track(joints[i]!, 'rotation', turns, 4)
  })
  track(joints[0]!, 'translation', clip.root, 3)
}
