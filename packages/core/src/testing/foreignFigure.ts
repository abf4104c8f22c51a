import { Document, WebIO } from '@gltf-transform/core'
import { encode } from 'fast-png'
import type { Figure } from '../build.ts'

export interface Foreign {
  /** One mesh for each piece, or one for all. */
  meshes: 'pieces' | 'one'
  /** A material for each color region, or for each piece; one for all, with a palette or without. */
  materials: 'regions' | 'pieces' | 'palette' | 'one'
  /** What its bones are called; without, it has no skin. */
  bone?: (name: string, index: number) => string
  /** What its meshes and materials are called; nothing that says anything if left out. */
  name?: (piece: Figure['pieces'][number]) => string
  /** How large a metre is in its file, and whether z is up there. */
  unit?: number
  zUp?: boolean
}

/** Colors of a palette: far from each other, the same for the same region. */
const PALETTE = 64
function palette(): Uint8Array<ArrayBuffer> {
  const data = new Uint8Array(PALETTE * 3)
  for (let i = 0; i < PALETTE; i++)
    data.set([(i % 4) * 80, (Math.floor(i / 4) % 4) * 80, Math.floor(i / 16) * 80], i * 3)
  return new Uint8Array(encode({ width: PALETTE, height: 1, data, channels: 3 }))
}

/** One thing of a built figure. */
export interface Worn {
  figure: Pick<Figure, 'mesh' | 'skeleton'>
  piece: Figure['pieces'][number]
}

/**
 * Things of built figures as somebody else's file would have them, on the skeleton of the first: its joints turned no
 * way, no morphs, no clips. Things of figures that wear one thing each are whole; of one figure, what is hidden is not there.
 */
export async function foreignFigure(worn: readonly Worn[], foreign: Foreign): Promise<Uint8Array> {
  const { skeleton } = worn[0]!.figure
  const { unit = 1, zUp = false, bone, name } = foreign
  const put = ([x, y, z]: readonly number[]) => (zUp ? [x!, -z!, y!] : [x!, y!, z!]).map((v) => v * unit)
  const document = new Document()
  const buffer = document.createBuffer()
  const scene = document.createScene()
  const skin = bone ? document.createSkin() : null
  if (skin) {
    const inverse: number[] = []
    const nodes = skeleton.bones.map((b, i) => {
      const from = b.parent < 0 ? [0, 0, 0] : skeleton.bones[b.parent]!.at
      const node = document
        .createNode(bone!(b.name, i))
        .setTranslation(put(b.at.map((v, k) => v - from[k]!)) as [number, number, number])
      skin.addJoint(node)
      const at = put(b.at)
      inverse.push(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -at[0]!, -at[1]!, -at[2]!, 1)
      return node
    })
    skeleton.bones.forEach((b, i) => (b.parent < 0 ? scene.addChild(nodes[i]!) : nodes[b.parent]!.addChild(nodes[i]!)))
    skin.setInverseBindMatrices(
      document.createAccessor().setType('MAT4').setArray(Float32Array.from(inverse)).setBuffer(buffer),
    )
  }
  const materials = new Map<string, ReturnType<Document['createMaterial']>>()
  const materialFor = (key: string) => {
    let material = materials.get(key)
    if (!material) {
      const n = materials.size
      material = document.createMaterial(name ? key : `m${n}`).setBaseColorFactor([(n % 7) / 7, (n % 5) / 5, 0.5, 1])
      materials.set(key, material)
      if (foreign.materials === 'palette')
        material
          .setBaseColorFactor([1, 1, 1, 1])
          .setBaseColorTexture(document.createTexture('palette').setMimeType('image/png').setImage(palette()))
    }
    return material
  }
  const cells = new Map<string, number>()
  const cellOf = (region: string) => {
    if (!cells.has(region)) cells.set(region, cells.size)
    return cells.get(region)!
  }
  const groups = foreign.meshes === 'pieces' ? worn.map((w) => [w]) : [worn]
  groups.forEach((group, g) => {
    const made = document.createMesh(name && group.length === 1 ? name(group[0]!.piece) : `mesh${g}`)
    const byMaterial = new Map<string, { mesh: Figure['mesh']; triangles: number[] }>()
    for (const [w, { figure, piece }] of group.entries()) {
      const { mesh } = figure
      for (let t = piece.triangles[0]; t < piece.triangles[1]; t++) {
        const region = mesh.regionNames[mesh.regions[mesh.indices[t * 3]!]!]!
        const key = { regions: region, pieces: name ? name(piece) : piece.id, palette: 'all', one: 'all' }[
          foreign.materials
        ]
        // vertices of two meshes are never one
        const run = byMaterial.get(`${key} ${w}`)
        if (run) run.triangles.push(t)
        else byMaterial.set(`${key} ${w}`, { mesh, triangles: [t] })
      }
    }
    for (const [run, { mesh, triangles }] of byMaterial) {
      const key = run.slice(0, run.lastIndexOf(' '))
      const number = new Map<number, number>()
      const indices = triangles.flatMap((t) =>
        [0, 1, 2].map((k) => {
          const c = mesh.indices[t * 3 + k]!
          if (!number.has(c)) number.set(c, number.size)
          return number.get(c)!
        }),
      )
      const corners = [...number.keys()]
      const rows = (size: number, from: ArrayLike<number>) =>
        corners.flatMap((c) => [...Array(size).keys()].map((k) => from[mesh.cornerPoints[c]! * size + k]!))
      const accessor = (
        type: 'VEC3' | 'VEC4' | 'SCALAR',
        array: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer> | Uint32Array<ArrayBuffer>,
      ) => document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
      const places = rows(3, mesh.positions)
      const primitive = document
        .createPrimitive()
        .setMaterial(materialFor(key))
        .setIndices(accessor('SCALAR', Uint32Array.from(indices)))
        .setAttribute(
          'POSITION',
          accessor('VEC3', Float32Array.from(corners.flatMap((_, i) => put(places.slice(i * 3, i * 3 + 3))))),
        )
      if (foreign.materials === 'palette')
        primitive.setAttribute(
          'TEXCOORD_0',
          document
            .createAccessor()
            .setType('VEC2')
            .setArray(
              Float32Array.from(
                corners.flatMap((c) => [(cellOf(mesh.regionNames[mesh.regions[c]!]!) + 0.5) / PALETTE, 0.5]),
              ),
            )
            .setBuffer(buffer),
        )
      if (skin)
        primitive
          .setAttribute('JOINTS_0', accessor('VEC4', Uint16Array.from(rows(4, mesh.joints))))
          .setAttribute('WEIGHTS_0', accessor('VEC4', Float32Array.from(rows(4, mesh.weights))))
      made.addPrimitive(primitive)
    }
    const node = document.createNode(made.getName()).setMesh(made)
    if (skin) node.setSkin(skin)
    scene.addChild(node)
  })
  return new WebIO().writeBinary(document)
}
