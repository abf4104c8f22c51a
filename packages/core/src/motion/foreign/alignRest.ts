import { Matrix4, Quaternion, Vector3 } from 'three'
import type { Skeleton } from '../../rig/Skeleton.ts'

/** The rest of a skeleton from elsewhere in our axes, by the bones of ours that follow it. */
export type ForeignRest = ReadonlyMap<number, Vector3>

/** Up, as a foot that stands flat has it at rest; by our bone. Feet that are not there stand flat at rest. */
export type Levels = ReadonlyMap<number, Vector3>

/**
 * How our bones are turned from their own rest when the other figure is at its: arms and legs lie along its limbs, palms
 * face as its do; trunk, shoulders and head stay, feet turn out and are level where theirs are. World turns, one a bone.
 *
 * @param theirs where their joints stand, by our bone; bones that are not there follow what they hang on
 */
export function alignRest({ bones, limbs }: Skeleton, theirs: ForeignRest, levels: Levels): Quaternion[] {
  const index = new Map(bones.map((b, i) => [b.name, i]))
  const ours = (b: number) => new Vector3(...bones[b]!.at)
  const turns = bones.map(() => new Quaternion())
  const done = new Set<number>()
  const way = (from: number, to: number, of: (b: number) => Vector3 | undefined) => {
    const [a, b] = [of(from), of(to)]
    return a && b && a.distanceTo(b) > 1e-6 ? b.clone().sub(a).normalize() : null
  }
  /** The least turn that brings our way along a bone onto theirs, after what it hangs on has turned. */
  const along = (bone: number, next: number, above: Quaternion): Quaternion => {
    const [own, other] = [way(bone, next, ours), way(bone, next, (b) => theirs.get(b))]
    if (!own || !other) return above.clone()
    return new Quaternion().setFromUnitVectors(own.applyQuaternion(above), other).multiply(above)
  }
  for (const limb of limbs) {
    const chain = limb.bones.map((name) => index.get(name)!)
    if (limb.kind !== 'leg' && limb.kind !== 'arm') continue
    let above = new Quaternion()
    chain.forEach((bone, i) => {
      const next = chain[i + 1]
      if (limb.kind === 'leg' && i >= 2) {
        if (i === 2) above = footTurn(bone, next, ours, theirs, levels.get(bone))
      } else if (next !== undefined) above = along(bone, next, above)
      else if (limb.kind === 'arm') {
        const palm = palmOf(limb.bones, bones, index, bone, along, theirs, above)
        twistArm(chain.slice(0, -1), ours, turns, twistOf(above, palm, ours(bone).sub(ours(chain[i - 1]!))))
        above = palm
      }
      turns[bone]!.copy(above)
      done.add(bone)
    })
  }
  // fingers lie along theirs; whatever hangs on an aligned bone goes with it
  bones.forEach(({ parent }, b) => {
    if (done.has(b) || parent < 0) return
    const child = bones.findIndex((bone) => bone.parent === b)
    const digit = limbs.some((l) => l.kind === 'digit' && l.bones.includes(bones[b]!.name))
    const above = turns[parent]!
    turns[b]!.copy(digit && child >= 0 && theirs.has(b) ? along(b, child, above) : above)
  })
  return turns
}

/** An upper arm is not twisted farther than this, radians: beyond, it is the forearm that turns. */
const MOST_TWIST = 1.05

/** How far the second turn goes round a way more than the first, radians. */
function twistOf(first: Quaternion, second: Quaternion, way: Vector3): number {
  const { x, y, z, w } = first.clone().invert().multiply(second)
  const along = way
    .clone()
    .normalize()
    .dot(new Vector3(x, y, z))
  const angle = 2 * Math.atan2(along, w)
  return angle > Math.PI ? angle - 2 * Math.PI : angle < -Math.PI ? angle + 2 * Math.PI : angle
}

/** An arm whose palm faces another way at rest is turned so from the shoulder on: neither wrist nor elbow wrings. */
function twistArm(chain: readonly number[], ours: (b: number) => Vector3, turns: Quaternion[], twist: number): void {
  chain.forEach((bone, i) => {
    const next = chain[i + 1]
    const axis = next === undefined ? ours(bone).sub(ours(chain[i - 1] ?? bone)) : ours(next).sub(ours(bone))
    if (axis.length() < 1e-6) return
    const angle = i < chain.length - 1 ? Math.max(-MOST_TWIST, Math.min(MOST_TWIST, twist)) : twist
    turns[bone]!.multiply(new Quaternion().setFromAxisAngle(axis.normalize(), angle))
  })
}

const UP = new Vector3(0, 1, 0)

/** Tips a foot as theirs is tipped at rest, and turns it about the upright so that its toes are ahead where theirs are. */
function footTurn(
  foot: number,
  toes: number | undefined,
  ours: (b: number) => Vector3,
  theirs: ForeignRest,
  up = UP,
): Quaternion {
  const tipped = new Quaternion().setFromUnitVectors(UP, up)
  const [a, b] = [theirs.get(foot), toes === undefined ? undefined : theirs.get(toes)]
  if (toes === undefined || !a || !b) return tipped
  const other = b.clone().sub(a).applyQuaternion(tipped.clone().invert()).setY(0)
  const own = ours(toes).sub(ours(foot)).setY(0)
  if (other.length() < 1e-6 || own.length() < 1e-6) return tipped
  return tipped.multiply(new Quaternion().setFromUnitVectors(own.normalize(), other.normalize()))
}

/** A hand lies along its middle finger; where thumbs are known, its palm faces where theirs does. */
function palmOf(
  limb: readonly string[],
  bones: Skeleton['bones'],
  index: ReadonlyMap<string, number>,
  hand: number,
  along: (bone: number, next: number, above: Quaternion) => Quaternion,
  theirs: ForeignRest,
  above: Quaternion,
): Quaternion {
  const below = bones.flatMap(({ parent }, b) => (parent === hand && theirs.has(b) ? [b] : []))
  if (below.length === 0) return above.clone()
  const start = new Vector3(...bones[hand]!.at)
  const elbow = new Vector3(...bones[index.get(limb.at(-2)!)!]!.at)
  const arm = start.clone().sub(elbow).normalize()
  // the finger that goes on as the arm goes, and the one that goes most aside
  const straight = (b: number) => new Vector3(...bones[b]!.at).sub(start).normalize().dot(arm)
  const sorted = [...below].sort((a, b) => straight(b) - straight(a))
  const [middle, thumb] = [sorted[0]!, sorted.at(-1)!]
  const lying = along(hand, middle, above)
  const from = theirs.get(hand)
  if (middle === thumb || straight(thumb) > 0.9 || !from) return lying
  const own = frameOf(new Vector3(...bones[middle]!.at).sub(start), new Vector3(...bones[thumb]!.at).sub(start))
  const other = frameOf(theirs.get(middle)!.clone().sub(from), theirs.get(thumb)!.clone().sub(from))
  return own && other ? other.multiply(own.invert()) : lying
}

/** The turn whose y lies along one way and whose x lies towards another; null where they are one. */
function frameOf(along: Vector3, aside: Vector3): Quaternion | null {
  if (along.length() < 1e-6) return null
  const y = along.clone().normalize()
  const x = aside.clone().addScaledVector(y, -aside.dot(y))
  if (x.length() < 1e-6) return null
  x.normalize()
  return new Quaternion().setFromRotationMatrix(new Matrix4().makeBasis(x, y, new Vector3().crossVectors(x, y)))
}
