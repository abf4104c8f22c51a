import { describe, expect, it } from 'vitest'
import { build } from '../build.ts'
import { demoKit, dressed, TARGETS } from '../testing/demoKits.ts'
import { sampleCurve } from './curves.ts'
import { fitClip } from './fitClip.ts'
import { createWorldPose, solveForward } from '../rig/Pose.ts'
import { poseAt } from './Clip.ts'
import { solesOf } from './soles.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const clip = (id: string) => folk.manifest.clips.find((c) => c.id === id)!

describe('curves', () => {
  it('pass through their keys and run on over the end of a loop', () => {
    const keys: [number, number][] = [
      [0, 1],
      [0.25, 3],
      [0.75, -1],
    ]
    for (const [p, v] of keys) expect(sampleCurve(keys, p, true)).toBeCloseTo(v)
    expect(sampleCurve(keys, 1.25, true)).toBeCloseTo(3)
    expect(Math.abs(sampleCurve(keys, 0.9999, true) - sampleCurve(keys, 0, true))).toBeLessThan(0.01)
    expect(sampleCurve(keys, 9, false)).toBeCloseTo(-1)
    expect(sampleCurve([[0, 4]], 0.6, true)).toBe(4)
  })
})

describe('a fitted clip', () => {
  it('loops without a jump and turns by unit quaternions', () => {
    const { skeleton, mesh } = build(dressed(folk, 'human', []), kits, TARGETS[0]!).figure!
    for (const def of folk.manifest.clips.filter((c) => c.loop)) {
      const fitted = fitClip(def, skeleton, solesOf(mesh, skeleton))
      const n = fitted.times.length
      for (const turns of fitted.rotations) {
        if (!turns) continue
        for (let i = 0; i < n; i++) expect(Math.hypot(...turns.subarray(i * 4, i * 4 + 4))).toBeCloseTo(1, 4)
        const dot = [0, 1, 2, 3].reduce((s, k) => s + turns[k]! * turns[(n - 1) * 4 + k]!, 0)
        expect(Math.abs(dot)).toBeGreaterThan(0.9999)
      }
      const a = poseAt(fitted, 0.3)
      const b = poseAt(fitted, 0.3 + fitted.duration)
      expect(b.root[1]).toBeCloseTo(a.root[1], 5)
    }
  })

  it('keeps the head up on every body', () => {
    for (const [kit, body, sliders] of [
      [folk, 'human', { stature: 1, legs: 1 }],
      [folk, 'human', { stoop: 1 }],
      [tide, 'ottern', {}],
    ] as const) {
      const { skeleton, mesh } = build(dressed(kit, body, [], sliders), kits, TARGETS[0]!).figure!
      const fitted = fitClip(clip('walk'), skeleton, solesOf(mesh, skeleton))
      const head = skeleton.bones.findIndex((b) => b.name === 'head')
      const world = createWorldPose(skeleton.bones)
      for (let i = 0; i <= 40; i++) {
        solveForward(skeleton.bones, poseAt(fitted, (i / 40) * fitted.duration), world)
        expect(world.joints[head * 3 + 1]!).toBeGreaterThan(skeleton.bones[head]!.at[1] * 0.88)
      }
    }
  })
})
