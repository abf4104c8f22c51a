import { Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import { describeChange } from '../recipe/describeChange.ts'
import { readRecipe } from '../recipe/read.ts'
import type { Recipe } from '../recipe/schema.ts'
import { setSprings, swingingChains, springOf } from '../recipe/springs.ts'
import { createWorldPose, restPose, skinPoints, solveForward } from '../rig/Pose.ts'
import { clipsOf } from '../ship/clips.ts'
import { shipFigure } from '../ship/shipFigure.ts'
import { ShippedFile } from '../ship/ShippedFile.ts'
import { reducerReady } from '../budget/reduceMesh.ts'
import { demoKit, demoTarget, dressed } from '../testing/demoKits.ts'
import { glbFaults } from '../testing/glbFaults.ts'
import { poseAt, type Clip } from './Clip.ts'
import { heldClip } from './poses/changePose.ts'
import { canSwing, springBodyOf, springClip, USUAL_SPRING, type Spring } from './springs.ts'

const tide = await demoKit('tide-creatures')
const folk = await demoKit('saltwick-folk')
const kits = new Map([tide, folk].map((k) => [k.manifest.id, k]))
const near = demoTarget('near')
const target = { ...near, limits: { ...near.limits, bones: 200 }, keepExpressions: [] }
const builder = new Builder(kits)
await reducerReady

const figureOf = (body: string) => {
  const recipe = dressed(tide, body, [])
  return { recipe, ...builder.build(recipe, target).figure! }
}
const ottern = figureOf('ottern')
const { skeleton, mesh } = ottern
const { bones } = skeleton
const body = springBodyOf(mesh, skeleton)
const tail = skeleton.limbs.find((l) => l.kind === 'tail')!
const tip = bones.findIndex((b) => b.name === tail.bones.at(-1))
const swung = (clip: Clip, spring: Partial<Spring> = {}, limb = tail.id) =>
  springClip(clip, skeleton, { [limb]: { ...USUAL_SPRING, ...spring } }, body)
const clips = clipsOf({ mesh, skeleton }, kits, ottern.recipe)
const named = (id: string) => clips.find((c) => c.id === id)!
/** Where the end of the tail is. */
function endAt(clip: Clip, time: number): Vector3 {
  const world = solveForward(bones, poseAt({ ...clip, loop: false }, time), createWorldPose(bones))
  const turn = new Quaternion().fromArray(world.turns, tip * 4)
  const along = new Vector3(...bones[tip]!.tail).sub(new Vector3(...bones[tip]!.at))
  return along.applyQuaternion(turn).add(new Vector3().fromArray(world.joints, tip * 3))
}
const moments = (clip: Clip) => Array.from({ length: 33 }, (_, i) => (i * clip.duration) / 32)
/** A figure that is pushed aside at a moment and stands there. */
function pushed(): Clip {
  const held = heldClip(bones, restPose(bones))
  const times = Float32Array.from({ length: 61 }, (_, i) => i / 30)
  const root = Float32Array.from({ length: 183 }, (_, i) => {
    const t = Math.floor(i / 3) / 30
    return restPose(bones).root[i % 3]! + (i % 3 === 0 ? 0.25 * Math.min(1, Math.max(0, (t - 0.5) / 0.2)) : 0)
  })
  return { ...held, duration: 2, times, root, rotations: bones.map(() => null) }
}

describe('a chain that swings', () => {
  it('is a tail, a stalk, an ear; no neck, no arm', () => {
    expect(
      ['tail', 'ear', 'fin', 'stalk', 'wing', 'neck', 'arm', 'leg', 'digit'].map((kind) => canSwing({ kind })),
    ).toEqual([true, true, true, true, true, false, false, false, false])
    const walk = named('walk')
    expect(springClip(walk, skeleton, {}, body)).toBe(walk)
    expect(springClip(walk, skeleton, { leftArm: USUAL_SPRING, nothing: USUAL_SPRING }, body)).toBe(walk)
  })

  it('stays behind when the figure is pushed, swings beyond, and comes to rest where it was', () => {
    const clip = swung(pushed(), { drag: 0.12, stiffness: 0.3, gravity: 0 })
    const aside = (t: number) => endAt(clip, t).x - poseAt(clip, t).root[0]
    expect(Math.abs(aside(0.3))).toBeLessThan(0.01)
    const after = Array.from({ length: 30 }, (_, i) => aside(0.6 + i * 0.03))
    expect(Math.min(...after)).toBeLessThan(-0.04)
    expect(Math.max(...after)).toBeGreaterThan(0.005)
    expect(Math.abs(aside(2))).toBeLessThan(Math.abs(Math.min(...after)) / 4)
  })

  it('goes as its clip has it where it is stiff, and hangs lower the more it is drawn down', () => {
    const walk = named('walk')
    const far = (clip: Clip) => Math.max(...moments(walk).map((t) => endAt(clip, t).distanceTo(endAt(walk, t))))
    expect(far(swung(walk, { stiffness: 4, drag: 1, gravity: 0 }))).toBeLessThan(far(swung(walk)) + 0.001)
    expect(far(swung(walk))).toBeGreaterThan(0.01)
    const strider = figureOf('lampstrider')
    const own = strider.skeleton.limbs.find((l) => l.kind === 'tail')!
    const last = strider.skeleton.bones.findIndex((b) => b.name === own.bones.at(-1))
    const [idle] = clipsOf(strider, kits, strider.recipe)
    const heights = [0, 0.15, 1].map((gravity) => {
      const springs = { [own.id]: { ...USUAL_SPRING, gravity } }
      const clip = springClip(idle!, strider.skeleton, springs, springBodyOf(strider.mesh, strider.skeleton))
      const world = createWorldPose(strider.skeleton.bones)
      return solveForward(strider.skeleton.bones, poseAt(clip, 1), world).joints[last * 3 + 1]!
    })
    expect(heights[0]).toBeGreaterThan(heights[1]! + 0.01)
    expect(heights[1]).toBeGreaterThan(heights[2]! + 0.05)
  })

  it('is still where a clip begins, however the figure lies then', () => {
    const over = heldClip(bones, restPose(bones))
    const half = new Quaternion().setFromAxisAngle(new Vector3(0, 0, 1), Math.PI)
    const rotations = bones.map((_, b) => (b === 0 ? Float32Array.from([...half, ...half]) : null))
    const root = over.root.map((v, k) => (k % 3 === 1 ? v + 2 : v))
    const clip = swung({ ...over, rotations, root, duration: 2 }, { drag: 0.05, stiffness: 0.1, gravity: 0 })
    expect(endAt(clip, 0).distanceTo(endAt(clip, 0.2))).toBeLessThan(0.005)
  })

  it('goes round the body it is led through', () => {
    const first = bones.findIndex((b) => b.name === tail.bones[0])
    const held = heldClip(bones, restPose(bones))
    const [low, high] = ['hips', 'chest'].map((name) => new Vector3(...bones.find((b) => b.name === name)!.at))
    const along = high!.clone().sub(low!)
    /** The least that the end of a link, but the first, is from the middle of the trunk. */
    const off = (clip: Clip) => {
      const world = solveForward(bones, poseAt(clip, 1), createWorldPose(bones))
      return Math.min(
        ...tail.bones.slice(1).map((name) => {
          const end = new Vector3().fromArray(world.joints, bones.findIndex((b) => b.name === name) * 3)
          const share = Math.min(1, Math.max(0, end.clone().sub(low!).dot(along) / along.lengthSq()))
          return end.distanceTo(low!.clone().addScaledVector(along, share))
        }),
      )
    }
    /** Turned forward so that it goes right through. */
    const led = Array.from({ length: 40 }, (_, i) => {
      const turn = new Quaternion().setFromAxisAngle(new Vector3(1, 0, 0), i * 0.08)
      return { ...held, rotations: bones.map((_, b) => (b === first ? Float32Array.from([...turn, ...turn]) : null)) }
    }).sort((a, b) => off(a) - off(b))[0]!
    const wide = Math.max(
      ...[...new Set(mesh.cornerPoints)].map((p) =>
        Math.abs(mesh.positions[p * 3 + 1]! - high!.y) < 0.05 ? Math.abs(mesh.positions[p * 3 + 2]! - high!.z) : 0,
      ),
    )
    expect(off(led)).toBeLessThan(0.5 * wide)
    expect(off(swung(led, { stiffness: 2, gravity: 0 }))).toBeGreaterThan(0.6 * wide)
  })

  it('closes every loop, at no speed that jumps', () => {
    for (const clip of clips.filter((c) => c.loop)) {
      const own = swung(clip, { drag: 0.1, stiffness: 0.3 })
      const last = own.duration
      expect(endAt(own, 0).distanceTo(endAt(own, last)), clip.id).toBeLessThan(1e-5)
      const step = (a: number) => endAt(own, (a + last) % last).distanceTo(endAt(own, (a + 1 / 60 + last) % last))
      const steps = Array.from({ length: Math.round(last * 60) }, (_, i) => step(i / 60))
      // over the seam it goes no faster than anywhere else
      expect(step(-1 / 60), clip.id).toBeLessThanOrEqual(Math.max(...steps) + 1e-4)
    }
  })

  it('keeps off the ground and out of the body, by the points of the tail', () => {
    const own = new Set(tail.bones.map((name) => bones.findIndex((b) => b.name === name)))
    const points = [...new Set(mesh.cornerPoints)].filter(
      (p) => own.has(mesh.joints[p * 4]!) && mesh.weights[p * 4]! > 0.6,
    )
    expect(points.length).toBeGreaterThan(20)
    const lowest = (clip: Clip) =>
      Math.min(
        ...moments(clip).map((t) => {
          const world = solveForward(bones, poseAt({ ...clip, loop: false }, t), createWorldPose(bones))
          const posed = skinPoints(bones, world, mesh.positions, mesh.joints, mesh.weights)
          return Math.min(...points.map((p) => posed[p * 3 + 1]!))
        }),
      )
    for (const id of ['idle', 'walk', 'run']) {
      const limp = swung(named(id), { gravity: 2, stiffness: 0.05, drag: 0.6 })
      // half of it is thicker than what is kept off
      expect(lowest(limp), id).toBeGreaterThan(Math.min(0, lowest(named(id))) - 0.02)
    }
  })

  it('moves with whatever chain there is, alone or with others, and the same each time', () => {
    const strider = figureOf('lampstrider')
    const chains = strider.skeleton.limbs.filter(canSwing)
    expect(chains.length).toBeGreaterThan(0)
    const springs = Object.fromEntries(chains.map((l) => [l.id, USUAL_SPRING]))
    const [walk] = clipsOf(strider, kits, strider.recipe).filter((c) => c.travel > 0)
    const once = springClip(walk!, strider.skeleton, springs, springBodyOf(strider.mesh, strider.skeleton))
    const again = springClip(walk!, strider.skeleton, springs, springBodyOf(strider.mesh, strider.skeleton))
    for (const { bones: names } of chains) {
      const bone = strider.skeleton.bones.findIndex((b) => b.name === names[0])
      expect(once.rotations[bone]).toEqual(again.rotations[bone])
      expect(once.rotations[bone]).not.toEqual(walk!.rotations[bone])
      for (const v of once.rotations[bone]!) expect(Number.isFinite(v)).toBe(true)
    }
  })
})

describe('springs of a figure', () => {
  const plain: Recipe = ottern.recipe

  it('swing as one in a pair, and only chains do', () => {
    const limbs = [
      ...[
        { id: 'leftEar', kind: 'ear' },
        { id: 'neck', kind: 'neck' },
        { id: 'rightEar', kind: 'ear' },
      ],
      { id: 'tail', kind: 'tail' },
      { id: 'leftArm', kind: 'arm' },
    ]
    expect(swingingChains(limbs).map((c) => c.limbs)).toEqual([['leftEar', 'rightEar'], ['tail']])
  })

  it('are kept in its recipe within what is of use, and taken back', () => {
    const one = setSprings(plain, [tail.id], { stiffness: 99, drag: -1, gravity: 0.123 })
    expect(springOf(one, tail.id)).toEqual({ stiffness: 4, drag: 0.05, gravity: 0.12 })
    expect(readRecipe(one).value).toEqual(one)
    expect(setSprings(one, [tail.id], null)).toEqual(plain)
    expect(setSprings(one, [tail.id], springOf(one, tail.id))).toBe(one)
    expect(readRecipe({ ...one, springs: { tail: { stiffness: 9, drag: 0, gravity: 0 } } }).value).toBeNull()
    expect(describeChange(plain, one, kits)).toBe('Tail: swings')
    expect(describeChange(one, plain, kits)).toBe('Tail: swings no more')
  })

  it('are in its clips as they ship', async () => {
    const one = setSprings(plain, [tail.id], { ...USUAL_SPRING, gravity: 1 })
    const files = await Promise.all(
      [plain, one].map(async (recipe) => {
        const { bytes, problems } = await shipFigure(builder, kits, recipe, target, { lods: false })
        expect(problems.filter((p) => p.severity === 'error')).toEqual([])
        expect(await glbFaults(bytes!)).toEqual([])
        return new ShippedFile(bytes!)
      }),
    )
    const heights = files.map((file) => {
      const clip = file.clips().find((c) => c.name === 'Idle')!
      const node = file.nodes.findIndex((n) => n.name === tail.bones.at(-1))
      return file.at({ clip, time: 1 }).world[node]!.elements[13]!
    })
    expect(heights[1]).toBeLessThan(heights[0]! - 0.005)
  })
})
