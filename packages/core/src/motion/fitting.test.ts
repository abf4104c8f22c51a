import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { build } from '../build.ts'
import { pointTriangles } from '../mesh/Mesh.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { demoKit, dressed, TARGETS } from '../testing/demoKits.ts'
import { poseAt, type Clip } from './Clip.ts'
import { fitClip } from './fitClip.ts'
import { flanksOf } from './keepArmsOut.ts'
import { createWorldPose, solveForward } from '../rig/Pose.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const clipOf = (id: string) => folk.manifest.clips.find((c) => c.id === id)!
const skeletonOf = (kit: typeof folk, body: string, sliders: Record<string, number> = {}, target = 'near') =>
  build(
    dressed(kit, body, [], sliders),
    kits,
    TARGETS.find((t) => t.id === target)!,
  ).figure!.skeleton

const human = skeletonOf(folk, 'human')
const walk = fitClip(clipOf('walk'), human)
const idle = fitClip(clipOf('idle'), human)
const place = (skeleton: Skeleton, clip: Clip, bone: string, phase: number): Vector3 =>
  jointsAt(skeleton, clip, phase * clip.duration)[skeleton.bones.findIndex((b) => b.name === bone)]!
/** Where every joint is at a time. */
function jointsAt(skeleton: Skeleton, clip: Clip, time: number): Vector3[] {
  const { joints } = solveForward(skeleton.bones, poseAt(clip, time), createWorldPose(skeleton.bones))
  return skeleton.bones.map((_, i) => new Vector3().fromArray(joints, i * 3))
}
const phases = Array.from({ length: 21 }, (_, i) => i / 20)

describe('a fitted clip', () => {
  it('turns bones and never stretches them', () => {
    for (const skeleton of [human, skeletonOf(tide, 'ottern'), skeletonOf(folk, 'human', { stature: 1, arms: 1 })])
      for (const id of ['idle', 'walk']) {
        const clip = fitClip(clipOf(id), skeleton)
        for (const phase of [0, 0.3, 0.77]) {
          const joints = jointsAt(skeleton, clip, phase * clip.duration)
          skeleton.bones.forEach((bone, i) => {
            if (bone.parent < 0) return
            const rest = new Vector3(...bone.at).distanceTo(new Vector3(...skeleton.bones[bone.parent]!.at))
            expect(joints[i]!.distanceTo(joints[bone.parent]!)).toBeCloseTo(rest, 5)
          })
        }
      }
  })

  it('is sampled thirty times a second, from nothing to its whole length', () => {
    for (const clip of [walk, idle]) {
      expect(clip.times[0]).toBe(0)
      expect(clip.times[clip.times.length - 1]).toBeCloseTo(clip.duration, 5)
      expect(clip.times.length).toBe(Math.round(clip.duration * 30) + 1)
      expect(clip.root).toHaveLength(clip.times.length * 3)
      for (const turns of clip.rotations) if (turns) expect(turns).toHaveLength(clip.times.length * 4)
    }
  })

  it('covers ground by the length of the legs, not by the clip', () => {
    const long = fitClip(clipOf('walk'), skeletonOf(folk, 'human', { legs: 1 }))
    const short = fitClip(clipOf('walk'), skeletonOf(folk, 'human', { legs: -1 }))
    expect(long.travel).toBeGreaterThan(walk.travel)
    expect(short.travel).toBeLessThan(walk.travel)
    expect(idle.travel).toBe(0)
    expect(walk.travel / walk.duration).toBeGreaterThan(0.5)
    expect(walk.travel / walk.duration).toBeLessThan(1.8)
  })

  it('is the same on a crowd skeleton for the bones that it has', () => {
    const crowd = skeletonOf(folk, 'human', {}, 'crowd')
    const few = fitClip(clipOf('walk'), crowd)
    for (const bone of ['hips', 'head', 'leftHand', 'rightFoot', 'leftToes'])
      for (const phase of phases)
        expect(place(crowd, few, bone, phase).distanceTo(place(human, walk, bone, phase))).toBeLessThan(1e-4)
  })

  it('can be posed at any time: before it begins, after it ends, round and round', () => {
    const a = poseAt(walk, -0.25 * walk.duration)
    const b = poseAt(walk, 0.75 * walk.duration)
    expect(a.root).toEqual(b.root.map((v) => expect.closeTo(v, 4) as number))
    expect(poseAt(idle, 1e6).turns.every(Number.isFinite)).toBe(true)
  })

  it('leaves out what never turns', () => {
    const still = walk.rotations.filter((r) => r === null).length
    expect(still).toBeGreaterThan(0)
    expect(still).toBeLessThan(walk.rotations.length)
  })
})

describe('a walk', () => {
  it('does on the right what it did on the left half a loop before', () => {
    for (const bone of ['Foot', 'LowerLeg', 'Hand', 'UpperArm'])
      for (const phase of phases) {
        const left = place(human, walk, `left${bone}`, phase)
        const right = place(human, walk, `right${bone}`, phase + 0.5)
        // half a loop is not a whole number of samples: a centimetre of a swinging hand
        expect(right.distanceTo(new Vector3(-left.x, left.y, left.z))).toBeLessThan(0.012)
      }
  })

  it('swings each arm with the other leg', () => {
    let together = 0
    for (const phase of phases) {
      const foot = place(human, walk, 'leftFoot', phase).z
      const hand = place(human, walk, 'leftHand', phase).z
      const mean = (bone: string) => phases.reduce((s, p) => s + place(human, walk, bone, p).z, 0) / phases.length
      together += (foot - mean('leftFoot')) * (hand - mean('leftHand'))
    }
    expect(together).toBeLessThan(0)
  })

  it('lifts a foot that swings and keeps one on the ground always', () => {
    const rest = human.bones.find((b) => b.name === 'leftToes')!.at[1]
    let highest = 0
    for (const phase of phases) {
      const [left, right] = ['leftToes', 'rightToes'].map((b) => place(human, walk, b, phase).y - rest) as [
        number,
        number,
      ]
      expect(Math.min(left, right)).toBeLessThan(0.02)
      highest = Math.max(highest, left)
    }
    expect(highest).toBeGreaterThan(0.03)
  })

  it('bends knees forward and elbows forward, never back', () => {
    for (const skeleton of [human, skeletonOf(tide, 'ottern'), skeletonOf(folk, 'human', { legs: -1, build: 1 })]) {
      const clip = fitClip(clipOf('walk'), skeleton)
      for (const phase of phases)
        for (const side of ['left', 'right']) {
          const [hip, knee, ankle] = ['UpperLeg', 'LowerLeg', 'Foot'].map((b) =>
            place(skeleton, clip, side + b, phase),
          ) as [Vector3, Vector3, Vector3]
          const straight = hip
            .clone()
            .lerp(ankle, hip.distanceTo(knee) / (hip.distanceTo(knee) + knee.distanceTo(ankle)))
          expect(knee.z - straight.z).toBeGreaterThan(-0.02)
        }
    }
  })

  it('bobs by a few centimetres and hardly sways', () => {
    const heights = phases.map((p) => place(human, walk, 'hips', p).y)
    const sideways = phases.map((p) => place(human, walk, 'hips', p).x)
    const swing = (v: number[]) => Math.max(...v) - Math.min(...v)
    expect(swing(heights)).toBeGreaterThan(0.005)
    expect(swing(heights)).toBeLessThan(0.12)
    expect(swing(sideways)).toBeLessThan(0.12)
  })

  it('keeps the head steadier than the hands', () => {
    const reach = (bone: string) => {
      const zs = phases.map((p) => place(human, walk, bone, p).z)
      return Math.max(...zs) - Math.min(...zs)
    }
    expect(reach('head')).toBeLessThan(reach('leftHand') * 0.5)
  })
})

describe('standing about', () => {
  it('leaves the feet exactly where they are', () => {
    for (const foot of ['leftFoot', 'rightFoot', 'leftToes', 'rightToes']) {
      const first = place(human, idle, foot, 0)
      for (const phase of phases) expect(place(human, idle, foot, phase).distanceTo(first)).toBeLessThan(0.004)
    }
  })

  it('breathes: something above the hips moves, a little', () => {
    const moves = ['head', 'leftHand', 'upperChest'].map((bone) =>
      Math.max(...phases.map((p) => place(human, idle, bone, p).distanceTo(place(human, idle, bone, 0)))),
    )
    expect(Math.max(...moves)).toBeGreaterThan(0.003)
    expect(Math.max(...moves)).toBeLessThan(0.15)
  })

  it('lets the arms hang beside the body', () => {
    for (const phase of [0, 0.5]) {
      const hand = place(human, idle, 'leftHand', phase)
      const shoulder = place(human, idle, 'leftUpperArm', phase)
      expect(shoulder.y - hand.y).toBeGreaterThan(0.3)
      expect(Math.abs(hand.x - shoulder.x)).toBeLessThan(0.25)
    }
  })
})

describe('what an arm can hang into', () => {
  it('is every triangle whose three points hang on the trunk beside an arm', () => {
    const { mesh, skeleton } = build(
      dressed(folk, 'human', []),
      kits,
      TARGETS.find((t) => t.id === 'near')!,
    ).figure!
    const { arms, trunk } = flanksOf(mesh, skeleton)
    expect(arms).toHaveLength(2)
    const count = trunk.positions.length / 3
    expect(Math.max(...trunk.triangles)).toBeLessThan(count)
    // by where points stand: each is there once
    const at = new Map<string, number>()
    for (let i = 0; i < count; i++) at.set(trunk.positions.subarray(i * 3, i * 3 + 3).join(), i)
    const names = skeleton.bones.map((b) => b.name)
    const isArm = (p: number) => {
      const shares = [...mesh.weights.subarray(p * 4, p * 4 + 4)]
      return /Arm|Hand|Thumb|Index|Middle|Ring|Little/.test(
        names[mesh.joints[p * 4 + shares.indexOf(Math.max(...shares))]!]!,
      )
    }
    let whole = 0
    const triangles = pointTriangles(mesh)
    for (let t = 0; t < triangles.length; t += 3) {
      const own = [...triangles.subarray(t, t + 3)]
      if (own.every((p) => !isArm(p) && at.has(mesh.positions.subarray(p * 3, p * 3 + 3).join()))) whole++
    }
    expect(trunk.triangles.length / 3).toBe(whole)
    expect(whole).toBeGreaterThan(200)
  })
})
