import { Quaternion, Vector3 } from 'three'
import type { Mesh } from '../mesh/Mesh.ts'
import { bonesBelow, type Bone, type Skeleton } from './Skeleton.ts'

/** A turn of one bone against its parent, about an axis of the figure's space. */
export interface Bend {
  axis: 'x' | 'y' | 'z'
  /** Degrees. */
  degrees: number
}

/** How well the skin around a joint takes being bent and twisted. */
export interface BendScore {
  /** The bone that turns: index and name. */
  bone: number
  name: string
  /** 100 where all of the volume stays and no edge changes its length; the mean over all bends. */
  score: number
  /** The bend that fares worst, its score, the share of the volume about the joint that is left, and how much a long-suffering edge stretches. */
  worst: Bend & { score: number; volume: number; stretch: number }
}

type Skin = Pick<Mesh, 'positions' | 'indices' | 'cornerPoints' | 'joints' | 'weights'>

/** The standard set: each axis, both ways. One of them is about the limb's own length, and twists it. */
const BENDS: readonly Bend[] = (['x', 'y', 'z'] as const).flatMap((axis) =>
  [50, -50].map((degrees): Bend => ({ axis, degrees })),
)
/** Of the edges about a joint this share may fare worse than what is told of them. */
const SPARED = 0.1
/** Shares of a turn this small move nothing. */
const STILL = 1e-3
/** Fewer triangles than this about a joint tell nothing of it. */
const LEAST = 6

/**
 * Scores every joint about which skin bends, worst first: the standard set of bends and twists, each by how much of the
 * volume between joint and skin is kept and by how much the edges there stretch or shrink, the worst tenth set aside.
 */
export function bendScores(mesh: Skin, { bones }: Skeleton): BendScore[] {
  const triangles = Uint32Array.from(mesh.indices, (c) => mesh.cornerPoints[c]!)
  return bones
    .flatMap(({ parent, at, name }, bone): BendScore[] => {
      if (parent < 0) return []
      const shares = turningShares(mesh, bones, bone)
      const zone = zoneOf(triangles, shares)
      if (zone.length < LEAST * 3) return []
      const points = [...new Set(zone)]
      const rest = spokes(mesh.positions, points, at)
      const [volume, lengths] = [volumeOf(rest, zone), lengthsOf(rest, zone)]
      const scored = BENDS.map((bend) => {
        const bent = turned(rest, shares, bend)
        const kept = volume === 0 ? 1 : Math.max(0, volumeOf(bent, zone) / volume)
        const changes = lengthsOf(bent, zone).map((l, i) => Math.abs(Math.log(l / lengths[i]!)))
        changes.sort((a, b) => a - b)
        const change = changes[Math.floor((changes.length - 1) * (1 - SPARED))]!
        const score = 100 * Math.exp(-Math.abs(Math.log(Math.max(kept, 1e-3))) - change)
        return { ...bend, score, volume: kept, stretch: Math.exp(change) - 1 }
      })
      const worst = scored.reduce((a, b) => (b.score < a.score ? b : a))
      return [{ bone, name, score: scored.reduce((s, b) => s + b.score, 0) / scored.length, worst }]
    })
    .sort((a, b) => a.score - b.score)
}

/** How much of a bone's turn each point takes part in: the weights of the bone and of all that hang from it. */
function turningShares({ joints, weights, positions }: Skin, bones: readonly Bone[], bone: number): Float32Array {
  const parents = bones.map((b) => b.parent)
  const below = new Uint8Array(bones.length)
  for (const b of bonesBelow(parents, bone)) below[b] = 1
  const shares = new Float32Array(positions.length / 3)
  for (let i = 0; i < weights.length; i++) if (below[joints[i]!]) shares[i >> 2]! += weights[i]!
  return shares
}

/** The triangles that are bent: those that neither turn as a whole nor stay. Three points each. */
function zoneOf(triangles: Uint32Array, shares: Float32Array): number[] {
  const zone: number[] = []
  for (let t = 0; t < triangles.length; t += 3) {
    const own = [0, 1, 2].map((k) => shares[triangles[t + k]!]!)
    if (Math.max(...own) > STILL && Math.min(...own) < 1 - STILL)
      zone.push(triangles[t]!, triangles[t + 1]!, triangles[t + 2]!)
  }
  return zone
}

/** From the joint to each point. */
function spokes(positions: Float32Array, points: readonly number[], at: Bone['at']): Map<number, Vector3> {
  const joint = new Vector3(...at)
  return new Map(points.map((p) => [p, new Vector3().fromArray(positions, p * 3).sub(joint)]))
}

function turned(rest: ReadonlyMap<number, Vector3>, shares: Float32Array, bend: Bend): Map<number, Vector3> {
  const turn = turnOf(bend)
  // linear blending: part of the way to where the turn would bring it
  return new Map([...rest].map(([p, v]) => [p, v.clone().lerp(v.clone().applyQuaternion(turn), shares[p]!)]))
}

/** The turn of a bend, whole or in part. */
export const turnOf = ({ axis, degrees }: Bend): Quaternion =>
  new Quaternion().setFromAxisAngle(
    new Vector3(Number(axis === 'x'), Number(axis === 'y'), Number(axis === 'z')),
    (degrees * Math.PI) / 180,
  )

/** Six times the volume of the cones from the joint to the triangles. */
function volumeOf(at: ReadonlyMap<number, Vector3>, zone: readonly number[]): number {
  const normal = new Vector3()
  let sum = 0
  for (let t = 0; t < zone.length; t += 3)
    sum += normal.crossVectors(at.get(zone[t + 1]!)!, at.get(zone[t + 2]!)!).dot(at.get(zone[t]!)!)
  return sum
}

function lengthsOf(at: ReadonlyMap<number, Vector3>, zone: readonly number[]): number[] {
  // a hair's breadth more, so that what has no length has a logarithm
  return zone.map((p, i) => at.get(p)!.distanceTo(at.get(zone[i % 3 === 2 ? i - 2 : i + 1]!)!) + 1e-6)
}
