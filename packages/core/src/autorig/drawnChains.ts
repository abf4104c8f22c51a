import { problem, type Problem } from '../base/problem.ts'
import { CHAIN_KINDS, type Limb } from '../kit/plan.ts'
import type { Point } from './landmarks.ts'
import type { RiggedBone } from './rigSkeleton.ts'
import { toSegment } from './rigWeights.ts'

/** What chains that are drawn by hand can be: the trunk is what all others hang from, where no landmarks are. */
export const DRAWN_KINDS = ['trunk', 'leg', ...CHAIN_KINDS] as const
export type DrawnKind = (typeof DRAWN_KINDS)[number]

/** A chain of bones that somebody drew on a figure: from where it grows to its tip, a bone from each place to the next. */
export interface DrawnChain {
  kind: DrawnKind
  /** Whether its mirror image is there as well. */
  mirrored: boolean
  points: Point[]
}

/** What a chain has become: its bones by number, from the root on. */
export interface RiggedChain extends Pick<Limb, 'id' | 'side' | 'pole' | 'phase'> {
  kind: Exclude<DrawnKind, 'trunk'>
  bones: number[]
}

/** A leg is upper, lower, foot and perhaps toes. */
const LEG = [4, 5] as const
/** Places of any chain. */
export const CHAIN_POINTS = { least: 2, most: 25 }
/** What bends less than this share of its length points ahead. */
const STRAIGHT = 0.02

/** How many places a chain of a kind has, at least and at most. */
export const pointsOf = (kind: DrawnKind): { least: number; most: number } =>
  kind === 'leg' ? { least: LEG[0], most: LEG[1] } : CHAIN_POINTS

/** The places of a chain, and of its mirror image where that is there as well. */
export const imagesOf = ({ kind, mirrored, points }: DrawnChain, plane: number): Point[][] =>
  mirrored && kind !== 'trunk' ? [points, points.map(([x, y, z]): Point => [2 * plane - x, y, z])] : [points]

/**
 * What is wrong with chains that were drawn.
 *
 * @param bare whether they are all there is: then one is the trunk
 */
export function chainFaults(chains: readonly DrawnChain[], bare: boolean): Problem[] {
  const problems = chains.flatMap(({ kind, points }, i) => {
    const { least, most } = pointsOf(kind)
    const where = `chains/${i}`
    if (points.length < least || points.length > most) {
      const message = `A ${kind} has ${least} to ${most} places, and this one ${points.length}.`
      return [problem('chain-places', where, message, 'Draw it anew.')]
    }
    const still = points.some((p, k) => k > 0 && p.every((v, c) => Math.abs(v - points[k - 1]![c]!) < 1e-5))
    return still ? [problem('chain-still', where, 'Two of its places are one.', 'Draw it anew.')] : []
  })
  const trunks = chains.filter((c) => c.kind === 'trunk').length
  if (bare && trunks !== 1)
    problems.push(problem('chain-trunk', 'chains', 'One chain is its trunk, from which all others hang.', 'Draw one.'))
  if (!bare && trunks > 0)
    problems.push(problem('chain-trunk', 'chains', 'Its trunk is there by its landmarks.', 'Leave that chain out.'))
  return problems
}

/**
 * The bones of chains that were drawn, after those that are there: each hangs on the bone of those, or of the trunk, that is
 * nearest to where it begins.
 *
 * @param plane where the figure's left and right meet, along x
 */
export function chainBones(
  chains: readonly DrawnChain[],
  base: readonly RiggedBone[],
  plane: number,
): { bones: RiggedBone[]; chains: RiggedChain[] } {
  const bones = [...base]
  const rigged: RiggedChain[] = []
  const counts = new Map<string, number>()
  // the trunk first: others hang on it
  const order = [...chains].sort((a, b) => Number(b.kind === 'trunk') - Number(a.kind === 'trunk'))
  /** So many bones bear what hangs on them: those that were there, and the trunk. */
  let borne = base.length
  let legs = 0
  for (const { kind, mirrored, points } of order) {
    const count = (counts.get(kind) ?? 0) + 1
    counts.set(kind, count)
    const stem = count > 1 ? `${kind}${count}` : kind
    const images = imagesOf({ kind, mirrored, points }, plane)
    const aside = points.at(-1)![0] - plane
    for (const [n, own] of images.entries()) {
      const left = n === 0 ? aside >= 0 : aside < 0
      const sided = kind === 'leg' || images.length > 1
      const id = sided ? `${left ? 'left' : 'right'}${stem[0]!.toUpperCase()}${stem.slice(1)}` : stem
      const first = bones.length
      // legs side by side do not hang on each other
      const host = kind === 'trunk' ? -1 : nearestBone(own[0]!, bones.slice(0, borne))
      for (let i = 0; i + 1 < own.length; i++)
        bones.push({
          name: `${id}${count > 1 ? '-' : ''}${i + 1}`,
          parent: i ? first + i - 1 : host,
          at: own[i]!,
          tail: own[i + 1]!,
        })
      const numbers = bones.slice(first).map((_, i) => first + i)
      if (kind === 'trunk') {
        borne = bones.length
        continue
      }
      rigged.push({
        ...{ id, kind, bones: numbers },
        ...(sided && { side: left ? 'left' : 'right' }),
        // every other leg of a side, and those across from the others
        ...(kind === 'leg' && { pole: poleOf(own), phase: ((legs + (left ? 0 : 1)) % 2) / 2 }),
      })
    }
    if (kind === 'leg') legs++
  }
  return { bones, chains: rigged }
}

/** Where the middle joint of a leg points. */
function poleOf([hip, knee, ankle]: readonly Point[]): Point {
  const way = ankle!.map((v, k) => v - hip![k]!)
  const long = way.reduce((s, v) => s + v * v, 0)
  const t = knee!.reduce((s, v, k) => s + (v - hip![k]!) * way[k]!, 0) / (long || 1)
  const off = knee!.map((v, k) => v - hip![k]! - t * way[k]!)
  const far = Math.hypot(...off)
  return far > STRAIGHT * Math.sqrt(long) ? (off.map((v) => v / far) as Point) : [0, 0, 1]
}

/** Distances that differ by less are one. */
const ALIKE = 1.02

function nearestBone(at: Point, bones: readonly RiggedBone[]): number {
  let [best, least] = [-1, Infinity]
  for (const [b, bone] of bones.entries()) {
    const off = toSegment(at, 0, bone)
    // at a joint it hangs on what goes on from there
    if (off <= least * ALIKE) [best, least] = [b, Math.min(least, off)]
  }
  return best
}
