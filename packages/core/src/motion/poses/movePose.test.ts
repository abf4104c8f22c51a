import { Bone, Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { Builder } from '../../build.ts'
import type { DetailLevel } from '../../kit/plan.ts'
import { demoKit, demoTarget, dressed, MAREN } from '../../testing/demoKits.ts'
import { restPose, type Pose } from '../../rig/Pose.ts'
import { armsPose, mirrorPose } from './changePose.ts'
import { handlePlace, movePose, type PoseOrder, type PoseWishes } from './movePose.ts'
import { poseRig, type PoseRig } from './PoseRig.ts'
import { createWorldPose, solveForward } from '../../rig/Pose.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const near = demoTarget('near')

function rigOf(kit: typeof folk, body: string, sliders: Record<string, number> = {}, detail: DetailLevel = 'near') {
  const recipe = dressed(kit, body, body === 'human' ? MAREN : [], sliders)
  const { figure } = new Builder(kits).build(recipe, { ...near, detail, limits: { ...near.limits, bones: 200 } })
  return poseRig(figure!.skeleton, kit.bodies.get(body)!.plan)
}

/** Where joints and what is at their ends are: by three.js' own bones, which share nothing with our kinematics. */
function placed({ bones }: PoseRig, pose: Pose) {
  const nodes = bones.map(() => new Bone())
  bones.forEach(({ parent, at }, i) => {
    const node = nodes[i]!
    const from = parent < 0 ? [0, 0, 0] : bones[parent]!.at
    node.position.set(at[0] - from[0]!, at[1] - from[1]!, at[2] - from[2]!)
    if (parent < 0) node.position.set(...pose.root)
    else nodes[parent]!.add(node)
    node.quaternion.fromArray(pose.turns, i * 4)
  })
  nodes[0]!.updateMatrixWorld(true)
  const index = (name: string) => bones.findIndex((b) => b.name === name)
  return {
    at: (name: string) => nodes[index(name)]!.getWorldPosition(new Vector3()),
    tip: (name: string) => {
      const { at, tail } = bones[index(name)]!
      return nodes[index(name)]!.localToWorld(new Vector3(...tail).sub(new Vector3(...at)))
    },
    turn: (name: string) => nodes[index(name)]!.getWorldQuaternion(new Quaternion()),
  }
}

const WISHES: PoseWishes = { pinned: new Set(), mirrored: false, free: false }
const move = (rig: PoseRig, pose: Pose, order: PoseOrder, wishes: Partial<PoseWishes> = {}) =>
  movePose(rig, pose, order, { ...WISHES, ...wishes })
const feet = (rig: PoseRig) => new Set(rig.limbs.filter((l) => l.kind === 'leg').map((l) => l.id))
const placeOf = (rig: PoseRig, pose: Pose, id: string) =>
  new Vector3(
    ...handlePlace(
      rig,
      rig.handles.find((h) => h.id === id)!,
      solveForward(rig.bones, pose, createWorldPose(rig.bones)),
    ),
  )
const person = rigOf(folk, 'human')
const FIGURES: [string, PoseRig][] = [
  ['a person', person],
  ['a giant', rigOf(folk, 'human', { stature: 1, arms: 1, heft: 1 })],
  ['a person far away', rigOf(folk, 'human', {}, 'far')],
  ['an ottern in full', rigOf(tide, 'ottern', {}, 'full')],
  ['a wader', rigOf(tide, 'lampstrider')],
  ['a hopper', rigOf(tide, 'gulper')],
]

describe.each(FIGURES)('%s', (_name, rig) => {
  const rest = restPose(rig.bones)

  it('has something to take hold of at every leg, arm, chain, root and head, each by a name of its own', () => {
    const ids = rig.handles.map((h) => h.id)
    expect(new Set(ids).size).toBe(ids.length)
    const kinds = (kind: string) => rig.handles.filter((h) => h.kind === kind).length
    const jointed = rig.limbs.filter((l) => l.kind === 'leg' || l.kind === 'arm').length
    expect([kinds('end'), kinds('middle'), kinds('root'), kinds('look')]).toEqual([jointed, jointed, 1, 1])
    expect(kinds('tip')).toBe(rig.limbs.filter((l) => l.kind === 'tail').length)
    for (const { mate, id } of rig.handles) if (mate) expect(rig.handles.find((h) => h.id === mate)!.mate).toBe(id)
  })

  it('stays as it is when a handle is taken hold of and not moved', () => {
    const start = move(rig, rest, { handle: 'root-hips', to: [0, rest.root[1] * 0.96, 0.02] }, { pinned: feet(rig) })
    for (const { id } of rig.handles) {
      const at = placeOf(rig, start, id)
      const same = move(rig, start, { handle: id, to: at.toArray() }, { pinned: feet(rig) })
      const [before, after] = [placed(rig, start), placed(rig, same)]
      // a limb that is straight at rest is bent a little, so that it knows which way: millimetres at its middle
      for (const { name } of rig.bones)
        expect(before.at(name).distanceTo(after.at(name)), `${id}: ${name}`).toBeLessThan(0.012)
    }
  })

  it('brings the end of each limb where the hand is, and leaves all else where it was', () => {
    for (const [l, own] of rig.jointed.entries()) {
      if (!own) continue
      const handle = rig.handles.find((h) => h.kind === 'end' && h.limb === l)!
      const from = placeOf(rig, rest, handle.id)
      const socket = new Vector3(...rig.bones[own.upper]!.at)
      // nearer to where it hangs, and to either side: within reach, and within what joints can do
      for (const [share, side] of [
        [0.15, 0.05],
        [0.3, -0.1],
        [0.2, 0.12],
      ]) {
        const to = from.clone().lerp(socket, share!)
        to.z += side! * from.distanceTo(socket)
        const pose = move(rig, rest, { handle: handle.id, to: to.toArray() })
        const now = placed(rig, pose)
        const name = rig.bones[handle.bone]!.name
        const end = handle.at === 'joint' ? now.at(name) : now.tip(name)
        expect(end.distanceTo(to), `${handle.id} ${share}`).toBeLessThan(1e-3)
        const before = placed(rig, rest)
        for (const bone of rig.bones)
          if (!rig.limbs[l]!.bones.includes(bone.name) && !below(rig, own.upper).has(bone.name))
            expect(now.at(bone.name).distanceTo(before.at(bone.name))).toBeLessThan(1e-6)
        // what is in the hand is held as it was
        if (own.end >= 0) expect(now.turn(name).angleTo(before.turn(name))).toBeLessThan(2e-3)
      }
    }
  })

  it('keeps its feet where they are when the hips go down, and stops where they do not reach', () => {
    const before = placed(rig, rest)
    const ankles = rig.jointed.flatMap((own, l) =>
      own && rig.limbs[l]!.kind === 'leg' ? [rig.bones[own.end]!.name] : [],
    )
    const knees = rig.jointed.flatMap((own, l) => (own && rig.limbs[l]!.kind === 'leg' ? [own] : []))
    const tall = rest.root[1]
    for (const [share, reached] of [
      [0.85, true],
      [0.7, true],
      [1.6, false],
    ] as const) {
      const pose = move(
        rig,
        rest,
        { handle: 'root-hips', to: [rest.root[0], tall * share, rest.root[2]] },
        { pinned: feet(rig) },
      )
      const now = placed(rig, pose)
      for (const ankle of ankles) {
        expect(now.at(ankle).distanceTo(before.at(ankle)), `${ankle} ${share}`).toBeLessThan(3e-3)
        expect(now.turn(ankle).angleTo(before.turn(ankle)), `${ankle} ${share}`).toBeLessThan(0.01)
      }
      expect(Math.abs(pose.root[1] - tall * share) < 1e-6).toBe(reached)
      // knees bend the way they bend
      if (reached)
        for (const { lower, upper, pole } of knees) {
          const [hip, knee] = [now.at(rig.bones[upper]!.name), now.at(rig.bones[lower]!.name)]
          const was = before.at(rig.bones[lower]!.name).sub(before.at(rig.bones[upper]!.name))
          expect(knee.sub(hip).sub(was).dot(pole)).toBeGreaterThan(0)
        }
    }
  })

  it('does to the other side what it does to one, as a mirror shows it', () => {
    for (const handle of rig.handles) {
      if (!handle.mate || handle.kind === 'look') continue
      const from = placeOf(rig, rest, handle.id)
      const to = from
        .clone()
        .add(new Vector3(0.03, 0.05, 0.04))
        .toArray()
      const pose = move(rig, rest, { handle: handle.id, to }, { mirrored: true })
      const [now, other] = [placed(rig, pose), placed(rig, mirrorPose(rig, pose))]
      for (const { name } of rig.bones)
        expect(now.at(name).distanceTo(other.at(name)), `${handle.id} ${name}`).toBeLessThan(2e-3)
    }
  })

  it('comes to the same pose whichever way the hand went there', () => {
    const { id } = rig.handles.find((h) => h.kind === 'end')!
    const at = placeOf(rig, rest, id)
    const to = at
      .clone()
      .add(new Vector3(0.02, 0.1, 0.05))
      .toArray()
    const straight = move(rig, rest, { handle: id, to })
    move(rig, rest, { handle: id, to: [0, 0, 0] })
    expect([...move(rig, rest, { handle: id, to }).turns]).toEqual([...straight.turns])
  })

  it('looks where it is told, and no farther round than a neck goes', () => {
    const head = rig.bones[rig.head!]!.name
    const eye = new Vector3(...rig.bones[rig.head!]!.at)
    const ahead = (pose: Pose) => new Vector3(0, 0, 1).applyQuaternion(placed(rig, pose).turn(head))
    for (const way of [new Vector3(0.5, 0.2, 1), new Vector3(-0.6, -0.3, 1)]) {
      const pose = move(rig, rest, { handle: `look-${head}`, to: eye.clone().addScaledVector(way, 2).toArray() })
      // the neck carries the head a little aside as it turns
      expect(ahead(pose).angleTo(way)).toBeLessThan(0.1)
    }
    const behind = move(rig, rest, {
      handle: `look-${head}`,
      to: eye
        .clone()
        .add(new Vector3(0.01, 0, -2))
        .toArray(),
    })
    expect(ahead(behind).z).toBeGreaterThan(-0.9)
  })
})

function below({ bones }: PoseRig, top: number): Set<string> {
  const found = new Set([top])
  bones.forEach(({ parent }, i) => found.has(parent) && found.add(i))
  return new Set([...found].map((b) => bones[b]!.name))
}

describe('a person', () => {
  const rest = restPose(person.bones)
  const before = placed(person, rest)

  it('bends its trunk after its head, all of it and not its neck alone', () => {
    const to = before.at('head').add(new Vector3(0.1, -0.12, 0.25))
    const pose = move(person, rest, { handle: 'head-head', to: to.toArray() })
    const now = placed(person, pose)
    expect(now.at('head').distanceTo(to)).toBeLessThan(2e-3)
    expect(now.at('hips').distanceTo(before.at('hips'))).toBe(0)
    for (const bone of ['spine', 'chest', 'upperChest', 'neck'])
      expect(
        now.turn(bone).angleTo(now.turn(person.bones[person.bones.find((b) => b.name === bone)!.parent]!.name)),
      ).toBeGreaterThan(0.02)
  })

  it('lets its elbow hang as its hand goes ahead', () => {
    const hanging = armsPose(person, 'hanging')!
    const shoulder = placed(person, hanging).at('leftUpperArm')
    const to = shoulder.clone().add(new Vector3(0, 0, 0.36))
    const now = placed(person, move(person, hanging, { handle: 'end-leftHand', to: to.toArray() }))
    expect(now.at('leftHand').distanceTo(to)).toBeLessThan(1e-3)
    // below the line from shoulder to hand, and not far to either side of it
    const out = now.at('leftLowerArm').sub(shoulder)
    expect(out.y).toBeLessThan(-0.05)
    expect(Math.abs(out.x)).toBeLessThan(-out.y)
  })

  it('points its elbow where it is told, its hand and shoulder staying', () => {
    const raised = move(person, rest, { handle: 'end-leftHand', to: [0.2, 1.25, 0.4] })
    for (const to of [new Vector3(0.9, 1.2, 0.2), new Vector3(0.3, 0.3, 0.2)]) {
      const now = placed(
        person,
        move(person, raised, { handle: 'middle-leftLowerArm', to: to.toArray() }, { free: true }),
      )
      const was = placed(person, raised)
      expect(now.at('leftHand').distanceTo(was.at('leftHand'))).toBeLessThan(1e-4)
      const axis = now.at('leftHand').sub(now.at('leftUpperArm')).normalize()
      const out = (p: Vector3) => {
        const v = p.clone().sub(now.at('leftUpperArm'))
        return v.addScaledVector(axis, -v.dot(axis)).normalize()
      }
      expect(out(now.at('leftLowerArm')).angleTo(out(to))).toBeLessThan(1e-3)
    }
  })

  it('turns single joints as far as they can, and farther only when it may', () => {
    const bone = person.bones.findIndex((b) => b.name === 'leftLowerLeg')
    const kneel = new Quaternion().setFromAxisAngle(new Vector3(1, 0, 0), 1.5)
    const against = new Quaternion().setFromAxisAngle(new Vector3(1, 0, 0), -1)
    const turned = (turn: Quaternion, free: boolean) => {
      const pose = move(person, rest, { bone, turn: turn.toArray() }, { free })
      return new Quaternion().fromArray(pose.turns, bone * 4)
    }
    expect(turned(kneel, false).angleTo(kneel)).toBeLessThan(1e-3)
    // a knee does not bend forward, but for the five degrees beyond straight that knees have
    const ahead = (at: ReturnType<typeof placed>['at']) => {
      const [thigh, shin] = [at('leftLowerLeg').sub(at('leftUpperLeg')), at('leftFoot').sub(at('leftLowerLeg'))]
      return Math.atan2(shin.z, -shin.y) - Math.atan2(thigh.z, -thigh.y)
    }
    const stiff = placed(person, move(person, rest, { bone, turn: against.toArray() }))
    expect(ahead(stiff.at)).toBeLessThan(Math.max(0, ahead(before.at)) + 0.1)
    expect(turned(against, true).angleTo(against)).toBeLessThan(1e-3)
    const mirrored = move(person, rest, { bone, turn: kneel.toArray() }, { mirrored: true })
    const now = placed(person, mirrored)
    expect(now.at('leftFoot').x).toBeCloseTo(-now.at('rightFoot').x, 4)
  })

  it('keeps a hand where it is pinned while the trunk leans', () => {
    const arm = person.limbs.find((l) => l.kind === 'arm' && l.side === 'right')!.id
    const start = move(person, rest, { handle: 'end-rightHand', to: [-0.3, 1.1, 0.3] })
    const was = placed(person, start).at('rightHand')
    const head = placed(person, start).at('head')
    const order = { handle: 'head-head', to: head.add(new Vector3(0, -0.05, 0.12)).toArray() }
    expect(
      placed(person, move(person, start, order, { pinned: new Set([arm]) }))
        .at('rightHand')
        .distanceTo(was),
    ).toBeLessThan(2e-3)
    expect(
      placed(person, move(person, start, order))
        .at('rightHand')
        .distanceTo(was),
    ).toBeGreaterThan(0.03)
  })

  it('refuses handles and bones that are not there', () => {
    expect(() => move(person, rest, { handle: 'end-thirdHand', to: [0, 0, 0] })).toThrow(/no handle/)
    expect(() => move(person, rest, { bone: 999, turn: [0, 0, 0, 1] })).toThrow(/no bone/)
  })

  it('gives finite turns of length one for whatever it is asked', () => {
    for (const { id } of person.handles)
      for (const to of [
        [0, 0, 0],
        [0, -5, 0],
        [1e3, 1e3, -1e3],
        before.at('leftUpperArm').toArray(),
        before.at('head').toArray(),
      ]) {
        const pose = move(
          person,
          rest,
          { handle: id, to: to as [number, number, number] },
          { pinned: feet(person), mirrored: true },
        )
        for (let i = 0; i < pose.turns.length; i += 4)
          expect(Math.hypot(...pose.turns.subarray(i, i + 4)), id).toBeCloseTo(1, 3)
        expect(pose.root.every(Number.isFinite)).toBe(true)
      }
  })
})
