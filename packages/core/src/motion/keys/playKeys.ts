import { Quaternion, Vector3 } from 'three'
import type { BodyPlan } from '../../kit/plan.ts'
import { expressionName } from '../../kit/movements.ts'
import type { ExpressionDef } from '../../kit/schema.ts'
import { createWorldPose, restPose, solveForward, type Pose } from '../../rig/Pose.ts'
import { shareTwists } from '../../rig/twist.ts'
import type { Clip, ClipFace } from '../Clip.ts'
import { clipOf } from '../clipOf.ts'
import { unitOf } from '../Leg.ts'
import { blendPoses } from '../poses/changePose.ts'
import { poseOn } from '../poses/keptPose.ts'
import { handlePlace, movePose } from '../poses/movePose.ts'
import { poseRig, type Posable, type PoseHandle, type PoseRig } from '../poses/PoseRig.ts'
import { betweenKeys, eased, flowing, type Between, type Ease } from './easing.ts'
import { poseOfKey, type FaceKey, type KeptClip } from './keptClip.ts'

/** Samples a second, as other clips of ours have. */
const RATE = 30
/** What comes at once takes so long, seconds: files go from sample to sample by a line. */
const AT_ONCE = 0.001
/** The end of a limb that two keys have at places nearer than this stays on the line between them, in leg lengths. */
const STAYS = 0.06
/** … and turned by less than this from one to the other, radians: a foot that turns on the spot goes on as joints do. */
const STAYS_TURNED = 0.5

/**
 * A clip made of keys on a figure. Joints go from pose to pose as each key says; the end of a leg or an arm that is at one
 * place in two keys stays there in between, whatever the joints above it do.
 *
 * @param plan        that of the figure's body
 * @param expressions those of its body; what a face asks for and they are not is left out
 */
export function playKeys(
  kept: KeptClip,
  skeleton: Posable,
  plan: Pick<BodyPlan, 'points' | 'bones'>,
  expressions: readonly ExpressionDef[] = [],
  id = 'keys',
): Clip {
  const { name, duration, loop } = kept
  const player = kept.poses.length ? new Player(kept, poseRig(skeleton, plan)) : null
  const times = timesOf(kept)
  const moments = times.map((time) => ({ pose: player?.poseAt(time) ?? restPose(skeleton.bones) }))
  const clip = clipOf({ id, name, duration, loop, travel: 0 }, skeleton.bones, moments, Float32Array.from(times))
  const face = faceOver(kept, times, expressions)
  return face ? { ...clip, face } : clip
}

/** Times that a clip is sampled at: even ones, those of its keys, and just before what comes at once. */
function timesOf({ duration, poses, faces }: KeptClip): number[] {
  const count = Math.max(2, Math.round(duration * RATE) + 1)
  // what goes round is at its beginning at the very end
  const even = Array.from({ length: count }, (_, i) => (i < count - 1 ? (i * duration) / (count - 1) : duration))
  const own = [poses, faces].flatMap((keys) =>
    keys.flatMap(({ at }, i) => (keys[i - 1]?.ease === 'hold' ? [at - AT_ONCE, at] : [at])),
  )
  const inside = own.filter((t) => t > 0 && t < duration)
  // of those that nearly coincide a key's is exact
  const far = even.filter((t, i) => i === 0 || i === count - 1 || inside.every((o) => Math.abs(o - t) >= AT_ONCE))
  return [...new Set([...far, ...inside])].sort((a, b) => a - b)
}

/** How the face goes at some times; null where nothing is said of it that the body can do. */
function faceOver(kept: KeptClip, times: readonly number[], expressions: readonly ExpressionDef[]): ClipFace | null {
  const { faces } = kept
  const used = expressions.filter((e) => faces.some(({ shares }) => shareOf(shares, e) > 0))
  if (used.length === 0) return null
  const shares = new Float32Array(times.length * used.length)
  times.forEach((time, i) => {
    const at = faceAt(kept, time)
    used.forEach((e, k) => (shares[i * used.length + k] = shareOf(at, e)))
  })
  return { names: used.map(expressionName), shares }
}

/** An expression goes by its id, or, on another body, by the name the open VRM standard has for it. */
function shareOf(shares: FaceKey['shares'], { id, preset }: ExpressionDef): number {
  if (Object.hasOwn(shares, id)) return shares[id]!
  return preset !== undefined && Object.hasOwn(shares, preset) ? shares[preset]! : 0
}

/** What a clip's keys say of the face at a time: expression to how much of it there is. */
export function faceAt(kept: KeptClip, time: number): FaceKey['shares'] {
  if (kept.faces.length === 0) return {}
  const between = betweenKeys(kept.faces, time, kept)
  const [before, from, to, after] = (['before', 'from', 'to', 'after'] as const).map(
    (k) => kept.faces[between[k]]!.shares,
  )
  const { ease } = kept.faces[between.from]!
  const [s0, s1, s2, s3] = weightsOf(ease, between)
  const names = new Set([...Object.keys(from!), ...Object.keys(to!)])
  const of = (shares: FaceKey['shares'], name: string) => (Object.hasOwn(shares, name) ? shares[name]! : 0)
  return Object.fromEntries(
    [...names].map((name) => {
      const v = s0 * of(before!, name) + s1 * of(from!, name) + s2 * of(to!, name) + s3 * of(after!, name)
      return [name, Math.min(1, Math.max(0, v))]
    }),
  )
}

/** How much each of four keys has a say. */
function weightsOf(ease: Ease, between: Between): [number, number, number, number] {
  if (ease === 'flow' && between.from !== between.to) return flowing(between)
  const s = eased(ease, between.share)
  return [0, 1 - s, s, 0]
}

/** The end of a limb that stays: the handle of it, and where it is in either key. */
interface Staying {
  handle: PoseHandle
  places: readonly [Vector3, Vector3]
  turns: readonly [Quaternion, Quaternion]
}

class Player {
  private readonly kept: KeptClip
  private readonly rig: PoseRig
  private readonly poses: readonly Pose[]
  private readonly staying = new Map<number, readonly Staying[]>()

  constructor(kept: KeptClip, rig: PoseRig) {
    this.kept = kept
    this.rig = rig
    this.poses = kept.poses.map((key) => poseOn(poseOfKey(key, kept), rig))
  }

  poseAt(time: number): Pose {
    const { kept, poses, rig } = this
    const between = betweenKeys(kept.poses, time, kept)
    const { from, to } = between
    const { ease } = kept.poses[from]!
    if (from === to || eased(ease, between.share) === 0) return copyOf(poses[from]!)
    const share = eased(ease, between.share)
    const pose = ease === 'flow' ? this.flow(between) : blendPoses(rig.bones, poses[from]!, poses[to]!, share)
    return this.stay(pose, this.stayingFrom(from, to), share)
  }

  /** Joints by a spline through four keys, by the parts of their turns. */
  private flow({ before, from, to, after, ...times }: Between): Pose {
    const { poses, rig } = this
    const around = [before, from, to, after].map((k) => poses[k]!)
    const weights = flowing({ before, from, to, after, ...times })
    const pose = restPose(rig.bones)
    const [turn, sum, first] = [new Quaternion(), new Quaternion(), new Quaternion()]
    rig.bones.forEach((_, b) => {
      first.fromArray(around[1]!.turns, b * 4)
      sum.set(0, 0, 0, 0)
      around.forEach(({ turns }, k) => {
        turn.fromArray(turns, b * 4)
        // two opposite quaternions are one turn
        const w = (turn.dot(first) < 0 ? -1 : 1) * weights[k]!
        sum.set(sum.x + w * turn.x, sum.y + w * turn.y, sum.z + w * turn.z, sum.w + w * turn.w)
      })
      sum.normalize().toArray(pose.turns, b * 4)
    })
    pose.root = [0, 1, 2].map((k) => around.reduce((s, { root }, i) => s + weights[i]! * root[k]!, 0)) as Pose['root']
    shareTwists(rig.bones, pose)
    return pose
  }

  private stayingFrom(from: number, to: number): readonly Staying[] {
    let known = this.staying.get(from)
    if (!known) this.staying.set(from, (known = this.findStaying(this.poses[from]!, this.poses[to]!)))
    return known
  }

  private findStaying(a: Pose, b: Pose): Staying[] {
    const { rig } = this
    const near = STAYS * unitOf(rig)
    const worlds = [a, b].map((pose) => solveForward(rig.bones, pose, createWorldPose(rig.bones)))
    return rig.handles.flatMap((handle): Staying[] => {
      if (handle.kind !== 'end') return []
      const places = worlds.map((world) => new Vector3(...handlePlace(rig, handle, world))) as [Vector3, Vector3]
      const turns = worlds.map(({ turns: t }) => new Quaternion().fromArray(t, handle.bone * 4)) as [
        Quaternion,
        Quaternion,
      ]
      const stays = places[0].distanceTo(places[1]) < near && turns[0].angleTo(turns[1]) < STAYS_TURNED
      return stays ? [{ handle, places, turns }] : []
    })
  }

  private stay(pose: Pose, staying: readonly Staying[], share: number): Pose {
    const { rig } = this
    const { bones } = rig
    let next = pose
    for (const { handle, places, turns } of staying) {
      const to = places[0].clone().lerp(places[1], share).toArray()
      next = movePose(rig, next, { handle: handle.id, to }, { pinned: new Set(), mirrored: false, free: true })
      if (handle.at === 'end') continue
      const world = solveForward(bones, next, createWorldPose(bones))
      const above = new Quaternion().fromArray(world.turns, bones[handle.bone]!.parent * 4)
      const turn = turns[0].clone().slerp(turns[1], share)
      above
        .invert()
        .multiply(turn)
        .toArray(next.turns, handle.bone * 4)
    }
    if (staying.length) shareTwists(bones, next)
    return next
  }
}

const copyOf = ({ turns, root }: Pose): Pose => ({ turns: turns.slice(), root: [...root] })
