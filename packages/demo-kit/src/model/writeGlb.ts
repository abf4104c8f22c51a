import { Document, WebIO, type Accessor, type Node } from '@gltf-transform/core'
import { splitCorners, triangleNormal } from '@idle-tinker/core'
import { bakeShades, triangulate } from './bake.ts'
import type { Surface } from '@idle-tinker/core'
import type { Point, Sculpt } from './Sculpt.ts'
import type { V3 } from './vector.ts'

export interface GlbSource {
  name: string
  sculpt: Sculpt
  /** Metres in one body unit. */
  scale: number
  /** What casts shade on it, itself included. */
  around: Surface
  /** Movements by name, body units. */
  morphs?: { name: string; move: (p: Point) => V3 }[]
  /** Bones by name, parents first, and the skin of each point. */
  skin?: { bones: { name: string; parent: string | null; at: V3 }[]; of: (p: Point) => [string, number][] }
}

/** Shading leans towards smooth by this much, out of 255. */
const SOFTNESS: Record<string, number> = { head: 115, ear: 60, leftHand: 51, rightHand: 51, hair: 60, fur: 60 }
/** A quad whose halves differ by less is shaded as one plane; cosine. */
const FLAT = Math.cos(0.6)

/** Writes a model as a kit's GLB: one primitive a color region, named by its material. Same input, same bytes. */
export async function writeGlb({ name, sculpt, scale, around, morphs = [], skin }: GlbSource): Promise<Uint8Array> {
  const { triangles, faceOf } = triangulate(sculpt)
  const positions = Float32Array.from(sculpt.points.flatMap((p) => p.at.map((v) => v * scale)))
  const points = Uint32Array.from(triangles)
  const facets = Uint32Array.from(faceOf, (face, t) => {
    if (t === 0 || faceOf[t - 1] !== face) return 2 * face
    const [n, m] = [t - 1, t].map((i) =>
      triangleNormal(positions, points[i * 3]!, points[i * 3 + 1]!, points[i * 3 + 2]!),
    )
    return n![0] * m![0] + n![1] * m![1] + n![2] * m![2] >= FLAT ? 2 * face : 2 * face + 1
  })
  const { cornerPoints, indices } = splitCorners(points, facets)
  const shades = bakeShades(sculpt, around)
  const faceOfCorner = new Uint32Array(cornerPoints.length)
  indices.forEach((c, i) => (faceOfCorner[c] = faceOf[Math.floor(i / 3)]!))

  const document = new Document()
  document.getRoot().getAsset().generator = 'idle-tinker demo-kit'
  const buffer = document.createBuffer()
  const mesh = document.createMesh(name)
  if (morphs.length) mesh.setExtras({ targetNames: morphs.map((m) => m.name) })
  const node = document.createNode(name).setMesh(mesh)
  const scene = document.createScene(name).addChild(node)
  const boneIndex = new Map((skin?.bones ?? []).map((b, i) => [b.name, i]))

  const regions = [...new Set(sculpt.faces.map((f) => f.region))]
  const moves = morphs.map((m) => sculpt.points.map((p) => m.move(p)))
  for (const region of regions) {
    const corners = [...cornerPoints.keys()].filter((c) => sculpt.faces[faceOfCorner[c]!]!.region === region)
    const place = new Map(corners.map((c, i) => [c, i]))
    const own: number[] = []
    for (let t = 0; t < faceOf.length; t++)
      if (sculpt.faces[faceOf[t]!]!.region === region)
        own.push(...[0, 1, 2].map((k) => place.get(indices[t * 3 + k]!)!))
    const accessor = (type: 'SCALAR' | 'VEC3' | 'VEC4', array: Float32Array | Uint8Array | Uint16Array) =>
      document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
    const primitive = document
      .createPrimitive()
      .setMaterial(document.createMaterial(region).setRoughnessFactor(0.9).setMetallicFactor(0))
      .setIndices(accessor('SCALAR', Uint16Array.from(own)))
      .setAttribute(
        'POSITION',
        accessor(
          'VEC3',
          Float32Array.from(
            corners.flatMap((c) => [...positions.subarray(cornerPoints[c]! * 3, cornerPoints[c]! * 3 + 3)]),
          ),
        ),
      )
      .setAttribute(
        'COLOR_0',
        accessor(
          'VEC3',
          Uint8Array.from(corners.flatMap((c) => Array<number>(3).fill(Math.round(shades[faceOfCorner[c]!]! * 255)))),
        ).setNormalized(true),
      )
    const softness = corners.map((c) => SOFTNESS[sculpt.faces[faceOfCorner[c]!]!.tag] ?? 0)
    if (softness.some((s) => s > 0))
      primitive.setAttribute(
        '_SOFTNESS',
        accessor(
          'SCALAR',
          Float32Array.from(softness, (s) => s / 255),
        ),
      )
    if (skin) {
      const shares = corners.map((c) => strongest(skin.of(sculpt.points[cornerPoints[c]!]!)))
      primitive.setAttribute(
        'JOINTS_0',
        accessor(
          'VEC4',
          Uint8Array.from(shares.flatMap((s) => [0, 1, 2, 3].map((k) => (s[k] ? boneIndex.get(s[k]![0])! : 0)))),
        ),
      )
      primitive.setAttribute(
        'WEIGHTS_0',
        accessor('VEC4', Float32Array.from(shares.flatMap((s) => [0, 1, 2, 3].map((k) => s[k]?.[1] ?? 0)))),
      )
    }
    /** What a movement does here that does nothing here: one for all of them. */
    let still: Accessor | null = null
    for (const [m, morph] of morphs.entries()) {
      const deltas = Float32Array.from(corners.flatMap((c) => moves[m]![cornerPoints[c]!]!.map((v) => tidy(v * scale))))
      const moved = corners.filter((_, i) => deltas.subarray(i * 3, i * 3 + 3).some((v) => v !== 0)).length
      const here = moved
        ? accessor('VEC3', deltas).setSparse(moved < corners.length / 2)
        : (still ??= accessor('VEC3', deltas).setSparse(true))
      primitive.addTarget(document.createPrimitiveTarget(morph.name).setAttribute('POSITION', here))
    }
    mesh.addPrimitive(primitive)
  }
  if (skin) {
    const nodes = new Map<string, Node>()
    const gltfSkin = document.createSkin(name)
    const inverse: number[] = []
    for (const bone of skin.bones) {
      const parent = skin.bones.find((b) => b.name === bone.parent)
      const local = parent ? bone.at.map((v, k) => v - parent.at[k]!) : bone.at
      const joint = document
        .createNode(bone.name)
        .setTranslation(local.map((v) => v * scale) as [number, number, number])
      nodes.set(bone.name, joint)
      if (bone.parent) nodes.get(bone.parent)!.addChild(joint)
      else scene.addChild(joint)
      gltfSkin.addJoint(joint)
      inverse.push(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -bone.at[0] * scale, -bone.at[1] * scale, -bone.at[2] * scale, 1)
    }
    gltfSkin.setInverseBindMatrices(
      document.createAccessor().setType('MAT4').setArray(Float32Array.from(inverse)).setBuffer(buffer),
    )
    node.setSkin(gltfSkin)
  }
  return new WebIO().writeBinary(document)
}

/** Moves under a twentieth of a millimetre are none. */
function tidy(v: number): number {
  return Math.abs(v) < 5e-5 ? 0 : v
}

function strongest(shares: [string, number][]): [string, number][] {
  const sums = new Map<string, number>()
  for (const [bone, w] of shares) sums.set(bone, (sums.get(bone) ?? 0) + w)
  const four = [...sums].sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1)).slice(0, 4)
  const total = four.reduce((s, [, w]) => s + w, 0)
  return four.map(([bone, w]) => [bone, w / total])
}
