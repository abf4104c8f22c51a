import { Document, WebIO } from '@gltf-transform/core'
import { describe, expect, it } from 'vitest'
import { readMix } from '../crowd/mix.ts'
import { readRecipe } from '../recipe/read.ts'
import { meadowKit } from '../testing/meadowKit.ts'
import { readKit } from './readKit.ts'
import { readModel } from './readModel.ts'
import type { KitManifest } from './schema.ts'

/* Kits and models that used to hang a worker or fill its memory: each is refused in words, soon. */

const files = await meadowKit()
const manifest = JSON.parse(new TextDecoder().decode(files.get('kit.json'))) as KitManifest
const encode = (value: unknown) => new TextEncoder().encode(typeof value === 'string' ? value : JSON.stringify(value))
const changed = (change: (m: KitManifest) => void) => {
  const copy = structuredClone(manifest)
  change(copy)
  return new Map([...files, ['kit.json', encode(copy)] as const])
}
const codesOf = async (kit: Map<string, Uint8Array>) => (await readKit(kit)).problems.map((p) => p.code)

describe('a kit whose bones are no tree', () => {
  const bones = (m: KitManifest) => m.plans![0]!.bones
  const bone = (m: KitManifest, name: string) => bones(m).find((b) => b.name === name)!
  it.each([
    [
      'are each other’s parent',
      (m: KitManifest) => {
        bone(m, 'loin').parent = 'withers'
      },
    ],
    ['are their own parent', (m: KitManifest) => (bone(m, 'skull').parent = 'skull')],
    ['stand before their parent', (m: KitManifest) => bones(m).reverse()],
    ['are there twice', (m: KitManifest) => bones(m).push({ ...bone(m, 'loin') })],
    ['hang from nothing', (m: KitManifest) => (bone(m, 'skull').parent = 'antlers')],
    [
      'fold onto each other',
      (m: KitManifest) => {
        Object.assign(bone(m, 'brush2'), { fold: 'brush3' })
        Object.assign(bone(m, 'brush3'), { fold: 'brush2', level: 'standard' })
      },
    ],
  ])('because some %s is refused with the bone, and does not hang', async (_name, change) => {
    const { value, problems } = await readKit(changed(change))
    expect(value!.bodies.size).toBe(0)
    expect(problems.find((p) => p.code === 'bones-order')!.where).toContain('plans/0/bones')
  })

  it('is refused as well where the body’s own bones are the fault', async () => {
    const { problems, value } = await readKit(
      changed((m) => {
        const body = m.bodies[0]!
        body.landmarks.push({ id: 'wing1', at: [0, 1, 0] }, { id: 'wing2', at: [0, 1.1, 0] })
        body.bones = [
          { name: 'wing1', parent: 'wing2', level: 'crowd' },
          { name: 'wing2', parent: 'wing1', level: 'crowd' },
        ]
      }),
    )
    expect(value!.bodies.size).toBe(0)
    expect(problems.map((p) => p.code)).toContain('bones-order')
  })
})

describe('a kit that names what is not there', () => {
  const body = (m: KitManifest) => m.bodies[0]!
  it.each([
    [
      'a socket on an unknown bone',
      (m: KitManifest) => (body(m).sockets[0]!.bone = 'wing'),
      'bone-unknown',
      'sockets/0',
    ],
    [
      'a pull at an unknown landmark',
      (m: KitManifest) => (body(m).sliders[0]!.pull = { landmark: 'wing', direction: [0, 1, 0] }),
      'landmark-missing',
      'sliders/0/pull',
    ],
    ['a default outside its range', (m: KitManifest) => (body(m).sliders[0]!.default = 1.5), 'slider-range', 'default'],
    [
      'a corrective of an unknown slider',
      (m: KitManifest) => (body(m).correctives = [{ morph: 'tall', when: [{ slider: 'wing', end: 'up' }] }]),
      'slider-unknown',
      'correctives/0',
    ],
    [
      'a limb of an unknown bone',
      (m: KitManifest) => m.plans![0]!.limbs[0]!.bones.push('wing'),
      'bone-unknown',
      'limbs/0',
    ],
    ['a slot for an unknown body', (m: KitManifest) => (m.slots[0]!.bodies = ['cow']), 'body-unknown', 'slots/0'],
    [
      'a default of no slot',
      (m: KitManifest) => (body(m).defaults = { wings: 'blanket' }),
      'slot-unknown',
      'defaults/wings',
    ],
    ['a clip of no plan', (m: KitManifest) => (m.clips[0]!.plan = 'octopus'), 'plan-unknown', 'clips/0'],
    [
      'a clip whose keys run back',
      (m: KitManifest) => m.clips[0]!.curves['croup.y']!.reverse(),
      'clip-curve',
      'croup.y',
    ],
  ])('as %s is told where', async (_name, change, code, where) => {
    const { problems } = await readKit(changed(change as (m: KitManifest) => void))
    const found = problems.find((p) => p.code === code)
    expect(found?.where).toContain(where)
  })
})

describe('numbers and names that are none', () => {
  it('beyond what JSON numbers hold are refused wherever they stand', async () => {
    const text = JSON.stringify(manifest)
    const endless = text.replace('"max":1', '"max":1e999')
    expect(endless).not.toBe(text)
    expect(await codesOf(new Map([...files, ['kit.json', encode(endless)]]))).toEqual(['schema'])
    const recipe =
      '{"format":"idle-tinker-recipe","version":2,"name":"x","body":{"kit":"a","kitVersion":"1","id":"b"},"parts":[],"colors":{},"locks":[],"sliders":{"build":'
    expect(readRecipe(`${recipe}0.5}}`).problems).toEqual([])
    for (const odd of ['1e999', '-1e999', '[1e999,0]']) expect(readRecipe(`${recipe}${odd}}}`).value).toBeNull()
  })

  it.each(['new\nline', 'line\u2028end', '', 'x'.repeat(65), '__proto__', 'constructor', 'to string'])(
    'as a key (%j) are refused in kits, recipes and mixes',
    async (key) => {
      const keyed = (value: string) => `{${JSON.stringify(key)}:${value}}`
      const text = JSON.stringify(manifest)
      for (const [from, to] of [
        ['"defaults":{}', `"defaults":${keyed('"horn"')}`],
        [JSON.stringify(manifest.clips[0]!.curves), keyed('[[0,1]]')],
        [JSON.stringify(manifest.palettes[0]!.swatches), keyed('["#aabbcc"]')],
      ] as const) {
        const odd = text.replace(from, to)
        expect(odd).not.toBe(text)
        expect(await codesOf(new Map([...files, ['kit.json', encode(odd)]]))).toContain('schema')
      }
      const recipe = (sliders: string, colors: string) =>
        `{"format":"idle-tinker-recipe","version":2,"name":"x","body":{"kit":"a","kitVersion":"1","id":"b"},"parts":[],"locks":[],"sliders":${sliders},"colors":${colors}}`
      expect(readRecipe(recipe(keyed('0'), '{}')).value).toBeNull()
      expect(readRecipe(recipe('{}', keyed('"#aabbcc"'))).value).toBeNull()
      const mix = `{"format":"idle-tinker-mix","version":2,"id":"m","name":"x","body":{"kit":"a","kitVersion":"1","id":"b"},"count":1,"seed":1,"slots":${keyed('[]')},"sliders":{},"palettes":[],"atMostOnce":[],"triangles":900}`
      expect(readMix(mix).value).toBeNull()
    },
  )

  it('in thousands are told a few of, soon', async () => {
    const parts = Array.from({ length: 650_000 }, () => ({}))
    const json = encode(
      `${JSON.stringify({ ...manifest, parts: [] }).replace('"parts":[]', `"parts":${JSON.stringify(parts)}`)}`,
    )
    const before = process.memoryUsage().heapUsed
    const start = process.hrtime.bigint()
    const { value, problems } = await readKit(new Map([...files, ['kit.json', json]]))
    expect(value).toBeNull()
    expect(problems.length).toBeLessThanOrEqual(20)
    // it took 49 s and 3.7 GB; what is left is parsing two megabytes of JSON
    expect(Number(process.hrtime.bigint() - start) / 1e9).toBeLessThan(5)
    expect(process.memoryUsage().heapUsed - before).toBeLessThan(500 << 20)
  })
})

/** A GLB from JSON and binary, whatever they say. */
function rawGlb(json: unknown, binary = new Uint8Array(0)): Uint8Array {
  const text = new TextEncoder().encode(JSON.stringify(json).padEnd(Math.ceil(JSON.stringify(json).length / 4) * 4))
  const out = new Uint8Array(20 + text.length + 8 + binary.length)
  const view = new DataView(out.buffer)
  for (const [at, value] of [
    [0, 0x46546c67],
    [4, 2],
    [8, out.length],
    [12, text.length],
    [16, 0x4e4f534a],
    [20 + text.length, binary.length],
    [24 + text.length, 0x004e4942],
  ] as const)
    view.setUint32(at, value, true)
  out.set(text, 20)
  out.set(binary, 28 + text.length)
  return out
}

describe('a model that asks for more than it has', () => {
  const base = { asset: { version: '2.0' }, scenes: [{ nodes: [0] }], nodes: [{ mesh: 0 }] }
  const mesh = { meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }] }
  it.each([
    [
      'memory for numbers that are nowhere',
      { ...base, ...mesh, accessors: [{ type: 'VEC3', componentType: 5126, count: 2_000_000_000 }] },
      'scene-large',
    ],
    [
      'many such lists',
      {
        ...base,
        ...mesh,
        accessors: Array.from({ length: 60 }, () => ({ type: 'MAT4', componentType: 5126, count: 3_000_000 })),
      },
      'scene-large',
    ],
    [
      'numbers beyond its end',
      {
        ...base,
        ...mesh,
        accessors: [{ type: 'VEC3', componentType: 5126, count: 9, bufferView: 0 }],
        bufferViews: [{ buffer: 0, byteLength: 36 }],
        buffers: [{ byteLength: 36 }],
      },
      'gltf-broken',
    ],
    [
      'a place that is not there',
      { ...base, ...mesh, accessors: [{ type: 'VEC3', componentType: 5126, count: 3, bufferView: 4 }] },
      'gltf-broken',
    ],
    [
      'a kind of number that there is none of',
      { ...base, ...mesh, accessors: [{ type: 'VEC9', componentType: 1, count: 3 }] },
      'gltf-broken',
    ],
    [
      'a count that is no number',
      { ...base, ...mesh, accessors: [{ type: 'VEC3', componentType: 5126, count: '3' }] },
      'gltf-broken',
    ],
    ['nodes in a ring', { ...base, nodes: [{ children: [1] }, { children: [2] }, { children: [1] }] }, 'node-loop'],
    ['a node that is its own child', { ...base, nodes: [{ children: [0] }] }, 'node-loop'],
    [
      'nodes a thousand deep',
      { ...base, nodes: Array.from({ length: 1000 }, (_, i) => (i < 999 ? { children: [i + 1] } : {})) },
      'node-loop',
    ],
    ['lists that are none', { ...base, nodes: 7 }, 'gltf-broken'],
    ['nothing', [], 'gltf-broken'],
  ])('— %s — is refused before anything is made for it', async (_name, json, code) => {
    const before = process.memoryUsage().arrayBuffers
    const { value, problems } = await readModel(rawGlb(json), 'x.glb')
    expect(value).toBeNull()
    expect(problems.map((p) => p.code)).toEqual([code])
    expect(process.memoryUsage().arrayBuffers - before).toBeLessThan(64 << 20)
  })
})

/** A triangle skinned to two joints, with what is said of it changed. */
async function skinned(change: {
  weights?: number[]
  joints?: number[]
  morph?: number[]
  jointCount?: number
}): Promise<Uint8Array> {
  const document = new Document()
  const buffer = document.createBuffer()
  const accessor = (type: 'VEC3' | 'VEC4', array: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0])))
    .setAttribute('JOINTS_0', accessor('VEC4', Uint16Array.from(change.joints ?? [0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0])))
    .setAttribute(
      'WEIGHTS_0',
      accessor('VEC4', Float32Array.from(change.weights ?? [0.25, 0.75, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0])),
    )
  const mesh = document.createMesh().addPrimitive(primitive)
  if (change.morph) {
    primitive.addTarget(
      document.createPrimitiveTarget('m').setAttribute('POSITION', accessor('VEC3', Float32Array.from(change.morph))),
    )
    mesh.setExtras({ targetNames: ['m'] })
  }
  const skin = document.createSkin()
  const scene = document.createScene()
  for (let i = 0; i < (change.jointCount ?? 2); i++) {
    const joint = document.createNode(`joint${i}`)
    scene.addChild(joint)
    skin.addJoint(joint)
  }
  scene.addChild(document.createNode().setMesh(mesh).setSkin(skin))
  return new WebIO().writeBinary(document)
}

describe('skin and morphs of a model', () => {
  it('come out sorted and summing to one', async () => {
    const { value } = await readModel(await skinned({ weights: [0.1, 0.3, 0, 0, 2, 2, 0, 0, 0, 0, 0, 0] }), 'x')
    const w = [...value!.mesh.weights]
    expect(w.slice(0, 4).map((v) => Math.round(v * 100))).toEqual([75, 25, 0, 0])
    expect([...value!.mesh.joints.slice(0, 2)]).toEqual([1, 0])
    expect(w.slice(4, 6)).toEqual([0.5, 0.5])
    // a point with no weights has none; a body that has such a point is refused
    expect(w.slice(8)).toEqual([0, 0, 0, 0])
  })

  it('on more joints than a byte counts keep their joints', async () => {
    const { value } = await readModel(
      await skinned({
        jointCount: 400,
        joints: [300, 0, 0, 0, 301, 0, 0, 0, 399, 0, 0, 0],
        weights: [1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0],
      }),
      'x',
    )
    expect([0, 1, 2].map((v) => value!.joints[value!.mesh.joints[v * 4]!]!.name)).toEqual([
      'joint300',
      'joint301',
      'joint399',
    ])
  })

  it.each([
    ['weights that are no numbers', { weights: [Number.NaN, 1, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0] }, 'skin-weight'],
    ['endless weights', { weights: [Infinity, 1, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0] }, 'skin-weight'],
    ['weights below nothing', { weights: [-0.5, 1.5, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0] }, 'skin-weight'],
    ['joints that are not there', { joints: [7, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0] }, 'skin-joint'],
    ['morphs that are no numbers', { morph: [0, 0, 0, Number.NaN, 0, 0, 0, 0, 0] }, 'model-nan'],
    ['endless morphs', { morph: [0, 0, 0, 0, Infinity, 0, 0, 0, 0] }, 'model-nan'],
  ])('with %s are refused', async (_name, change, code) => {
    const { value, problems } = await readModel(await skinned(change), 'x')
    expect(value).toBeNull()
    expect(problems.map((p) => p.code)).toEqual([code])
  })
})

describe('a body', () => {
  it('without triangles is told, and costs no crash', async () => {
    const document = new Document()
    const buffer = document.createBuffer()
    const position = document.createAccessor().setType('VEC3').setArray(new Float32Array(9)).setBuffer(buffer)
    const points = document.createPrimitive().setMode(0).setAttribute('POSITION', position)
    document.createScene().addChild(document.createNode().setMesh(document.createMesh().addPrimitive(points)))
    const bytes = await new WebIO().writeBinary(document)
    const { value, problems } = await readKit(new Map([...files, ['goat.glb', bytes]]))
    expect(value!.bodies.size).toBe(0)
    expect(problems.map((p) => p.code)).toContain('model-empty')
  })
})
