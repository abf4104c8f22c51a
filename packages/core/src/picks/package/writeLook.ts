import { GlbWriter } from '../../scene/GlbWriter.ts'
import { uvShorts, weightBytes } from '../../ship/vertexBytes.ts'
import { writeSkeleton } from '../../ship/writeSkeleton.ts'

/** A look as it is drawn: one skinned mesh; metres, +Y up, facing +Z. */
export interface DrawnLook {
  name: string
  /** Whether the atlas wants smooth filtering. */
  smooth: boolean
  positions: Float32Array // xyz a vertex
  normals: Float32Array // xyz a vertex
  uvs: Float32Array // uv a vertex
  colors: Uint8Array // rgb a vertex
  joints: Uint16Array // four a vertex
  weights: Float32Array // four a vertex
  indices: Uint32Array
  /** Parents first. */
  bones: { name: string; parent: number; at: [number, number, number] }[]
}

/** Writes a look that was put together from a package as binary glTF 2.0 with its atlas, a PNG. Same look, same bytes. */
export function writeLook(look: DrawnLook, atlas: Uint8Array): Uint8Array {
  const { positions, normals, uvs, indices, bones } = look
  const count = positions.length / 3
  const file = new GlbWriter({ generator: 'Idle Tinker' })
  const { skin, joints } = writeSkeleton(file, bones)
  const filter = look.smooth ? 9729 : 9728
  const sampler = file.add('samplers', { magFilter: filter, minFilter: filter, wrapS: 33071, wrapT: 33071 })
  const texture = file.add('textures', { name: 'atlas', sampler, source: file.image('atlas', 'image/png', atlas) })
  const material = file.add('materials', {
    name: 'figure',
    pbrMetallicRoughness: { baseColorTexture: { index: texture }, metallicFactor: 0, roughnessFactor: 0.9 },
  })
  const weights = new Uint8Array(count * 4)
  const bytes = new Uint8Array(4)
  const hung = new Uint16Array(count * 4)
  const colors = new Uint8Array(count * 4)
  for (let v = 0; v < count; v++) {
    weightBytes(look.weights, v * 4, bytes)
    weights.set(bytes, v * 4)
    for (let k = 0; k < 4; k++) hung[v * 4 + k] = bytes[k]! > 0 ? look.joints[v * 4 + k]! : 0
    for (let k = 0; k < 3; k++) colors[v * 4 + k] = look.colors[v * 3 + k]!
    colors[v * 4 + 3] = 255
  }
  const attributes = file.vertices({
    POSITION: { type: 'VEC3', array: positions, bounds: true },
    NORMAL: { type: 'VEC3', array: normals },
    TEXCOORD_0: { type: 'VEC2', array: uvShorts(uvs), normalized: true },
    COLOR_0: { type: 'VEC4', array: colors, normalized: true },
    JOINTS_0: { type: 'VEC4', array: bones.length > 256 ? hung : Uint8Array.from(hung) },
    WEIGHTS_0: { type: 'VEC4', array: weights, normalized: true },
  })
  const own = file.triangles(count > 65_535 ? indices : Uint16Array.from(indices))
  const mesh = file.add('meshes', { name: look.name, primitives: [{ attributes, indices: own, material }] })
  const node = file.add('nodes', { name: look.name, mesh, skin })
  file.json.scenes = [{ name: look.name, nodes: [joints[0]!, node] }]
  file.json.scene = 0
  return file.bytes()
}
