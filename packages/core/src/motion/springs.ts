import { Quaternion, Vector3 } from 'three'
import { CHAIN_KINDS } from '../kit/plan.ts'
import { pointsInUse, type Mesh } from '../mesh/Mesh.ts'
import { createWorldPose, solveForward, type Pose, type WorldPose } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { poseAt, type Clip } from './Clip.ts'
import { strongestBones, type Skin } from './soles.ts'

/** How a chain swings: the terms of the open VRM standard's spring bones, and their effects. */
export interface Spring {
  /** How strongly it goes back to where its clip has it. */
  stiffness: number
  /** How much of its speed is lost at each step, 0 to 1. */
  drag: number
  /** How strongly it is drawn down. */
  gravity: number
}

/** The least, what is usual, and the most. */
export const SPRING_RANGES: Readonly<Record<keyof Spring, readonly [number, number, number]>> = {
  stiffness: [0.05, 0.8, 4],
  drag: [0.05, 0.4, 1],
  gravity: [0, 0.15, 2],
}
export const USUAL_SPRING: Spring = {
  stiffness: SPRING_RANGES.stiffness[1],
  drag: SPRING_RANGES.drag[1],
  gravity: SPRING_RANGES.gravity[1],
}

/** Steps a second: the standard's terms are meant for these. */
const RATE = 60
/** What is not looped has hung still for so many steps before it begins; a loop has gone round for as many at least. */
const SETTLING = 180
/** Fewer points than these say nothing of how thick a bone is. */
const FEW = 6

/** A capsule along a bone, in the figure's axes at rest from its joint on, metres. */
interface Capsule {
  bone: number
  along: Vector3
  radius: number
}

/** What swinging chains may not go through, and how thick they are themselves, by bone, metres. */
export interface SpringBody {
  capsules: readonly Capsule[]
  thick: readonly number[]
}

/** Whether a limb is a chain that can swing: a neck carries a head. */
export const canSwing = ({ kind }: { kind: string }): boolean =>
  kind !== 'neck' && (CHAIN_KINDS as readonly string[]).includes(kind)

/** Capsules along all bones of a figure as it is dressed: as thick as half of what hangs on each lies out from it. */
export function springBodyOf(mesh: Skin & Pick<Mesh, 'cornerPoints'>, { bones }: Pick<Skeleton, 'bones'>): SpringBody {
  const out: number[][] = bones.map(() => [])
  const [point, at, along] = [new Vector3(), new Vector3(), new Vector3()]
  const strongest = strongestBones(mesh)
  for (const p of pointsInUse(mesh)) {
    const bone = strongest[p]!
    at.fromArray(bones[bone]!.at)
    along.fromArray(bones[bone]!.tail).sub(at)
    point.fromArray(mesh.positions, p * 3).sub(at)
    out[bone]!.push(point.distanceTo(nearestOn(along, point)))
  }
  const thick = out.map((all) => (all.length < FEW ? 0 : all.sort((a, b) => a - b)[all.length >> 1]!))
  const capsules = bones.flatMap(({ at, tail }, bone) =>
    thick[bone]! > 0 ? [{ bone, radius: thick[bone]!, along: new Vector3(...tail).sub(new Vector3(...at)) }] : [],
  )
  return { capsules, thick }
}

/** The point of a line from nothing to `along` that is nearest to another. A new one. */
function nearestOn(along: Vector3, point: Vector3): Vector3 {
  const length2 = along.lengthSq()
  const share = length2 > 0 ? Math.min(1, Math.max(0, point.dot(along) / length2)) : 0
  return along.clone().multiplyScalar(share)
}

/**
 * A clip in which chains swing: each bone's end goes on as it went, is drawn to where the clip has it and down, and kept
 * out of the body and off the ground (the spring bones of the open VRM standard, 1.0, over the clip's own pose instead of
 * that of rest). What goes round still does.
 *
 * @param springs limb's id to how it swings; limbs that are no chains, or not there, are passed over
 */
export function springClip(
  clip: Clip,
  skeleton: Pick<Skeleton, 'bones' | 'limbs'>,
  springs: Readonly<Record<string, Spring>>,
  body: SpringBody,
): Clip {
  const swing = new Swing(skeleton, springs, body)
  if (swing.sprung.length === 0 || !(clip.duration > 0)) return clip
  const steps = Math.max(2, Math.round(clip.duration * RATE))
  const pace = clip.travel / clip.duration
  const poses = Array.from({ length: steps + 1 }, (_, i) =>
    // the end of a loop is asked for just before it comes round
    poseAt({ ...clip, loop: false }, (i * clip.duration) / steps),
  )
  swing.begin(poses[0]!)
  const rounds = Math.max(2, Math.ceil(SETTLING / steps))
  if (clip.loop) for (let r = 0; r < rounds; r++) for (let i = 1; i <= steps; i++) swing.step(poses[i]!, pace)
  else for (let i = 0; i < SETTLING; i++) swing.step(poses[0]!, 0)
  const turns = swing.sprung.map(() => new Float32Array((steps + 1) * 4))
  for (let i = 0; i <= steps; i++) {
    if (i > 0) swing.step(poses[i]!, pace)
    swing.take(turns, i)
  }
  if (clip.loop) for (const own of turns) closeLoop(own, steps)
  const rotations = [...clip.rotations]
  swing.sprung.forEach((bone, k) => (rotations[bone] = resampled(turns[k]!, clip, steps)))
  return { ...clip, rotations }
}

/** Spreads what is left between the end and the beginning over all of it. */
function closeLoop(turns: Float32Array, steps: number): void {
  const [first, last, off, now] = [new Quaternion(), new Quaternion(), new Quaternion(), new Quaternion()]
  first.fromArray(turns, 0)
  last.fromArray(turns, steps * 4)
  off.copy(first).multiply(last.invert())
  const none = new Quaternion()
  for (let i = 1; i <= steps; i++) {
    now.fromArray(turns, i * 4)
    none.identity().slerp(off, i / steps)
    none
      .multiply(now)
      .normalize()
      .toArray(turns, i * 4)
  }
  turns.copyWithin(steps * 4, 0, 4)
}

function resampled(turns: Float32Array, { times, duration }: Clip, steps: number): Float32Array {
  const out = new Float32Array(times.length * 4)
  const [a, b] = [new Quaternion(), new Quaternion()]
  times.forEach((time, s) => {
    const f = Math.min(steps, (time / duration) * steps)
    const i = Math.min(steps - 1, Math.floor(f))
    a.fromArray(turns, i * 4)
      .slerp(b.fromArray(turns, (i + 1) * 4), f - i)
      .toArray(out, s * 4)
  })
  return out
}

/** One bone of a chain as it swings. */
interface Link extends Spring {
  bone: number
  parent: number
  /** From its joint to its end, in axes that turn with it. */
  along: Vector3
  length: number
  /** Where its end is, and where it was a step ago. */
  end: Vector3
  before: Vector3
  turn: Quaternion
  /** So far off the ground its end stays, and off each of the capsules, metres: at rest it may be nearer than it is thick. */
  off: number
  clear: readonly number[]
}

class Swing {
  readonly sprung: readonly number[]
  private readonly bones: Skeleton['bones']
  private readonly links: readonly Link[]
  /** What is not to be gone through. */
  private readonly solid: readonly Capsule[]
  private readonly world: WorldPose

  constructor(
    { bones, limbs }: Pick<Skeleton, 'bones' | 'limbs'>,
    springs: Readonly<Record<string, Spring>>,
    body: SpringBody,
  ) {
    this.bones = bones
    this.world = createWorldPose(bones)
    const index = new Map(bones.map((b, i) => [b.name, i]))
    const chains = limbs.filter((l) => canSwing(l) && Object.hasOwn(springs, l.id))
    const own = new Map(chains.flatMap((l) => l.bones.map((name) => [index.get(name)!, springs[l.id]!] as const)))
    this.solid = body.capsules.filter(({ bone }) => !own.has(bone))
    this.links = [...own]
      .sort(([a], [b]) => a - b)
      .map(([bone, spring]) => {
        const { at, tail, parent } = bones[bone]!
        const along = new Vector3(...tail).sub(new Vector3(...at))
        const end = new Vector3(...tail)
        const thick = body.thick[bone]!
        const clear = this.solid.map((capsule) => {
          const from = end.clone().sub(new Vector3(...bones[capsule.bone]!.at))
          const far = from.distanceTo(nearestOn(capsule.along, from))
          return Math.min(far, capsule.radius + thick)
        })
        return {
          ...{ ...spring, bone, parent, along, length: along.length(), clear, off: Math.min(end.y, thick) },
          ...{ end, before: end.clone(), turn: new Quaternion() },
        }
      })
      // a bone without length has no end that could swing
      .filter(({ length, parent }) => length > 1e-5 && parent >= 0)
    this.sprung = this.links.map((l) => l.bone)
  }

  /** Hangs still where a pose has it. */
  begin(pose: Pose): void {
    solveForward(this.bones, pose, this.world)
    for (const link of this.links) {
      const turn = new Quaternion().fromArray(this.world.turns, link.bone * 4)
      link.end.copy(link.along).applyQuaternion(turn).add(this.jointOf(link.bone))
      link.before.copy(link.end)
    }
  }

  /** @param pace at which it goes ahead, metres a second: the air comes towards it */
  step(pose: Pose, pace: number): void {
    const { bones, world } = this
    solveForward(bones, pose, world)
    const dt = 1 / RATE
    const [above, aimed, way, next] = [new Quaternion(), new Quaternion(), new Vector3(), new Vector3()]
    const solid = this.solid.map(({ bone, along }) => ({
      from: this.jointOf(bone),
      along: along.clone().applyQuaternion(above.fromArray(world.turns, bone * 4)),
    }))
    for (const link of this.links) {
      const { bone, parent, end, before } = link
      // what it hangs on may have swung
      above.fromArray(world.turns, parent * 4)
      const joint = new Vector3(...bones[bone]!.at).sub(new Vector3(...bones[parent]!.at)).applyQuaternion(above)
      joint.add(this.jointOf(parent)).toArray(world.joints, bone * 3)
      aimed.fromArray(pose.turns, bone * 4).premultiply(above)
      way.copy(link.along).applyQuaternion(aimed).normalize()
      next
        .copy(end)
        .sub(before)
        .multiplyScalar(1 - link.drag)
        .add(end)
      next.addScaledVector(way, link.stiffness * dt)
      next.y -= link.gravity * dt
      next.z -= pace * dt * link.drag
      this.hold(link, joint, next)
      for (const [k, { from, along }] of solid.entries()) {
        const least = link.clear[k]!
        const on = nearestOn(along, next.clone().sub(from)).add(from)
        const far = next.distanceTo(on)
        if (far >= least || far < 1e-9) continue
        next
          .sub(on)
          .multiplyScalar(least / far)
          .add(on)
        this.hold(link, joint, next)
      }
      if (next.y < link.off) {
        next.y = link.off
        this.hold(link, joint, next)
      }
      before.copy(end)
      end.copy(next)
      const to = next.sub(joint).normalize()
      const turned = new Quaternion().setFromUnitVectors(way, to).multiply(aimed)
      turned.toArray(world.turns, bone * 4)
      link.turn.copy(above.invert()).multiply(turned).normalize()
    }
  }

  /** How each bone is turned from the one it hangs on, as a sample. */
  take(turns: readonly Float32Array[], at: number): void {
    this.links.forEach(({ turn }, k) => turn.toArray(turns[k]!, at * 4))
  }

  private hold({ length }: Link, joint: Vector3, end: Vector3): void {
    end.sub(joint).setLength(length).add(joint)
  }

  private jointOf(bone: number): Vector3 {
    return new Vector3().fromArray(this.world.joints, bone * 3)
  }
}
