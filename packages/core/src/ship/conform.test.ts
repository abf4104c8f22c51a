import { Quaternion, Vector3, type Matrix4 } from 'three'
import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import type { Convention, Target } from '../recipe/target.ts'
import { demoKit, dressed, MAREN, TARGETS } from '../testing/demoKits.ts'
import { glbFaults } from '../testing/glbFaults.ts'
import { ShippedFile } from './ShippedFile.ts'
import { shipFigure } from './shipFigure.ts'

const folk = await demoKit('saltwick-folk')
const kits = new Map([[folk.manifest.id, folk]])
const maren = dressed(folk, 'human', MAREN)
// all keys: which are left out hangs on the axes they are counted in
const near = { ...TARGETS[0]!, keepSliders: ['belly'], motion: { tolerance: 0 } }
const builder = new Builder(kits)

type Asked = Omit<Partial<Convention>, 'bones'> & { bones?: Partial<Convention['bones']> }
const asks = ({ bones, ...rest }: Asked, more: Partial<Target> = {}): Target => ({
  ...near,
  ...more,
  convention: { ...near.convention, ...rest, bones: { ...near.convention.bones, ...bones } },
})
async function ship(target: Target) {
  const { bytes, problems } = await shipFigure(builder, kits, maren, target, { lods: true })
  return { file: bytes && new ShippedFile(bytes), bytes, problems, codes: problems.map((p) => p.code) }
}
const plain = (await ship(near)).file!
const names = (file: ShippedFile) => file.jointsOf(0).map((j) => file.nodes[j]!.name!)
const MOMENTS = 10

/** How far vertices of two files are from each other in all clips at ten times, metres; the second is `by` times as large. */
function apart(a: ShippedFile, b: ShippedFile, by = 1): number {
  let most = 0
  const [clips, others] = [a.clips(), b.clips()]
  const [mine, yours] = [a.drawn(), b.drawn()]
  expect(others.map((c) => c.name)).toEqual(clips.map((c) => c.name))
  clips.forEach((clip, c) => {
    for (const level of mine.keys())
      for (let i = 0; i < MOMENTS; i++) {
        const time = (clip.duration * i) / MOMENTS
        const here = a.posed(mine[level]!, a.at({ clip, time }))
        const there = b.posed(yours[level]!, b.at({ clip: others[c]!, time }))
        expect(there.length).toBe(here.length)
        for (let v = 0; v < here.length; v++) most = Math.max(most, Math.abs(here[v]! * by - there[v]!))
      }
  })
  return most
}

const JOINTS = {
  // hips, and what is between them and the chest, as some game has it: a joint more, its hips under two others
  table: {
    hips: 'pelvis',
    spine: 'back_01',
    chest: 'back_03',
    head: 'skull',
    leftUpperLeg: 'thigh_l',
    leftHand: 'hand_l',
  },
  joints: [
    { name: 'ground', parent: null, turn: [-Math.SQRT1_2, 0, 0, Math.SQRT1_2] },
    { name: 'mover', parent: 'ground', turn: [0, 0, 0, 1] },
    { name: 'pelvis', parent: 'mover', turn: [0, 0, Math.SQRT1_2, Math.SQRT1_2] },
    { name: 'back_01', parent: 'pelvis', turn: [0.5, 0.5, 0.5, 0.5] },
    { name: 'back_02', parent: 'back_01', turn: [0, 1, 0, 0] },
    { name: 'back_03', parent: 'back_02', turn: [0, 0, 0, 1] },
    { name: 'hip_l', parent: 'pelvis', turn: [0, 0, 1, 0] },
    { name: 'thigh_l', parent: 'hip_l', turn: [1, 0, 0, 0] },
    { name: 'skull', parent: 'back_03', turn: [0.5, 0.5, -0.5, 0.5] },
    // where no hand of ours hangs: its places go along
    { name: 'hand_l', parent: 'skull', turn: [0, Math.SQRT1_2, 0, Math.SQRT1_2] },
    { name: 'unused_end', parent: 'hand_l', turn: [0, 0, 0, 1] },
  ],
} as const
const theirs = {
  names: 'table',
  axes: 'joints',
  table: JOINTS.table,
  joints: JOINTS.joints as unknown as Convention['bones']['joints'],
} as const

/** The same in centimetres, where the hands and what they hang on are in other units again. */
const SCALED = JOINTS.joints.map((joint) => {
  const scale = ({ ground: 0.01, skull: 0.5, hand_l: 20 } as Record<string, number>)[joint.name] ?? 0.01
  return { ...joint, ...(joint.name !== 'hip_l' && { scale }), ...(joint.name === 'mover' && { height: 0.25 }) }
}) as unknown as Convention['bones']['joints']

// turns and places are stored as 32-bit numbers, eight joints in a row to a fingertip
const SAME = 2e-5

describe('a figure by the conventions of its game', () => {
  it.each<[string, Asked]>([
    ['numbered bones', { bones: { names: 'numbered' } }],
    ['a root on the ground', { root: 'Root' }],
    ['bones along their limbs', { bones: { axes: 'along' } }],
    ['all of these', { root: 'Root', bones: { names: 'numbered', axes: 'along', unused: 'left-out' } }],
    ['another hierarchy, other axes', { bones: theirs }],
    ['joints that are scaled, above the skeleton and in it', { bones: { ...theirs, joints: SCALED } }],
  ])('moves vertex by vertex as by ours: %s', async (_, asked) => {
    const { file, bytes, problems } = await ship(asks(asked))
    expect(problems).toEqual([])
    expect(await glbFaults(bytes!)).toEqual([])
    expect(apart(plain, file!)).toBeLessThan(SAME)
  })

  it('has bones that lie along what they move, with their z to the front', async () => {
    const { file } = await ship(asks({ bones: { axes: 'along' } }))
    const { world } = file!.at()
    const joint = (name: string) => world[file!.nodes.findIndex((n) => n.name === name)]!
    const place = (name: string) => new Vector3().setFromMatrixPosition(joint(name))
    for (const [bone, next] of [
      ['leftUpperArm', 'leftLowerArm'],
      ['rightLowerLeg', 'rightFoot'],
      ['neck', 'head'],
    ] as const) {
      const [x, y, z] = [new Vector3(), new Vector3(), new Vector3()]
      joint(bone).extractBasis(x, y, z)
      expect(y.angleTo(place(next).sub(place(bone))), bone).toBeLessThan(1e-3)
      expect(z.z, bone).toBeGreaterThan(0.5)
    }
  })

  it('hangs its bones as the game does, with what is between, and its own on what they hung on', async () => {
    const { file } = await ship(asks({ bones: theirs }))
    const parentOf = (name: string) => {
      const at = file!.nodes.findIndex((n) => n.name === name)
      return file!.nodes.find((n) => n.children?.includes(at))?.name
    }
    const ways = ['mover', 'pelvis', 'back_02', 'back_03', 'thigh_l', 'hand_l', 'upperChest', 'leftLowerLeg']
    expect(ways.map(parentOf)).toEqual([
      'ground',
      'mover',
      'back_01',
      'back_02',
      'hip_l',
      'skull',
      'back_03',
      'thigh_l',
    ])
    expect(file!.nodes.some((n) => n.name === 'unused_end')).toBe(false)
    // turned at rest as said
    const { world } = file!.at()
    for (const { name, turn } of JOINTS.joints.slice(0, -1)) {
      const at = file!.nodes.findIndex((n) => n.name === name)
      const own = new Quaternion().setFromRotationMatrix(world[at]!)
      expect(own.angleTo(new Quaternion(...turn)), name).toBeLessThan(1e-3)
    }
  })

  it('counts what hangs on a joint in that one’s units, and leaves the size of what is held', async () => {
    const { file } = await ship(asks({ bones: { ...theirs, joints: SCALED } }))
    const node = (name: string) => file!.nodes.find((n) => n.name === name)!
    const size = (matrix: Matrix4) => matrix.getMaxScaleOnAxis()
    const { world } = file!.at()
    const sizeOf = (name: string) => size(world[file!.nodes.indexOf(node(name))]!)
    for (const { name, scale = 1 } of SCALED!.slice(0, -1)) expect(sizeOf(name) / scale, name).toBeCloseTo(1, 5)
    // a bone of ours alone is as what it hangs on, and none is scaled more than once
    expect(sizeOf('leftMiddleProximal') / 20).toBeCloseTo(1, 5)
    expect(node('leftMiddleProximal').scale).toBeUndefined()
    const points = file!.nodes.filter((n) => n.name!.endsWith('Point'))
    expect(points.length).toBeGreaterThan(1)
    for (const { name } of points) expect(sizeOf(name!), name!).toBeCloseTo(1, 5)
    // a quarter of the way up to the hips, which are in centimetres from there
    const at = (name: string) => new Vector3().setFromMatrixPosition(world[file!.nodes.indexOf(node(name))]!)
    expect(at('mover').y / at('pelvis').y).toBeCloseTo(0.25, 3)
    expect(new Vector3(...node('pelvis').translation!).length() / 100).toBeCloseTo(at('pelvis').distanceTo(at('mover')), 4) // prettier-ignore
  })

  it('goes along by its root on the ground, which leaves the hips their own way', async () => {
    const motion = { ...near.motion, travels: true }
    const [own, grounded] = [await ship(asks({}, { motion })), await ship(asks({ root: 'Root' }, { motion }))]
    expect(apart(own.file!, grounded.file!)).toBeLessThan(SAME)
    const walk = grounded.file!.clips().find((c) => c.name === 'Walk')!
    const moved = walk.channels.filter((c) => c.path === 'translation').map((c) => grounded.file!.nodes[c.node!]!.name)
    expect(moved.sort()).toEqual(['Root', 'hips'])
    const way = walk.channels.find((c) => grounded.file!.nodes[c.node!]!.name === 'Root')!
    expect(way.values.at(-1)!).toBeGreaterThan(0.8)
  })

  it('is larger by what its target says, with all that it does', async () => {
    const { file, problems } = await ship(asks({ scale: 1.5 }))
    expect(problems).toEqual([])
    expect(apart(plain, file!, 1.5)).toBeLessThan(SAME * 1.5)
  })

  it('is without joints that hold nothing, if so wanted', async () => {
    const far = { ...TARGETS[3]!, detail: 'full' as const, limits: { ...TARGETS[3]!.limits, bones: 200 } }
    const few = await ship({
      ...far,
      convention: { ...far.convention, bones: { ...far.convention.bones, unused: 'left-out' } },
    })
    const all = await ship(far)
    const used = new Set<number>()
    for (const { joints, weights } of all.file!.drawn()) weights!.forEach((w, i) => w > 0 && used.add(joints![i]!))
    expect(names(few.file!).length).toBeLessThan(names(all.file!).length)
    for (const b of used) expect(names(few.file!)).toContain(names(all.file!)[b])
    expect(apart(all.file!, few.file!)).toBeLessThan(SAME)
  })

  it('calls meshes and clips by patterns, and is not written where nobody knows a word of them', async () => {
    const { file } = await ship(asks({ names: { mesh: '{figure}_{level}', clip: '{target}-{clip}' } }))
    expect(file!.drawn().map((d) => d.name)).toEqual(['Test figure_0', 'Test figure_1', 'Test figure_2'])
    expect(file!.clips().map((c) => c.name)).toEqual(expect.arrayContaining(['near-Idle', 'near-Walk']))
    expect((await ship(asks({ names: { clip: '{hat}' } }))).codes).toEqual(['pattern-unknown'])
    // one name for all clips is seen before it leaves
    expect((await ship(asks({ names: { clip: '{figure}' } }))).codes).toContain('clip-names')
  })

  it('is not written where two bones would have one name, or joints hang on nothing of ours', async () => {
    const two = await ship(asks({ bones: { names: 'table', table: { spine: 'chest' } } }))
    expect([two.bytes, two.codes]).toEqual([null, ['bone-names']])
    const root = await ship(asks({ root: 'hips' }))
    expect(root.codes).toEqual(['bone-names'])
    const joints = [{ name: 'other', parent: null, turn: [0, 0, 0, 1] }] as Convention['bones']['joints']
    const lost = await ship(asks({ bones: { names: 'table', table: {}, joints } }))
    expect(lost.codes).toEqual(['joints-astray'])
    expect(apart(plain, lost.file!)).toBeLessThan(SAME)
    const open = [
      { name: 'hips', parent: 'gone', turn: [0, 0, 0, 1] },
      { name: 'spine', parent: 'hips', turn: [0, 0, 0, 0] },
    ] as Convention['bones']['joints']
    expect((await ship(asks({ bones: { names: 'table', table: {}, joints: open } }))).codes).toEqual(['joints-astray'])
    const round = [
      { name: 'hips', parent: 'spine', turn: [0, 0, 0, 1] },
      { name: 'spine', parent: 'hips', turn: [0, 0, 0, 1] },
    ] as Convention['bones']['joints']
    expect((await ship(asks({ bones: { names: 'table', table: {}, joints: round } }))).codes).toEqual(['joints-astray'])
  })
})
