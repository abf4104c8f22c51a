import { Quaternion, QuaternionLinearInterpolant, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { Builder } from '../../build.ts'
import { createWorldPose, restPose, skinPoints, solveForward, type Pose } from '../../rig/Pose.ts'
import { demoKit, demoTarget, dressed, MAREN } from '../../testing/demoKits.ts'
import { faceSharesAt, poseAt } from '../Clip.ts'
import { unitOf } from '../Leg.ts'
import { clipsOf } from '../../ship/clips.ts'
import { setDown } from '../poses/changePose.ts'
import { keepPose } from '../poses/keptPose.ts'
import { movePose } from '../poses/movePose.ts'
import { poseRig } from '../poses/PoseRig.ts'
import { betweenKeys, eased, EASES, flowing } from './easing.ts'
import { moveKey, removeKey, replaceKeys, setDuration, setEase, setKey } from './editKeys.ts'
import { MOST_KEYS, newClip, readClip, type KeptClip } from './keptClip.ts'
import { faceAt, playKeys } from './playKeys.ts'
import { keysOfClip, recordFaces, recordPoses } from './recordKeys.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const builder = new Builder(new Map([folk, tide].map((k) => [k.manifest.id, k])))
const near = { ...demoTarget('near'), limits: { ...demoTarget('near').limits, bones: 200 } }
const figure = builder.build(dressed(folk, 'human', MAREN), near).figure!
const { plan, def } = folk.bodies.get('human')!
const rig = poseRig(figure.skeleton, plan)
const { bones } = rig
const bone = (name: string) => bones.findIndex((b) => b.name === name)
const said = { name: 'Trial', plan: plan.id }
const none = { pinned: new Set<string>(), mirrored: false, free: false }
const pinned = { ...none, pinned: new Set(rig.limbs.filter((l) => l.kind === 'leg').map((l) => l.id)) }

/** A clip of poses at some times. */
const clipOf = (poses: readonly (readonly [number, Pose])[], more: Partial<KeptClip> = {}): KeptClip =>
  poses.reduce<KeptClip>((clip, [at, pose]) => setKey(clip, 'poses', at, keyOf(pose)), {
    ...newClip('Trial', plan.id),
    ...more,
  })
const keyOf = (pose: Pose) => {
  const { turns, root } = keepPose(pose, rig, said)
  return { turns, root }
}
const play = (clip: KeptClip) => playKeys(clip, figure.skeleton, plan, def.expressions)
const turnAt = (clip: KeptClip, name: string, time: number) =>
  new Quaternion().fromArray(poseAt(play(clip), time).turns, bone(name) * 4)
const nodded = (angle: number): Pose => {
  const turn = new Quaternion().setFromAxisAngle(new Vector3(1, 0, 0), angle).toArray()
  return movePose(rig, restPose(bones), { bone: bone('head'), turn }, { ...none, free: true })
}
const rest = restPose(bones)
/** Crouching, hips forward and turned, feet where they were. */
const crouched = (() => {
  const [x, y, z] = rest.root
  const low = movePose(rig, rest, { handle: 'root-hips', to: [x + 0.05, y - 0.22, z + 0.06] }, pinned)
  const turn = new Quaternion().setFromAxisAngle(new Vector3(0, 1, 0), 0.4).toArray()
  return movePose(rig, low, { bone: 0, turn }, pinned)
})()

describe('between keys', () => {
  it('goes from one to the other, each way from 0 to 1 and never back', () => {
    for (const ease of EASES) {
      const way = Array.from({ length: 21 }, (_, i) => eased(ease, i / 20))
      expect([way[0], way[20]], ease).toEqual([0, 1])
      for (let i = 1; i < way.length; i++) expect(way[i]! >= way[i - 1]!, `${ease} ${i}`).toBe(true)
    }
    // slowly where it says so: less than a tenth of the way in a fifth of the time
    const early = Object.fromEntries(EASES.map((e) => [e, eased(e, 0.2)]))
    const late = Object.fromEntries(EASES.map((e) => [e, 1 - eased(e, 0.8)]))
    for (const e of ['start', 'soft', 'hold'] as const) expect(early[e], e).toBeLessThan(0.11)
    for (const e of ['end', 'soft'] as const) expect(late[e], e).toBeLessThan(0.11)
    expect([early.even, late.even]).toEqual([0.2, expect.closeTo(0.2)])
  })

  it('finds its place, round the end as well', () => {
    const keys = [{ at: 0.5 }, { at: 1 }, { at: 1.75 }]
    const once = (t: number) => betweenKeys(keys, t, { loop: false, duration: 2 })
    expect([once(0.2).from, once(0.2).to, once(1.9).from, once(1.9).to]).toEqual([0, 0, 2, 2])
    expect(once(0.75)).toMatchObject({ from: 0, to: 1, before: 0, after: 2, share: 0.5, spans: [0, 0.5, 0.75] })
    const round = (t: number) => betweenKeys(keys, t, { loop: true, duration: 2 })
    expect(round(0.125)).toMatchObject({ from: 2, to: 0, before: 1, after: 1, share: 0.5, spans: [0.75, 0.75, 0.5] })
    expect(round(1.9)).toMatchObject({ from: 2, to: 0, share: expect.closeTo(0.2) as number })
    expect(round(2.125)).toEqual(round(0.125))
    expect(betweenKeys([{ at: 1 }], 0.2, { loop: true, duration: 2 })).toMatchObject({ from: 0, to: 0 })
  })

  it('flows through points of a parabola as the parabola does, whatever their distances', () => {
    // a spline with such tangents is exact for parabolas on even keys only; on uneven ones it still passes them all
    const at = [0, 1, 2, 3]
    const w = flowing({
      ...betweenKeys(
        at.map((t) => ({ at: t })),
        1.4,
        { loop: false, duration: 3 },
      ),
    })
    expect(w.reduce((s, v) => s + v, 0)).toBeCloseTo(1, 12)
    expect(at.reduce((s, t, i) => s + w[i]! * (t * t - 3 * t), 0)).toBeCloseTo(1.4 * 1.4 - 3 * 1.4, 12)
    for (const share of [0, 1])
      expect(
        flowing({
          ...betweenKeys([{ at: 0 }, { at: 0.1 }, { at: 2 }, { at: 5 }], 0.1, { loop: false, duration: 5 }),
          share,
        }),
      ).toEqual(
        share
          ? [expect.closeTo(0), expect.closeTo(0), expect.closeTo(1), expect.closeTo(0)]
          : [expect.closeTo(0), 1, expect.closeTo(0), expect.closeTo(0)],
      )
  })
})

describe('a clip of keys', () => {
  it('is at each key’s pose at its time, whatever leads there', () => {
    for (const ease of EASES) {
      const clip = [0, 0.5, 1.2].reduce(
        (c, at) => setEase(c, 'poses', at, ease),
        clipOf([
          [0, nodded(0.1)],
          [0.5, nodded(0.5)],
          [1.2, crouched],
        ]),
      )
      for (const [at, pose] of [
        [0, nodded(0.1)],
        [0.5, nodded(0.5)],
        [1.2, crouched],
      ] as const) {
        const now = poseAt(play(clip), at)
        // the samples are a thirtieth apart: all times here are among them
        bones.forEach(({ name, twist }, b) => {
          const [p, q] = [now, pose].map(({ turns }) => new Quaternion().fromArray(turns, b * 4))
          if (!twist) expect(p!.angleTo(q!), `${ease} ${at} ${name}`).toBeLessThan(3e-3)
        })
      }
    }
  })

  it('has a sample at each key, whenever it is, and comes at once where it is held', () => {
    const clip = setEase(
      clipOf([
        [0, nodded(0)],
        [0.25, nodded(0.5)],
        [0.517, nodded(0.1)],
      ]),
      'poses',
      0,
      'hold',
    )
    const { times } = play(clip)
    for (const at of [0.25, 0.517]) expect(times).toContain(Math.fround(at))
    times.forEach((t, i) => expect(i === 0 || t > times[i - 1]!).toBe(true))
    const angle = (t: number) => turnAt(clip, 'head', t).angleTo(turnAt(clip, 'head', 0))
    expect([angle(0.248), angle(0.25), angle(0.517)]).toEqual([
      expect.closeTo(0, 2),
      expect.closeTo(0.5, 2),
      expect.closeTo(0.1, 2),
    ])
  })

  it('turns joints evenly as three.js does, and at once where a key is held', () => {
    const clip = setEase(
      clipOf(
        [
          [0, nodded(-0.2)],
          [1, nodded(0.6)],
        ],
        { loop: false },
      ),
      'poses',
      0,
      'even',
    )
    const track = new QuaternionLinearInterpolant(
      new Float32Array([0, 1]),
      new Float32Array(
        [-0.2, 0.6].flatMap((a) => new Quaternion().setFromAxisAngle(new Vector3(1, 0, 0), a).toArray()),
      ),
      4,
    )
    for (const t of [0.1, 0.3, 0.7, 1])
      expect(
        turnAt(clip, 'head', t).angleTo(new Quaternion().fromArray(track.evaluate(t) as unknown as number[])),
      ).toBeLessThan(2e-3)
    expect(turnAt(setEase(clip, 'poses', 0, 'hold'), 'head', 0.9).angleTo(turnAt(clip, 'head', 0))).toBeLessThan(1e-3)
  })

  it('takes two opposite quaternions for one turn', () => {
    let clip = clipOf([
      [0, nodded(0)],
      [0.5, nodded(0.3)],
      [1, nodded(0.1)],
    ])
    for (const { at } of clip.poses) clip = setEase(clip, 'poses', at, 'flow')
    const [a, b, c] = clip.poses as [KeptClip['poses'][0], KeptClip['poses'][0], KeptClip['poses'][0]]
    const turns = { ...b.turns, head: b.turns.head!.map((v) => -v) as [number, number, number, number] }
    const same = { ...clip, poses: [a, { ...b, turns }, c] }
    for (const t of [0.2, 0.4, 0.8]) expect(turnAt(same, 'head', t).angleTo(turnAt(clip, 'head', t))).toBeLessThan(1e-3)
  })

  it('goes round without a jump, and without going round stays where it ended', () => {
    const keys = [
      [0.3, nodded(0.6)],
      [1.4, crouched],
    ] as const
    const round = play(clipOf(keys, { loop: true }))
    const [first, last] = [poseAt({ ...round, loop: false }, 0), poseAt({ ...round, loop: false }, round.duration)]
    expect([...last.turns]).toEqual([...first.turns])
    expect(turnAt(clipOf(keys, { loop: true }), 'head', 0).angleTo(turnAt(clipOf(keys), 'head', 0.3))).toBeGreaterThan(
      0.05,
    )
    const once = clipOf(keys, { loop: false })
    expect(turnAt(once, 'head', 0).angleTo(turnAt(once, 'head', 0.3))).toBeLessThan(1e-3)
    expect(poseAt(play(once), 2).root).toEqual(poseAt(play(once), 1.6).root)
  })

  it('keeps feet on the spot that two keys have there: by the points of their soles', () => {
    const clip = play(
      clipOf([
        [0, rest],
        [1, crouched],
      ]),
    )
    const { positions, joints, weights } = figure.mesh
    const lowest = [...positions.keys()].filter((i) => i % 3 === 1 && positions[i]! < 0.01).map((i) => (i - 1) / 3)
    expect(lowest.length).toBeGreaterThan(20)
    const at = (time: number) => {
      const world = solveForward(bones, poseAt(clip, time), createWorldPose(bones))
      const posed = skinPoints(bones, world, positions, joints, weights)
      return lowest.map((p) => new Vector3().fromArray(posed, p * 3))
    }
    const start = at(0)
    let most = 0
    for (let t = 0; t < 2; t += 0.07) at(t).forEach((p, i) => (most = Math.max(most, p.distanceTo(start[i]!))))
    // without it they are 4 cm off half-way
    expect(most).toBeLessThan(0.006)
    const hips = [0, 0.5, 1].map((t) => poseAt(clip, t).root[1])
    expect(hips[0]! - hips[2]!).toBeGreaterThan(0.15)
    expect(hips[1]).toBeLessThan(hips[0]! - 0.05)
  })

  it('is the same for every body of the plan, by its own legs', () => {
    const tall = builder.build(dressed(folk, 'human', [], { legs: 1 }), near).figure!
    const low = setDown(bones, figure.mesh, crouched)
    const clip = clipOf([
      [0, rest],
      [1, low],
    ])
    const deep = ({ skeleton }: typeof figure) => {
      const own = playKeys(clip, skeleton, plan)
      return (poseAt(own, 0).root[1] - poseAt(own, 1).root[1]) / unitOf(skeleton)
    }
    expect(deep(tall)).toBeCloseTo(deep(figure), 4)
    expect(unitOf(tall.skeleton)).toBeGreaterThan(unitOf(figure.skeleton) + 0.02)
  })

  it('has a face where its body has the expressions, by their VRM names on other bodies too', () => {
    const glad = def.expressions!.find((e) => e.preset === 'happy')!
    let clip = setKey(newClip('Trial', plan.id), 'faces', 0, { shares: {} })
    clip = setKey(clip, 'faces', 1, { shares: { [glad.id]: 0.8, 'no-such-face': 1 } }, 'even')
    clip = setEase(clip, 'faces', 0, 'even')
    const played = play(clip)
    expect(played.face!.names).toEqual(['happy'])
    for (const t of [0.5, 0.51]) expect(faceSharesAt(played, played.face!, t)[0]).toBeCloseTo(0.8 * t, 5)
    expect(faceSharesAt(played, played.face!, 1.5)[0]).toBeCloseTo(0.4, 1)
    expect(faceAt(clip, 0.25)[glad.id]).toBeCloseTo(0.2, 5)
    const byPreset = setKey(newClip('Trial', plan.id), 'faces', 1, { shares: { happy: 0.5 } })
    expect(play(byPreset).face!.shares[0]).toBe(0.5)
    expect(playKeys(clip, figure.skeleton, plan, []).face).toBeUndefined()
  })
})

describe('changing keys', () => {
  const clip = clipOf([
    [0, rest],
    [0.5, nodded(0.2)],
    [1.5, crouched],
  ])
  const times = (c: KeptClip) => c.poses.map((k) => k.at)

  it('sets, moves, takes away; a new one goes on as the one before it does', () => {
    const eased = setEase(clip, 'poses', 0.5, 'hold')
    const more = setKey(eased, 'poses', 1, keyOf(rest))
    expect(more.poses.map(({ at, ease }) => [at, ease])).toEqual([
      [0, 'soft'],
      [0.5, 'hold'],
      [1, 'hold'],
      [1.5, 'soft'],
    ])
    expect(setKey(more, 'poses', 1.002, keyOf(crouched)).poses).toHaveLength(4)
    expect(times(moveKey(clip, 'poses', 0.5, 1.7))).toEqual([0, 1.5, 1.7])
    expect(times(moveKey(clip, 'poses', 0.5, 1.5))).toEqual([0, 1.5])
    expect(moveKey(clip, 'poses', 0.5, 1.5).poses[1]!.turns).toEqual(clip.poses[1]!.turns)
    expect(times(moveKey(clip, 'poses', 0.5, 99))).toEqual([0, 1.5, 2])
    expect(times(removeKey(clip, 'poses', 0.5))).toEqual([0, 1.5])
    for (const same of [
      removeKey(clip, 'poses', 0.7),
      moveKey(clip, 'poses', 0.7, 1),
      setEase(clip, 'faces', 0, 'even'),
    ])
      expect(same).toBe(clip)
  })

  it('makes it longer with its keys or without, and cuts what no longer fits', () => {
    expect(times(setDuration(clip, 4, true))).toEqual([0, 1, 3])
    expect(times(setDuration(clip, 4, false))).toEqual([0, 0.5, 1.5])
    expect(times(setDuration(clip, 1, false))).toEqual([0, 0.5])
    expect(readClip(setDuration(clip, 0.1, true)).problems).toEqual([])
  })

  it('holds no more keys than it may', () => {
    const many = Array.from({ length: MOST_KEYS }, (_, i) => ({ at: i / 100, ease: 'even' as const, shares: {} }))
    const full = replaceKeys({ ...clip, duration: 10 }, 'faces', [0, 10], many)
    expect(setKey(full, 'faces', 9.5, { shares: {} })).toBe(full)
    expect(readClip(full).problems).toEqual([])
  })
})

describe('recording', () => {
  /** A hand that waves, by what it does and not by keys. */
  const waving = (at: number): Pose =>
    movePose(
      rig,
      rest,
      { handle: 'end-leftHand', to: [0.45 + 0.15 * Math.sin(at * 5), 1.35, 0.2] },
      { ...none, free: true },
    )
  const samples = Array.from({ length: 61 }, (_, i) => ({ at: i / 30, value: waving(i / 30) }))

  it('gives a few keys that play as the hand moved', () => {
    const clip = recordPoses({ ...newClip('Trial', plan.id), loop: false }, samples, rig)
    expect(clip.poses.length).toBeLessThan(25)
    expect(readClip(clip).problems).toEqual([])
    const played = play(clip)
    let most = 0
    for (const { at, value } of samples) {
      const [p, q] = [poseAt(played, at), value].map((pose) => {
        const world = solveForward(bones, pose, createWorldPose(bones))
        return new Vector3().fromArray(world.joints, bone('leftHand') * 3)
      })
      most = Math.max(most, p!.distanceTo(q!))
    }
    // of a way of 30 cm to and fro
    expect(most).toBeLessThan(0.012)
  })

  it('does not mind which of two opposite quaternions a moment has', () => {
    const flipped = samples.map(({ at, value }, i) => ({
      at,
      value: i % 2 ? value : { ...value, turns: value.turns.map((v) => -v) },
    }))
    const keys = (from: typeof samples) => recordPoses(newClip('Trial', plan.id), from, rig).poses.map((k) => k.at)
    expect(keys(flipped)).toEqual(keys(samples))
  })

  it('takes the place of what was there in that time, and of nothing else', () => {
    const before = clipOf([
      [0, rest],
      [0.6, nodded(0.3)],
      [1.9, crouched],
    ])
    const after = recordPoses(before, samples.slice(9, 31), rig)
    const inside = after.poses.filter(({ at }) => at >= 0.3 && at <= 1)
    expect(after.poses.filter((k) => !inside.includes(k)).map((k) => k.at)).toEqual([0, 1.9])
    expect([inside[0]!.at, inside.at(-1)!.at]).toEqual([0.3, 1])
    expect(recordPoses(before, samples.slice(0, 1), rig)).toBe(before)
    const sames = Array.from({ length: 40 }, () => ({ at: 0.5, value: rest }))
    expect(recordPoses(before, sames, rig)).toBe(before)
  })

  it('holds a trembling hand to a dozen keys a second', () => {
    const trembling = Array.from({ length: 121 }, (_, i) => ({ at: i / 60, value: waving(i % 2) }))
    expect(recordPoses(newClip('Trial', plan.id), trembling, rig).poses.length).toBeLessThanOrEqual(24)
  })

  it('takes all of what is long, more coarsely, and nothing where there is no room', () => {
    const long = Array.from({ length: 1800 }, (_, i) => ({ at: i / 30, value: waving(i / 30) }))
    const empty = { ...newClip('Trial', plan.id), duration: 60 }
    const clip = recordPoses(empty, long, rig)
    expect(clip.poses.length).toBeLessThanOrEqual(MOST_KEYS)
    expect([clip.poses[0]!.at, clip.poses.at(-1)!.at]).toEqual([0, expect.closeTo(59.967, 3)])
    expect(readClip(clip).problems).toEqual([])
    const full = replaceKeys(
      empty,
      'faces',
      [0, 30],
      Array.from({ length: MOST_KEYS }, (_, i) => ({ at: i / 10, ease: 'even' as const, shares: {} })),
    )
    const late = [40, 41].map((at) => ({ at, value: { glad: at - 40 } }))
    expect(recordFaces(full, late)).toBe(full)
    const inside = [10, 11].map((at) => ({ at, value: { glad: at - 10 } }))
    expect(recordFaces(full, inside).faces).toHaveLength(MOST_KEYS - 9)
  })

  it('records faces as well', () => {
    const faces = Array.from({ length: 31 }, (_, i) => ({ at: i / 30, value: { glad: Math.sin((i / 30) * Math.PI) } }))
    const clip = recordFaces(newClip('Trial', plan.id), faces)
    expect(clip.faces.length).toBeLessThan(14)
    for (const { at, value } of faces) expect(faceAt(clip, at).glad ?? 0).toBeCloseTo(value.glad, 1)
  })
})

describe('a clip of the kit', () => {
  const clips = clipsOf(figure, new Map([[folk.manifest.id, folk]]), dressed(folk, 'human', MAREN))

  it.each(['walk', 'wave', 'sit-down'])('becomes keys that play as it does: %s', (id) => {
    const clip = clips.find((c) => c.id === id)!
    const kept = keysOfClip(clip, rig, { name: clip.name, plan: plan.id })
    expect(readClip(kept).problems).toEqual([])
    expect(kept.poses.length).toBeLessThan(clip.duration * 18 + 2)
    const played = play(kept)
    expect([played.duration, played.loop]).toEqual([expect.closeTo(clip.duration, 3), clip.loop])
    const world = (c: typeof clip, t: number) => {
      const { joints } = solveForward(bones, poseAt({ ...c, loop: false }, t), createWorldPose(bones))
      return ['leftHand', 'rightFoot', 'head'].map((name) => new Vector3().fromArray(joints, bone(name) * 3))
    }
    let most = 0
    for (let t = 0; t <= clip.duration; t += 0.043)
      world(clip, t).forEach((p, i) => (most = Math.max(most, p.distanceTo(world(played, t)[i]!))))
    // a hand's breadth would be seen; of a step of 70 cm this is not
    expect(most).toBeLessThan(0.03)
  })
})

describe('reading a clip', () => {
  const good = clipOf([
    [0, rest],
    [1, crouched],
  ])
  it('takes what it wrote, and tells what is wrong with anything else', () => {
    expect(readClip(JSON.stringify(good)).value).toEqual(good)
    const codes = (clip: unknown) => readClip(clip).problems.map((p) => p.code)
    const [a, b] = good.poses as [KeptClip['poses'][0], KeptClip['poses'][0]]
    expect(codes({ ...good, poses: [b, a] })).toEqual(['key-order'])
    expect(codes({ ...good, poses: [a, { ...b, at: 0.001 }] })).toEqual(['key-order'])
    expect(codes({ ...good, duration: 0.5 })).toEqual(['key-late'])
    expect(codes({ ...good, poses: [{ ...a, turns: { head: [1, 1, 0, 0] } }] })).toEqual(['pose-turn'])
    expect(codes({ ...good, poses: [{ ...a, ease: 'bouncy' }] })).toContain('schema')
    expect(codes({ ...good, duration: 0 })).toContain('schema')
    expect(codes({ ...good, faces: [{ at: 0, ease: 'even', shares: { glad: 2 } }] })).toContain('schema')
    expect(codes({ ...good, version: 2 })).toEqual(['newer'])
    expect(codes('{')).toEqual(['json'])
    expect(codes({ ...good, format: 'idle-tinker-pose' })).toEqual(['format'])
  })
})
