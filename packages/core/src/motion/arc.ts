import { Quaternion, Vector3 } from 'three'
import type { Step } from './step.ts'

/*
 * Going along an arc instead of straight ahead. The clip stays on the spot and faces ahead: the ground turns beneath it
 * about a place beside the figure, at x = travel / arc.
 */

const UP = new Vector3(0, 1, 0)
const GRAVITY = 9.81

/** How the ground goes beneath a figure: so far back, metres, and so far round while the figure turns left, radians. */
export interface Way {
  travel: number
  arc: number
}

/** How a place of the ground moves, as the figure sees it, while that goes a share of a way. */
export function groundMotion({ travel, arc }: Way, share: number, x: number, z: number): [x: number, z: number] {
  if (arc === 0) return [0, -travel * share]
  const middle = travel / arc
  const [sin, cos] = [Math.sin(-arc * share), Math.cos(-arc * share)]
  const from = x - middle
  return [from * cos + z * sin + middle - x, -from * sin + z * cos - z]
}

/** A step of straight motion laid on the arc: what lies ahead of or behind the figure lies round the bend. */
export function bendStep(step: Step, { travel, arc }: Way): void {
  if (arc === 0 || travel === 0) return
  const { ankle } = step
  const middle = travel / arc
  const angle = ankle.z / middle
  const out = middle - ankle.x
  ankle.x = middle - out * Math.cos(angle)
  ankle.z = out * Math.sin(angle)
  const turn = new Quaternion().setFromAxisAngle(UP, angle)
  step.foot.premultiply(turn)
  step.pole.applyQuaternion(turn)
}

/** By how much one who goes round leans inward so as not to fall, radians to the left; speeds a second. */
export const leanInto = ({ travel, arc }: Way, seconds: number): number =>
  Math.atan((travel * arc) / (seconds * seconds * GRAVITY))

/** Where one is who has gone a share of the way, and which way they face, radians to the left. */
export function placeOnWay({ travel, arc }: Way, share: number): { x: number; z: number; facing: number } {
  const facing = arc * share
  if (arc === 0) return { x: 0, z: travel * share, facing }
  const middle = travel / arc
  return { x: middle * (1 - Math.cos(facing)), z: middle * Math.sin(facing), facing }
}
