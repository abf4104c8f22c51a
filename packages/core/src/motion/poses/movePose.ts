import { Quaternion, Vector3 } from 'three'
import { placeMiddle, USUAL_BEND } from '../../rig/inverseKinematics.ts'
import { createWorldPose, solveForward, type Pose, type WorldPose } from '../../rig/Pose.ts'
import { shareTwists } from '../../rig/twist.ts'
import { mirroredTurn, timesTurn } from '../../rig/turns.ts'
import { withinLimit } from './jointLimits.ts'
import type { JointedLimb, PoseHandle, PoseRig } from './PoseRig.ts'

/** What a hand wants of a pose. */
export type PoseOrder =
  /** A handle goes to a place, metres. */
  | { handle: string; to: readonly [number, number, number] }
  /** A bone takes on a turn from rest, xyzw, as in `Pose`. */
  | { bone: number; turn: readonly [number, number, number, number] }

export interface PoseWishes {
  /** Limbs whose ends stay where they are, by their ids. */
  pinned: ReadonlySet<string>
  /** The other side does the same. */
  mirrored: boolean
  /** Joints turn as far as they are asked to, and not only as far as they can. */
  free: boolean
}

/**
 * Does what a hand wants with a pose: two-bone inverse kinematics for legs and arms, whose middle goes round with the limb;
 * for trunk and chains each bone in turn goes some of the way (cyclic coordinate descent, Wang and Chen 1991, damped so
 * that all bend alike). Ends that are pinned are brought back to where they were; the root goes only as far as they reach.
 *
 * @param start the pose when the hand took hold: what comes out hangs on it and on the order alone, not on the way there
 * @throws Error for a handle or a bone that is not there
 */
export function movePose(rig: PoseRig, start: Pose, order: PoseOrder, wishes: PoseWishes): Pose {
  const mover = new Mover(rig, start, wishes)
  if ('bone' in order) mover.turn(order.bone, new Quaternion(...order.turn).normalize())
  else mover.move(order.handle, new Vector3(...order.to))
  return mover.done()
}

/** Where a handle is in a pose, metres. */
export function handlePlace(
  { bones }: Pick<PoseRig, 'bones'>,
  handle: PoseHandle,
  world: WorldPose,
): [number, number, number] {
  const { bone } = handle
  const joint = new Vector3().fromArray(world.joints, bone * 3)
  const { at, tail } = bones[bone]!
  const turn = new Quaternion().fromArray(world.turns, bone * 4)
  if (handle.kind === 'look') {
    // as far ahead as it is seen well, whatever it looks at
    const reach = LOOK * Math.max(...bones.map((b) => b.at[1]))
    return new Vector3(0, 0, reach).applyQuaternion(turn).add(joint).toArray()
  }
  if (handle.at === 'joint') return joint.toArray()
  return new Vector3(...tail)
    .sub(new Vector3(...at))
    .applyQuaternion(turn)
    .add(joint)
    .toArray()
}

/** How far ahead of the head its looking is taken hold of, as a share of the figure's height. */
const LOOK = 0.22
/** A limb bent by less has no side that its middle points to, as a share of its length. */
const STRAIGHT = 0.03
/** Bones of a chain go part of the way, so many times over. */
const ROUNDS = 48
const CLOSE = 2e-4
/** Pinned ends may be off by so much before the root stops, metres. */
const SLACK = 2e-3
const HALVINGS = 10
/** Of a look the last bone before the head takes so much. */
const NECK = 0.4

class Mover {
  private readonly rig: PoseRig
  private readonly start: Pose
  private readonly before: WorldPose
  private readonly wishes: PoseWishes
  private pose: Pose
  private world: WorldPose

  constructor(rig: PoseRig, start: Pose, wishes: PoseWishes) {
    this.rig = rig
    this.start = start
    this.wishes = wishes
    this.pose = copied(start)
    this.before = solveForward(rig.bones, start, createWorldPose(rig.bones))
    this.world = solveForward(rig.bones, start, createWorldPose(rig.bones))
  }

  done(): Pose {
    shareTwists(this.rig.bones, this.pose)
    return this.pose
  }

  turn(bone: number, turn: Quaternion): void {
    if (!this.rig.bones[bone]) throw new Error(`there is no bone ${bone}`)
    const mate = this.rig.mates[bone]!
    this.setLocal(bone, turn)
    if (this.wishes.mirrored && mate !== bone) this.setLocal(mate, mirroredTurn(turn))
    const turned = this.rig.jointed.map((l) => l && [l.upper, l.lower, l.end].some((b) => b === bone || b === mate))
    this.keepPins((limb) => turned[limb] === true)
  }

  move(id: string, to: Vector3): void {
    const handle = this.handle(id)
    this.moveOne(handle, to)
    const mate = this.wishes.mirrored && handle.mate ? this.rig.handles.find((h) => h.id === handle.mate) : undefined
    if (mate) {
      const [from, other] = [handle, mate].map((h) => new Vector3(...handlePlace(this.rig, h, this.before)))
      const way = to.clone().sub(from!)
      this.moveOne(mate, other!.add(new Vector3(-way.x, way.y, way.z)))
    }
    this.keepPins((limb) => limb === handle.limb || limb === mate?.limb)
  }

  private handle(id: string): PoseHandle {
    const handle = this.rig.handles.find((h) => h.id === id)
    if (!handle) throw new Error(`there is no handle ${id}`)
    return handle
  }

  private moveOne(handle: PoseHandle, to: Vector3): void {
    const { rig } = this
    const limb = rig.jointed[handle.limb]
    if (handle.kind === 'root') this.moveRoot(to)
    else if (handle.kind === 'look') this.look(to)
    else if (handle.kind === 'head') this.bend(rig.trunk, handle, to)
    else if (handle.kind === 'tip') this.bend(this.chainOf(handle), handle, to)
    else if (limb && handle.kind === 'middle') this.point(limb, to)
    else if (limb) this.reach(limb, to, this.turnOf(handle.bone, this.before))
  }

  /** From the limb's first bone to the one with the handle. */
  private chainOf({ limb, bone }: PoseHandle): number[] {
    const { bones, limbs } = this.rig
    const own = new Set(limbs[limb]!.bones)
    const chain: number[] = []
    for (let at = bone; at >= 0 && own.has(bones[at]!.name); at = bones[at]!.parent) chain.unshift(at)
    return chain
  }

  private moveRoot(to: Vector3): void {
    const from = new Vector3(...this.start.root)
    const way = to.clone().sub(from)
    const go = (share: number) => {
      this.pose = copied(this.start)
      this.pose.root = from.clone().addScaledVector(way, share).toArray()
      this.solve()
      return this.keepPins(() => false)
    }
    if (go(1) <= SLACK) return
    let [least, most] = [0, 1]
    for (let n = 0; n < HALVINGS; n++) {
      const middle = (least + most) / 2
      if (go(middle) <= SLACK) least = middle
      else most = middle
    }
    go(least)
  }

  /** Brings the end of a leg or an arm to a place; what hangs there keeps its turn in the world. */
  private reach(limb: JointedLimb, to: Vector3, endTurn: Quaternion): void {
    const { upper, lower, end } = limb
    const [socket, middle, tip] = this.placesOf(limb)
    const lengths: [number, number] = [socket.distanceTo(middle), middle.distanceTo(tip)]
    const [from, way] = [tip.clone().sub(socket), to.clone().sub(socket)]
    if (from.lengthSq() < 1e-10 || way.lengthSq() < 1e-10) return
    const carried = new Quaternion().setFromUnitVectors(from.normalize(), way.clone().normalize())
    const pole = this.sideOf(limb, socket, middle, tip).applyQuaternion(carried)
    const placed = placeMiddle(lengths, socket, to, pole, this.wishes.free ? [0, Math.PI] : USUAL_BEND)
    const turns = [
      this.following(upper, carried, middle.clone().sub(socket), placed.middle.clone().sub(socket)),
      this.following(lower, carried, tip.clone().sub(middle), placed.end.clone().sub(placed.middle)),
    ]
    this.setWorld(upper, turns[0]!)
    this.setWorld(lower, turns[1]!)
    if (end >= 0) this.setWorld(end, endTurn)
  }

  /** Lets the middle of a limb point towards a place; its ends stay. */
  private point(limb: JointedLimb, to: Vector3): void {
    const [socket, middle, tip] = this.placesOf(limb)
    const axis = tip.clone().sub(socket).normalize()
    const from = this.sideOf(limb, socket, middle, tip)
    const wanted = to.clone().sub(socket)
    wanted.addScaledVector(axis, -wanted.dot(axis))
    if (wanted.lengthSq() < 1e-8) return
    wanted.normalize()
    const angle = Math.atan2(new Vector3().crossVectors(from, wanted).dot(axis), from.dot(wanted))
    const about = new Quaternion().setFromAxisAngle(axis, angle)
    const turns = [limb.upper, limb.lower].map((bone) => about.clone().multiply(this.turnOf(bone, this.world)))
    const kept = this.turnOf(limb.end, this.world)
    this.setWorld(limb.upper, turns[0]!)
    this.setWorld(limb.lower, turns[1]!)
    if (limb.end >= 0) this.setWorld(limb.end, kept)
  }

  /** Which way the middle of a limb points from the line between its ends; of a straight one by how its first bone is turned. */
  private sideOf({ upper, pole }: JointedLimb, socket: Vector3, middle: Vector3, tip: Vector3): Vector3 {
    const axis = tip.clone().sub(socket).normalize()
    const out = middle.clone().sub(socket)
    const length = out.length() + middle.distanceTo(tip)
    out.addScaledVector(axis, -out.dot(axis))
    if (out.length() > STRAIGHT * length) return out.normalize()
    const side = pole.clone().applyQuaternion(this.turnOf(upper, this.world))
    return side.addScaledVector(axis, -side.dot(axis)).normalize()
  }

  /** Bones one after the other take part in bringing a handle to a place. */
  private bend(chain: readonly number[], handle: PoseHandle, to: Vector3): void {
    if (chain.length === 0) return
    const share = 1 / (chain.length + 1)
    for (let round = 0; round < ROUNDS; round++) {
      for (const bone of chain) {
        const at = new Vector3(...handlePlace(this.rig, handle, this.world))
        if (at.distanceTo(to) < CLOSE) return
        const joint = new Vector3().fromArray(this.world.joints, bone * 3)
        const from = at.sub(joint)
        const way = to.clone().sub(joint)
        if (from.lengthSq() < 1e-8 || way.lengthSq() < 1e-8) continue
        const turn = new Quaternion().setFromUnitVectors(from.normalize(), way.normalize())
        this.setWorld(bone, timesTurn(turn, share).multiply(this.turnOf(bone, this.world)))
      }
    }
  }

  /** The head, and some of it the bone it sits on, turn so that it looks at a place; as far as they can. */
  private look(to: Vector3): void {
    const { head, trunk, bones } = this.rig
    if (head === null) return
    const neck = trunk.at(-1)
    const first = neck ?? head
    const above = bones[first]!.parent
    const base = this.turnOf(above, this.before).invert()
    const joint = new Vector3().fromArray(this.before.joints, head * 3)
    const was = base.clone().multiply(this.turnOf(head, this.before))
    const from = new Vector3(0, 0, 1).applyQuaternion(was)
    const way = to.clone().sub(joint).applyQuaternion(base)
    if (way.lengthSq() < 1e-8) return
    // by how it turns and nods; what it is tilted besides it keeps
    const moved = facing(way).multiply(facing(from).invert())
    const whole = moved.clone().multiply(was)
    if (neck === undefined) return this.setLocal(head, whole)
    const own = timesTurn(shortWay(moved), NECK).multiply(base.clone().multiply(this.turnOf(neck, this.before)))
    this.setLocal(neck, own)
    this.setWorld(head, this.turnOf(above, this.world).multiply(whole))
  }

  /**
   * Brings pinned ends back.
   *
   * @param isHeld whether a limb, by its index, is what the hand moves
   * @returns how far the farthest is from where it was, metres
   */
  private keepPins(isHeld: (limb: number) => boolean): number {
    const { limbs, jointed } = this.rig
    let off = 0
    jointed.forEach((limb, l) => {
      if (!limb || isHeld(l) || !this.wishes.pinned.has(limbs[l]!.id)) return
      const [was, now] = [this.placesOf(limb, this.before)[2], this.placesOf(limb)[2]]
      const endTurn = this.turnOf(limb.end, this.before)
      if (was.distanceTo(now) < 1e-6 && this.turnOf(limb.end, this.world).angleTo(endTurn) < 1e-4) return
      this.reach(limb, was, endTurn)
      off = Math.max(off, was.distanceTo(this.placesOf(limb)[2]))
    })
    return off
  }

  private placesOf({ upper, lower, end }: JointedLimb, world = this.world): [Vector3, Vector3, Vector3] {
    const at = (bone: number) => new Vector3().fromArray(world.joints, bone * 3)
    if (end >= 0) return [at(upper), at(lower), at(end)]
    const bone = this.rig.bones[lower]!
    const way = new Vector3(...bone.tail).sub(new Vector3(...bone.at))
    return [at(upper), at(lower), way.applyQuaternion(this.turnOf(lower, world)).add(at(lower))]
  }

  /** The turn in the world of a bone that goes along with its limb, and then to where it points. */
  private following(bone: number, carried: Quaternion, from: Vector3, to: Vector3): Quaternion {
    const between = from.applyQuaternion(carried).normalize()
    const turn = new Quaternion().setFromUnitVectors(between, to.normalize()).multiply(carried)
    return turn.multiply(this.turnOf(bone, this.world))
  }

  private turnOf(bone: number, world: WorldPose): Quaternion {
    return bone < 0 ? new Quaternion() : new Quaternion().fromArray(world.turns, bone * 4)
  }

  /** Turns a joint so that its bone is turned so in the world, as far as the joint can. */
  private setWorld(bone: number, turn: Quaternion): void {
    this.setLocal(bone, this.turnOf(this.rig.bones[bone]!.parent, this.world).invert().multiply(turn))
  }

  private setLocal(bone: number, turn: Quaternion): void {
    const kept = this.wishes.free ? turn : withinLimit(turn.normalize(), this.rig.limits[bone]!)
    kept.toArray(this.pose.turns, bone * 4)
    this.solve()
  }

  private solve(): void {
    solveForward(this.rig.bones, this.pose, this.world)
  }
}

function copied({ turns, root }: Pose): Pose {
  return { turns: turns.slice(), root: [...root] }
}

/** The turn, sideways and then up or down, after which what looked ahead looks along a way. */
function facing(way: Vector3): Quaternion {
  const { x, y, z } = way.clone().normalize()
  const turn = new Quaternion().setFromAxisAngle(new Vector3(0, 1, 0), Math.atan2(x, z))
  return turn.multiply(
    new Quaternion().setFromAxisAngle(new Vector3(1, 0, 0), -Math.asin(Math.min(1, Math.max(-1, y)))),
  )
}

function shortWay(turn: Quaternion): Quaternion {
  return turn.w < 0 ? turn.set(-turn.x, -turn.y, -turn.z, -turn.w) : turn
}
