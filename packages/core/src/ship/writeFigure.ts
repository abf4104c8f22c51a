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
import type { Mesh } from '../mesh/Mesh.ts'
import type { FittedClip } from '../motion/fitClip.ts'
import type { Recipe, Target } from '../recipe/schema.ts'
import { LodExtension } from './LodExtension.ts'
import { thinKeys } from './thinKeys.ts'

export interface ShipContents {
  figure: Figure
  clips: readonly FittedClip[]
  /** Written into the file, so that it can be opened again as a figure. */
  recipe: Recipe
  target: Target
}

/** Under this key the recipe stands in the file's asset extras. */
export const EXTRAS_KEY = 'idleTinker'

/**
 * Writes a figure as binary glTF 2.0: one skinned mesh, one material, the atlas as PNG, clips, the
 * coarser levels (MSFT_lod) if the figure has them, and the recipe. Metres, +Y up, facing +Z.
 * Same figure, same bytes.
 */
export async function writeFigure({ figure, clips, recipe, target }: ShipContents): Promise<Uint8Array> {
  const document = new Document()
  const root = document.getRoot()
  root.getAsset().generator = 'Idle Tinker'
  root.getAsset().extras = { [EXTRAS_KEY]: { recipe, target: target.id } }
  const buffer = document.createBuffer()
  const scene = document.createScene(figure.name)
  root.setDefaultScene(scene)
  const material = writeMaterial(document, figure)
  const { skin, joints } = writeSkeleton(document, figure, buffer)
  scene.addChild(joints[0]!)

  const levels = [figure.mesh, ...figure.lods].map((mesh, level) =>
    writeMesh(document, buffer, mesh, level === 0 ? figure.name : `${figure.name} LOD${level}`, material, skin),
  )
  scene.addChild(levels[0]!)
  if (levels.length > 1) {
    const list = document.createExtension(LodExtension).createLevels()
    for (const node of levels.slice(1)) list.addNode(node)
    levels[0]!.setExtension('MSFT_lod', list)
  }
  for (const clip of clips) writeClip(document, buffer, clip, joints)
  return new WebIO().registerExtensions([LodExtension]).writeBinary(document)
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
  // nearest: a cell is one flat color, and neighbours must not bleed in
  material.getBaseColorTextureInfo()!.setMagFilter(9728).setMinFilter(9728).setWrapS(33071).setWrapT(33071)
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

function writeMesh(document: Document, buffer: Buffer, mesh: Mesh, name: string, material: Material, skin: Skin): Node {
  const corners = mesh.cornerPoints.length
  const positions = new Float32Array(corners * 3)
  const joints = new Uint8Array(corners * 4)
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
    .setAttribute('TEXCOORD_0', accessor(document, buffer, 'VEC2', mesh.uvs.slice()))
    .setAttribute('COLOR_0', accessor(document, buffer, 'VEC4', colors).setNormalized(true))
    .setAttribute('JOINTS_0', accessor(document, buffer, 'VEC4', joints))
    .setAttribute('WEIGHTS_0', accessor(document, buffer, 'VEC4', weights).setNormalized(true))
  const gltfMesh = document.createMesh(name).addPrimitive(primitive)
  if (mesh.morphs.length) {
    for (const morph of mesh.morphs) {
      const full = new Float32Array(mesh.positions.length)
      morph.points.forEach((p, i) => full.set(morph.deltas.subarray(i * 3, i * 3 + 3), p * 3))
      const deltas = new Float32Array(corners * 3)
      for (let c = 0; c < corners; c++)
        deltas.set(full.subarray(mesh.cornerPoints[c]! * 3, mesh.cornerPoints[c]! * 3 + 3), c * 3)
      primitive.addTarget(
        document.createPrimitiveTarget(morph.name).setAttribute('POSITION', accessor(document, buffer, 'VEC3', deltas)),
      )
    }
    gltfMesh.setExtras({ targetNames: mesh.morphs.map((m) => m.name) }).setWeights(mesh.morphs.map(() => 0))
  }
  return document.createNode(name).setMesh(gltfMesh).setSkin(skin)
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

function writeClip(document: Document, buffer: Buffer, clip: FittedClip, joints: readonly Node[]): void {
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
