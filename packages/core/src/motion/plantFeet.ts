import { Vector3 } from 'three'
import { longestReach } from '../rig/inverseKinematics.ts'
import { bonesOf, createWorldPose, solveForward, type Pose } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { groundMotion, type Way } from './arc.ts'
import type { Leg } from './Leg.ts'
import { easeUp } from './easeUp.ts'
import { lowestOf, lowestPoint, poseSole, type Sole } from './soles.ts'
import { NEAR_GROUND, placeFoot, smoothstep, worldJoint, type Step } from './step.ts'

/** One moment of a clip on its way to be planted; `steps` has one entry a leg. */
export interface Moment {
  pose: Pose
  steps: Step[]
  /** By leg: whether it stands, and how far through its swing it is. */
  standing: boolean[]
  swing: number[]
}

/** The way is how far the ground goes from one moment to the next. */
export interface PlantOptions extends Way {
  /** Whether the last moment is the first again. */
  loop: boolean
}

/** Points this near the lowest count as touching the ground, metres: a low-poly sole is not quite flat. */
const TOUCHING = 0.006
/** Least height of a foot in the middle of its swing: metres, and in leg lengths. */
const CLEARANCE = [0.008, 0.02] as const
/** Hips are lowered for a leg that would have to be longer than this, of what it can reach. */
const STRETCH = 0.995
/** How far hips are lowered at most, in leg lengths. */
const MOST_LOWERED = 0.15
/** Each round brings soles nearer to the ground and to rest; it is done when none moves farther than this, metres. */
const SETTLED = 2e-4
const ROUNDS = 4

/**
 * Plants the feet of sampled motion on the ground, measured on the soles of the figure itself:
 * standing feet touch at height zero and go back with the ground; swinging ones clear it. Feet keep
 * their turns; ankles move, hips come down where a leg cannot reach, legs bend by inverse
 * kinematics. Changes the moments' poses and steps.
 */
export function plantFeet(
  skeleton: Skeleton,
  legs: readonly Leg[],
  soles: readonly Sole[],
  moments: Moment[],
  { loop, ...way }: PlantOptions,
): void {
  const last = loop ? moments.length - 1 : moments.length
  if (legs.length === 0 || last < 1) return
  const under = legs.map((leg) => soles.find((s) => s.limb === leg.id && s.positions.length > 0))
  for (let round = 0; round < ROUNDS; round++) {
    const before = moments.map(({ steps }) => steps.map(({ ankle }) => ankle.clone()))
    const posed = poseSoles(skeleton, under, moments, last)
    legs.forEach((leg, l) => {
      if (!under[l]) return
      keepStill(moments, l, posed[l]!, last, loop, way)
      keepHeight(moments, l, posed[l]!, last, leg)
    })
    lowerHips(skeleton, legs, moments, last, loop)
    for (let m = 0; m < last; m++)
      legs.forEach((leg, l) => placeFoot(leg, skeleton, moments[m]!.steps[l]!, moments[m]!.pose))
    const moved = (m: number) =>
      moments[m]!.steps.reduce((d, { ankle }, l) => Math.max(d, ankle.distanceTo(before[m]![l]!)), 0)
    if (before.every((_, m) => moved(m) < SETTLED)) break
  }
  if (loop && last > 0) {
    const [first, end] = [moments[0]!, moments[last]!]
    end.pose.turns.set(first.pose.turns)
    end.pose.root = [...first.pose.root]
  }
}

/** The points of each sole at every moment; none where there is no sole. */
function poseSoles(
  skeleton: Skeleton,
  soles: readonly (Sole | undefined)[],
  moments: readonly Moment[],
  last: number,
): Float32Array[][] {
  const posed = soles.map((): Float32Array[] => [])
  const world = createWorldPose(skeleton.bones)
  const needed = bonesOf(
    skeleton.bones,
    soles.filter((sole) => sole !== undefined),
  )
  for (let m = 0; m < last; m++) {
    solveForward(skeleton.bones, moments[m]!.pose, world, needed)
    soles.forEach((sole, l) => {
      if (!sole) return
      const out = new Float32Array(sole.positions.length)
      poseSole(skeleton, world, sole, out)
      posed[l]!.push(out)
    })
  }
  return posed
}

/**
 * Runs of moments in which a leg stands, or is so near the ground that it would scrape, as first and
 * last moment; one may run over the end of a loop.
 */
function standsOf(moments: readonly Moment[], leg: number, last: number, loop: boolean): [number, number][] {
  const stands = (m: number) => {
    const { standing, swing } = moments[((m % last) + last) % last]!
    // a hair more than the share itself, for moments that fall on its end
    const near = NEAR_GROUND + 1e-3
    return standing[leg]! || swing[leg]! < near || swing[leg]! > 1 - near
  }
  const found: [number, number][] = []
  for (let m = 0; m < last; m++) {
    const begins = stands(m) && ((m === 0 && !loop) || !stands(m - 1))
    if (!begins) continue
    let end = m
    while (end + 1 < m + last && (loop || end + 1 < last) && stands(end + 1)) end++
    found.push([m, end])
  }
  // it never leaves the ground
  if (found.length === 0 && stands(0)) found.push([0, last - 1])
  return found
}

/** Takes the mean motion of the touching points over the ground out of every stand; swings take up the rest. */
function keepStill(
  moments: Moment[],
  leg: number,
  posed: readonly Float32Array[],
  last: number,
  loop: boolean,
  way: Way,
): void {
  const at = (m: number) => ((m % last) + last) % last
  const stands = standsOf(moments, leg, last, loop)
  const offsets = stands.map(([start, end]) => {
    const own: [number, number][] = [[0, 0]]
    for (let m = start; m < end; m++) {
      const [from, to] = touching(posed[at(m)]!, posed[at(m + 1)]!)
      const [x, z] = own.at(-1)!
      const [dx, dz] = groundMotion(way, 1, ...from)
      own.push([x - (to[0] - from[0] - dx), z - (to[1] - from[1] - dz)])
    }
    // the stand as a whole stays where it was
    const mean = [0, 1].map((k) => own.reduce((s, o) => s + o[k]!, 0) / own.length)
    return own.map(([x, z]): [number, number] => [x - mean[0]!, z - mean[1]!])
  })
  const move = (m: number, [x, z]: readonly [number, number]) => {
    const { ankle } = moments[at(m)]!.steps[leg]!
    ankle.x += x
    ankle.z += z
  }
  stands.forEach(([start, end], s) => {
    offsets[s]!.forEach((offset, i) => move(start + i, offset))
    const next = s + 1 < stands.length ? s + 1 : loop ? 0 : -1
    const from = offsets[s]!.at(-1)!
    const to = next < 0 ? ([0, 0] as const) : offsets[next]![0]!
    const until = next < 0 ? last : stands[next]![0] + (next <= s ? last : 0)
    for (let m = end + 1; m < until; m++) {
      const f = smoothstep((m - end) / (until - end))
      move(m, [from[0] + (to[0] - from[0]) * f, from[1] + (to[1] - from[1]) * f])
    }
  })
}

type Level = readonly [x: number, z: number]

/** Where the points that touch the ground in two moments running are on the whole, in the first and in the second. */
function touching(a: Float32Array, b: Float32Array): [from: Level, to: Level] {
  const [low, next] = [lowestOf(a) + TOUCHING, lowestOf(b) + TOUCHING]
  let [ax, az, bx, bz, sum] = [0, 0, 0, 0, 0]
  for (let p = 0; p < a.length; p += 3) {
    if (a[p + 1]! > low || b[p + 1]! > next) continue
    // the nearer to the ground, the more it counts
    const w = (low - a[p + 1]! + 1e-4) * (next - b[p + 1]! + 1e-4)
    ax += w * a[p]!
    az += w * a[p + 2]!
    bx += w * b[p]!
    bz += w * b[p + 2]!
    sum += w
  }
  if (sum > 0)
    return [
      [ax / sum, az / sum],
      [bx / sum, bz / sum],
    ]
  // where nothing touches in both the foot has rolled on; its lowest points are taken as one
  const [i, j] = [lowestPoint(a), lowestPoint(b)]
  const middle = (at: Float32Array): Level => [(at[i]! + at[j]!) / 2, (at[i + 2]! + at[j + 2]!) / 2]
  return [middle(a), middle(b)]
}

/** Puts standing soles on the ground and keeps swinging ones above it. */
function keepHeight(
  moments: Moment[],
  leg: number,
  posed: readonly Float32Array[],
  last: number,
  { upper, lower }: Leg,
): void {
  const most = Math.max(CLEARANCE[0], CLEARANCE[1] * (upper.length() + lower.length()))
  for (let m = 0; m < last; m++) {
    const { steps, standing, swing } = moments[m]!
    const lowest = lowestOf(posed[m]!)
    if (standing[leg]) steps[leg]!.ankle.y -= lowest
    else {
      // up at once, so that it does not scrape while it is low
      const least = most * Math.sin(Math.PI * swing[leg]!) ** 0.35
      if (lowest < least) steps[leg]!.ankle.y += least - lowest
    }
  }
}

/** Lowers the root where some leg would be stretched beyond what it can reach, evenly over time; a leap stays as high as it is. */
function lowerHips(skeleton: Skeleton, legs: readonly Leg[], moments: Moment[], last: number, loop: boolean): void {
  const need = moments.slice(0, last).map(({ pose, steps, standing }) => {
    let by = 0
    // in a leap no foot holds the body down: legs reach as far as they do
    if (!standing.some(Boolean)) return 0
    legs.forEach((leg, l) => {
      const reach = longestReach(leg) * STRETCH
      const socket = worldJoint(skeleton, pose, leg.bones.upper)
      const way = new Vector3().subVectors(steps[l]!.ankle, socket)
      const level = Math.hypot(way.x, way.z)
      const drop = -way.y
      if (Math.hypot(level, drop) <= reach) return
      by = Math.max(by, drop - Math.sqrt(Math.max(0, reach * reach - level * level)))
    })
    return Math.min(by, MOST_LOWERED * (legs[0]!.upper.length() + legs[0]!.lower.length()))
  })
  if (need.every((v) => v === 0)) return
  const eased = easeUp(need, loop)
  for (let m = 0; m < last; m++) moments[m]!.pose.root[1] -= eased[m]!
}
