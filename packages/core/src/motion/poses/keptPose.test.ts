import { Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { Builder } from '../../build.ts'
import { DETAIL_LEVELS } from '../../kit/plan.ts'
import type { Target } from '../../recipe/target.ts'
import { createWorldPose, restPose, skinPoints, solveForward, type Pose } from '../../rig/Pose.ts'
import { readyPosesOf } from '../../ship/readyPoses.ts'
import { demoKit, demoTarget, dressed, MAREN } from '../../testing/demoKits.ts'
import { armsPose, blendPoses, evenPose, lowestIn, mirrorPose, setDown } from './changePose.ts'
import { keepPose, poseOn, readPose, type KeptPose } from './keptPose.ts'
import { poseRig, type Posable } from './PoseRig.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const near = demoTarget('near')
const builder = new Builder(kits)

function figureOf(kit: typeof folk, body: string, target: Partial<Target> = {}, sliders: Record<string, number> = {}) {
  const recipe = dressed(kit, body, body === 'human' ? MAREN : [], sliders)
  return builder.build(recipe, { ...near, limits: { ...near.limits, bones: 200 }, ...target }).figure!
}
/** World joints by name. */
function joints({ bones }: Posable, pose: Pose): Map<string, Vector3> {
  const world = solveForward(bones, pose, createWorldPose(bones))
  return new Map(bones.map((b, i) => [b.name, new Vector3().fromArray(world.joints, i * 3)]))
}
/** World turns by name. */
function turns({ bones }: Posable, pose: Pose): Map<string, Quaternion> {
  const world = solveForward(bones, pose, createWorldPose(bones))
  return new Map(bones.map((b, i) => [b.name, new Quaternion().fromArray(world.turns, i * 4)]))
}
const said = { name: 'Trial', plan: 'biped' }
/** Some turn of every bone, another for each. */
function anyPose({ bones }: Posable, size = 0.5): Pose {
  const pose = restPose(bones)
  bones.forEach(({ twist }, i) => {
    const axis = new Vector3(Math.sin(i * 7), Math.cos(i * 3), Math.sin(i * 5 + 1)).normalize()
    if (!twist) new Quaternion().setFromAxisAngle(axis, size * Math.sin(i * 2 + 1)).toArray(pose.turns, i * 4)
  })
  pose.root[1] -= 0.1
  pose.root[0] += 0.07
  return pose
}

describe('a kept pose', () => {
  const person = figureOf(folk, 'human').skeleton

  it('comes back as it was', () => {
    const pose = anyPose(person)
    const read = readPose(JSON.stringify(keepPose(pose, person, said)))
    expect(read.problems).toEqual([])
    const [before, after] = [joints(person, pose), joints(person, poseOn(read.value!, person))]
    for (const [bone, at] of before) expect(after.get(bone)!.distanceTo(at), bone).toBeLessThan(1e-4)
  })

  it('is the same on every level of skeleton: what a bone that is not there turned, its children turn', () => {
    const kept = keepPose(anyPose(person), person, said)
    const there = joints(person, poseOn(kept, person))
    const turned = turns(person, poseOn(kept, person))
    for (const detail of DETAIL_LEVELS) {
      const { skeleton } = figureOf(folk, 'human', { detail })
      const here = joints(skeleton, poseOn(kept, skeleton))
      // of angles near nothing, numbers of four bytes tell no more than thousandths
      for (const [bone, turn] of turns(skeleton, poseOn(kept, skeleton)))
        if (turned.has(bone)) expect(turn.angleTo(turned.get(bone)!), `${detail} ${bone}`).toBeLessThan(3e-3)
      // limbs turn as they did, about joints that may stand a little elsewhere: centimetres
      for (const bone of ['leftLowerArm', 'rightLowerLeg', 'head'])
        expect(here.get(bone)!.distanceTo(there.get(bone)!), `${detail} ${bone}`).toBeLessThan(
          detail === 'far' ? 0.14 : 0.02,
        )
    }
  })

  it('keeps fingers that the figure at hand has not', () => {
    const kept = keepPose(anyPose(person), person, said)
    const { skeleton: far } = figureOf(folk, 'human', { detail: 'far' })
    const changed = poseOn(kept, far)
    new Quaternion()
      .setFromAxisAngle(new Vector3(0, 1, 0), 0.7)
      .toArray(changed.turns, 4 * far.bones.findIndex((b) => b.name === 'head'))
    const again = keepPose(changed, far, said, kept)
    expect(again.turns.leftIndexProximal).toEqual(kept.turns.leftIndexProximal)
    expect(again.turns.head).not.toEqual(kept.turns.head)
    const [onFar, asked] = [joints(far, poseOn(again, far)), joints(far, changed)]
    for (const [bone, at] of asked) expect(onFar.get(bone)!.distanceTo(at), bone).toBeLessThan(1e-4)
    // nothing changed, nothing lost
    expect(keepPose(poseOn(kept, far), far, said, kept).turns).toEqual(kept.turns)
  })

  it('is the same on a figure of another shape, as far as it is as long', () => {
    const giant = figureOf(folk, 'human', {}, { stature: 1 }).skeleton
    const pose = restPose(person.bones)
    pose.root[1] *= 0.7
    const kept = keepPose(pose, person, said)
    const down = poseOn(kept, giant).root[1] / giant.bones[0]!.at[1]
    expect(down).toBeCloseTo(0.7, 1)
  })

  it('bends a tail of any number of bones as far', () => {
    const bent = (skeleton: Posable, pose: Pose) => {
      const world = solveForward(skeleton.bones, pose, createWorldPose(skeleton.bones))
      const tail = skeleton.limbs
        .find((l) => l.kind === 'tail')!
        .bones.map((n) => skeleton.bones.findIndex((b) => b.name === n))
      return new Quaternion().fromArray(world.turns, tail.at(-1)! * 4).angleTo(new Quaternion())
    }
    const ottern = figureOf(tide, 'ottern').skeleton
    const pose = restPose(ottern.bones)
    for (const name of ottern.limbs.find((l) => l.kind === 'tail')!.bones)
      new Quaternion()
        .setFromAxisAngle(new Vector3(0, 1, 0), 0.2)
        .toArray(pose.turns, 4 * ottern.bones.findIndex((b) => b.name === name))
    const kept = keepPose(pose, ottern, said)
    const whole = bent(ottern, pose)
    for (const tail of [2, 9]) {
      const { skeleton } = figureOf(tide, 'ottern', { chains: { tail } })
      const here = poseOn(kept, skeleton)
      expect(bent(skeleton, here) / whole).toBeGreaterThan(0.7)
      // and is not bent further by being kept again and again
      let again = kept
      for (let n = 0; n < 3; n++) {
        const now = poseOn(again, skeleton)
        const tip = skeleton.bones.findIndex(
          (b) => b.name === skeleton.limbs.find((l) => l.kind === 'tail')!.bones.at(-1),
        )
        now.turns[tip * 4 + 3]! -= 1e-3
        again = keepPose(now, skeleton, said, again)
      }
      expect(bent(skeleton, poseOn(again, skeleton))).toBeCloseTo(bent(skeleton, here), 1)
    }
  })

  it.each([
    ['no turn', { turns: { head: [0, 0, 0, 0] } }, 'pose-turn'],
    ['a turn of another length', { turns: { head: [0.7, 0.7, 0.7, 0.7] } }, 'pose-turn'],
    ['three numbers', { turns: { head: [0, 0, 0] } }, 'schema'],
    ['a built-in name', { turns: { constructor: [0, 0, 0, 1] } }, 'schema'],
    ['a root far away', { root: [0, 1e9, 0] }, 'schema'],
    ['a later version', { version: 2 }, 'newer'],
    ['another format', { format: 'idle-tinker-recipe' }, 'format'],
  ])('with %s is refused in words', (_what, change, code) => {
    const { value, problems } = readPose({ ...keepPose(restPose(person.bones), person, said), ...change } as KeptPose)
    expect(value).toBeNull()
    expect(problems.some((p) => p.code.includes(code) || code === 'schema')).toBe(true)
    expect(problems[0]!.message).not.toBe('')
  })
})

describe('changing a pose', () => {
  const figure = figureOf(folk, 'human')
  const { skeleton, mesh } = figure
  const rig = poseRig(skeleton, folk.bodies.get('human')!.plan)

  it('mirrors and mirrors back', () => {
    const pose = anyPose(skeleton)
    const there = joints(skeleton, mirrorPose(rig, pose))
    for (const [bone, at] of joints(skeleton, pose)) {
      const other = bone.startsWith('left') ? bone.replace('left', 'right') : bone.replace('right', 'left')
      expect(there.get(other)!.distanceTo(new Vector3(-at.x, at.y, at.z)), bone).toBeLessThan(1e-4)
    }
  })

  it('makes both sides like one of them', () => {
    const even = joints(skeleton, evenPose(rig, anyPose(skeleton), 'right'))
    for (const [bone, at] of even)
      if (bone.startsWith('left'))
        expect(even.get(bone.replace('left', 'right'))!.distanceTo(new Vector3(-at.x, at.y, at.z)), bone).toBeLessThan(
          1e-4,
        )
    // the arm of the side it is like is turned as it was
    const own = evenPose(rig, anyPose(skeleton), 'right').turns
    const arm = skeleton.bones.findIndex((b) => b.name === 'rightUpperArm') * 4
    expect([...own.subarray(arm, arm + 4)]).toEqual([...anyPose(skeleton).turns.subarray(arm, arm + 4)])
  })

  it('blends from the one to the other', () => {
    const [a, b] = [restPose(skeleton.bones), anyPose(skeleton)]
    expect([...blendPoses(skeleton.bones, a, b, 0).turns]).toEqual([...a.turns])
    const half = blendPoses(skeleton.bones, a, b, 0.5)
    const head = skeleton.bones.findIndex((x) => x.name === 'head') * 4
    const angle = (p: Pose) => 2 * Math.acos(Math.min(1, Math.abs(p.turns[head + 3]!)))
    expect(angle(half)).toBeCloseTo(angle(b) / 2, 3)
    expect(half.root[1]).toBeCloseTo((a.root[1] + b.root[1]) / 2, 6)
  })

  it('sets a figure down on its lowest point', () => {
    const pose = setDown(skeleton.bones, mesh, anyPose(skeleton))
    expect(lowestIn(skeleton.bones, mesh, pose)).toBeCloseTo(0, 5)
    const drawn = skinPoints(
      skeleton.bones,
      solveForward(skeleton.bones, pose, createWorldPose(skeleton.bones)),
      mesh.positions,
      mesh.joints,
      mesh.weights,
    )
    expect(Math.min(...drawn.filter((_, i) => i % 3 === 1))).toBeCloseTo(0, 5)
  })

  it.each([
    ['t', 0],
    ['a', 45],
    ['hanging', 80],
  ] as const)('holds arms out as in %s', (at, degrees) => {
    const here = joints(skeleton, armsPose(rig, at)!)
    for (const side of ['left', 'right'])
      for (const [from, to] of [
        ['UpperArm', 'LowerArm'],
        ['LowerArm', 'Hand'],
      ]) {
        const way = here
          .get(side + to!)!
          .clone()
          .sub(here.get(side + from!)!)
        expect((Math.atan2(-way.y, Math.abs(way.x)) * 180) / Math.PI).toBeCloseTo(degrees, 1)
        expect(Math.abs(way.z)).toBeLessThan(1e-4)
        expect(Math.sign(way.x)).toBe(side === 'left' ? 1 : -1)
      }
  })

  it('has no arms to hold out on four legs', () => {
    expect(armsPose(poseRig(figureOf(tide, 'gulper').skeleton, tide.bodies.get('gulper')!.plan), 't')).toBeNull()
  })
})

describe('poses that are ready', () => {
  it.each([
    ['a person', folk, 'human', 13],
    ['an ottern', tide, 'ottern', 13],
    ['a wader', tide, 'lampstrider', 5],
    ['a hopper', tide, 'gulper', 4],
  ] as const)('%s has some, none in the ground, no two alike', (_name, kit, body, count) => {
    const figure = figureOf(kit, body)
    const ready = readyPosesOf(figure, kits, dressed(kit, body, []))
    expect(ready).toHaveLength(count)
    expect(new Set(ready.map(({ pose }) => JSON.stringify(pose.turns))).size).toBe(count)
    for (const { id, pose } of ready) {
      const lowest = lowestIn(figure.skeleton.bones, figure.mesh, poseOn(pose, figure.skeleton))
      // as their clips: nothing deeper than 6 mm; a leap is off the ground
      expect(lowest, id).toBeGreaterThan(-0.006)
      if (!/leap|climb|run/.test(id)) expect(lowest, id).toBeLessThan(0.03)
    }
  })
})
