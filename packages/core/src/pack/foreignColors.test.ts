import { encode } from 'fast-png'
import { Matrix3, Vector2 } from 'three'
import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import { Document } from '@gltf-transform/core'
import { PICTURE_PLACE, placedOn } from '../scene/baseColors.ts'
import { processorSeconds } from '../testing/spent.ts'
import type { PackPiece } from './Pack.ts'
import { readPack } from './readPack.ts'

/*
 * Colors as other programs write them: on vertices, on pictures that lie elsewhere than vertices say, in materials of the
 * older kind, in files that hold everything themselves. The files are put together by hand.
 */

const FIELDS = ['#c0392b', '#27ae60', '#2980b9', '#f1c40f']
/** Four fields side by side. */
const PALETTE = encode({
  ...{ width: 32, height: 8, channels: 3 },
  data: Uint8Array.from({ length: 32 * 8 * 3 }, (_, i) => {
    const hex = FIELDS[Math.floor((Math.floor(i / 3) % 32) / 8)]!
    return parseInt(hex.slice(1 + (i % 3) * 2, 3 + (i % 3) * 2), 16)
  }),
})
const dataUri = (kind: string, bytes: Uint8Array) => `data:${kind};base64,${Buffer.from(bytes).toString('base64')}`
const bytesOf = (text: string) => new TextEncoder().encode(text)

interface Look {
  /** One for the lower square, one for the upper. */
  uvs?: [number, number][]
  /** Four numbers a vertex, eight vertices. */
  colors?: number[]
  /** As shares of 255. */
  asBytes?: boolean
  material: object
  used?: string[]
  needs?: unknown[]
  /** Of its picture; the picture itself if not said. */
  texture?: object
}

/** Two squares, one above the other, as glTF: what it says, and its numbers. */
function squares({ uvs, colors, asBytes, material, used, needs }: Look): {
  json: Record<string, unknown>
  numbers: Uint8Array
} {
  const places = [0, 1].flatMap((n) => [0, n, 0, 1, n, 0, 1, n + 0.9, 0, 0, n + 0.9, 0])
  const onPicture = (uvs ?? []).flatMap(([u, v]) => [u, v, u + 0.1, v, u + 0.1, v + 0.1, u, v + 0.1])
  const runs: { array: Float32Array | Uint16Array | Uint8Array; type: string; kind: number; name?: string }[] = [
    { array: Uint16Array.from([0, 1, 2, 0, 2, 3, 4, 5, 6, 4, 6, 7]), type: 'SCALAR', kind: 5123 },
    { array: Float32Array.from(places), type: 'VEC3', kind: 5126, name: 'POSITION' },
  ]
  if (uvs) runs.push({ array: Float32Array.from(onPicture), type: 'VEC2', kind: 5126, name: 'TEXCOORD_0' })
  if (colors)
    runs.push({
      array: asBytes ? Uint8Array.from(colors, (v) => Math.round(v * 255)) : Float32Array.from(colors),
      ...{ type: 'VEC4', kind: asBytes ? 5121 : 5126, name: 'COLOR_0' },
    })
  const width = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4 }
  let at = 0
  const views: object[] = []
  const accessors: object[] = []
  const parts: Uint8Array[] = []
  for (const { array, type, kind } of runs) {
    const bytes = new Uint8Array(array.buffer)
    views.push({ buffer: 0, byteOffset: at, byteLength: bytes.length })
    accessors.push({
      ...{ bufferView: views.length - 1, componentType: kind, type, normalized: kind === 5121 },
      count: array.length / width[type as 'VEC2'],
      ...(type === 'VEC3' && { min: [0, 0, 0], max: [1, 1.9, 0] }),
    })
    parts.push(bytes, new Uint8Array((4 - (bytes.length % 4)) % 4))
    at += Math.ceil(bytes.length / 4) * 4
  }
  const attributes = Object.fromEntries(runs.flatMap(({ name }, i) => (name ? [[name, i]] : [])))
  const json = {
    asset: { version: '2.0' },
    ...(used && { extensionsUsed: used }),
    ...(needs && { extensionsUsed: needs, extensionsRequired: needs }),
    scenes: [{ nodes: [0] }],
    nodes: [{ name: 'squares', mesh: 0 }],
    meshes: [{ primitives: [{ attributes, indices: 0, material: 0 }] }],
    materials: [{ name: 'cloth', ...material }],
    accessors,
    bufferViews: views,
    buffers: [{ byteLength: at }],
  }
  return { json, numbers: Buffer.concat(parts) }
}

/** As one text with everything in it. */
function asText(look: Look): [string, Uint8Array] {
  const { json, numbers } = squares(look)
  const whole = {
    ...json,
    buffers: [{ byteLength: numbers.length, uri: dataUri('application/octet-stream', numbers) }],
    images: [{ uri: dataUri('image/png', PALETTE) }],
    textures: [look.texture ?? { source: 0 }],
  }
  return ['squares.gltf', bytesOf(JSON.stringify(whole))]
}

/** As one binary file. */
function asBinary(look: Look): [string, Uint8Array] {
  const { json, numbers } = squares(look)
  const views = [
    ...(json.bufferViews as object[]),
    { buffer: 0, byteOffset: numbers.length, byteLength: PALETTE.length },
  ]
  const pad = (bytes: Uint8Array, by: number) =>
    Buffer.concat([bytes, new Uint8Array((4 - (bytes.length % 4)) % 4).fill(by)])
  const data = pad(Buffer.concat([numbers, PALETTE]), 0)
  const whole = {
    ...json,
    bufferViews: views,
    buffers: [{ byteLength: data.length }],
    images: [{ bufferView: views.length - 1, mimeType: 'image/png' }],
    textures: [look.texture ?? { source: 0 }],
  }
  const said = pad(bytesOf(JSON.stringify(whole)), 0x20)
  const word = (...values: number[]) => new Uint8Array(Uint32Array.from(values).buffer)
  const length = 12 + 8 + said.length + 8 + data.length
  return [
    'squares.glb',
    Buffer.concat([
      ...[word(0x46546c67, 2, length), word(said.length, 0x4e4f534a), said],
      ...[word(data.length, 0x004e4942), data],
    ]),
  ]
}

async function read(...files: [string, Uint8Array][]): Promise<{ piece: PackPiece; codes: string[] }> {
  const { value, problems } = await readPack(new Map(files))
  return { piece: value!.pieces[0]!, codes: problems.map((p) => p.code) }
}

/** The color of each square's first triangle, from below. */
function twoColors({ positions, triangles, materials, materialOf }: PackPiece): string[] {
  const low = (t: number) => Math.min(...[0, 1, 2].map((c) => positions[triangles[t * 3 + c]! * 3 + 1]!))
  return [0, 1].map(
    (n) => materials[materialOf[[...materialOf.keys()].find((t) => Math.floor(low(t) + 0.01) === n)!]!]!.color,
  )
}

const square = (color: readonly number[]) => Array.from({ length: 4 }, () => [...color, 1]).flat()
const pbr = (said: object) => ({ pbrMetallicRoughness: said })

describe.each([
  ['as one text', asText],
  ['as one binary file', asBinary],
] as const)('a foreign model %s', (_, file) => {
  it('has the colors of its picture, which lies in the file itself', async () => {
    const look = { uvs: [[0.05, 0.5], [0.55, 0.5]] as [number, number][], material: pbr({ baseColorTexture: { index: 0 } }) } // prettier-ignore
    const { piece, codes } = await read(file(look))
    expect(twoColors(piece)).toEqual([FIELDS[0], FIELDS[2]])
    expect(codes).toEqual([])
  })

  it('has those of where its picture lies: moved, scaled and turned', async () => {
    const uvs: [number, number][] = [[0.1, 0.2], [0.6, 0.2]] // prettier-ignore
    const placed = async (transform: object) => {
      const texture = { index: 0, extensions: { KHR_texture_transform: transform } }
      const { piece } = await read(
        file({ uvs, material: pbr({ baseColorTexture: texture }), used: ['KHR_texture_transform'] }),
      )
      return twoColors(piece)
    }
    expect(await placed({})).toEqual([FIELDS[0], FIELDS[2]])
    expect(await placed({ offset: [0.25, 0] })).toEqual([FIELDS[1], FIELDS[3]])
    // both squares within a quarter of it
    expect(await placed({ offset: [0.5, 0.3], scale: [0.25, 0.25] })).toEqual([FIELDS[2], FIELDS[2]])
    // upside down: what was left is right
    expect(await placed({ offset: [1, 1], rotation: Math.PI })).toEqual([FIELDS[3], FIELDS[1]])
    // what says nothing that could be is passed over
    expect(await placed({ offset: ['far', null], scale: 7 })).toEqual([FIELDS[0], FIELDS[2]])
  })

  it('is told where its picture is of a kind that is not read, and has the plain one beside it where there is one', async () => {
    for (const kind of ['EXT_texture_webp', 'KHR_texture_basisu']) {
      const look = { uvs: [[0.05, 0.5], [0.55, 0.5]] as [number, number][], material: pbr({ baseColorTexture: { index: 0 } }), used: [kind] } // prettier-ignore
      const alone = await read(file({ ...look, texture: { extensions: { [kind]: { source: 0 } } } }))
      expect(alone.codes).toContain('picture-left')
      expect(alone.piece.materials).toMatchObject([{ picture: true }])
      const both = await read(file({ ...look, texture: { source: 0, extensions: { [kind]: { source: 0 } } } }))
      expect(twoColors(both.piece)).toEqual([FIELDS[0], FIELDS[2]])
      expect(both.codes).toEqual([])
    }
  })

  it('has the diffuse color of a material of the older kind, where it has no other', async () => {
    const older = (said: object, more = {}) =>
      file({
        uvs: [[0.3, 0.5], [0.8, 0.5]], // prettier-ignore
        material: { extensions: { KHR_materials_pbrSpecularGlossiness: said }, ...more },
        used: ['KHR_materials_pbrSpecularGlossiness'],
      })
    expect(twoColors((await read(older({ diffuseFactor: [1, 0, 0, 1] }))).piece)).toEqual(['#ff0000', '#ff0000'])
    expect(twoColors((await read(older({ diffuseTexture: { index: 0 } }))).piece)).toEqual([FIELDS[1], FIELDS[3]])
    const both = older({ diffuseFactor: [1, 0, 0, 1] }, pbr({ baseColorFactor: [0, 0, 1, 1] }))
    expect(twoColors((await read(both)).piece)).toEqual(['#0000ff', '#0000ff'])
    for (const odd of ['red', [1, null, 0, 1], [1, 0], { 0: 1 }]) {
      const { piece } = await read(older({ diffuseTexture: { index: 12 }, diffuseFactor: odd }))
      expect(piece.materials, JSON.stringify(odd)).toMatchObject([{ color: '#ffffff' }])
      const own = await read(file({ material: pbr({ baseColorFactor: odd }) }))
      expect(own.piece.materials[0]!.color, JSON.stringify(odd)).toBe('#ffffff')
    }
  })

  it('is refused in words where it needs what is not read, and read where only its looks need it', async () => {
    for (const needs of ['KHR_draco_mesh_compression', 'EXT_mesh_gpu_instancing', 7]) {
      const { value, problems } = await readPack(new Map([file({ material: {}, needs: [needs] })]))
      expect(value).toBeNull()
      expect(problems[0]).toMatchObject({ code: 'gltf-needs', severity: 'warning' })
      expect(problems[0]!.message).toContain(`It needs “${needs}”`)
    }
    for (const needs of ['KHR_materials_unlit', 'KHR_texture_transform', 'KHR_lights_punctual', 'EXT_texture_webp'])
      expect((await read(file({ material: {}, needs: [needs] }))).codes, needs).toEqual([])
  })

  it('has the colors of its vertices, each a material that can be given another', async () => {
    for (const asBytes of [false, true]) {
      const colors = [...square([1, 0, 0]), ...square([0, 0, 1])]
      const { piece } = await read(file({ colors, asBytes, material: {} }))
      expect(twoColors(piece)).toEqual(['#ff0000', '#0000ff'])
      expect(piece.materials.map((m) => [m.name, m.of, m.picture])).toEqual([
        ['cloth red', 'cloth', false],
        ['cloth blue', 'cloth', false],
      ])
    }
    // a grey of the material is under all of them
    const darker = file({ colors: [...square([1, 0, 0]), ...square([0, 0, 1])], material: pbr({ baseColorFactor: [0.5, 0.5, 0.5, 1] }) }) // prettier-ignore
    expect(twoColors((await read(darker)).piece)).toEqual(['#bc0000', '#0000bc'])
    // beside a color of the material they are light that falls on it
    const lit = file({ colors: [...square([1, 0.8, 0.6]), ...square([0.4, 0.4, 0.6])], material: pbr({ baseColorFactor: [1, 0, 0, 1] }) }) // prettier-ignore
    expect((await read(lit)).piece.materials).toMatchObject([{ name: 'cloth', color: '#ff0000' }])
    // baked light is no color
    const grey = file({ colors: [...square([0.2, 0.2, 0.2]), ...square([1, 1, 1])], material: pbr({ baseColorFactor: [0, 1, 0, 1] }) }) // prettier-ignore
    expect((await read(grey)).piece.materials).toMatchObject([{ name: 'cloth', color: '#00ff00' }])
    // beside a picture it is the picture
    const beside = file({
      ...{ colors: [...square([1, 0, 0]), ...square([0, 1, 0])], uvs: [[0.05, 0.5], [0.55, 0.5]] }, // prettier-ignore
      material: pbr({ baseColorTexture: { index: 0 } }),
    })
    expect(twoColors((await read(beside)).piece)).toEqual([FIELDS[0], FIELDS[2]])
    // what is no number takes nothing away
    const broken = file({ colors: [...square([NaN, 0, 0]), ...square([0, Infinity, -3])], material: {} })
    expect(twoColors((await read(broken)).piece)).toEqual(['#ff0000', '#00ff00'])
  })
})

it('is told where the address of its picture is endless and holds none', async () => {
  for (const endless of [`data:${'a'.repeat(300_000)}`, `data:${';'.repeat(300_000)}`]) {
    const { json, numbers } = squares({ uvs: [[0, 0], [0, 0]], material: pbr({ baseColorTexture: { index: 0 } }) }) // prettier-ignore
    const buffers = [{ byteLength: numbers.length, uri: dataUri('application/octet-stream', numbers) }]
    const whole = { ...json, buffers, images: [{ uri: endless }], textures: [{ source: 0 }] }
    const before = processorSeconds()
    const { codes } = await read(['squares.gltf', bytesOf(JSON.stringify(whole))])
    expect(codes).toEqual(['picture-missing', 'picture-left'])
    // seconds; with every way to part it in two tried it would be minutes
    expect(processorSeconds() - before).toBeLessThan(2)
  }
})

it('has a course of colors in steps that a person can look through', async () => {
  const rows = 300
  const lines = Array.from({ length: rows * 2 }, (_, i) => {
    const share = Math.floor(i / 2) / rows
    return `v ${i % 2} ${Math.floor(i / 2) / 100} 0 ${share} ${1 - share} ${i % 2}`
  })
  const faces = Array.from({ length: rows - 1 }, (_, r) => `f ${r * 2 + 1} ${r * 2 + 2} ${r * 2 + 4} ${r * 2 + 3}`)
  const { piece } = await read(['sheet.obj', bytesOf([...lines, ...faces].join('\n'))])
  expect(piece.materialOf).toHaveLength((rows - 1) * 2)
  expect(piece.materials.length).toBeGreaterThan(5)
  expect(piece.materials.length).toBeLessThan(25)
  // in steps of 14 there are more than 24: those of 28 are the finest that do
  for (const [t, m] of piece.materialOf.entries()) {
    const y = [0, 1, 2].reduce((sum, c) => sum + piece.positions[piece.triangles[t * 3 + c]! * 3 + 1]! / 3, 0)
    const red = parseInt(piece.materials[m]!.color.slice(1, 3), 16)
    expect(Math.abs(red - (y * 100 * 255) / rows)).toBeLessThan(29)
  }
})

it('takes one picture for one, however many surfaces are painted with it', async () => {
  const look = { uvs: [[0.05, 0.5], [0.55, 0.5]] as [number, number][], material: pbr({ baseColorTexture: { index: 0 } }) } // prettier-ignore
  const { json, numbers } = squares(look)
  const [mesh] = json.meshes as { primitives: object[] }[]
  const noise = encode({ width: 64, height: 64, channels: 3, data: Uint8Array.from({ length: 64 * 64 * 3 }, (_, i) => (i * 7919) & 255) }) // prettier-ignore
  const whole = {
    ...json,
    meshes: [{ primitives: [...mesh!.primitives, ...mesh!.primitives] }],
    buffers: [{ byteLength: numbers.length, uri: dataUri('application/octet-stream', numbers) }],
    images: [{ uri: dataUri('image/png', noise) }],
    textures: [{ source: 0 }],
  }
  const { piece } = await read(['squares.gltf', bytesOf(JSON.stringify(whole))])
  expect(piece.triangles).toHaveLength(24)
  expect(piece.materials).toMatchObject([{ name: 'cloth', picture: true, paint: { picture: { width: 64 } } }])
})

it('of OBJ has those that stand behind its places, and of its material where only some have any', async () => {
  const corner = ['0 0 0', '1 0 0', '0 1 0', '0 0 1']
  const whole = corner.map((at) => `v ${at} 0.9 0.1 0.1`)
  const faces = ['f 1 2 3', 'f 1 2 4']
  const colored = await read(['a.obj', bytesOf([...whole, ...faces].join('\r\n'))])
  expect(colored.piece.materials).toMatchObject([{ color: '#e61a1a' }])
  const some = [...whole.slice(0, 2), ...corner.slice(2).map((at) => `v ${at}`)]
  const mixed = await read(['a.obj', bytesOf(['usemtl m', ...some, ...faces].join('\n'))], ['a.mtl', bytesOf('newmtl m\nKd 0 0 1\n')]) // prettier-ignore
  expect(mixed.piece.materials).toHaveLength(1)
})

it('lies as three.js would have it, moved, turned and scaled alike each way', () => {
  // hundredths: of all doubles most are next to nothing, and nearly nothing turns nothing
  const number = fc.integer({ min: -300, max: 300 }).map((v) => v / 100)
  fc.assert(
    fc.property(number, number, number, number, number, number, (x, y, rotation, scale, u, v) => {
      const material = new Document().createMaterial()
      material.setExtras({ [PICTURE_PLACE]: { offset: [x, y], rotation, scale: [scale, scale] } })
      const [a, b] = placedOn(material, Float32Array.of(u, v))
      const theirs = new Vector2(u, v).applyMatrix3(new Matrix3().setUvTransform(x, y, scale, scale, rotation, 0, 0))
      // places are single precision, up to 16 in all
      expect(Math.hypot(a! - theirs.x, b! - theirs.y)).toBeLessThan(1e-5)
    }),
  )
})
