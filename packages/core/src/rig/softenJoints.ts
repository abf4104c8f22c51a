import type { PlannedBone } from '../kit/plan.ts'
import { pointNeighbours } from '../mesh/adjacency.ts'
import type { Mesh } from '../mesh/Mesh.ts'

/** A figure at rest, with the bones of its plan. */
interface Skinned extends Pick<Mesh, 'positions' | 'joints' | 'weights'> {
  /** Three points each. */
  triangles: Uint32Array
}

interface Joint {
  bone: number
  parent: number
  /** From -1, as stiff as can be, to 1. */
  softness: number
  /** How far a bend is spread along the skin, metres. */
  reach: number
}

/** At its softest a joint spreads its bend over so much of the shorter of its two bones. */
const SPREAD = 0.4
/** Rounds of relaxation: enough that another changes no share by a hundredth. */
const ROUNDS = 40
/** At its stiffest, skin of which the lower bone has no more than the first of these shares stays with the upper one. */
const STIFF = [0.5, 0.8] as const

/**
 * Makes joints softer or stiffer: how skin is shared between a bone and the one it hangs from. Softer spreads the shares
 * by diffusion along the skin (one implicit step of the heat equation on the mesh's edges, by Jacobi relaxation); stiffer
 * steepens them. What hangs on no other but those two bones, and only that, changes.
 *
 * @param at       joints of the bones at rest, xyz each, metres
 * @param softness by bone; of bones that are not there it counts for nothing
 */
export function softenJoints(
  skin: Skinned,
  bones: readonly PlannedBone[],
  at: ArrayLike<number>,
  softness: Readonly<Record<string, number>>,
): Pick<Mesh, 'joints' | 'weights'> {
  const joints = jointsOf(bones, at, softness)
  const out = { joints: skin.joints.slice(), weights: skin.weights.slice() }
  if (joints.length === 0) return out
  const { starts, items } = pointNeighbours(skin.triangles, skin.positions.length / 3)
  const closeness = closenessOf(skin.positions, starts, items)
  for (const joint of joints) {
    const { masses, shares } = sharesOf(out, joint)
    const now =
      joint.softness < 0
        ? shares.map((s) => s + (steep(s) - s) * -joint.softness)
        : relaxed(shares, masses, starts, items, closeness, (joint.softness * joint.reach) ** 2 / 2)
    now.forEach((share, p) => {
      if (masses[p]! > 0 && share !== shares[p]) setShare(out, p, joint, masses[p]!, share)
    })
  }
  return out
}

function jointsOf(
  bones: readonly PlannedBone[],
  at: ArrayLike<number>,
  softness: Readonly<Record<string, number>>,
): Joint[] {
  const index = new Map(bones.map((b, i) => [b.name, i]))
  const apart = (a: number, b: number) => Math.hypot(...[0, 1, 2].map((k) => at[a * 3 + k]! - at[b * 3 + k]!))
  return bones.flatMap(({ name, parent: above }, bone): Joint[] => {
    const own = Object.hasOwn(softness, name) ? softness[name]! : 0
    const parent = above === null ? undefined : index.get(above)
    if (own === 0 || parent === undefined) return []
    const child = bones.findIndex((b) => b.parent === name)
    const lengths = [apart(bone, parent), child < 0 ? Infinity : apart(bone, child)].filter((l) => l > 0)
    return [{ bone, parent, softness: own, reach: SPREAD * Math.min(...lengths) }]
  })
}

/** How much of each point the two bones hold, and which share of that is the lower one's. */
function sharesOf({ joints, weights }: Pick<Mesh, 'joints' | 'weights'>, { bone, parent }: Joint) {
  const points = weights.length / 4
  const masses = new Float32Array(points)
  const shares = new Float32Array(points)
  for (let p = 0; p < points; p++) {
    for (let k = p * 4; k < p * 4 + 4; k++)
      if (joints[k] === bone || joints[k] === parent) {
        masses[p]! += weights[k]!
        if (joints[k] === bone) shares[p]! += weights[k]!
      }
    if (masses[p]! > 0) shares[p]! /= masses[p]!
  }
  return { masses, shares }
}

/** One over the square of how far apart neighbours are: what heat flows by. */
function closenessOf(positions: Float32Array, starts: Uint32Array, items: Uint32Array): Float32Array {
  const out = new Float32Array(items.length)
  for (let p = 0; p + 1 < starts.length; p++)
    for (let i = starts[p]!; i < starts[p + 1]!; i++) {
      const q = items[i]!
      let square = 0
      for (let k = 0; k < 3; k++) square += (positions[p * 3 + k]! - positions[q * 3 + k]!) ** 2
      out[i] = 1 / Math.max(square, 1e-8)
    }
  return out
}

function relaxed(
  shares: Float32Array,
  masses: Float32Array,
  starts: Uint32Array,
  items: Uint32Array,
  closeness: Float32Array,
  time: number,
): Float32Array {
  let now = shares
  for (let round = 0; round < ROUNDS; round++) {
    const before = now
    now = shares.map((share, p) => {
      if (masses[p] === 0) return share
      let sum = share
      let weight = 1
      for (let i = starts[p]!; i < starts[p + 1]!; i++) {
        const q = items[i]!
        // what neither of the two bones holds lets nothing through
        const flow = time * closeness[i]! * Math.min(masses[p]!, masses[q]!)
        sum += flow * before[q]!
        weight += flow
      }
      return sum / weight
    })
  }
  return now
}

function steep(share: number): number {
  const t = Math.min(1, Math.max(0, (share - STIFF[0]) / (STIFF[1] - STIFF[0])))
  return t * t * (3 - 2 * t)
}

/** Shares of so little move nothing, and would take the place of another bone. */
const LEAST = 0.01

function setShare(
  { joints, weights }: Pick<Mesh, 'joints' | 'weights'>,
  point: number,
  { bone, parent }: Joint,
  mass: number,
  wanted: number,
): void {
  const share = wanted < LEAST ? 0 : wanted > 1 - LEAST ? 1 : wanted
  const slots = [0, 1, 2, 3].map((k) => point * 4 + k)
  const ours = slots.filter((k) => weights[k]! > 0 && (joints[k] === bone || joints[k] === parent))
  const free = slots.filter((k) => weights[k]! <= 0)
  const both = [...ours, ...free].slice(0, 2)
  // four bones hold it already, one of ours among them: it stays
  if (both.length < 2) return
  for (const k of ours) weights[k] = 0
  joints[both[0]!] = parent
  weights[both[0]!] = mass * (1 - share)
  joints[both[1]!] = bone
  weights[both[1]!] = mass * share
}
