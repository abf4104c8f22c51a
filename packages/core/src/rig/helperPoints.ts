import type { PlannedBone, PlannedPoint } from '../kit/plan.ts'
import { bonesBelow } from './Skeleton.ts'

type Place = [number, number, number]

/** A place on a figure that games ask for. It goes with a bone. */
export interface HelperPoint {
  id: string
  name: string
  /** Index of a bone of the figure's skeleton. */
  bone: number
  /** In the figure's space, metres. */
  at: Place
}

/** A figure as it stands, with all the bones its plan knows. */
export interface Standing {
  bones: readonly PlannedBone[]
  /** xyz a bone, metres. */
  joints: ArrayLike<number>
  /** xyz a point, metres: of the body, or of all that is worn on it. */
  positions: Float32Array
  /** Four bones a point, the strongest first, and their weights. */
  joint: Uint16Array
  weights: Float32Array
  /** The points that stand on the ground. */
  ground: ArrayLike<number>
  /** Runs of the points, from and up to: of what is worn in a region's stead, such as another head, and last the body's own. */
  flesh: readonly (readonly [number, number])[]
}

/** Points less than this share of the figure's height above the lowest belong to the sole. */
const SOLE = 0.02
/** So much of what a bone moves, from its highest point down, is its top. */
const CROWN = 0.1
/** Front and back are looked for at this share of the bone's extent above and below the place. */
const BAND = 0.15

/**
 * Where the points of a plan are on a figure, by how it is shaped; one whose bones the body lacks is none.
 *
 * @returns each with the index of its bone among `bones`
 */
export function placePoints(planned: readonly PlannedPoint[], figure: Standing): HelperPoint[] {
  const index = new Map(figure.bones.map((b, i) => [b.name, i]))
  return planned.flatMap((point): HelperPoint[] => {
    const bone = index.get(point.bone)
    const amid = (point.amid ?? [point.bone]).map((b) => index.get(b))
    if (bone === undefined || amid.includes(undefined)) return []
    const middle = [0, 1, 2].map(
      (k) => amid.reduce<number>((sum, b) => sum + figure.joints[b! * 3 + k]!, 0) / amid.length,
    ) as Place
    return [{ id: point.id, name: point.name, bone, at: placeOf(point, bone, middle, figure) }]
  })
}

function placeOf({ place }: PlannedPoint, bone: number, middle: Place, figure: Standing): Place {
  const [x, y] = middle
  if (place === 'joint') return middle
  if (place === 'sole') return soleUnder(bone, figure) ?? middle
  const own = movedBy(bone, figure)
  if (own.length === 0) return middle
  const { positions } = figure
  const ends = (k: number, of: readonly number[]) => {
    let [low, high] = [Infinity, -Infinity]
    for (const p of of) {
      low = Math.min(low, positions[p * 3 + k]!)
      high = Math.max(high, positions[p * 3 + k]!)
    }
    return [low, high] as const
  }
  const [bottom, top] = ends(1, own)
  if (place === 'top') {
    const crown = own.filter((p) => positions[p * 3 + 1]! >= top - CROWN * (top - bottom))
    const middleOf = (k: number) => ends(k, crown).reduce((sum, v) => sum + v / 2, 0)
    return [middleOf(0), top, middleOf(2)]
  }
  const beside = own.filter((p) => Math.abs(positions[p * 3 + 1]! - y) <= BAND * (top - bottom))
  const [back, front] = ends(2, beside.length ? beside : own)
  if (place === 'ahead') return [x, y, front + (front - back)]
  return [x, y, place === 'front' ? front : back]
}

/** The points that a bone moves more than all others together: of what has taken the region's place, or else the body's. */
function movedBy(bone: number, { joint, weights, flesh }: Standing): number[] {
  for (const [start, end] of flesh) {
    const found: number[] = []
    for (let p = start; p < end; p++) if (joint[p * 4] === bone && weights[p * 4]! > 0.5) found.push(p)
    if (found.length) return found
  }
  return []
}

/** The middle of what touches the ground under a bone and those that hang from it, shoes and all. */
function soleUnder(bone: number, { bones, positions, joint, ground }: Standing): Place | null {
  const index = new Map(bones.map((b, i) => [b.name, i]))
  const below = bonesBelow(
    bones.map((b) => index.get(b.parent ?? '') ?? -1),
    bone,
  )
  const own = Array.from(ground).filter((p) => below.has(joint[p * 4]!))
  if (own.length === 0) return null
  const height = (p: number) => positions[p * 3 + 1]!
  const lowest = Math.min(...own.map(height))
  let most = 0
  for (let p = 1; p < positions.length; p += 3) most = Math.max(most, positions[p]!)
  const sole = own.filter((p) => height(p) <= lowest + SOLE * most)
  const mean = (k: number) => sole.reduce((sum, p) => sum + positions[p * 3 + k]!, 0) / sole.length
  return [mean(0), lowest, mean(2)]
}
