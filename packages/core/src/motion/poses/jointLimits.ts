import { Quaternion, Vector3 } from 'three'
import type { LIMB_KINDS } from '../../kit/plan.ts'
import type { RigLimb, Skeleton } from '../../rig/Skeleton.ts'
import { twistAbout } from '../../rig/turns.ts'

/** How far a joint turns from where it is at rest. */
export interface JointLimit {
  /** Along the bone at rest, length one; null of a bone without a length. */
  along: Vector3 | null
  /** By how much the bone's direction may change, and how far it may turn about that, radians. */
  swing: number
  twist: number
  /** A joint that bends one way only: that way at rest, across the bone above. */
  hinge: Vector3 | null
}

type Degrees = readonly [swing: number, twist: number]

/** By kind of limb, from its first bone on; the last counts for all that follow. */
const OF_LIMBS: Readonly<Record<(typeof LIMB_KINDS)[number], readonly Degrees[]>> = {
  leg: [
    [130, 60],
    [158, 40],
    [80, 40],
    [65, 15],
  ],
  arm: [
    [165, 100],
    [160, 110],
    [85, 110],
  ],
  digit: [
    [95, 25],
    [110, 15],
  ],
  neck: [[60, 45]],
  tail: [[75, 45]],
  ear: [[75, 45]],
  wing: [[110, 60]],
  fin: [[75, 45]],
  stalk: [[75, 45]],
  hair: [[75, 45]],
  cloth: [[75, 45]],
}
/** Of those that walk on all theirs: they fold farther. */
const OF_FOUR: readonly Degrees[] = [
  [140, 100],
  [165, 60],
  [140, 90],
  [90, 30],
]
const OF_TRUNK: Degrees = [45, 40]
/** Of what bends between the last limb and the head: of one bone, and of each of several. */
const OF_NECK: readonly Degrees[] = [
  [50, 45],
  [90, 50],
]
const OF_HEAD: Degrees = [65, 80]
const OF_OTHERS: Degrees = [40, 40]
const FREE: Degrees = [180, 180]
/** A hinge goes beyond straight by so much, radians: five degrees. */
const BEYOND = 0.09

const radians = (degrees: number) => (degrees * Math.PI) / 180

/**
 * What joints can do, by what they belong to.
 *
 * @param trunk bones from the root to the head, without either
 * @param polesOf which way the middle of a limb points as it bends, at rest, across its first bone; null where it has none
 */
export function jointLimits(
  { bones, limbs }: Pick<Skeleton, 'bones' | 'limbs'>,
  trunk: ReadonlySet<number>,
  head: number | null,
  polesOf: (limb: Skeleton['limbs'][number]) => Vector3 | null,
): JointLimit[] {
  const index = new Map(bones.map((b, i) => [b.name, i]))
  const arms = limbs.some((l) => l.kind === 'arm')
  const necks = neckOf(bones, index, limbs, trunk)
  const said = new Map<number, { degrees: Degrees; hinge: Vector3 | null; of: RigLimb['kind']; place: number }>()
  for (const limb of limbs)
    limb.bones.forEach((name, i) => {
      const steps = limb.kind === 'leg' && !arms ? OF_FOUR : OF_LIMBS[limb.kind]
      const degrees = steps[Math.min(i, steps.length - 1)]!
      said.set(index.get(name)!, { degrees, hinge: i === 1 ? polesOf(limb) : null, of: limb.kind, place: i })
    })
  return bones.map(({ at, tail, parent }, i): JointLimit => {
    const own = said.get(i)
    const usual =
      i === head ? OF_HEAD : necks.has(i) ? OF_NECK[necks.size > 1 ? 1 : 0]! : trunk.has(i) ? OF_TRUNK : OF_OTHERS
    const [swing, twist] = parent < 0 ? FREE : (own?.degrees ?? usual)
    // what hangs on heads and hands first, a jaw or a thumb, does not say which way they go: what they hang on does
    const goesOn = i === head || (own?.of === 'arm' && own.place === 2)
    const along = goesOn
      ? new Vector3(...at).sub(new Vector3(...bones[parent]!.at))
      : new Vector3(...tail).sub(new Vector3(...at))
    return {
      along: along.lengthSq() > 1e-10 ? along.normalize() : null,
      swing: radians(swing),
      twist: radians(twist),
      hinge: own?.hinge ?? null,
    }
  })
}

/** The bones of the trunk that no leg or arm hangs on, nor on what hangs on them but the head. */
function neckOf(
  bones: Skeleton['bones'],
  index: ReadonlyMap<string, number>,
  limbs: Skeleton['limbs'],
  trunk: ReadonlySet<number>,
): Set<number> {
  const carrying = new Set<number>()
  for (const { kind, bones: names } of limbs)
    if (kind === 'leg' || kind === 'arm')
      for (let at = index.get(names[0]!)!; at >= 0; at = bones[at]!.parent) carrying.add(at)
  return new Set([...trunk].filter((bone) => !carrying.has(bone)))
}

/** A turn of a joint from rest, as near to what is asked as the joint can do. Changes what it is given. */
export function withinLimit(turn: Quaternion, { along, swing, twist, hinge }: JointLimit): Quaternion {
  if (!along) return shortened(turn, swing)
  const about = twistAbout(turn, along)
  const twisted = new Quaternion().setFromAxisAngle(along, about)
  turn.multiply(twisted.invert())
  shortened(turn, swing)
  if (hinge) straightened(turn, along, hinge)
  return turn.multiply(twisted.setFromAxisAngle(along, Math.min(twist, Math.max(-twist, about))))
}

function shortened(turn: Quaternion, most: number): Quaternion {
  if (turn.w < 0) turn.set(-turn.x, -turn.y, -turn.z, -turn.w)
  const angle = 2 * Math.acos(Math.min(1, turn.w))
  return angle > most ? turn.slerpQuaternions(new Quaternion(), turn.clone(), most / angle) : turn
}

/** A bone that would bend the wrong way at its joint goes straight on instead. */
function straightened(turn: Quaternion, along: Vector3, hinge: Vector3): void {
  const way = along.clone().applyQuaternion(turn)
  // the bone beyond the middle joint goes against the way that the joint itself points
  const most = Math.min(1, Math.max(0, along.dot(hinge)) + BEYOND)
  const own = way.dot(hinge)
  const straight = way.clone().addScaledVector(hinge, -own)
  if (own <= most || straight.lengthSq() < 1e-8) return
  const right = straight.setLength(Math.sqrt(1 - most * most)).addScaledVector(hinge, most)
  turn.premultiply(new Quaternion().setFromUnitVectors(way, right))
}
