import { describe, expect, it } from 'vitest'
import { build } from '../build.ts'
import { TARGETS } from '../recipe/defaults.ts'
import { demoKit, dressed } from '../testing/demoKits.ts'
import { sampleCurve } from './curves.ts'
import { fitClip } from './fitClip.ts'
import { jointsAt, measureFootSlide, poseAt } from './footSlide.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const clip = (id: string) => folk.manifest.clips.find((c) => c.id === id)!
const skeletonOf = (kit: typeof folk, body: string, sliders: Record<string, number>, target = TARGETS[0]!) =>
  build(dressed(kit, body, [], sliders), kits, target).figure!.skeleton

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

describe('a clip on any biped', () => {
  const bodies = [
    ['Maren as she is', folk, 'human', {}],
    ['a giant', folk, 'human', { stature: 1, legs: 1, feet: 1, build: 1 }],
    ['a short one', folk, 'human', { stature: -1, legs: -1, feet: -1 }],
    ['a stooped one', folk, 'human', { stoop: 1, arms: 1 }],
    ['an ottern', tide, 'ottern', {}],
    ['a tall ottern', tide, 'ottern', { stature: 1, paws: 1, 'tail-length': 1 }],
  ] as const

  it.each(bodies)('of %s: standing feet slip less than a centimetre', (_name, kit, body, sliders) => {
    for (const target of [TARGETS[0]!, TARGETS[2]!]) {
      const skeleton = skeletonOf(kit, body, sliders, target)
      for (const id of ['idle', 'walk']) {
        const slide = measureFootSlide(clip(id), fitClip(clip(id), skeleton), skeleton)
        expect(slide).toBeLessThan(0.01)
      }
    }
  })

  it.each(bodies)('of %s: no foot goes through the ground, the head stays up', (_name, kit, body, sliders) => {
    const skeleton = skeletonOf(kit, body, sliders)
    const fitted = fitClip(clip('walk'), skeleton)
    const rest = skeleton.bones.find((b) => b.name === 'leftToes')!.at[1]
    const at = (name: string) => skeleton.bones.findIndex((b) => b.name === name)
    for (let i = 0; i <= 40; i++) {
      const joints = jointsAt(skeleton, fitted, (i / 40) * fitted.duration)
      expect(joints[at('leftToes')]!.y).toBeGreaterThan(rest - 0.012)
      expect(joints[at('head')]!.y).toBeGreaterThan(skeleton.bones[at('head')]!.at[1] * 0.88)
    }
  })

  it('loops without a jump and turns by unit quaternions', () => {
    const skeleton = skeletonOf(folk, 'human', {})
    for (const def of folk.manifest.clips) {
      const fitted = fitClip(def, skeleton)
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
})
