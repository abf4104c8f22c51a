import { Quaternion, Vector3 } from 'three'
import type { BodyPlan } from '../kit/plan.ts'
import { Winding } from '../mesh/Winding.ts'
import { boundsOf, pointsInUse, type Mesh } from '../mesh/Mesh.ts'
import { createWorldPose, skinPoints, solveForward, type Pose } from '../rig/Pose.ts'
import { bonesBelow, type Skeleton } from '../rig/Skeleton.ts'
import { groundMotion, type Way } from './arc.ts'
import { poseAt, type Clip } from './Clip.ts'
import { withinLimit } from './poses/jointLimits.ts'
import { poseRig, type PoseRig } from './poses/PoseRig.ts'
import { farthestFrom, lowestOf, strongestBones, takePoints, type Skin } from './soles.ts'

/** How bad something is at its worst, and when, seconds. */
export interface Worst {
  most: number
  at: number
}

/** What can be seen to be wrong with a clip on a figure; all of it measured on what is drawn. */
export interface ClipNumbers {
  /** How deep the lowest point of the figure lies in the ground, metres. */
  depth: Worst
  /** How fast what touches the ground moves over it, metres a second: on the whole, and at worst. */
  slide: Worst & { mean: number }
  /** The share of forearms and hands that lies in trunk or legs: on the whole, and at worst. */
  inBody: Worst & { mean: number }
  /** How far a knee is bent the wrong way, radians. */
  bend: Worst
  /** How far a joint is turned beyond what it can do, radians, and which bone's that is. */
  strain: Worst & { bone: string | null }
}

/** A point this near the ground touches it, metres. */
const TOUCHES = 0.006
/** Moments that are looked at, a second. */
const RATE = 30
/** Arms in the body are looked at so often, at so many points: each against every triangle. */
const LOOKS = 24
const ARM_POINTS = 60
/** Cosine of half of what every joint can do, any way: five degrees. */
const HARDLY = Math.cos(Math.PI / 72)
/** A leg that is bent less is straight, radians. */
const STRAIGHT = 0.12

/**
 * Measures a clip on a figure, whoever made it; knows nothing of how it was made.
 *
 * @param plan that of the figure's body: what joints can do hangs on where its head is
 */
export function judgeClip(
  mesh: Skin & Pick<Mesh, 'indices' | 'cornerPoints'>,
  skeleton: Skeleton,
  clip: Clip,
  plan: Pick<BodyPlan, 'points' | 'bones'>,
): ClipNumbers {
  const { bones } = skeleton
  const n = Math.max(2, Math.round(clip.duration * RATE) + 1)
  const step = clip.duration / (n - 1)
  const way = { travel: clip.travel, arc: clip.arc ?? 0 }
  const rig = poseRig(skeleton, plan)
  const world = createWorldPose(bones)
  const drawn = pointsInUse(mesh)
  const numbers: ClipNumbers = {
    depth: { most: 0, at: 0 },
    slide: { mean: 0, most: 0, at: 0 },
    inBody: { mean: 0, most: 0, at: 0 },
    bend: { most: 0, at: 0 },
    strain: { most: 0, at: 0, bone: null },
  }
  const feet = footPoints(mesh, skeleton, drawn).map((points) => takePoints(mesh, points))
  const whole = takePoints(mesh, drawn)
  const farthest = farthestFrom(whole, bones).filter(([bone]) => !isOfFoot(skeleton, bone))
  const posed = feet.map(({ positions }) => [0, 1].map(() => new Float32Array(positions.length)))
  const all = new Float32Array(whole.positions.length)
  let [touched, slid] = [0, 0]
  for (let f = 0; f < n; f++) {
    // the end of a loop is its beginning; of that what just comes before is asked for
    const time = f === n - 1 ? clip.duration * (1 - 1e-7) : f * step
    const pose = poseAt(clip, time)
    solveForward(bones, pose, world)
    lookAtJoints(rig, pose, time, numbers.strain)
    worse(numbers.bend, wrongBend(skeleton, world.joints), time)
    // what hangs on a bone is no lower than its joint by more than it is away from it
    if (farthest.some(([bone, far]) => world.joints[bone * 3 + 1]! < far)) {
      skinPoints(bones, world, whole.positions, whole.joints, whole.weights, all)
      worse(numbers.depth, -lowestOf(all), time)
    }
    feet.forEach(({ positions, joints, weights }, i) => {
      const now = posed[i]![f % 2]!
      const before = posed[i]![(f + 1) % 2]!
      skinPoints(bones, world, positions, joints, weights, now)
      worse(numbers.depth, -lowestOf(now), time)
      const speed = f === 0 ? null : speedOver(before, now, step, way, clip.duration > 0 ? step / clip.duration : 0)
      if (speed === null) return
      touched++
      slid += speed
      worse(numbers.slide, speed, time)
    })
  }
  numbers.slide.mean = touched ? slid / touched : 0
  lookInBody(mesh, skeleton, clip, numbers.inBody)
  return numbers
}

function worse(worst: Worst, value: number, at: number): void {
  if (value > worst.most) Object.assign(worst, { most: value, at })
}

const turn = new Quaternion()
const able = new Quaternion()

/** How far joints are beyond what they can do; bones that only twist do what others make them do. */
function lookAtJoints({ bones, limits }: PoseRig, { turns }: Pose, at: number, out: ClipNumbers['strain']): void {
  bones.forEach(({ name, parent, twist }, i) => {
    // most joints hardly turn at all
    if (parent < 0 || twist || Math.abs(turns[i * 4 + 3]!) > HARDLY) return
    const off = withinLimit(able.fromArray(turns, i * 4), limits[i]!).angleTo(turn.fromArray(turns, i * 4))
    if (off > out.most) Object.assign(out, { most: off, at, bone: name })
  })
}

/** Whether a bone is a foot or its toes. */
const isOfFoot = ({ limbs, bones }: Skeleton, bone: number) =>
  limbs.some((l) => l.kind === 'leg' && l.bones.slice(2).includes(bones[bone]!.name))

/** The drawn points of each foot: all that hang on it and its toes at all, so that what hangs on nothing else is looked at. */
function footPoints({ joints, weights }: Skin, { limbs, bones }: Skeleton, drawn: Uint32Array): Uint32Array[] {
  return limbs
    .filter((l) => l.kind === 'leg')
    .map((limb) => {
      const own = new Set(limb.bones.slice(2).map((name) => bones.findIndex((b) => b.name === name)))
      return drawn.filter((p) => [0, 1, 2, 3].some((k) => own.has(joints[p * 4 + k]!) && weights[p * 4 + k]! > 0))
    })
}

/** How fast the points of a foot that touch the ground at both moments go over it; null where none does. */
function speedOver(before: Float32Array, now: Float32Array, step: number, way: Way, share: number): number | null {
  let [x, z, fromX, fromZ, count] = [0, 0, 0, 0, 0]
  for (let p = 0; p < now.length; p += 3) {
    if (before[p + 1]! > TOUCHES || now[p + 1]! > TOUCHES) continue
    x += now[p]! - before[p]!
    z += now[p + 2]! - before[p + 2]!
    fromX += before[p]!
    fromZ += before[p + 2]!
    count++
  }
  if (count === 0) return null
  const [groundX, groundZ] = groundMotion(way, share, fromX / count, fromZ / count)
  return Math.hypot(x / count - groundX, z / count - groundZ) / step
}

/** How far some knee is bent away from where its foot looks; what is to bend backward, as a hock, is none. */
function wrongBend({ limbs, bones }: Skeleton, joints: Float32Array): number {
  let most = 0
  for (const { kind, bones: names, pole } of limbs) {
    if (kind !== 'leg' || names.length < 3 || (pole && pole[2] < 0)) continue
    const [a, b, c] = names
      .slice(0, 3)
      .map((name) => new Vector3().fromArray(joints, bones.findIndex((bone) => bone.name === name) * 3)) as [
      Vector3,
      Vector3,
      Vector3,
    ]
    const upper = b.clone().sub(a)
    const lower = c.clone().sub(b)
    const bend = upper.angleTo(lower)
    if (bend < STRAIGHT) continue
    const toes = names[3] && bones.findIndex((bone) => bone.name === names[3])
    const ahead = typeof toes === 'number' ? new Vector3().fromArray(joints, toes * 3).sub(c) : new Vector3(0, 0, 1)
    const along = c.clone().sub(a).normalize()
    const out = upper.clone().addScaledVector(along, -upper.dot(along))
    ahead.addScaledVector(along, -ahead.dot(along))
    if (out.dot(ahead) < -0.3 * out.length() * ahead.length()) most = Math.max(most, bend)
  }
  return most
}

/** Which points of forearms and hands are inside of trunk and legs, by the winding number (Jacobson and others, 2013). */
function lookInBody(
  mesh: Skin & Pick<Mesh, 'indices' | 'cornerPoints'>,
  { bones, limbs }: Skeleton,
  clip: Clip,
  out: ClipNumbers['inBody'],
): void {
  const index = new Map(bones.map((b, i) => [b.name, i]))
  const arms = limbs.filter((l) => l.kind === 'arm').map((l) => l.bones.map((name) => index.get(name)!))
  const parents = bones.map((b) => b.parent)
  const below = (top: number) => bonesBelow(parents, top)
  const whole = new Set(arms.flatMap(([upper]) => [...below(upper!)]))
  const lower = new Set(arms.flatMap(([, middle]) => (middle === undefined ? [] : [...below(middle)])))
  const strongest = strongestBones(mesh)
  const drawn = [...new Set(mesh.cornerPoints)]
  const own = drawn.filter((p) => lower.has(strongest[p]!))
  const looked = own.filter((_, i) => i % Math.max(1, Math.ceil(own.length / ARM_POINTS)) === 0)
  const triangles: number[] = []
  for (let t = 0; t < mesh.indices.length; t += 3) {
    const corners = [0, 1, 2].map((k) => mesh.cornerPoints[mesh.indices[t + k]!]!)
    if (!corners.some((p) => whole.has(strongest[p]!))) triangles.push(...corners)
  }
  if (looked.length === 0 || triangles.length === 0) return
  const body = [...new Set(triangles)]
  const winding = new Winding(triangles)
  const places = new Float32Array(body.length * 3)
  const world = createWorldPose(bones)
  const posed = new Float32Array(mesh.positions.length)
  for (let i = 0; i < LOOKS; i++) {
    const time = (clip.duration * (i + 0.5)) / LOOKS
    skinPoints(bones, solveForward(bones, poseAt(clip, time), world), mesh.positions, mesh.joints, mesh.weights, posed)
    // what is outside of the box round the body is not in it
    const { min, max } = boundsOf(takePlaces(posed, body, places))
    const inBox = (p: number) => [0, 1, 2].every((k) => posed[p * 3 + k]! > min[k]! && posed[p * 3 + k]! < max[k]!)
    const goesRound = (p: number) => winding.at(posed, posed[p * 3]!, posed[p * 3 + 1]!, posed[p * 3 + 2]!) > 0.5
    const inside = looked.filter((p) => inBox(p) && goesRound(p)).length / looked.length
    out.mean += inside / LOOKS
    worse(out, inside, time)
  }
}

/** Places of some points alone, into a list that is used again. */
function takePlaces(positions: Float32Array, points: readonly number[], out: Float32Array): Float32Array {
  for (let i = 0; i < points.length; i++) for (let k = 0; k < 3; k++) out[i * 3 + k] = positions[points[i]! * 3 + k]!
  return out
}
