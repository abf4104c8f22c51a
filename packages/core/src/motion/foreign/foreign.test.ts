import { Quaternion, Vector3 } from 'three'
import { beforeAll, describe, expect, it } from 'vitest'
import { reducerReady } from '../../budget/reduceMesh.ts'
import { Builder, type Figure } from '../../build.ts'
import { BIPED } from '../../kit/plans/biped.ts'
import type { Recipe } from '../../recipe/schema.ts'
import type { Target } from '../../recipe/target.ts'
import { createWorldPose, poseOfTurns, restPose, solveForward, type Pose } from '../../rig/Pose.ts'
import type { Skeleton } from '../../rig/Skeleton.ts'
import { shipCarried } from '../../ship/carryClips.ts'
import { clipsOf } from '../../ship/clips.ts'
import { shipFigure } from '../../ship/shipFigure.ts'
import { ShippedFile } from '../../ship/ShippedFile.ts'
import { keyClip } from '../../ship/clipKeys.ts'
import { conform } from '../../ship/conform.ts'
import { writeFigure } from '../../ship/writeFigure.ts'
import { writeBvh, type BvhOptions } from '../../testing/bvh.ts'
import { demoKit, dressed, MAREN, TARGETS } from '../../testing/demoKits.ts'
import { poseAt, type Clip } from '../Clip.ts'
import { clipOf } from '../clipOf.ts'
import { judgeClip } from '../judgeClip.ts'
import { flanksOf } from '../keepArmsOut.ts'
import { trunkOf } from '../keepTrunkUp.ts'
import { onTheSpot, reachOf } from '../onTheSpot.ts'
import { solesOf } from '../soles.ts'
import { moveHand } from '../moveHand.ts'
import { setTurn, worldJoint } from '../step.ts'
import { carryMotion, type CarryOptions } from './carryMotion.ts'
import { placeJoints, type ForeignMotion } from './ForeignMotion.ts'
import { matchMotion } from './matchMotion.ts'
import { keepMotion, openMotion, readMotionDocument } from './motionDocument.ts'
import { readMatch } from './readMatch.ts'
import { readMotion } from './readMotion.ts'
import { processorSeconds } from '../../testing/spent.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const near = TARGETS.find((t) => t.id === 'near')!
beforeAll(() => reducerReady)

const built = (recipe: Recipe, target = near): Figure => new Builder(kits).build(recipe, target).figure!
const MAREN_RECIPE = dressed(folk, 'human', MAREN)
const maren = built(MAREN_RECIPE)
const clipOfMaren = (id: string) => clipsOf(maren, kits, MAREN_RECIPE, (c) => c.id === id)[0]!

const bytesOf = (text: string) => new TextEncoder().encode(text)
async function read(text: string): Promise<ForeignMotion> {
  const { value, problems } = await readMotion(bytesOf(text), 'take.bvh')
  expect(problems).toEqual([])
  return value![0]!
}
const touching = ({ mesh, skeleton }: Figure) => ({
  soles: solesOf(mesh, skeleton),
  flanks: flanksOf(mesh, skeleton),
  belly: trunkOf(mesh, skeleton),
})
function carry(motion: ForeignMotion, onto: Figure, options: Partial<CarryOptions> = {}): Clip {
  const { match } = matchMotion(motion, BIPED).value!
  const said = { id: 'carried', name: 'Carried', ...options }
  const { value, problems } = carryMotion(motion, match, onto.skeleton, touching(onto), said)
  expect(problems).toEqual([])
  return value!
}

/** Mean and worst difference between the turns of two clips' bones in the world, degrees. */
function apart({ bones }: Skeleton, a: Clip, b: Clip): { mean: number; worst: number } {
  const [wa, wb] = [createWorldPose(bones), createWorldPose(bones)]
  const all: number[] = []
  for (let i = 0; i < 40; i++) {
    solveForward(bones, poseAt(a, (i / 40) * a.duration), wa)
    solveForward(bones, poseAt(b, (i / 40) * a.duration), wb)
    for (let k = 0; k < bones.length; k++) {
      const [p, q] = [wa, wb].map((w) => new Quaternion().fromArray(w.turns, k * 4)) as [Quaternion, Quaternion]
      all.push((p.angleTo(q) * 180) / Math.PI)
    }
  }
  return { mean: all.reduce((s, v) => s + v, 0) / all.length, worst: Math.max(...all) }
}

const about = (x: number, y: number, z: number, degrees: number) =>
  new Quaternion().setFromAxisAngle(new Vector3(x, y, z), (degrees * Math.PI) / 180)
const pose = (turns: Record<string, [number, number, number]>) => poseOfTurns(maren.skeleton.bones, turns)
const STYLES: Record<string, (bone: string) => string | null> = {
  'left and right in front': (b) => b,
  'a prefix, and legs up and down': (b) =>
    `rig:${b.charAt(0).toUpperCase()}${b.slice(1)}`.replace('UpperLeg', 'UpLeg').replace('LowerLeg', 'Leg'),
  'sides behind': (b) => b.replace(/^(left|right)(.*)$/, (_, s: string, r: string) => `${r}.${s[0]!.toUpperCase()}`),
  'the words of doctors': (b) =>
    b
      .replace('UpperLeg', 'Femur')
      .replace('LowerLeg', 'Tibia')
      .replace('UpperArm', 'Humerus')
      .replace('LowerArm', 'Ulna'),
  'a spine of two, no toes, no fingers': (b) =>
    /upperChest|Toes|Proximal|Intermediate|Metacarpal|Eye|jaw/.test(b) ? null : b,
}

const WAYS: Record<string, BvhOptions> = {
  'as we have it': {},
  'Z up, centimetres': { axes: about(1, 0, 0, 90), unit: 100, order: 'XYZ' },
  'facing aside, metres': { axes: about(0, 1, 0, 90), unit: 1, order: 'YXZ' },
  'facing back, inches': { axes: about(0, 1, 0, 180), unit: 39.37, order: 'ZYX' },
  'at rest with its arms out': { rest: pose({ leftUpperArm: [0, 0, 42], rightUpperArm: [0, 0, -42] }) },
  'at rest with its legs apart': { rest: pose({ leftUpperLeg: [0, 0, 16], rightUpperLeg: [0, 0, -16] }) },
  'at rest with its arms ahead': { rest: pose({ leftUpperArm: [0, -70, 0], rightUpperArm: [0, 70, 0] }) },
}

describe('a motion in a file', () => {
  it('has its joints where they were written, whatever the order of turns', async () => {
    const { bones } = maren.skeleton
    const walk = clipOfMaren('walk')
    for (const order of ['XYZ', 'ZXY', 'YZX', 'ZYX', 'YXZ', 'XZY'] as const) {
      const motion = await read(writeBvh(walk, maren.skeleton, { order, unit: 100 }))
      const out = { at: new Float32Array(motion.joints.length * 3), turns: new Float32Array(motion.joints.length * 4) }
      const world = createWorldPose(bones)
      for (const frame of [0, 17, 40]) {
        placeJoints(motion, frame, out)
        solveForward(bones, poseAt(walk, frame / 60), world)
        const lift = (walk.travel * frame) / 60 / walk.duration
        for (const [j, { name }] of motion.joints.entries()) {
          const b = bones.findIndex((bone) => bone.name === name)
          if (b < 0) continue
          const place = new Vector3().fromArray(out.at, j * 3).divideScalar(100)
          const truth = new Vector3().fromArray(world.joints, b * 3)
          truth.z += lift
          // five digits of a degree, over two metres
          expect(place.distanceTo(truth), `${order} ${name}`).toBeLessThan(1e-4)
        }
      }
    }
  })

  const whole = () => writeBvh(clipOfMaren('walk'), maren.skeleton, {})
  const swap = (from: RegExp | string, to: string) => () => whole().replace(from, to)
  it.each<[string, () => string, string]>([
    ['nothing', () => '', 'motion-empty'],
    ['something else', () => 'newmtl cloth\nKd 1 0 0', 'motion-foreign'],
    ['a skeleton without motion', () => whole().split('MOTION')[0]!, 'bvh-foreign'],
    ['channels that are fewer than said', swap('CHANNELS 3 ', 'CHANNELS 4 '), 'bvh-channels'],
    ['channels of no kind', swap('Zrotation', 'Wrotation'), 'bvh-channels'],
    ['a place that is none', swap(/OFFSET \S+/, 'OFFSET nowhere'), 'bvh-offset'],
    ['a brace too many', swap('MOTION', '}\nMOTION'), 'bvh-broken'],
    ['a brace too few', swap(/\}\s*MOTION/, 'MOTION'), 'bvh-broken'],
    [
      'two skeletons',
      swap('MOTION', 'ROOT second\n{\nOFFSET 0 0 0\nCHANNELS 3 Xrotation Yrotation Zrotation\n}\nMOTION'),
      'bvh-roots',
    ],
    ['no count of frames', swap(/Frames: \d+/, 'Frames: many'), 'bvh-frames'],
    ['no frames at all', swap(/Frames: \d+[^]*$/, 'Frames: 0\nFrame Time: 0.01\n'), 'bvh-frames'],
    ['a number that is none', swap(/(Frame Time: \S+\n)\S+/, '$1NaN'), 'bvh-values'],
    ['a frame that is short', swap(/(Frame Time: \S+\n)\S+ /, '$1'), 'bvh-values'],
    ['a hundred thousand frames', swap(/Frames: \d+/, 'Frames: 100000'), 'motion-long'],
    ['a frame of one endless line', swap(/(Frame Time: \S+\n)[^]*$/, `$1${'1 '.repeat(3_000_000)}`), 'bvh-line'],
    ['a skeleton of nothing but braces', () => `HIERARCHY\n${'{}'.repeat(12_000_000)}\nMOTION\n`, 'bvh-large'],
    [
      'a joint as deep as a well',
      () => `HIERARCHY\nROOT a\n{\n${'JOINT b\n{\n'.repeat(50_000)}\nMOTION\n`,
      'bvh-large',
    ],
  ])('that is %s is refused in words, soon', async (_, make, code) => {
    const bytes = bytesOf(make())
    const before = processorSeconds()
    const { value, problems } = await readMotion(bytes, 'odd.bvh')
    expect(value).toBeNull()
    expect(problems.map((p) => p.code)).toEqual([code])
    // none takes a second
    expect(processorSeconds() - before).toBeLessThan(10)
  })

  it('that breaks off is read as far as it goes, one of no time as if it had the usual, one of one frame as a stance', async () => {
    const text = whole()
    const cut = await readMotion(bytesOf(text.slice(0, text.length - 1500)), 'cut.bvh')
    expect(cut.problems.map((p) => [p.code, p.severity])).toEqual([['bvh-frames', 'warning']])
    expect(cut.value![0]!.frames).toBeGreaterThan(10)
    const timeless = await readMotion(bytesOf(text.replace(/Frame Time: \S+/, 'Frame Time: 0')), 'timeless.bvh')
    expect(timeless.problems.map((p) => p.code)).toEqual(['bvh-time'])
    expect(timeless.value![0]!.step).toBeCloseTo(1 / 30, 6)
    const lines = text.split('\n')
    const start = lines.findIndex((l) => l.startsWith('Frames'))
    const one = [...lines.slice(0, start), 'Frames: 1', ...lines.slice(start + 1, start + 3)].join('\n')
    const still = carry(await read(one), maren)
    expect(still.times.length).toBe(2)
    expect([...still.root].every(Number.isFinite)).toBe(true)
  })

  it('may write places from the offset or instead of it, and names with blanks or none', async () => {
    const walk = clipOfMaren('walk')
    const text = writeBvh(walk, maren.skeleton, { nameOf: (b) => (b === 'jaw' ? '' : b.replace('left', 'left ')) })
    const plain = carry(await read(text), maren)
    const [x, y, z] = [3, 95, -2]
    // the same root with an offset of its own: some write its places instead of that
    const instead = carry(await read(text.replace(/OFFSET \S+ \S+ \S+/, `OFFSET ${x} ${y} ${z}`)), maren)
    // of an angle near nothing single precision knows no more
    expect(apart(maren.skeleton, plain, instead).worst).toBeLessThan(0.5)
    expect(Math.abs(plain.root[1]! - instead.root[1]!)).toBeLessThan(1e-4)
  })
})

describe('the bones of a skeleton that came with a motion', () => {
  it.each(Object.entries(STYLES))('are told by %s, whichever way up it stands', async (_, nameOf) => {
    for (const options of Object.values(WAYS)) {
      const motion = await read(writeBvh(clipOfMaren('idle'), maren.skeleton, { ...options, nameOf }))
      const { match, doubtful } = matchMotion(motion, BIPED).value!
      for (const [bone, joint] of Object.entries(match.bones)) expect(joint).toBe(nameOf(bone))
      const main = maren.skeleton.limbs.filter((l) => l.kind !== 'digit').flatMap((l) => l.bones.slice(0, 3))
      for (const bone of [...main, 'hips', 'head']) expect(Object.keys(match.bones), bone).toContain(bone)
      expect(doubtful).toEqual([])
    }
  })

  it('are told without names where it stands as most do, and none where there is no figure', async () => {
    let n = 0
    const motion = await read(writeBvh(clipOfMaren('idle'), maren.skeleton, { nameOf: () => `node${n++}` }))
    const { match } = matchMotion(motion, BIPED).value!
    const named = new Map(maren.skeleton.bones.map(({ name }, i) => [name, `node${i}`]))
    for (const bone of ['hips', 'leftUpperLeg', 'rightFoot', 'leftUpperArm', 'rightLowerArm', 'leftHand'])
      expect(match.bones[bone], bone).toBe(named.get(bone))
    const snake = { ...motion, joints: motion.joints.map((j, i) => ({ ...j, parent: i - 1, at: [0, 0, i] as never })) }
    expect(matchMotion(snake, BIPED).problems.map((p) => p.code)).toEqual(['match-none'])
  })

  it('are looked for in any thicket of joints, soon', () => {
    const joints = Array.from({ length: 400 }, (_, i) => ({
      ...{ name: `j${i}`, turn: [0, 0, 0, 1] as [number, number, number, number], end: false },
      parent: i === 0 ? -1 : Math.max(0, i - 1 - ((i * 7) % 3)),
      at: [Math.sin(i * 12.9), 1 + Math.sin(i * 78.2), Math.sin(i * 37.7)] as [number, number, number],
    }))
    const still = { turns: new Float32Array(1600), moves: new Float32Array(1200), frames: 1, step: 1, up: null }
    const before = processorSeconds()
    matchMotion({ name: 'thicket', joints, ...still }, BIPED)
    // a second when this was written; with every way from every root it took a minute
    expect(processorSeconds() - before).toBeLessThan(10)
  })
})

describe('a motion carried over', () => {
  it.each(Object.entries(WAYS))('onto the figure it was made from, %s, is as it was', async (_, options) => {
    const walk = clipOfMaren('walk')
    const carried = carry(await read(writeBvh(walk, maren.skeleton, options)), maren)
    expect(carried.loop).toBe(true)
    expect(carried.travel).toBeCloseTo(walk.travel, 2)
    const { mean, worst } = apart(maren.skeleton, walk, carried)
    // feet are planted anew: when they stand is seen from the motion, not known
    expect(mean).toBeLessThan(0.5)
    expect(worst).toBeLessThan(4)
  })

  const others: [string, Recipe, Partial<Target>?][] = [
    ['a giant in clogs', dressed(folk, 'human', ['clogs'], { stature: 1, legs: 1, feet: 1, build: 1 })],
    ['a broad one', dressed(folk, 'human', ['waders'], { build: 1, heft: 1, belly: 1 })],
    ['a child in boots', dressed(folk, 'human', ['boots-ankle'], { stature: -1, years: -1 })],
    ['an ottern', dressed(tide, 'ottern', [])],
    ['a stout ottern', dressed(tide, 'ottern', [], { girth: 1, stature: -1 })],
    ['one with every bone there is', MAREN_RECIPE, { detail: 'full' }],
    ['one for the far distance', MAREN_RECIPE, { detail: 'far' }],
    ['an ottern with many bones in its tail', dressed(tide, 'ottern', []), { chains: { tail: 9 } }],
  ]
  it.each(others)(
    'onto %s keeps its feet on the ground, as the shipped file has them',
    async (_, recipe, skeleton = {}) => {
      const motion = await read(writeBvh(clipOfMaren('walk'), maren.skeleton, { axes: about(1, 0, 0, 90) }))
      const figure = built(recipe, { ...near, ...skeleton })
      const clip = carry(motion, figure)
      const file = new ShippedFile(
        writeFigure({
          leaving: conform(figure, near).value!.figure,
          clips: [keyClip(clip, figure.skeleton.bones)],
          recipe,
          target: near,
        }),
      )
      const [drawn] = file.drawn()
      const [shipped] = file.clips()
      const FRAMES = 60
      const step = clip.duration / FRAMES
      const posed = Array.from({ length: FRAMES + 1 }, (_, i) =>
        file.posed(drawn!, file.at({ clip: shipped!, time: Math.min(shipped!.duration, i * step) })),
      )
      const lowest = Math.min(...posed.map((p) => p.reduce((low, v, i) => (i % 3 === 1 ? Math.min(low, v) : low), 1)))
      let [way, count] = [0, 0]
      for (let f = 0; f < FRAMES; f++)
        for (const side of [1, -1]) {
          const [a, b] = [posed[f]!, posed[f + 1]!]
          const down = Array.from({ length: a.length / 3 }, (_, p) => p).filter(
            (p) => drawn!.positions[p * 3]! * side > 0 && a[p * 3 + 1]! < 0.005 && b[p * 3 + 1]! < 0.005,
          )
          if (down.length === 0) continue
          const mean = (k: number) => down.reduce((s, p) => s + b[p * 3 + k]! - a[p * 3 + k]!, 0) / down.length
          way += Math.hypot(mean(0), mean(2) + (clip.travel * step) / clip.duration)
          count++
        }
      expect(count).toBeGreaterThan(FRAMES / 2)
      // half a centimetre is what the eye forgives; four centimetres a second are what is asked of carried motion
      expect(lowest).toBeGreaterThan(-0.005)
      expect(way / count / step).toBeLessThan(0.04)
      expect(judgeClip(figure.mesh, figure.skeleton, clip, BIPED).inBody.mean).toBeLessThan(0.02)
    },
  )

  it('from a shipped file of ours goes onto an ottern as from anywhere', async () => {
    const { bytes } = await shipFigure(new Builder(kits), kits, MAREN_RECIPE, near, { lods: false })
    const { value } = await readMotion(bytes!, 'maren.glb')
    const walk = value!.find((m) => m.name === 'Walk')!
    const ottern = built(dressed(tide, 'ottern', []))
    const clip = carry(walk, ottern, { loop: true })
    const own = clipsOf(ottern, kits, dressed(tide, 'ottern', []), (c) => c.id === 'walk')[0]!
    expect(clip.duration).toBeCloseTo(own.duration, 2)
    expect(judgeClip(ottern.mesh, ottern.skeleton, clip, BIPED).depth.most).toBeLessThan(0.005)
  })

  it('goes along when a figure ships, beside its own clips and by a name of its own; what cannot be carried is told', async () => {
    const motion = await read(writeBvh(clipOfMaren('walk'), maren.skeleton))
    const builder = new Builder(kits)
    const along = [{ motion: { ...motion, name: 'Walk' }, order: { loop: true } }]
    const ship = (recipe: Recipe) => shipCarried(builder, kits, recipe, near, along, { lods: false, own: true })
    const shipped = await ship(dressed(tide, 'ottern', []))
    expect(shipped.problems).toEqual([])
    const names = new ShippedFile(shipped.bytes!).clips().map((c) => c.name)
    expect(names).toEqual(['Idle', 'Walk', 'Walk 2'])
    const four = [...tide.bodies.values()].find((b) => b.plan.limbs.filter((l) => l.kind === 'leg').length > 2)!
    const other = await ship(dressed(tide, four.def.id, []))
    expect(other.problems.map((p) => p.code)).toContain('match-none')
    expect(new ShippedFile(other.bytes!).clips().length).toBeGreaterThan(0)
  })

  it('says which joints are not there, and takes none without legs or of no time', async () => {
    const motion = await read(writeBvh(clipOfMaren('walk'), maren.skeleton))
    const { match } = matchMotion(motion, BIPED).value!
    const go = (bones: Record<string, string>, options: Partial<CarryOptions> = {}) => {
      const said = { id: 'a', name: 'A', ...options }
      const { value, problems } = carryMotion(motion, { ...match, bones }, maren.skeleton, touching(maren), said)
      return [value !== null, ...problems.map((p) => p.code)]
    }
    expect(go({ ...match.bones, leftHand: 'third hand' })).toEqual([true, 'match-joint'])
    const { leftFoot: _, ...footless } = match.bones
    expect(go(footless)).toEqual([false, 'match-legs'])
    const one = match.bones.hips!
    expect(
      go({
        ...match.bones,
        leftUpperLeg: one,
        leftLowerLeg: one,
        leftFoot: one,
        rightUpperLeg: one,
        rightLowerLeg: one,
        rightFoot: one,
      }),
    ).toEqual([false, 'match-legs'])
    expect(go(match.bones, { from: 9 })).toEqual([false, 'motion-cut'])
    expect(go(match.bones, { from: 0.2, to: 0.1 })).toEqual([false, 'motion-cut'])
    expect(go(match.bones, { from: 0.2, to: 0.6 })).toEqual([true])
  })
})

const bone = (name: string) => maren.skeleton.bones.findIndex((b) => b.name === name)

/** A clip of Maren from poses at even times. */
function posed(poses: readonly Pose[], seconds: number): Clip {
  return clipOf(
    { id: 'posed', name: 'Posed', duration: seconds, loop: false, travel: 0 },
    maren.skeleton.bones,
    poses.map((p) => ({ pose: p })),
  )
}

describe('what a motion does', () => {
  it('with hands that meet, they meet on a broader figure too', async () => {
    const clap = restPose(maren.skeleton.bones)
    for (const [side, sign] of [
      ['left', 1],
      ['right', -1],
    ] as const) {
      const arm = ['UpperArm', 'LowerArm', 'Hand'].map((n) => bone(side + n)) as [number, number, number]
      const at = worldJoint(maren.skeleton, clap, arm[2])
      moveHand(maren.skeleton, clap, arm, new Vector3(sign * 0.08, 1.15, 0.35).sub(at))
    }
    const gapOf = ({ skeleton: { bones } }: Figure, p: Pose) => {
      const { joints } = solveForward(bones, p, createWorldPose(bones))
      const [l, r] = ['leftHand', 'rightHand'].map((n) => bones.findIndex((b) => b.name === n)) as [number, number]
      const height = Math.max(...bones.map((b) => b.at[1])) - Math.min(...bones.map((b) => b.at[1]))
      return new Vector3().fromArray(joints, l * 3).distanceTo(new Vector3().fromArray(joints, r * 3)) / height
    }
    const theirs = gapOf(maren, clap)
    expect(theirs).toBeLessThan(0.14)
    const motion = await read(writeBvh(posed([clap, clap, clap], 1), maren.skeleton))
    const broad = built(dressed(folk, 'human', [], { build: 1, heft: 1, belly: 1 }))
    const clip = carry(motion, broad, { loop: false })
    expect(Math.abs(gapOf(broad, poseAt(clip, 0.5)) - theirs)).toBeLessThan(0.005)
  })

  it('on the floor lies on it: nothing goes through', async () => {
    const { bones } = maren.skeleton
    const lying = restPose(bones)
    setTurn(lying, 0, about(1, 0, 0, -90))
    // with its legs in the air, and too deep by half its thickness
    for (const leg of ['leftUpperLeg', 'rightUpperLeg']) setTurn(lying, bone(leg), about(1, 0, 0, -60))
    lying.root = [0, 0.02, 0]
    const stands = restPose(bones)
    const half = restPose(bones)
    setTurn(half, 0, about(1, 0, 0, -45))
    half.root = [0, 0.5, 0]
    const motion = await read(writeBvh(posed([stands, half, lying, lying, lying], 2), maren.skeleton))
    const ottern = built(dressed(tide, 'ottern', []))
    const clip = carry(motion, ottern)
    expect(clip.loop).toBe(false)
    const { depth } = judgeClip(ottern.mesh, ottern.skeleton, clip, BIPED)
    // the tail is nobody's in the motion: it lies beneath and is not looked for
    expect(depth.most).toBeLessThan(0.2)
    const human = carry(motion, maren)
    expect(judgeClip(maren.mesh, maren.skeleton, human, BIPED).depth.most).toBeLessThan(0.02)
    // and it does lie
    expect(human.root.at(-2)!).toBeLessThan(0.3)
  })

  it('that goes nowhere but walks, as on a belt, walks on the ground', async () => {
    const walk = clipOfMaren('walk')
    const motion = await read(writeBvh({ ...walk, travel: 0 }, maren.skeleton))
    const clip = carry(motion, maren)
    expect(clip.travel).toBeCloseTo(walk.travel, 1)
    expect(judgeClip(maren.mesh, maren.skeleton, clip, BIPED).slide.mean).toBeLessThan(0.04)
  })
})

describe('a clip on the spot', () => {
  it('has its way taken out and nothing else; one that stays is left', async () => {
    const motion = await read(writeBvh(clipOfMaren('walk'), maren.skeleton, { loops: 3 }))
    const clip = carry(motion, maren, { loop: false })
    expect(reachOf(clip)).toBeGreaterThan(2.5)
    const spot = onTheSpot(clip)
    expect(reachOf(spot)).toBeLessThan(0.15)
    const heights = ({ root }: Clip) => [...root].filter((_, i) => i % 3 === 1)
    expect(heights(spot)).toEqual(heights(clip))
    expect(spot.rotations).toBe(clip.rotations)
    const idle = clipOfMaren('idle')
    expect(onTheSpot(idle)).toBe(idle)
  })
})

describe('a motion that is kept', () => {
  it('is carried as the file itself is, and comes back from its document the same', async () => {
    const motion = await read(writeBvh(clipOfMaren('walk'), maren.skeleton, { rate: 120, axes: about(1, 0, 0, 90) }))
    const { match } = matchMotion(motion, BIPED).value!
    const kept = keepMotion(motion, match).value!
    const { value, problems } = readMotionDocument(JSON.stringify(kept))
    expect([value, problems]).toEqual([kept, []])
    const opened = openMotion(value!)
    expect(opened.frames).toBeLessThan(motion.frames / 3)
    const { mean, worst } = apart(maren.skeleton, carry(motion, maren), carry(opened, maren))
    expect(mean).toBeLessThan(0.15)
    expect(worst).toBeLessThan(1)
    expect(readMatch(JSON.stringify(match)).value).toEqual(match)
  })

  it('is refused where its data is not what it says, and told where it is too long', async () => {
    const motion = await read(writeBvh(clipOfMaren('idle'), maren.skeleton))
    const kept = keepMotion(motion, null).value!
    const codes = (change: object) => readMotionDocument({ ...kept, ...change }).problems.map((p) => p.code)
    expect(codes({})).toEqual([])
    for (const change of [
      { data: kept.data.slice(8) },
      { data: kept.data.replace(/^..../, 'ä.,-') },
      { frames: kept.frames + 1 },
      { frames: 150_000 },
      { moving: [0, 0] },
      { moving: [kept.joints.length] },
      { joints: kept.joints.map((j, i) => ({ ...j, parent: i })) },
    ])
      expect(codes(change), JSON.stringify(change).slice(0, 60)).toEqual(['motion-data'])
    expect(codes({ step: 0 })).not.toEqual([])
    expect(codes({ version: 2 })).toEqual(['newer'])
    const frames = 6000
    const count = motion.joints.length * frames
    const long = {
      ...motion,
      frames,
      turns: new Float32Array(count * 4),
      moves: new Float32Array(count * 3),
      step: 1 / 30,
    }
    expect(keepMotion(long, null).problems.map((p) => p.code)).toEqual(['motion-long'])
    expect(readMatch({ format: 'idle-tinker-match', version: 1, bones: { hips: 'a' } }).value).toBeNull()
  })
})

describe('what is measured of a clip', () => {
  const spoil = (change: (p: Pose, i: number, n: number) => void): Clip => {
    const walk = clipOfMaren('walk')
    const n = walk.times.length
    const poses = Array.from({ length: n }, (_, i) => {
      const p = poseAt(walk, walk.times[i]! * (i === n - 1 ? 1 - 1e-6 : 1))
      change(p, i, n)
      return { pose: p }
    })
    return clipOf({ ...walk }, maren.skeleton.bones, poses)
  }
  const judge = (clip: Clip) => judgeClip(maren.mesh, maren.skeleton, clip, BIPED)

  it('is small of a good one, and sees what sinks, skates, bends back and lies in the body', () => {
    const good = judge(spoil(() => {}))
    expect(good.depth.most).toBeLessThan(0.005)
    expect(good.slide.mean).toBeLessThan(0.02)
    expect([good.bend.most, good.inBody.most]).toEqual([0, 0])
    // toes bend a degree more than they can
    expect(good.strain.most).toBeLessThan(0.03)
    expect(judge(spoil((p) => (p.root[1] -= 0.05))).depth.most).toBeGreaterThan(0.04)
    expect(judge(spoil((p, i, n) => (p.root[2] += (0.4 * i) / n))).slide.mean).toBeGreaterThan(0.2)
    const back = judge(spoil((p) => setTurn(p, bone('leftLowerLeg'), about(1, 0, 0, -40))))
    expect(back.bend.most).toBeGreaterThan(0.5)
    // a knee that is bent by six degrees at rest goes five beyond straight: of forty, twenty-nine are too many
    expect([back.strain.bone, (back.strain.most * 180) / Math.PI]).toEqual(['leftLowerLeg', expect.closeTo(29, 0)])
    const wrung = judge(spoil((p, i) => i === 20 && setTurn(p, bone('head'), about(0, 1, 0, 120))))
    expect([wrung.strain.bone, (wrung.strain.most * 180) / Math.PI]).toEqual(['head', expect.closeTo(40, 0)])
    expect(wrung.strain.at).toBeCloseTo(clipOfMaren('walk').times[20]!, 1)
    const pressed = judge(spoil((p) => setTurn(p, bone('leftUpperArm'), about(0, 0, 1, -75))))
    expect(pressed.inBody.mean).toBeGreaterThan(0.1)
  })
})
