import { Vector3 } from 'three'
import { boneWords } from '../../base/words.ts'
import { CHAIN_KINDS, type BodyPlan } from '../../kit/plan.ts'
import type { RigLimb, Skeleton } from '../../rig/Skeleton.ts'
import { jointLimits, type JointLimit } from './jointLimits.ts'

/** What posing needs of a skeleton. */
export type Posable = Pick<Skeleton, 'bones' | 'limbs' | 'pairs'>

/**
 * What can be taken hold of: the end of a limb, its middle joint (which way it points), the root, the head (the trunk
 * bends after it), where the head looks, and the tip of a chain.
 */
export interface PoseHandle {
  id: string
  kind: 'end' | 'middle' | 'root' | 'head' | 'look' | 'tip'
  name: string
  /** It is at the joint of this bone, or at its end. */
  bone: number
  at: 'joint' | 'end'
  /** Index of the limb it belongs to; -1 of none. */
  limb: number
  /** The same of the other side, by its id. */
  mate: string | null
}

/** A leg or an arm, by the indices of its bones; -1 where it has no third. */
export interface JointedLimb {
  upper: number
  lower: number
  end: number
  /** Which way its middle points as it bends, at rest, across its first bone, length one. */
  pole: Vector3
}

/** A skeleton made ready to be posed by hand. */
export interface PoseRig extends Posable {
  handles: PoseHandle[]
  limits: JointLimit[]
  /** Of each limb what it is when it is a leg or an arm. */
  jointed: (JointedLimb | null)[]
  head: number | null
  /** From the root to the head, without either. */
  trunk: number[]
  /** Index of each bone's mirror image; itself in the middle. */
  mates: number[]
}

const USUAL_POLES = { leg: new Vector3(0, 0, 1), arm: new Vector3(0, 0, -1) }

/** Which bone looks is what the plan says of where it looks to; without, nothing is taken for a head. */
export function poseRig({ bones, limbs, pairs }: Posable, plan: Pick<BodyPlan, 'points' | 'bones'>): PoseRig {
  const index = new Map(bones.map((b, i) => [b.name, i]))
  const head = headIn(plan, index)
  const trunk: number[] = []
  for (let at = head === null ? -1 : bones[head]!.parent; at > 0; at = bones[at]!.parent) trunk.unshift(at)
  const mates = bones.map((_, i) => i)
  for (const { left, right } of pairs) [mates[left], mates[right]] = [right, left]
  const jointed = limbs.map((limb) => jointedOf(limb, bones, index))
  const limits = jointLimits(
    { bones, limbs },
    new Set(trunk),
    head,
    (limb) => jointed[limbs.indexOf(limb)]?.pole ?? null,
  )
  return { bones, limbs, pairs, head, trunk, mates, jointed, limits, handles: handlesOf() }

  function handlesOf(): PoseHandle[] {
    const named = (kind: PoseHandle['kind'], bone: number, of: Partial<PoseHandle> & { name: string }): PoseHandle => {
      const mate = mates[bone] === bone ? null : `${kind}-${bones[mates[bone]!]!.name}`
      return { id: `${kind}-${bones[bone]!.name}`, kind, bone, at: 'joint', limb: -1, mate, ...of }
    }
    const words = (bone: number) => boneWords(bones[bone]!.name)
    const found: PoseHandle[] = [named('root', 0, { name: words(0) })]
    if (head !== null) {
      if (trunk.length) found.push(named('head', head, { name: words(head) }))
      found.push(named('look', head, { name: 'Where it looks' }))
    }
    limbs.forEach((limb, l) => {
      const own = jointed[l]
      if (own) {
        const end = own.end >= 0 ? own.end : own.lower
        found.push(
          named('end', end, { name: words(end), at: own.end >= 0 ? 'joint' : 'end', limb: l }),
          named('middle', own.lower, { name: `Which way: ${words(own.lower).toLowerCase()}`, limb: l }),
        )
      } else if ((CHAIN_KINDS as readonly string[]).includes(limb.kind)) {
        const tip = index.get(limb.bones.at(-1)!)!
        // what the head hangs on is bent by the head
        if (!trunk.includes(tip) && tip !== head)
          found.push(named('tip', tip, { name: `Tip: ${words(tip).toLowerCase()}`, at: 'end', limb: l }))
      }
    })
    return found
  }
}

function headIn(
  { points, bones }: Pick<BodyPlan, 'points' | 'bones'>,
  index: ReadonlyMap<string, number>,
): number | null {
  const parent = new Map(bones.map((b) => [b.name, b.parent]))
  let name: string | null | undefined = points?.find((p) => p.place === 'ahead')?.bone
  while (name && !index.has(name)) name = parent.get(name)
  const head = name ? index.get(name) : undefined
  // the root is no head: it would look by turning everything
  return head === undefined || head === 0 ? null : head
}

function jointedOf(limb: RigLimb, bones: Posable['bones'], index: ReadonlyMap<string, number>): JointedLimb | null {
  if (limb.kind !== 'leg' && limb.kind !== 'arm') return null
  const [upper, lower, end = -1] = limb.bones.map((name) => index.get(name)!)
  if (upper === undefined || lower === undefined) return null
  const along = new Vector3(...bones[lower]!.at).sub(new Vector3(...bones[upper]!.at)).normalize()
  const pole = (limb.pole ? new Vector3(...limb.pole) : USUAL_POLES[limb.kind].clone()).normalize()
  pole.addScaledVector(along, -pole.dot(along))
  return { upper, lower, end, pole: pole.lengthSq() > 1e-6 ? pole.normalize() : USUAL_POLES[limb.kind].clone() }
}
