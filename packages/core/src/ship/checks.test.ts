import { WebIO, type Document } from '@gltf-transform/core'
import { encode } from 'fast-png'
import { beforeAll, describe, expect, it } from 'vitest'
import { reducerReady } from '../budget/reduceMesh.ts'
import { Builder } from '../build.ts'
import { demoKit, demoTarget, dressed, MAREN } from '../testing/demoKits.ts'
import { checkShipped } from './checkShipped.ts'
import { CHECKS } from './checks.ts'
import { LodExtension } from '../testing/LodExtension.ts'
import { shipFigure } from './shipFigure.ts'

/* Every check gets a file that fails it: a good one, spoiled in one way with another library. */

const folk = await demoKit('saltwick-folk')
const kits = new Map([[folk.manifest.id, folk]])
// with a morph, so that it can lose its name
const target = { ...demoTarget('crowd'), keepSliders: ['belly'] }
let good: Uint8Array
beforeAll(async () => {
  await reducerReady
  const shipped = await shipFigure(new Builder(kits), kits, dressed(folk, 'human', MAREN), target, {
    lods: true,
  })
  good = shipped.bytes!
})

const io = () => new WebIO().registerExtensions([LodExtension])
async function spoiled(spoil: (document: Document) => void): Promise<string[]> {
  const document = await io().readBinary(good)
  spoil(document)
  return (await checkShipped(await io().writeBinary(document), 'file', { target })).problems.map((p) => p.code)
}

const finest = (d: Document) =>
  d
    .getRoot()
    .listNodes()
    .find((n) => n.getExtension('MSFT_lod'))!
const primitive = (d: Document) => finest(d).getMesh()!.listPrimitives()[0]!
const attribute = (d: Document, name: string) => primitive(d).getAttribute(name)!
const joint = (d: Document, name: string) =>
  d
    .getRoot()
    .listSkins()[0]!
    .listJoints()
    .find((j) => j.getName() === name)!
const hips = (d: Document) => d.getRoot().listSkins()[0]!.listJoints()[0]!
const clip = (d: Document, name = 'Walk') =>
  d
    .getRoot()
    .listAnimations()
    .find((a) => a.getName() === name)!
const turned = Math.SQRT1_2

const FAULTS: [what: string, spoil: (d: Document) => void, code: string][] = [
  ['is turned on its face', (d) => hips(d).setRotation([turned, 0, 0, turned]), 'not-upright'],
  ['lies on its side', (d) => hips(d).setRotation([0, 0, turned, turned]), 'not-upright'],
  ['looks backward', (d) => hips(d).setRotation([0, 1, 0, 0]), 'not-upright'],
  ['is turned by its size', (d) => hips(d).setRotation([turned, 0, 0, turned]), 'turned'],
  ['is a hundred times too small', (d) => hips(d).setScale([0.01, 0.01, 0.01]), 'size'],
  ['is a tenth too large', (d) => hips(d).setScale([1.1, 1.1, 1.1]), 'turned'],
  ['floats', (d) => hips(d).setTranslation([0, 1.4, 0]), 'ground'],
  ['has a vertex that is nowhere', (d) => attribute(d, 'POSITION').setElement(3, [Number.NaN, 0, 0]), 'not-finite'],
  ['has no normals', (d) => primitive(d).setAttribute('NORMAL', null), 'normals'],
  [
    'has normals of no length',
    (d) => attribute(d, 'NORMAL').setArray(new Float32Array(attribute(d, 'NORMAL').getCount() * 3)),
    'normals',
  ],
  [
    'has normals that look inward',
    (d) =>
      attribute(d, 'NORMAL').setArray((attribute(d, 'NORMAL').getArray() as Float32Array<ArrayBuffer>).map((v) => -v)),
    'normals',
  ],
  [
    'is inside out',
    (d) => {
      const index = primitive(d).getIndices()!
      index.setArray((index.getArray() as Uint16Array<ArrayBuffer>).slice().reverse())
    },
    'inside-out',
  ],
  [
    'has no skeleton',
    (d) =>
      d
        .getRoot()
        .listNodes()
        .forEach((n) => n.setSkin(null)),
    'skeleton',
  ],
  ['has two bones of one name', (d) => d.getRoot().listSkins()[0]!.listJoints()[3]!.setName('hips'), 'bone-names'],
  ['has lost its texture', (d) => d.getRoot().listMaterials()[0]!.setBaseColorTexture(null), 'texture'],
  [
    'has a texture that is no picture',
    (d) =>
      d
        .getRoot()
        .listTextures()[0]!
        .setImage(new Uint8Array([1, 2, 3, 4])),
    'texture',
  ],
  [
    'has two materials',
    (d) =>
      finest(d)
        .getMesh()!
        .addPrimitive(primitive(d).clone().setMaterial(d.createMaterial('second'))),
    'materials',
  ],
  [
    'has weights that sum to a half',
    (d) =>
      attribute(d, 'WEIGHTS_0').setArray(
        (attribute(d, 'WEIGHTS_0').getArray() as Uint8Array<ArrayBuffer>).map((v) => v / 2),
      ),
    'skin',
  ],
  [
    'has its weights in the wrong order',
    (d) => attribute(d, 'JOINTS_0').setArray(new Uint8Array(attribute(d, 'JOINTS_0').getCount() * 4).fill(99)),
    'skin',
  ],
  ['has a clip that moves nothing there is', (d) => clip(d).listChannels()[0]!.setTargetNode(null), 'clip-target'],
  [
    'has keys in the wrong order',
    (d) => {
      const input = clip(d).listSamplers()[0]!.getInput()!
      const times = input.getArray()!.slice() as Float32Array<ArrayBuffer>
      ;[times[0], times[1]] = [times[1]!, times[0]!]
      input.setArray(times)
    },
    'clip-keys',
  ],
  [
    'has keys all at one time',
    (d) => {
      const input = clip(d).listSamplers()[0]!.getInput()!
      input.setArray(new Float32Array(input.getCount()))
    },
    'clip-keys',
  ],
  [
    'has keys that are no turns',
    (d) => {
      const { sampler } = {
        sampler: clip(d)
          .listChannels()
          .find((c) => c.getTargetPath() === 'rotation')!
          .getSampler()!,
      }
      sampler.getOutput()!.setElement(0, [2, 0, 0, 0])
    },
    'clip-keys',
  ],
  [
    'goes through the floor as it walks',
    (d) => {
      const output = clip(d)
        .listChannels()
        .find((c) => c.getTargetPath() === 'translation')!
        .getSampler()!
        .getOutput()!
      for (let i = 0; i < output.getCount(); i++) {
        const [x, y, z] = output.getElement(i, [0, 0, 0]) as [number, number, number]
        output.setElement(i, [x, y - 0.05, z])
      }
    },
    'clip-ground',
  ],
  [
    'has triangles without corners',
    (d) => {
      const index = primitive(d).getIndices()!
      index.setElement(7, [attribute(d, 'POSITION').getCount()])
    },
    'indices',
  ],
  [
    'is painted black',
    (d) => {
      const data = new Uint8Array(64 * 64 * 4)
      for (let i = 3; i < data.length; i += 4) data[i] = 255
      d.getRoot()
        .listTextures()[0]!
        .setImage(new Uint8Array(encode({ width: 64, height: 64, data, channels: 4 })))
    },
    'texture-black',
  ],
  [
    'has a picture that is cut',
    (d) => {
      const texture = d.getRoot().listTextures()[0]!
      texture.setImage(texture.getImage()!.slice(0, 60))
    },
    'texture-broken',
  ],
  ['has a bone of no length', (d) => joint(d, 'leftHand').setTranslation([0, 0.0002, 0]), 'bone-short'],
  ['has a left hand’s bone and no right one', (d) => void joint(d, 'rightHand').setName('paw'), 'humanoid'],
  [
    'has a joint far away',
    (d) => {
      const far = d.createNode('far').setTranslation([3, 0, 0])
      hips(d).addChild(far)
      d.getRoot().listSkins()[0]!.addJoint(far)
    },
    'joint-far',
  ],
  [
    'is full of holes',
    (d) => {
      const index = primitive(d).getIndices()!
      const all = [...index.getArray()!]
      // every eighth triangle is gone
      const left = all.filter((_, i) => Math.floor(i / 3) % 8 !== 0)
      d.getRoot().listMaterials()[0]!.setDoubleSided(false)
      primitive(d).setIndices(index.clone().setArray(Uint16Array.from(left)))
    },
    'holes',
  ],
  [
    'has a clip that lasts no time',
    (d) => {
      for (const sampler of clip(d, 'Idle').listSamplers()) {
        const input = sampler.getInput()!
        input.setArray((input.getArray() as Float32Array<ArrayBuffer>).map((t) => t / 1000))
      }
    },
    'clip-length',
  ],
  [
    'has a loop that does not quite close',
    (d) => {
      const output = clip(d)
        .listChannels()
        .find((c) => c.getTargetPath() === 'translation')!
        .getSampler()!
        .getOutput()!
      const last = output.getElement(output.getCount() - 1, [0, 0, 0]) as [number, number, number]
      output.setElement(output.getCount() - 1, [last[0] + 0.012, last[1], last[2]])
    },
    'loop-open',
  ],
  [
    'goes along where it should not',
    (d) => {
      const output = clip(d)
        .listChannels()
        .find((c) => c.getTargetPath() === 'translation')!
        .getSampler()!
        .getOutput()!
      for (let i = 0; i < output.getCount(); i++) {
        const [x, y, z] = output.getElement(i, [0, 0, 0]) as [number, number, number]
        output.setElement(i, [x, y, z + i * 0.2])
      }
    },
    'root-motion',
  ],
  ['has more influences than its target', (d) => void attribute(d, 'WEIGHTS_0').setElement(0, [0.25, 0.25, 0.25, 0.25]), 'influences'], // prettier-ignore
  [
    'has morphs of one name',
    (d) =>
      primitive(d)
        .listTargets()
        .forEach((t) => t.setName('belly')),
    'morph-names',
  ],
  ['has an empty node', (d) => void d.getRoot().listScenes()[0]!.addChild(d.createNode('leftover')), 'empty-nodes'],
  ['has two nodes of nearly one name', (d) => void joint(d, 'leftHand').setName('HEAD'), 'names-clash'],
  ['has two clips of one name', (d) => void clip(d, 'Idle').setName('Walk'), 'clip-names'],
  ['has lost its recipe', (d) => void (d.getRoot().getAsset().extras = {}), 'recipe'],
]

describe('the check of a shipped file', () => {
  it('finds nothing wrong with one that is good, and says what it looked at', async () => {
    const { problems, passed } = await checkShipped(good, 'file', { target })
    expect(problems).toEqual([])
    expect(passed.length).toBe(CHECKS.length)
  })

  it.each(FAULTS)('sees that it %s', async (_what, spoil, code) => {
    expect(await spoiled(spoil)).toContain(code)
  })

  it('finds one good that counts as its game does, by its target or its own word, and no other', async () => {
    const large = { ...target, convention: { ...target.convention, unit: 0.01 }, gltf: { counted: 'unit' as const } }
    const { bytes } = await shipFigure(new Builder(kits), kits, dressed(folk, 'human', MAREN), large, { lods: true })
    const { problems, facts } = await checkShipped(bytes!, 'file', { target: large })
    expect(problems).toEqual([])
    // told in metres, as all that is said
    expect(facts!.height).toBeCloseTo((await checkShipped(good, 'file', { target })).facts!.height, 3)
    expect((await checkShipped(bytes!)).problems).toEqual([])
    expect((await checkShipped(bytes!, 'file', { target })).problems.map((p) => p.code)).toContain('size')
    expect((await checkShipped(good, 'file', { target: large })).problems.map((p) => p.code)).toContain('size')
  })

  it.each([
    ['half a millimetre', 0.05, []],
    ['six millimetres', 0.6, ['loop-open']],
    ['sixty centimetres', 60, ['root-motion']],
  ])('knows in what units joints stand: ends %s off', async (_, centimetres, codes) => {
    const unturned: [number, number, number, number] = [0, 0, 0, 1]
    const joints = [
      { name: 'rig', parent: null, turn: unturned, scale: 0.01 },
      { name: 'hips', parent: 'rig', turn: unturned, scale: 0.01 },
    ]
    const { convention } = target
    const scaled = { ...target, convention: { ...convention, bones: { ...convention.bones, names: 'table' as const, table: { hips: 'hips' }, joints } } } // prettier-ignore
    const { bytes } = await shipFigure(new Builder(kits), kits, dressed(folk, 'human', MAREN), scaled, { lods: true })
    expect((await checkShipped(bytes!, 'file', { target: scaled })).problems).toEqual([])
    const document = await io().readBinary(bytes!)
    const output = clip(document)
      .listChannels()
      .find((c) => c.getTargetPath() === 'translation')!
      .getSampler()!
      .getOutput()!
    const [x, y, z] = output.getElement(output.getCount() - 1, [0, 0, 0]) as [number, number, number]
    output.setElement(output.getCount() - 1, [x + centimetres, y, z])
    const { problems } = await checkShipped(await io().writeBinary(document), 'file', { target: scaled })
    expect(problems.map((p) => p.code)).toEqual(codes)
  })

  it('has a file that fails it for each of its checks', () => {
    const codes = new Set(FAULTS.map(([, , code]) => code))
    // one code each, but for skeletons, which also turn a figure, pictures that cannot be read, and names of clips
    expect(codes.size).toBe(CHECKS.length + 3)
  })

  it('never throws: cut anywhere, or with any byte changed, it is told or still good', async () => {
    for (let cut = 0; cut < good.length; cut += 3_001) {
      const { problems } = await checkShipped(good.slice(0, cut))
      expect(problems.length).toBeGreaterThan(0)
    }
    for (let at = 12; at < 40_000; at += 997) {
      const bytes = good.slice()
      bytes[at]! ^= 0x55
      const { facts, problems } = await checkShipped(bytes)
      expect(facts !== null || problems.length > 0).toBe(true)
    }
  })
})
