import { Quaternion, Vector3, type Bone } from 'three'
import type { BodyEntry } from './manifest.ts'

/** One bone of a chain that swings. */
interface Link {
  bone: Bone
  /** The next one; the last one is as long as it is itself. */
  next: Bone
  /** As its clip has it, in its parent's axes: the mixer writes only what changes. */
  posed: Quaternion
  /** Where its end is in its own axes at rest, and how far. */
  axis: Vector3
  length: number
  end: Vector3
  before: Vector3
  set: BodyEntry['springs'][number]
}

/** Steps a second: the terms of the standard are meant for these. */
const STEP = 1 / 60
/** After so long a pause nothing is caught up with, seconds. */
const LONGEST = 0.1

/**
 * Chains that go on as they went, are drawn back to where their clip has them, and down: the spring bones of the open VRM
 * standard (VRMC_springBone 1.0), without colliders but for the ground.
 */
export class Springs {
  private links: Link[] = []
  private left = 0
  private readonly scratch = [new Vector3(), new Vector3(), new Vector3(), new Quaternion(), new Quaternion()] as const

  /** @param worn bones that are there, by their places in the manifest */
  constructor(body: BodyEntry, bones: readonly Bone[], worn: ReadonlySet<number>) {
    for (const set of body.springs) {
      const chain = set.bones.filter((b) => worn.has(b) && bones[b])
      chain.forEach((b, i) => {
        const bone = bones[b]!
        const next = bones[chain[i + 1] ?? b]!
        const [axis, end, before] = [new Vector3(), new Vector3(NaN), new Vector3()]
        this.links.push({ bone, next, posed: bone.quaternion.clone(), axis, length: 0, end, before, set })
      })
    }
    this.measure()
  }

  /** Takes the lengths of the bones anew: after a slider. */
  measure(): void {
    for (const link of this.links) {
      link.length = link.axis.copy(link.next.position).length()
      link.axis.normalize()
    }
  }

  /** Puts the bones back as their clip had them: before the clip goes on, and before another takes them over. */
  rest(): void {
    for (const { bone, posed } of this.links) bone.quaternion.copy(posed)
  }

  get any(): boolean {
    return this.links.length > 0
  }

  /** Goes on by some seconds, from where clips have put the bones; `ground` is the height of the ground in the world. */
  update(seconds: number, ground: number): void {
    this.left = Math.min(LONGEST, this.left + seconds)
    let steps = 0
    for (; this.left >= STEP; this.left -= STEP) steps++
    for (const link of this.links) {
      link.posed.copy(link.bone.quaternion)
      if (link.length > 1e-6) this.swing(link, steps, ground)
    }
  }

  /** Forgets how they swung: after a jump to somewhere else. */
  settle(): void {
    for (const link of this.links) link.end.set(NaN, NaN, NaN)
  }

  private swing({ bone, axis, length, end, before, set }: Link, steps: number, ground: number): void {
    const [at, aim, way, turn, parent] = this.scratch
    bone.parent!.updateWorldMatrix(true, false)
    bone.updateMatrix()
    bone.matrixWorld.multiplyMatrices(bone.parent!.matrixWorld, bone.matrix)
    at.setFromMatrixPosition(bone.matrixWorld)
    // where its clip has the end
    aim.copy(axis).applyQuaternion(bone.getWorldQuaternion(turn))
    if (Number.isNaN(end.x)) {
      end.copy(at).addScaledVector(aim, length)
      before.copy(end)
    }
    for (let i = 0; i < steps; i++) {
      way.subVectors(end, before).multiplyScalar(1 - set.drag)
      before.copy(end)
      end.add(way).addScaledVector(aim, set.stiffness * STEP)
      end.y -= set.gravity * STEP
      if (end.y < ground) end.y = ground
      end.sub(at).setLength(length).add(at)
    }
    way.subVectors(end, at).normalize()
    if (way.lengthSq() === 0) return
    parent.setFromUnitVectors(aim, way)
    turn.premultiply(parent)
    bone.parent!.getWorldQuaternion(parent)
    bone.quaternion.copy(parent.invert().multiply(turn))
    bone.updateMatrix()
    bone.matrixWorld.multiplyMatrices(bone.parent!.matrixWorld, bone.matrix)
  }
}
