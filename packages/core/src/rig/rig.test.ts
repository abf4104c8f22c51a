import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { jointsAt, prepareBody } from '../body/PreparedBody.ts'
import { activeDeltas, shapeLandmarks } from '../body/shapeBody.ts'
import { boneFault, DETAIL_LEVELS, foldBones, type PlannedBone } from '../kit/plan.ts'
import { BODY_PLANS } from '../kit/plans/index.ts'
import { demoKit } from '../testing/demoKits.ts'
import { buildSkeleton, foldSkin } from './Skeleton.ts'
import { even } from '../testing/even.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const bodies = [prepareBody(folk.bodies.get('human')!), prepareBody(tide.bodies.get('ottern')!)]

function skeletonAt(
  body: (typeof bodies)[number],
  sliders: Record<string, number>,
  detail: 'near' | 'crowd',
  lift = 0,
) {
  const landmarks = new Float32Array(body.landmarks.length)
  shapeLandmarks(body, activeDeltas(body, sliders), landmarks)
  const joints = jointsAt(body, landmarks).map((v, i) => (i % 3 === 1 ? v + lift : v))
  const { bones, limbs, plan } = body.model
  return { skeleton: buildSkeleton({ bones, limbs, pairs: plan.pairs }, joints, detail), landmarks }
}

const BIPED = BODY_PLANS.get('biped')!

describe('the plan of a biped', () => {
  it('names every bone once and every parent before its children', () => {
    const names = BIPED.bones.map((b) => b.name)
    expect(new Set(names).size).toBe(names.length)
    BIPED.bones.forEach((bone, i) => {
      if (bone.parent !== null) expect(names.indexOf(bone.parent)).toBeLessThan(i)
      else expect(bone.name).toBe('hips')
    })
  })

  it('has the same bones on the left as on the right', () => {
    const names = BIPED.bones.map((b) => b.name)
    const left = names.filter((n) => n.startsWith('left')).map((n) => n.slice(4))
    const right = names.filter((n) => n.startsWith('right')).map((n) => n.slice(5))
    expect(left).toEqual(right)
    expect(left.length).toBeGreaterThan(15)
  })

  it('folds every bone onto one that is there, at every level, and finer levels keep more', () => {
    let before = 0
    for (const level of DETAIL_LEVELS) {
      const fold = foldBones(BIPED.bones, level)
      const kept = new Set([...fold].filter((to, i) => to === i))
      for (const to of fold) expect(kept.has(to)).toBe(true)
      expect(kept.size).toBeGreaterThan(before)
      before = kept.size
    }
    expect(before).toBe(BIPED.bones.length)
  })

  it('folds fingers onto the mitten at standard detail and onto the hand in a crowd', () => {
    const index = (name: string) => BIPED.bones.findIndex((b) => b.name === name)
    const standard = foldBones(BIPED.bones, 'standard')
    expect(standard[index('leftIndexProximal')]).toBe(index('leftMiddleProximal'))
    expect(standard[index('rightLittleIntermediate')]).toBe(index('rightMiddleIntermediate'))
    const crowd = foldBones(BIPED.bones, 'crowd')
    expect(crowd[index('leftIndexIntermediate')]).toBe(index('leftHand'))
    expect(crowd[index('jaw')]).toBe(index('head'))
  })
})

describe('a list of bones', () => {
  const bone = (name: string, parent: string | null, more: Partial<PlannedBone> = {}): PlannedBone => ({
    name,
    parent,
    level: 'crowd',
    ...more,
  })

  it('is a skeleton when every bone hangs from one before it', () => {
    expect(boneFault(BIPED.bones)).toBeNull()
    expect(boneFault([bone('a', null), bone('b', 'a'), bone('c', 'a')])).toBeNull()
  })

  it.each([
    ['two that are each other’s parent', [bone('a', null), bone('b', 'c'), bone('c', 'b')], 'b'],
    ['one that is its own parent', [bone('a', null), bone('b', 'b')], 'b'],
    ['one listed before its parent', [bone('a', null), bone('c', 'b'), bone('b', 'a')], 'c'],
    ['one that is there twice', [bone('a', null), bone('a', 'a')], 'a'],
    ['two without a parent', [bone('a', null), bone('b', null)], 'b'],
    ['a parent that is nowhere', [bone('a', null), bone('b', 'gone')], 'b'],
    [
      'two that fold onto each other',
      [bone('a', null), bone('b', 'a', { level: 'near', fold: 'c' }), bone('c', 'a', { level: 'near', fold: 'b' })],
      'b',
    ],
    ['a root that is not always there', [bone('a', null, { level: 'near' })], 'a'],
  ])('with %s is none, and never hangs', (_name, bones, at) => {
    expect(boneFault(bones)?.bone).toBe(at)
  })
})

describe('a skeleton', () => {
  it('stands its joints at the shaped landmarks, lifted with the figure', () => {
    for (const body of bodies)
      for (const sliders of [{}, { stature: 1 }, { arms: -1, stature: -1 }] as Record<string, number>[]) {
        const { skeleton, landmarks } = skeletonAt(body, sliders, 'near', 0.25)
        for (const { name, at } of skeleton.bones) {
          const o = body.landmarkIndex.get(name)! * 3
          expect(at[0]).toBeCloseTo(landmarks[o]!, 6)
          expect(at[1]).toBeCloseTo(landmarks[o + 1]! + 0.25, 6)
          expect(at[2]).toBeCloseTo(landmarks[o + 2]!, 6)
        }
      }
  })

  it('is the same on both sides of a body, whatever its sliders say', () => {
    for (const body of bodies) {
      const ids = body.model.def.sliders.map((s) => s.id)
      fc.assert(
        fc.property(fc.dictionary(fc.constantFrom(...ids), even(-1, 1)), (sliders) => {
          const { skeleton } = skeletonAt(body, sliders, 'near')
          for (const bone of skeleton.bones.filter((b) => b.name.startsWith('left'))) {
            const twin = skeleton.bones.find((b) => b.name === bone.name.replace('left', 'right'))!
            expect(twin.at[0]).toBeCloseTo(-bone.at[0], 3)
            expect(twin.at[1]).toBeCloseTo(bone.at[1], 3)
            expect(twin.at[2]).toBeCloseTo(bone.at[2], 3)
          }
        }),
        { numRuns: 25 },
      )
    }
  })

  it('keeps arms and legs in order from the trunk outward at the ends of every slider', () => {
    const body = bodies[0]!
    for (const { id, min, max } of body.model.def.sliders)
      for (const value of [min, max]) {
        const { skeleton } = skeletonAt(body, { [id]: value }, 'near')
        const at = (name: string) => skeleton.bones.find((b) => b.name === name)!.at
        expect(at('leftShoulder')[0]).toBeLessThan(at('leftUpperArm')[0])
        expect(at('leftUpperArm')[0]).toBeLessThan(at('leftLowerArm')[0])
        expect(at('leftLowerArm')[0]).toBeLessThan(at('leftHand')[0])
        expect(at('leftUpperLeg')[1]).toBeGreaterThan(at('leftLowerLeg')[1])
        expect(at('leftLowerLeg')[1]).toBeGreaterThan(at('leftFoot')[1])
        const trunk = ['hips', 'spine', 'chest', 'upperChest', 'neck', 'head'].map((n) => at(n)[1])
        expect([...trunk].sort((a, b) => a - b)).toEqual(trunk)
      }
  })

  it('has no bone shorter than a centimetre', () => {
    for (const body of bodies)
      for (const detail of ['near', 'crowd'] as const)
        for (const sliders of [{}, { stature: -1 }] as Record<string, number>[]) {
          const { bones } = skeletonAt(body, sliders, detail).skeleton
          for (const bone of bones)
            if (bone.parent >= 0) {
              const from = bones[bone.parent]!.at
              expect(Math.hypot(...[0, 1, 2].map((k) => bone.at[k]! - from[k]!))).toBeGreaterThan(0.01)
            }
        }
  })
})

describe('folding skin', () => {
  it('keeps the strongest, whatever the order they come in', () => {
    const fold = Uint16Array.from([0, 1, 2, 3, 4, 5])
    const joints = Uint16Array.from([5, 2, 4, 1])
    const weights = Float32Array.from([0.1, 0.4, 0.2, 0.3])
    const two = foldSkin(joints, weights, fold, 2)
    expect([...two.joints]).toEqual([2, 1, 0, 0])
    expect([...two.weights].map((w) => Math.round(w * 1000))).toEqual([571, 429, 0, 0])
    const one = foldSkin(joints, weights, fold, 1)
    expect([...one.joints.subarray(0, 1), ...one.weights]).toEqual([2, 1, 0, 0, 0])
  })

  it('hangs a point without weights on the first bone', () => {
    const { joints, weights } = foldSkin(new Uint16Array(4), new Float32Array(4), Uint16Array.from([0]), 4)
    expect([...joints, ...weights]).toEqual([0, 0, 0, 0, 1, 0, 0, 0])
  })

  it('of every body leaves each point on bones of its level', () => {
    for (const body of bodies)
      for (const detail of ['near', 'crowd'] as const) {
        const { skeleton } = skeletonAt(body, {}, detail)
        const { joints, weights } = foldSkin(body.model.mesh.joints, body.model.mesh.weights, skeleton.fold, 2)
        for (let p = 0; p < joints.length; p += 4) {
          expect(weights[p]! + weights[p + 1]!).toBeCloseTo(1, 5)
          expect(weights[p + 2]! + weights[p + 3]!).toBe(0)
          for (let k = 0; k < 2; k++) expect(joints[p + k]!).toBeLessThan(skeleton.bones.length)
        }
      }
  })
})
