import { Document, Logger, WebIO } from '@gltf-transform/core'
import { encode } from 'fast-png'
import { describe, expect, it } from 'vitest'
import { colorWord } from '../color/colorWord.ts'
import type { PackPiece } from './Pack.ts'
import { readPack, type PackFiles } from './readPack.ts'

const io = new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT))
const text = (t: string) => new TextEncoder().encode(t)

/** A picture of four fields side by side, each of one color. */
const FIELDS = ['#c0392b', '#27ae60', '#2980b9', '#f1c40f']
const bytesOf = (hex: string) => [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16))
function palette(width = 32): Uint8Array<ArrayBuffer> {
  const data = Uint8Array.from({ length: width * 8 * 3 }, (_, i) => {
    const x = Math.floor(i / 3) % width
    return bytesOf(FIELDS[Math.floor((x * 4) / width)]!)[i % 3]!
  })
  return new Uint8Array(encode({ width, height: 8, data, channels: 3 }))
}
/** The same fields, one below the other. */
function standing(): Uint8Array<ArrayBuffer> {
  const data = Uint8Array.from({ length: 8 * 32 * 3 }, (_, i) => bytesOf(FIELDS[Math.floor(i / (8 * 8 * 3))]!)[i % 3]!)
  return new Uint8Array(encode({ width: 8, height: 32, data, channels: 3 }))
}
/** A picture in which no two places are alike. */
function painting(): Uint8Array<ArrayBuffer> {
  const data = Uint8Array.from(
    { length: 64 * 64 * 3 },
    (_, i) => [i * 7, Math.floor(i / 192) * 4, i % 97][i % 3]! & 255,
  )
  return new Uint8Array(encode({ width: 64, height: 64, data, channels: 3 }))
}

/** Two squares, the lower on the first field of a palette, the upper on the third. */
function squares(picture: Uint8Array<ArrayBuffer> | null, spread = 0): Document {
  const d = new Document()
  const buffer = d.createBuffer()
  const accessor = (type: 'VEC2' | 'VEC3' | 'SCALAR', array: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>) =>
    d.createAccessor().setType(type).setArray(array).setBuffer(buffer)
  const places = [0, 1].flatMap((n) => [0, n, 0, 1, n, 0, 1, n + 0.9, 0, 0, n + 0.9, 0])
  const uvs = [0.125, 2.625].flatMap((u) => [u, 0.5, u + spread, 0.5, u + spread, 0.6 + spread, u, 0.6 + spread])
  const material = d.createMaterial('skin').setBaseColorFactor([1, 1, 1, 1])
  if (picture) material.setBaseColorTexture(d.createTexture('palette').setImage(picture).setMimeType('image/png'))
  const primitive = d
    .createPrimitive()
    .setMaterial(material)
    .setAttribute('POSITION', accessor('VEC3', Float32Array.from(places)))
    .setAttribute('TEXCOORD_0', accessor('VEC2', Float32Array.from(uvs)))
    .setIndices(accessor('SCALAR', Uint16Array.from([0, 1, 2, 0, 2, 3, 4, 5, 6, 4, 6, 7])))
  d.createScene().addChild(d.createNode('squares').setMesh(d.createMesh('squares').addPrimitive(primitive)))
  return d
}

async function read(files: PackFiles): Promise<{ piece: PackPiece; codes: string[] }> {
  const { value, problems } = await readPack(files)
  return { piece: value!.pieces[0]!, codes: problems.map((p) => p.code) }
}
/** The color of each triangle, in their order from below. */
function colorsUp({ positions, triangles, materials, materialOf }: PackPiece): string[] {
  const height = (t: number) => positions[triangles[t * 3]! * 3 + 1]!
  return [...materialOf.keys()].sort((a, b) => height(a) - height(b)).map((t) => materials[materialOf[t]!]!.color)
}

describe('pictures of a pack', () => {
  it('become colors where each triangle lies on one of a palette', async () => {
    const { piece, codes } = await read(new Map([['a.glb', await io.writeBinary(squares(palette()))]]))
    expect(codes).toEqual([])
    expect(colorsUp(piece)).toEqual([FIELDS[0], FIELDS[0], FIELDS[2], FIELDS[2]])
    expect(piece.materials).toEqual([
      { name: 'skin red', of: 'skin', color: FIELDS[0], picture: false },
      { name: 'skin blue', of: 'skin', color: FIELDS[2], picture: false },
    ])
    expect(['#000000', '#7a4a1e', '#e8e4da', '#8a8a8a', '#3a1f6b', '#ffb6c1'].map(colorWord)).toEqual([
      ...['black', 'brown', 'light grey', 'grey', 'dark purple', 'pink'],
    ])
    // what the material is besides comes upon it
    const dark = squares(palette())
    dark.getRoot().listMaterials()[0]!.setBaseColorFactor([0, 1, 1, 1])
    const { piece: bluish } = await read(new Map([['a.glb', await io.writeBinary(dark)]]))
    expect(colorsUp(bluish)[0]).toBe('#00392b')
  })

  it('are said to be left where they are painted, and leave the mean of their colors', async () => {
    const { piece, codes } = await read(new Map([['a.glb', await io.writeBinary(squares(painting(), 0.35))]]))
    expect(codes).toEqual(['picture-left'])
    expect(piece.materials).toMatchObject([{ name: 'skin', picture: true }])
    expect(piece.materials[0]!.color).not.toBe('#ffffff')
    expect(piece.triangles.length).toBe(12)
  })

  it('may lie in files of their own, for glTF and OBJ, up and down the folders', async () => {
    const { json, resources } = await io.writeJSON(squares(palette()), { basename: 'a' })
    const [uri] = Object.keys(resources).filter((name) => name.endsWith('.png'))
    json.images![0]!.uri = '../look/my%20palette.png'
    const files = new Map<string, Uint8Array>([
      ['models/a.gltf', text(JSON.stringify(json))],
      ...Object.entries(resources)
        .filter(([name]) => name !== uri)
        .map(([name, bytes]) => [`models/${name}`, bytes] as const),
      ['look/my palette.png', palette()],
    ])
    const { piece, codes } = await read(files)
    expect(codes).toEqual([])
    expect(colorsUp(piece)).toEqual([FIELDS[0], FIELDS[0], FIELDS[2], FIELDS[2]])

    const obj = `mtllib m.mtl
v 0 0 0
v 1 0 0
v 1 1 0
v 0 1 1
v 1 1 1
v 1 2 1
vt 0.25 0.875
vt 0.75 0.125
usemtl paint
f 1/1 2/1 3/1
f 4/2 5/2 6/2
`
    const mtl = 'newmtl paint\nKd 0.8 0.8 0.8\nmap_Kd -s 1 1 1 textures\\fields.png\n'
    const theirs = new Map([
      ['set/b.obj', text(obj)],
      ['set/m.mtl', text(mtl)],
      ['set/textures/fields.png', standing()],
    ])
    // OBJ counts from below
    expect(colorsUp((await read(theirs)).piece)).toEqual([FIELDS[0], FIELDS[3]])
    // not there, or no picture
    theirs.set('set/textures/fields.png', text('no picture'))
    expect((await read(theirs)).codes).toEqual(['picture-left'])
    files.delete('look/my palette.png')
    expect((await read(files)).codes).toEqual(['picture-missing', 'picture-left'])
  })

  it('are told of where their sides are odd, or nothing is made of a material, or one can see through it', async () => {
    const odd = squares(palette(30))
    odd.createMaterial('spare')
    odd.getRoot().listMaterials()[0]!.setAlphaMode('BLEND')
    const { codes } = await read(new Map([['a.glb', await io.writeBinary(odd)]]))
    expect(codes).toEqual(['picture-odd', 'material-unused', 'transparent'])
  })
})
