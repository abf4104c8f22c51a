import { Document, Logger, WebIO } from '@gltf-transform/core'
import { decode, encode } from 'fast-png'
import { describe, expect, it } from 'vitest'
import { colorWord } from '../color/colorWord.ts'
import { Builder } from '../build.ts'
import { partReference, newRecipe } from '../recipe/defaults.ts'
import { setPart } from '../recipe/edits.ts'
import { newTarget } from '../recipe/target.ts'
import { readKit } from '../kit/readKit.ts'
import { shipFigure } from '../ship/shipFigure.ts'
import { demoKit, kitFiles } from '../testing/demoKits.ts'
import { mendPiece } from './mend.ts'
import type { PackPiece } from './Pack.ts'
import { packKit } from './packKit.ts'
import { placePack } from './placePack.ts'
import { triangleColors } from './pictures.ts'
import { readPack, type PackFiles } from './readPack.ts'
import { learnSlots } from './sortPieces.ts'
import { joinPieces } from './takeApart.ts'

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
/** A picture that grows redder to the right and greener downwards. */
function gradient(): Uint8Array<ArrayBuffer> {
  const data = Uint8Array.from({ length: 64 * 64 * 3 }, (_, i) => [Math.floor((i / 3) % 64) * 4, Math.floor(i / 192) * 4, 128][i % 3]!) // prettier-ignore
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

  it('are kept where they are painted, each corner where it lies; not where they are repeated', async () => {
    const { piece, codes } = await read(new Map([['a.glb', await io.writeBinary(squares(painting(), 0.35))]]))
    expect(codes).toEqual([])
    expect(piece.materials).toMatchObject([{ name: 'skin', picture: true, paint: { picture: { width: 64 } } }])
    // the mean of its colors is there as well
    expect(piece.materials[0]!.color).not.toBe('#ffffff')
    // tile by tile: the upper square lies on the third repetition
    const corners = Array.from({ length: piece.uvs!.length / 2 }, (_, i) => [...piece.uvs!.subarray(i * 2, i * 2 + 2)])
    expect(corners).toHaveLength(12)
    const lefts = corners.map(([u]) => Math.round(u! * 1000))
    expect(new Set(lefts)).toEqual(new Set([125, 475, 625, 975]))
    const wide = await read(new Map([['a.glb', await io.writeBinary(squares(painting(), 3))]]))
    expect([wide.codes, wide.piece.uvs, wide.piece.materials[0]!.paint]).toEqual([
      ['picture-left'],
      undefined,
      undefined,
    ])
  })

  it('show on each triangle in the color that is there, times what they are multiplied by', async () => {
    const document = squares(gradient(), 0.35)
    const { piece } = await read(new Map([['a.glb', await io.writeBinary(document)]]))
    const colors = triangleColors(piece)
    const { picture } = piece.materials[0]!.paint!
    const channels = (hex: string) => [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16))
    const count = piece.triangles.length / 3
    expect(count).toBe(4)
    for (let t = 0; t < count; t++) {
      // all pixels whose middles lie in the triangle, one by one
      const [a, b, c] = [0, 1, 2].map((k) => [piece.uvs![t * 6 + k * 2]! * picture.width, piece.uvs![t * 6 + k * 2 + 1]! * picture.height]) as [number[], number[], number[]] // prettier-ignore
      const side = (p: number[], q: number[], x: number, y: number) => (q[0]! - p[0]!) * (y - p[1]!) - (q[1]! - p[1]!) * (x - p[0]!) // prettier-ignore
      const sums = [0, 0, 0, 0]
      for (let y = 0; y < picture.height; y++)
        for (let x = 0; x < picture.width; x++) {
          const sides = [side(a, b, x + 0.5, y + 0.5), side(b, c, x + 0.5, y + 0.5), side(c, a, x + 0.5, y + 0.5)]
          if (!sides.every((s) => s >= 0) && !sides.every((s) => s <= 0)) continue
          for (let k = 0; k < 3; k++) sums[k]! += picture.rgba[(y * picture.width + x) * 4 + k]!
          sums[3]!++
        }
      expect(sums[3]).toBeGreaterThan(20)
      // a color is rounded by 4 at most; a look may be half a pixel off, and one pixel's step is 4
      channels(colors[t]!).forEach((v, k) => expect(Math.abs(v - sums[k]! / sums[3]!), `${t} ${k}`).toBeLessThan(9))
    }
    expect(new Set(colors).size).toBeGreaterThan(1)
    document.getRoot().listMaterials()[0]!.setBaseColorFactor([1, 0, 1, 1])
    const { piece: tinted } = await read(new Map([['a.glb', await io.writeBinary(document)]]))
    expect(channels(triangleColors(tinted)[0]!)[1]).toBe(0)
    // without a picture, the material's own color
    const { piece: left } = await read(new Map([['a.glb', await io.writeBinary(squares(gradient(), 3))]]))
    expect(triangleColors(left)[0]).toBe(left.materials[0]!.color)
  })

  it('go where their triangles go: turned, closed over, parted and joined', async () => {
    const document = squares(painting(), 0.35)
    const { piece } = await read(new Map([['a.glb', await io.writeBinary(document)]]))
    const where = (p: PackPiece) =>
      new Map(
        [...p.triangles].map((v, c) => [
          [...p.positions.subarray(v * 3, v * 3 + 3)].map((x) => x.toFixed(3)).join(),
          [...p.uvs!.subarray(c * 2, c * 2 + 2)].map((x) => x.toFixed(3)).join(),
        ]),
      )
    const before = where(piece)
    expect(before.size).toBe(8)
    const turned = { ...piece, triangles: piece.triangles.slice(), uvs: piece.uvs!.slice() }
    // one of a square's two triangles the other way round
    turned.triangles.set([piece.triangles[0]!, piece.triangles[2]!, piece.triangles[1]!])
    turned.uvs.set([0, 1, 4, 5, 2, 3].map((i) => piece.uvs![i]!))
    const mended = mendPiece(turned, new Set(['faces-against', 'holes']))
    expect(mended.uvs!.length).toBe(mended.triangles.length * 2)
    expect(where(mended)).toEqual(before)
    const bits = [0, 1].map((n) => ({
      ...piece,
      triangles: piece.triangles.slice(n * 6, n * 6 + 6),
      materialOf: piece.materialOf.slice(0, 2),
      uvs: piece.uvs!.slice(n * 12, n * 12 + 12),
    }))
    expect(where(joinPieces(bits))).toEqual(before)
  })

  it('come with the parts of the kit, cut and made smaller, and lie in the atlas of the figure that ships', async () => {
    const folk = await demoKit('saltwick-folk')
    const kits = new Map([[folk.manifest.id, folk]])
    // a straw hat painted all over: its left red to orange, its right blue to violet
    const document = await io.readBinary(kitFiles('saltwick-folk').get('parts/hat-straw.glb')!)
    const size = 128
    const data = Uint8Array.from({ length: size * size * 3 }, (_, i) => {
      const [x, y, k] = [Math.floor(i / 3) % size, Math.floor(i / 3 / size), i % 3]
      const grade = Math.floor((y * 200) / size)
      return x < size / 2 ? [230, grade, 10][k]! : [grade, 20, 220][k]!
    })
    const image = new Uint8Array(encode({ width: size, height: size, data, channels: 3 }))
    const texture = document.createTexture('felt').setImage(image).setMimeType('image/png')
    for (const material of document.getRoot().listMaterials()) material.setBaseColorTexture(texture)
    for (const mesh of document.getRoot().listMeshes())
      for (const primitive of mesh.listPrimitives()) {
        const places = primitive.getAttribute('POSITION')!
        const uvs = Float32Array.from({ length: places.getCount() * 2 }, (_, i) => {
          const [x, , z] = places.getElement(i >> 1, [] as number[])
          // the left of the figure is +x, the left half of the picture
          return i % 2 ? 0.5 + z! * 1.5 : 0.5 - x! * 1.5
        })
        primitive.setAttribute('TEXCOORD_0', document.createAccessor().setType('VEC2').setArray(uvs))
      }
    const pack = (await readPack(new Map([['hat.glb', await io.writeBinary(document)]]))).value!
    const knowledge = learnSlots(kits, folk.bodies.get('human')!)
    const placing = placePack(pack, knowledge, { up: 'y', front: 'z', unit: 'm' })
    const make = async (pictures: number) => {
      const made = await packKit(pack, placing, knowledge, kits, {
        ...{ id: 'painted', name: 'Painted', pictures, slots: new Map([[pack.pieces[0]!.id, 'hat']]) },
      })
      return (await readKit(made.value!)).value!
    }
    const kit = await make(48)
    const [part] = [...kit.parts.values()]
    const [paint] = [...part!.paints.values()]
    const cut = decode(paint!.image)
    expect(Math.max(cut.width, cut.height)).toBe(48)
    const all = new Map([...kits, [kit.manifest.id, kit] as const])
    const recipe = setPart(newRecipe(folk, 'human', 'Painted'), 'hat', partReference(kit, part!.def.id))
    const target = { ...newTarget('any', 'Any'), atlas: 256 }
    const { bytes } = await shipFigure(new Builder(all), all, recipe, target, { lods: false })
    // as a game reads it: the color under each vertex that is on neither side's edge
    const shipped = (await io.readBinary(bytes!)).getRoot()
    const atlas = decode(shipped.listTextures()[0]!.getImage()!)
    const [primitive] = shipped.listMeshes()[0]!.listPrimitives()
    const [place, uv] = [primitive!.getAttribute('POSITION')!, primitive!.getAttribute('TEXCOORD_0')!]
    const seen = { left: [0, 0], right: [0, 0] }
    for (let v = 0; v < place.getCount(); v++) {
      const [x, y] = place.getElement(v, [] as number[]) as [number, number]
      const [s, t] = uv.getElement(v, [] as number[]) as [number, number]
      const at =
        (Math.min(atlas.height - 1, Math.floor(t * atlas.height)) * atlas.width +
          Math.min(atlas.width - 1, Math.floor(s * atlas.width))) *
        atlas.channels
      const [r, , b] = atlas.data.subarray(at, at + 3) as Uint8Array
      // the brim stands out farther than any head
      if (Math.abs(x) < 0.16 || y < 1.5) continue
      const side = x > 0 ? seen.left : seen.right
      side[0]!++
      if (x > 0 ? r! > 200 && b! < 60 : b! > 180 && r! < 210) side[1]!++
    }
    for (const [count, right] of Object.values(seen)) {
      expect(count).toBeGreaterThan(6)
      expect(right).toBe(count)
    }
    // of more than a kit has room for the rest have one color each, which is told of just these
    const copies = Array.from({ length: 152 }, (_, i) => ({ ...pack.pieces[0]!, id: `copy ${i}`, names: [`hat ${i}`] }))
    const crowded = await packKit({ ...pack, pieces: copies }, placing, knowledge, kits, {
      ...{ id: 'many', name: 'Many', pictures: 8, slots: new Map(copies.map((p) => [p.id, 'hat'])) },
    })
    const { value: many } = await readKit(crowded.value!)
    const painted = [...many!.parts.values()].filter((p) => p.paints.size > 0).length
    expect([painted < 152, crowded.problems.map((p) => p.code)]).toEqual([true, ['pictures-many']])
    expect(crowded.problems[0]!.message).toContain(`${152 - painted} of its parts`)
    // without pictures one color each, from the kit's own regions
    const plain = await make(0)
    expect([...plain.parts.values()][0]!.paints.size).toBe(0)
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
    theirs.delete('set/textures/fields.png')
    const { problems } = await readPack(theirs)
    expect(problems.map((p) => `${p.where} ${p.message}`)[0]).toBe(
      'set/b.obj Its picture “textures\\fields.png” is not in the pack.',
    )
    expect(problems.map((p) => p.code)).toEqual(['picture-missing', 'picture-left'])
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
