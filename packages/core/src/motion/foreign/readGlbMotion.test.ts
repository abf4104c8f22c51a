import { Document, WebIO, type Node } from '@gltf-transform/core'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { placeJoints, type ForeignMotion } from './ForeignMotion.ts'
import { readMotion } from './readMotion.ts'
import { processorSeconds } from '../../testing/spent.ts'

const io = new WebIO()

/** A root of a hundredth of the size with an arm of two bones, a metre each, and what is to be changed of it. */
async function file(change: (d: Document, nodes: [root: Node, upper: Node, lower: Node]) => void): Promise<Uint8Array> {
  const d = new Document()
  d.createBuffer()
  const root = d.createNode('Root').setScale([0.01, 0.01, 0.01])
  const upper = d.createNode('Upper').setTranslation([0, 100, 0])
  const lower = d.createNode('Lower').setTranslation([0, 100, 0])
  d.createScene().addChild(root.addChild(upper.addChild(lower)))
  change(d, [root, upper, lower])
  return io.writeBinary(d)
}

type Way = 'LINEAR' | 'STEP' | 'CUBICSPLINE'
function turn(d: Document, node: Node, times: number[], values: number[], way: Way = 'LINEAR', name = 'Bend'): void {
  const [buffer] = d.getRoot().listBuffers()
  const input = d.createAccessor().setType('SCALAR').setArray(Float32Array.from(times)).setBuffer(buffer!)
  const output = d.createAccessor().setType('VEC4').setArray(Float32Array.from(values)).setBuffer(buffer!)
  const sampler = d.createAnimationSampler().setInput(input).setOutput(output).setInterpolation(way)
  const channel = d.createAnimationChannel().setTargetNode(node).setTargetPath('rotation').setSampler(sampler)
  d.createAnimation(name).addSampler(sampler).addChannel(channel)
}
const about = (degrees: number) => new Quaternion().setFromAxisAngle(new Vector3(0, 0, 1), (degrees * Math.PI) / 180)
const read = async (bytes: Uint8Array) => readMotion(bytes, 'clips.glb')
const codes = async (bytes: Uint8Array) => (await read(bytes)).problems.map((p) => p.code)

/** Where a joint is at a moment, metres. */
function at(motion: ForeignMotion, name: string, seconds: number): number[] {
  const out = { at: new Float32Array(motion.joints.length * 3), turns: new Float32Array(motion.joints.length * 4) }
  placeJoints(motion, Math.round(seconds / motion.step), out)
  const j = motion.joints.findIndex((joint) => joint.name === name)
  return [...out.at.subarray(j * 3, j * 3 + 3)]
}

describe('the clips of a binary glTF file', () => {
  it.each<[Way, number[], number]>([
    // half of the way in time is half of the turn
    ['LINEAR', [...about(0).toArray(), ...about(90).toArray()], 45],
    ['STEP', [...about(0).toArray(), ...about(90).toArray()], 0],
    // flat at both ends: in the middle the mean of both, made of length one again
    [
      'CUBICSPLINE',
      [0, 0, 0, 0, ...about(0).toArray(), 0, 0, 0, 0, 0, 0, 0, 0, ...about(90).toArray(), 0, 0, 0, 0],
      45,
    ],
  ])('turn by %s as it is written, at the size above them', async (way, values, half) => {
    const { value, problems } = await read(
      await file((d, [, upper, lower]) => {
        turn(d, upper, [0, 1], values, way)
        d.createSkin().addJoint(upper).addJoint(lower)
      }),
    )
    expect(problems).toEqual([])
    const [motion] = value!
    expect([motion!.name, motion!.frames, motion!.up]).toEqual(['Bend', 61, '+y'])
    const radians = (half * Math.PI) / 180
    const expected = [-Math.sin(radians), 1 + Math.cos(radians), 0]
    at(motion!, 'Lower', 0.5).forEach((v, k) => expect(v).toBeCloseTo(expected[k]!, 4))
    const end = at(motion!, 'Lower', 1)
    ;[-1, 1, 0].forEach((v, k) => expect(end[k]).toBeCloseTo(v, 4))
  })

  it('rest as their skin is bound, and as they stand where it is bound to nothing', async () => {
    // what is above it makes it a hundredth of its size
    const bind = new Matrix4().compose(new Vector3(0.5, 2, 0), about(30), new Vector3(0.01, 0.01, 0.01)).invert()
    const skinned = (second: number[]) =>
      file((d, [, upper, lower]) => {
        turn(d, upper, [0, 1], [0, 0, 0, 1, 0, 0, 0, 1])
        const array = Float32Array.from([...bind.elements, ...second])
        const binds = d.createAccessor().setType('MAT4').setArray(array).setBuffer(d.getRoot().listBuffers()[0]!)
        d.createSkin().addJoint(upper).addJoint(lower).setInverseBindMatrices(binds)
      })
    const restOf = async (bytes: Uint8Array, name: string) =>
      (await read(bytes)).value![0]!.joints.find((j) => j.name === name)!
    for (const second of [Array<number>(16).fill(0), Array<number>(16).fill(NaN)]) {
      const bytes = await skinned(second)
      const upper = await restOf(bytes, 'Upper')
      ;[0.5, 2, 0].forEach((v, k) => expect(upper.at[k]).toBeCloseTo(v, 5))
      expect(new Quaternion(...upper.turn).angleTo(about(30))).toBeLessThan(1e-3)
      // a bind of nothing is none
      ;(await restOf(bytes, 'Lower')).at.forEach((v, k) => expect(v).toBeCloseTo([0, 2, 0][k]!, 5))
    }
  })

  it.each<[string, number, Quaternion, boolean]>([
    ['in whole numbers', 2 ** -13, new Quaternion(), false],
    ['in whole numbers, its joints turned since', 2 ** -13, new Quaternion(), true],
    ['in inches with z up', 0.0254, new Quaternion().setFromAxisAngle(new Vector3(1, 0, 0), -Math.PI / 2), false],
    ['in inches with z up, its joints turned', 0.0254, new Quaternion().setFromAxisAngle(new Vector3(1, 0, 0), -Math.PI / 2), true], // prettier-ignore
  ])('rest where the scene has them, however vertices are counted: %s', async (_, unit, turned, posed) => {
    const space = new Matrix4().compose(new Vector3(), turned, new Vector3(unit, unit, unit))
    const bytes = await file((d, [root, upper, lower]) => {
      turn(d, upper, [0, 1], [0, 0, 0, 1, 0, 0, 0, 1])
      const joints = [root, upper, lower]
      const array = new Float32Array(48)
      // world at bind, and from there to the space of vertices
      joints.forEach((n, i) => new Matrix4().fromArray(n.getWorldMatrix()).invert().multiply(space).toArray(array, i * 16)) // prettier-ignore
      const binds = d.createAccessor().setType('MAT4').setArray(array).setBuffer(d.getRoot().listBuffers()[0]!)
      const skin = d.createSkin().setInverseBindMatrices(binds)
      joints.forEach((n) => skin.addJoint(n))
      const mesh = d.createNode('Mesh').setMesh(d.createMesh()).setSkin(skin)
      mesh.setScale([unit, unit, unit]).setRotation(turned.toArray())
      d.getRoot().listScenes()[0]!.addChild(mesh)
      if (posed) for (const [i, n] of [root, upper, lower].entries()) n.setRotation(about(20 + 30 * i).toArray())
    })
    const { joints } = (await read(bytes)).value![0]!
    const expected = { Root: [0, 0, 0], Upper: [0, 1, 0], Lower: [0, 2, 0] }
    for (const [name, place] of Object.entries(expected)) {
      const joint = joints.find((j) => j.name === name)!
      place.forEach((v, k) => expect(joint.at[k], name).toBeCloseTo(v, 5))
      expect(new Quaternion(...joint.turn).angleTo(new Quaternion()), name).toBeLessThan(1e-3)
    }
  })

  it('are told apart by name, and each costs only itself', async () => {
    const bytes = await file((d, [, upper, lower]) => {
      turn(d, upper, [0, 1], [0, 0, 0, 1, 0, 0, 0, 1], 'LINEAR', 'Wave')
      turn(d, lower, [1, 0], [0, 0, 0, 1, 0, 0, 0, 1], 'LINEAR', 'Wave')
      turn(d, lower, [0, 900], [0, 0, 0, 1, 0, 0, 0, 1], 'LINEAR', 'Wait')
    })
    const { value, problems } = await read(bytes)
    expect(value!.map((m) => m.name)).toEqual(['Wave'])
    expect(problems.map((p) => [p.code, p.where])).toEqual([
      ['clip-values', 'clips/Wave 2'],
      ['motion-long', 'clips/Wait'],
    ])
  })

  it('are none where nothing moves, no skeleton is there, or there is far too much of it', async () => {
    expect(await codes(await file(() => undefined))).toEqual(['glb-still'])
    const alone = await file((d, [root]) => turn(d, root, [0, 1], [0, 0, 0, 1, 0, 0, 0, 1]))
    expect(await codes(alone)).toEqual(['glb-still'])
    const nowhere = await file((d, [, upper]) => turn(d, upper, [0, 1], [0, 0, 0, 1, NaN, 0, 0, 1]))
    expect(await codes(nowhere)).toEqual(['clip-values'])
    const before = processorSeconds()
    const many = await file((d, [, upper, lower]) => {
      const skin = d.createSkin()
      for (let i = 0; i < 3000; i++) {
        const next = d.createNode(`n${i}`)
        lower.addChild(next)
        skin.addJoint(next)
      }
      turn(d, upper, [0, 1], [0, 0, 0, 1, 0, 0, 0, 1])
    })
    expect(await codes(many)).toEqual(['motion-joints'])
    // two seconds when this was written, most of it for writing the file
    expect(processorSeconds() - before).toBeLessThan(20)
    expect(await codes((await file(() => undefined)).subarray(0, 90))).not.toEqual([])
  })
})

describe('a glTF file that is text', () => {
  /** The same as text with its buffer beside it, pictures and materials that nobody has. */
  async function asText(spoil: (json: Record<string, unknown>) => void = () => undefined) {
    const bytes = await file((d, [, upper]) => turn(d, upper, [0, 1], [...about(0).toArray(), ...about(90).toArray()]))
    const { json, resources } = await io.binaryToJSON(bytes)
    const [buffer] = Object.values(resources)
    json.buffers![0]!.uri = 'a walk.bin'
    const all = { ...json, images: [{ uri: 'gone.png' }], materials: [{ name: 'skin' }] } as Record<string, unknown>
    spoil(all)
    return { text: new TextEncoder().encode(JSON.stringify(all)), buffer: buffer!, glb: bytes }
  }

  it('is read as the binary one is, with its buffer from beside it', async () => {
    const { text, buffer, glb } = await asText()
    const asked: string[] = []
    const { value, problems } = await readMotion(text, 'walk.gltf', (uri) => {
      asked.push(uri)
      return buffer
    })
    expect([problems, asked]).toEqual([[], ['a walk.bin']])
    const [here, there] = [value![0]!, (await read(glb)).value![0]!]
    expect(here.joints).toEqual(there.joints)
    expect([...here.turns]).toEqual([...there.turns])
  })

  it.each<[string, (json: Record<string, unknown>) => void, boolean, RegExp]>([
    ['no buffer beside it', () => undefined, false, /is not beside it/],
    ['a buffer without a name', (j) => (j.buffers = [{ byteLength: 80 }]), true, /names no file/],
    ['a buffer that is cut off', () => undefined, true, /./],
    ['numbers where nothing is', (j) => (j.accessors = [{ bufferView: 99 }]), true, /./],
    ['no glTF in it', (j) => (j.asset = { version: '1.0' }), true, /./],
  ])('with %s is refused in words', async (what, spoil, there, said) => {
    const { text, buffer } = await asText(spoil)
    const given = what.includes('cut off') ? buffer.slice(0, 10) : buffer
    const { value, problems } = await readMotion(text, 'walk.gltf', () => (there ? given : undefined))
    expect(value).toBeNull()
    expect(problems.map((p) => p.message).join(' ')).toMatch(said)
    expect(problems.some((p) => p.severity === 'error')).toBe(true)
  })
})
