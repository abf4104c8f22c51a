import { Document, WebIO, type Accessor } from '@gltf-transform/core'
import { Quaternion, Vector3, type Matrix4 } from 'three'
import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import { readMotion } from '../motion/foreign/readMotion.ts'
import { armsPose } from '../motion/poses/changePose.ts'
import { poseRig } from '../motion/poses/PoseRig.ts'
import type { Convention, Target } from '../recipe/target.ts'
import { writeBvh } from '../testing/bvh.ts'
import { writeCollada } from '../testing/collada.ts'
import { demoKit, dressed, TARGETS } from '../testing/demoKits.ts'
import { glbFaults } from '../testing/glbFaults.ts'
import { carryOnto } from './carryClips.ts'
import { clipsOf } from './clips.ts'
import { learnFor } from './learnFor.ts'
import { learnTarget } from './learnTarget.ts'
import { ShippedFile } from './ShippedFile.ts'
import { shipFigure } from './shipFigure.ts'
import { shipFormats } from './shipFormats.ts'

const folk = await demoKit('saltwick-folk')
const kits = new Map([[folk.manifest.id, folk]])
const builder = new Builder(kits)
const near = TARGETS[0]!
const plan = folk.bodies.get('human')!.plan
// slight, in shirt and trousers: retargeting keeps arms out of broad coats, which no name can
const maren = dressed(folk, 'human', [], { build: -0.4 })
const figure = builder.build(maren, near, { reduce: true }).figure!
// taller, broader, longer arms: the figure of somebody's game
const other = dressed(folk, 'human', [], { stature: 0.6, shoulders: 0.5, armLength: 0.4, legLength: 0.3 })
const learn = (bytes: Uint8Array, file: string) => learnTarget(bytes, file, { skeleton: figure.skeleton, plan }, near)

/** Names as some game might have them. */
const called = (bone: string) => `Rig_${bone.replace(/^left(.*)/, '$1.L').replace(/^right(.*)/, '$1.R').replace(/(Upper|Lower)(Arm|Leg)/, (_, a, b) => (b === 'Arm' ? (a === 'Upper' ? 'Bicep' : 'Forearm') : a === 'Upper' ? 'Thigh' : 'Shin'))}` // prettier-ignore
const table = Object.fromEntries(plan.bones.map((b) => [b.name, called(b.name)]))
const theirs: Convention = {
  ...near.convention,
  ...{ rest: 't', root: 'Rig_ground' },
  bones: { names: 'table', table, axes: 'along' },
}
const gameFile = async (convention: Convention) => {
  const target: Target = {
    ...near,
    keepClips: ['walk', 'wave'],
    convention,
    limits: { ...near.limits, triangles: 9000 },
  }
  return (await shipFigure(builder, kits, other, target, { lods: false })).bytes!
}

const times = (values: Accessor, by: number, which = (_: number) => true) =>
  Float32Array.from(values.getArray() as Float32Array, (v, i) => (which(i) ? v * by : v))

/**
 * The same file as a game has it that counts in another unit: all its joints so many times as far apart, under a node that
 * makes them smaller again and lies on its back; or under none, as large as that.
 */
async function enlarged(bytes: Uint8Array, by: number, under: string | null = null): Promise<Uint8Array> {
  const io = new WebIO()
  const document = await io.readBinary(bytes)
  const root = document.getRoot()
  const scene = root.listScenes()[0]!
  const far = (v: readonly number[]) => v.map((x) => x * by) as [number, number, number]
  for (const node of root.listNodes()) node.setTranslation(far(node.getTranslation()))
  for (const clip of root.listAnimations())
    for (const channel of clip.listChannels()) {
      const values = channel.getSampler()!.getOutput()!
      if (channel.getTargetPath() === 'translation') values.setArray(times(values, by))
    }
  const skin = root.listSkins()[0]!
  const binds = skin.getInverseBindMatrices()!
  // what a joint scales down its vertices are first made larger for; of all that is larger only the way is
  const larger = under ? (i: number) => i % 4 !== 3 : (i: number) => i % 16 > 11 && i % 16 < 15
  binds.setArray(times(binds, by, larger))
  if (!under) {
    const places = root.listMeshes()[0]!.listPrimitives()[0]!.getAttribute('POSITION')!
    places.setArray(times(places, by))
    return io.writeBinary(document)
  }
  const top = scene.listChildren().find((n) => n.listChildren().length > 0)!
  const lying = new Quaternion(-Math.SQRT1_2, 0, 0, Math.SQRT1_2)
  const node = document
    .createNode(under)
    .setScale([1 / by, 1 / by, 1 / by])
    .setRotation(lying.toArray())
  top.setRotation(lying.clone().invert().multiply(new Quaternion(...top.getRotation())).toArray()) // prettier-ignore
  scene.removeChild(top)
  scene.addChild(node.addChild(top))
  return io.writeBinary(document)
}

const ENDS = ['leftHand', 'rightHand', 'leftFoot', 'rightFoot']

/** A clip of one file put on another by the names of its bones alone; the root's own place goes by the figures' legs. */
function byName(game: ShippedFile, ours: ShippedFile, clip: string, root: string, times: readonly number[]) {
  const theirClip = game.clips().find((c) => c.name === clip)!
  const node = (name: string) => ours.nodes.findIndex((n) => n.name === name)
  const channels = theirClip.channels.flatMap((c) => {
    const name = game.nodes[c.node!]!.name!
    if (c.path !== 'rotation' || node(name) < 0) return []
    return [{ ...c, node: node(name) }]
  })
  const height = (file: ShippedFile) => {
    const world = file.at().world
    return new Vector3().setFromMatrixPosition(world[file.nodes.findIndex((n) => n.name === root)]!).y
  }
  const way = theirClip.channels.find((c) => c.path === 'translation' && game.nodes[c.node!]!.name === root)!
  const share = height(ours) / height(game)
  channels.push({ ...way, node: node(root), values: way.values.map((v) => v * share) })
  return times.map((time) => ours.at({ clip: { ...theirClip, channels }, time }).world)
}
const placeOf = (world: Matrix4[], n: number) => new Vector3().setFromMatrixPosition(world[n]!)

describe('a target learned from a file of a game', () => {
  const along = ['arms out, bones along limbs, a root on the ground', theirs] as const
  it.each<[string, Convention, ((bytes: Uint8Array) => Promise<Uint8Array>)?, number?]>([
    [...along],
    ['arms half down, unturned', { ...theirs, rest: 'a', bones: { ...theirs.bones, axes: 'unturned' } }],
    ['in centimetres, by a node above it that is scaled', theirs, (bytes) => enlarged(bytes, 100, 'Armature')],
    ['a hundred times as large', theirs, (bytes) => enlarged(bytes, 100), 100],
  ])('makes figures that take its clips by name: %s', async (_, convention, changed, scale) => {
    const made = await gameFile(convention)
    const bytes = changed ? await changed(made) : made
    // it stands and moves as before
    const [before, after] = [new ShippedFile(made), new ShippedFile(bytes)]
    const [clip, same] = [before.clips()[0]!, after.clips()[0]!]
    const spots = [before.posed(before.drawn()[0]!, before.at({ clip, time: 0.3 })), after.posed(after.drawn()[0]!, after.at({ clip: same, time: 0.3 }))] // prettier-ignore
    expect(Math.max(...spots[0]!.map((v, i) => Math.abs(v * (scale ?? 1) - spots[1]![i]!)))).toBeLessThan(1e-4 * (scale ?? 1)) // prettier-ignore
    const { value, problems } = await learn(bytes, 'rig.glb')
    expect(problems.map((p) => p.code)).toEqual(scale ? ['learned-large'] : [])
    expect(value!.target.convention).toMatchObject({ unit: 1 / (scale ?? 1), up: '+y', front: '+z', rest: 'pose' })
    expect(value!.target.gltf?.counted).toBe(scale && 'unit')
    const shipped = await shipFigure(builder, kits, maren, value!.target, { lods: false })
    expect(shipped.problems).toEqual([])
    expect(await glbFaults(shipped.bytes!)).toEqual([])
    const [game, ours] = [new ShippedFile(bytes), new ShippedFile(shipped.bytes!)]
    const motions = (await readMotion(bytes, 'rig.glb')).value!
    const height = shipped.check!.facts!.height
    for (const name of ['Walk', 'Wave']) {
      const motion = motions.find((m) => m.name === name)!
      const { clip } = carryOnto(motion, figure, plan, { match: value!.match }).value!
      const plain = new ShippedFile(
        (await shipFigure(builder, kits, maren, near, { lods: false, clips: () => [clip] })).bytes!,
      )
      const times = Array.from({ length: 10 }, (_, i) => (clip.duration * i) / 10)
      const named = byName(game, ours, name, called('hips'), times)
      const [own] = plain.clips().filter((c) => c.name === name)
      times.forEach((time, i) => {
        const { world } = plain.at({ clip: own!, time })
        for (const end of ENDS) {
          const there = placeOf(
            world,
            plain.nodes.findIndex((n) => n.name === end),
          )
          const here = placeOf(
            named[i]!,
            ours.nodes.findIndex((n) => n.name === called(end)),
          )
          expect(
            here.divideScalar(scale ?? 1).distanceTo(there) / height,
            `${name} ${time.toFixed(2)} ${end}`,
          ).toBeLessThan(0.02)
        }
      })
    }
  })

  it('takes a giant for one, and not for a figure that was counted in feet', async () => {
    const { value, problems } = await learn(await enlarged(await gameFile(theirs), 4.5), 'giant.glb')
    expect(problems).toEqual([])
    expect([value!.target.convention.unit, value!.target.gltf?.counted]).toEqual([1, undefined])
  })

  it('tells of joints that are scaled unevenly or mirrored, in words', async () => {
    const io = new WebIO()
    for (const scale of [
      [1, 1, 2],
      [1, 1, -1],
    ] as [number, number, number][]) {
      // prettier-ignore
      const document = await io.readBinary(await gameFile(theirs))
      document.getRoot().listNodes().find((n) => n.getName() === called('leftLowerArm'))!.setScale(scale) // prettier-ignore
      const { problems } = await learn(await io.writeBinary(document), 'odd.glb')
      expect(problems.map((p) => [p.code, p.severity])).toContainEqual(['scale-uneven', 'warning'])
      expect(problems.find((p) => p.code === 'scale-uneven')!.message).toContain(`“${called('leftLowerArm')}”`)
    }
  })

  it('asks which bone is which also where too little was found, and goes by the answer', async () => {
    const { skeleton } = builder.build(other, near, { reduce: true }).figure!
    const clip = clipsOf(builder.build(other, near, { reduce: true }).figure!, kits, other, (c) => c.id === 'walk')[0]!
    const rest = armsPose(poseRig(skeleton, plan), 't')!
    const bytes = new TextEncoder().encode(writeBvh(clip, skeleton, { rest, nameOf: called }))
    const whole = (await learn(bytes, 'walk.bvh')).asked!
    expect(whole.match!.bones).toMatchObject({ leftHand: called('leftHand') })
    expect(whole.bones).toBe(figure.skeleton.bones)
    const { leftLowerArm: _, ...others } = whole.match!.bones
    const say = (bones: Record<string, string>) =>
      learnFor(builder, kits, bytes, 'walk.bvh', near, { match: { ...whole.match!, bones } })
    const half = await say(others)
    expect([half.value, half.problems.map((p) => p.code)]).toEqual([null, ['skeleton-half']])
    expect(half.asked!.joints.map((j) => j.name)).toContain(called('leftLowerArm'))
    expect(half.asked!.match!.bones).toEqual(others)
    const again = await say({ ...half.asked!.match!.bones, leftLowerArm: called('leftLowerArm') })
    expect(again.value!.target.convention.bones.table).toMatchObject({ leftLowerArm: called('leftLowerArm') })
    // what a person has said is doubted by nobody
    expect(again.value!.doubtful).toEqual([])
    // of what holds no skeleton nobody is asked anything
    expect((await learn(new TextEncoder().encode('no bones'), 'odd.bvh')).asked).toBeNull()
  })

  it.each(['bvh', 'dae'])('takes the clip of a %s by name as well, whatever its unit', async (kind) => {
    const { skeleton } = builder.build(other, near, { reduce: true }).figure!
    const rest = armsPose(poseRig(skeleton, plan), 't')!
    const clip = clipsOf(builder.build(other, near, { reduce: true }).figure!, kits, other, (c) => c.id === 'walk')[0]!
    const text =
      kind === 'bvh'
        ? writeBvh(clip, skeleton, { rest, unit: 100, nameOf: called })
        : writeCollada(
            clip,
            { ...skeleton, bones: skeleton.bones.map((b) => ({ ...b, name: called(b.name) })) },
            { unit: 39.37 },
          )
    const bytes = new TextEncoder().encode(text)
    const { value, problems } = await learn(bytes, `walk.${kind}`)
    expect(problems).toEqual([])
    expect(value!.target.convention.unit).toBeCloseTo(kind === 'bvh' ? 0.01 : 0.0254, 4)
    const shipped = await shipFigure(builder, kits, maren, value!.target, { lods: false })
    expect(shipped.problems).toEqual([])
    const ours = new ShippedFile(shipped.bytes!)
    const motion = (await readMotion(bytes, `walk.${kind}`)).value![0]!
    const carried = carryOnto(motion, figure, plan, { match: value!.match }).value!.clip
    const plain = new ShippedFile(
      (await shipFigure(builder, kits, maren, near, { lods: false, clips: () => [carried] })).bytes!,
    )
    const frames = [3, 11, 25, 33]
    for (const frame of frames) {
      // every joint of the file by its name
      const node = (name: string) => ours.nodes.findIndex((n) => n.name === name)
      const count = motion.joints.length
      const channels = motion.joints.flatMap(({ name }, j) => {
        if (node(name) < 0) return []
        const row = frame * count + j
        const turn = {
          node: node(name),
          path: 'rotation',
          size: 4,
          values: Float64Array.from(motion.turns.subarray(row * 4, row * 4 + 4)),
        }
        return [turn]
      })
      const times = Float64Array.of(0)
      const clipNow = { name: 'now', loop: false, duration: 0, channels: channels.map((c) => ({ ...c, times })) }
      const here = ours.at({ clip: clipNow, time: 0 }).world
      const there = plain.at({ clip: plain.clips()[0]!, time: frame * motion.step }).world
      const hips = (file: ShippedFile, world: Matrix4[], name: string) =>
        placeOf(
          world,
          file.nodes.findIndex((n) => n.name === name),
        )
      for (const end of ENDS) {
        const a = hips(ours, here, called(end)).sub(hips(ours, here, called('hips')))
        const b = hips(plain, there, end).sub(hips(plain, there, 'hips'))
        expect(a.distanceTo(b) / shipped.check!.facts!.height, `${frame} ${end}`).toBeLessThan(0.02)
      }
    }
  })

  it('takes a VRM at its word for which node is which bone, eyes and jaw as well', async () => {
    const license = { authors: ['Somebody'] }
    const convention: Convention = { ...theirs, bones: { names: 'numbered', table: {} } }
    const [made] = await shipFormats(builder, kits, other, { ...near, convention, license }, ['vrm'], {
      ...{ lods: false, stem: 'a' },
    })
    const { value, problems } = await learn(made!.files!.get('a.vrm')!, 'a.vrm')
    expect(problems).toEqual([])
    const { table, joints } = value!.target.convention.bones
    expect(Object.keys(table)).toEqual(expect.arrayContaining(['leftEye', 'jaw', 'leftLittleIntermediate', 'hips']))
    expect(new Set(Object.values(table)).size).toBe(Object.keys(table).length)
    expect(joints!.length).toBeGreaterThanOrEqual(Object.keys(table).length)
    expect(value!.doubtful).toEqual([])
  })

  it('is refused of what has no skeleton, two, or half of one, in words', async () => {
    const codes = async (bytes: Uint8Array | string, file: string) => {
      const { value, problems } = await learn(typeof bytes === 'string' ? new TextEncoder().encode(bytes) : bytes, file)
      expect(value).toBeNull()
      return problems.map((p) => p.code)
    }
    const { skeleton } = figure
    const clip = clipsOf(figure, kits, maren, (c) => c.id === 'walk')[0]!
    const half = writeBvh(clip, skeleton, { nameOf: (b) => (/^right/.test(b) ? null : b) })
    expect(await codes(half, 'half.bvh')).toEqual(['match-none'])
    expect(await codes('', 'none.glb')).toEqual(['motion-empty'])
    expect(await codes('v 0 0 0', 'thing.obj')).toEqual(['motion-foreign'])
    const io = new WebIO()
    const bare = new Document()
    bare.createScene().addChild(bare.createNode('rock'))
    expect(await codes(await io.writeBinary(bare), 'bare.glb')).toEqual(['skeleton-none'])
    const two = new Document()
    const scene = two.createScene()
    for (const side of ['first', 'second']) {
      const skin = two.createSkin()
      for (let i = 0; i < 12; i++) {
        const node = two.createNode(`${side} ${i}`).setTranslation([0, 0.1, 0])
        if (i === 0) scene.addChild(node)
        else skin.listJoints().at(-1)!.addChild(node)
        skin.addJoint(node)
      }
    }
    expect(await codes(await io.writeBinary(two), 'two.glb')).toEqual(['skeleton-two'])
    const bytes = await gameFile(theirs)
    expect(await codes(bytes.subarray(0, 4000), 'cut.glb')).toHaveLength(1)
  })
})
