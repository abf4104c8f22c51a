import { Document, WebIO } from '@gltf-transform/core'
import { describe, expect, it } from 'vitest'
import { readModel } from './readModel.ts'

interface Made {
  positions: number[]
  indices?: number[]
  material?: string
  colors?: number[]
  mode?: 0 | 1 | 4
  targets?: Record<string, number[]>
  skin?: { joints: number[]; weights: number[]; names: string[] }
}

const TRIANGLE = [0, 0, 0, 1, 0, 0, 0, 1, 0]

/** A GLB with one mesh of the given primitives. */
async function glb(...primitives: Made[]): Promise<Uint8Array> {
  const document = new Document()
  const buffer = document.createBuffer()
  const mesh = document.createMesh('m')
  const accessor = (type: 'VEC3' | 'VEC4' | 'SCALAR', array: Float32Array | Uint16Array | Uint8Array) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
  const node = document.createNode('n').setMesh(mesh)
  const names = new Set<string>()
  for (const { positions, indices, material, colors, mode = 4, targets = {}, skin } of primitives) {
    const primitive = document
      .createPrimitive()
      .setMode(mode)
      .setAttribute('POSITION', accessor('VEC3', Float32Array.from(positions)))
    if (indices) primitive.setIndices(accessor('SCALAR', Uint16Array.from(indices)))
    if (material) primitive.setMaterial(document.createMaterial(material))
    if (colors) primitive.setAttribute('COLOR_0', accessor('VEC3', Float32Array.from(colors)))
    for (const [name, deltas] of Object.entries(targets)) {
      names.add(name)
      primitive.addTarget(
        document.createPrimitiveTarget(name).setAttribute('POSITION', accessor('VEC3', Float32Array.from(deltas))),
      )
    }
    if (skin) {
      primitive.setAttribute('JOINTS_0', accessor('VEC4', Uint8Array.from(skin.joints)))
      primitive.setAttribute('WEIGHTS_0', accessor('VEC4', Float32Array.from(skin.weights)))
      const made = document.createSkin()
      for (const name of skin.names) made.addJoint(document.createNode(name))
      node.setSkin(made)
    }
    mesh.addPrimitive(primitive)
  }
  mesh.setExtras({ targetNames: [...names] })
  document.createScene().addChild(node)
  return new WebIO().writeBinary(document)
}

const code = async (bytes: Uint8Array) => {
  const { value, problems } = await readModel(bytes, 'x.glb')
  expect(value).toBeNull()
  expect(problems.every((p) => p.where === 'x.glb' && p.remedy)).toBe(true)
  return problems.at(-1)!.code
}

describe('a model', () => {
  it('joins vertices at one place into a point and keeps a corner for each', async () => {
    const two = await glb({
      positions: [...TRIANGLE, 1, 0, 0, 1, 1, 0, 0, 1, 0],
      indices: [0, 1, 2, 3, 4, 5],
      material: 'skin',
    })
    const { value, problems } = await readModel(two, 'x')
    expect(problems).toEqual([])
    expect(value!.mesh.positions).toHaveLength(4 * 3)
    expect(value!.mesh.cornerPoints).toHaveLength(6)
    expect(value!.mesh.regionNames).toEqual(['skin'])
  })

  it('keeps apart what lies at one place but moves differently', async () => {
    const { value } = await readModel(
      await glb({
        positions: [...TRIANGLE, ...TRIANGLE],
        indices: [0, 1, 2, 3, 4, 5],
        targets: { open: [0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0] },
      }),
      'x',
    )
    expect(value!.mesh.positions).toHaveLength(4 * 3)
    expect(value!.mesh.morphs).toHaveLength(1)
    expect([...value!.mesh.morphs[0]!.points]).toHaveLength(1)
    expect([...value!.mesh.morphs[0]!.deltas]).toEqual([0, 0, 1])
  })

  it('names its color regions after materials, “plain” without one, across primitives', async () => {
    const { value } = await readModel(
      await glb(
        { positions: TRIANGLE, material: 'coat' },
        { positions: TRIANGLE.map((v) => v + 2) },
        { positions: TRIANGLE.map((v) => v + 4), material: 'coat' },
      ),
      'x',
    )
    expect(value!.mesh.regionNames).toEqual(['coat', 'plain'])
    expect([...value!.mesh.regions]).toEqual([0, 0, 0, 1, 1, 1, 0, 0, 0])
    expect(value!.mesh.indices).toHaveLength(9)
  })

  it('reads baked light from the red of its vertex colors, full where there is none', async () => {
    const { value } = await readModel(await glb({ positions: TRIANGLE, colors: [0.5, 0, 0, 1, 1, 1, 2, 0, 0] }), 'x')
    expect([...value!.mesh.shades]).toEqual([128, 255, 255])
    expect([...(await readModel(await glb({ positions: TRIANGLE }), 'x')).value!.mesh.shades]).toEqual([255, 255, 255])
  })

  it('reads skin with the names of its joints', async () => {
    const { value } = await readModel(
      await glb({
        positions: TRIANGLE,
        skin: {
          joints: [0, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0],
          weights: [1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0],
          names: ['hips', 'spine'],
        },
      }),
      'x',
    )
    expect(value!.joints.map((j) => j.name)).toEqual(['hips', 'spine'])
    expect([...value!.mesh.joints].filter((_, i) => i % 4 === 0)).toEqual([0, 1, 1])
  })

  it('gets normals that point outward of its winding', async () => {
    const { value } = await readModel(await glb({ positions: TRIANGLE }), 'x')
    expect([...value!.mesh.normals]).toEqual([0, 0, 1, 0, 0, 1, 0, 0, 1])
  })
})

describe('a model that cannot be used', () => {
  it.each([
    ['is empty', () => Promise.resolve(new Uint8Array()), 'glb-empty'],
    ['is something else', () => Promise.resolve(new TextEncoder().encode('solid cube and more text')), 'glb-foreign'],
    ['is cut off', async () => (await glb({ positions: TRIANGLE })).slice(0, 300), 'glb-cut-off'],
    ['has only points', () => glb({ positions: TRIANGLE, mode: 0 }), 'model-empty'],
    ['has a place that is no number', () => glb({ positions: [0, 0, 0, Number.NaN, 0, 0, 0, 1, 0] }), 'model-nan'],
    ['has an infinite place', () => glb({ positions: [0, 0, 0, Infinity, 0, 0, 0, 1, 0] }), 'model-nan'],
    ['names a vertex that is not there', () => glb({ positions: TRIANGLE, indices: [0, 1, 9] }), 'model-index'],
  ])('because it %s is told as a problem', async (_name, make, expected) => {
    expect(await code(await make())).toBe(expected)
  })

  it('because its JSON is broken is told as a problem', async () => {
    const bytes = await glb({ positions: TRIANGLE })
    const broken = bytes.slice()
    broken.fill(0x7b, 20, 40)
    expect(await code(broken)).toBe('json')
  })

  it('never throws, whatever bytes come', async () => {
    const whole = await glb({ positions: TRIANGLE, material: 'a', indices: [0, 1, 2] })
    for (let at = 12; at < whole.length; at += 37) {
      const bytes = whole.slice()
      bytes[at] = bytes[at]! ^ 0xff
      const { value, problems } = await readModel(bytes, 'x')
      expect(value !== null || problems.length > 0).toBe(true)
    }
  })
})
