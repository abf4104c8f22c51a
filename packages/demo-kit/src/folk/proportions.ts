import { unit, type V3 } from '../model/vector.ts'

/*
 * The human body as numbers. Stature is 100; +Y up, +Z front, +X the figure's left.
 * Measured by hand against the studies in the design notes; each row is one ring.
 */

/** Metres in one body unit: a stature of 1.72 m. */
export const HUMAN_SCALE = 0.0172

/** Height | half-width | front | back | squareness. */
export const TORSO: readonly (readonly [number, number, number, number, number])[] = [
  [52.3, 9.9, 6.5, 7.6, 2.6],
  [56.4, 8.9, 6.7, 5.8, 2.6],
  [60.4, 8.7, 6.4, 5.0, 2.6],
  [65.4, 10.2, 6.9, 6.0, 2.7],
  [68.6, 11.6, 8.2, 7.3, 2.8],
  [74.2, 11.9, 7.6, 7.8, 2.8],
]

/** Front center to back center, then the crotch. */
export const HIP_LOOP: readonly V3[] = [
  [0, 44.6, 4.8],
  [3.6, 46.4, 6.6],
  [8.2, 48.6, 5.2],
  [10.6, 49.2, -0.2],
  [8.8, 47.2, -6.4],
  [4.4, 44.6, -8.3],
  [0, 45, -6],
]
export const CROTCH: V3 = [0, 42.8, -0.9]

export const SHOULDER_LOOP: readonly V3[] = [
  [0, 78.3, 4.6],
  [4.6, 78.5, 5],
  [9.6, 77.8, 3.6],
  [11.4, 79.3, -0.9],
  [9.8, 78.6, -5.2],
  [5.2, 79.2, -7],
  [0, 79.2, -7],
]

/** Half-width, front and back, height at front and back. */
export const NECK = [
  { w: 5.4, front: 3.6, back: 6.6, low: 79.5, high: 81.7 },
  { w: 4.3, front: 2.7, back: 5.9, low: 82.3, high: 85.3 },
]

export const SHOULDER: V3 = [11.6, 75.4, -0.9]
/** At rest the arms point 45 degrees down. */
export const ARM_AXIS: V3 = unit([1, -1, 0])
export const ARM_UP: V3 = unit([1, 1, 0])
export const ELBOW = 16.2
export const WRIST = 28
export const KNUCKLES = 37.4

/** Along | up | down | front | back | squareness | tilt (the lower side reaches farther along). */
export const ARM: readonly (readonly [number, number, number, number, number, number, number])[] = [
  [2.6, 4.5, 4.4, 5.0, 5.2, 2.4, 3.2],
  [6.2, 4.8, 4.1, 4.8, 4.9, 2.4, 1.5],
  [10.6, 3.9, 3.9, 4.2, 4.2, 2.5, 0.3],
  [14.2, 3.2, 3.3, 3.5, 3.5, 2.6, 0],
  [16.2, 3.5, 3.0, 3.6, 3.7, 2.7, 0],
  [19.4, 3.8, 3.5, 4.6, 4.1, 2.5, 0],
  [24.4, 3.1, 3.0, 3.8, 3.5, 2.6, 0],
  [28.0, 2.3, 2.3, 3.1, 2.9, 2.8, 0],
]

/** Palm rings: along | up | down | front | back | squareness. */
export const PALM: readonly (readonly [number, number, number, number, number, number])[] = [
  [30.6, 2.3, 2.2, 4.2, 3.9, 2.9],
  [34.4, 1.9, 1.9, 5.0, 4.6, 3.2],
]

/** Height | outer | inner | front | back | center x | center z | squareness. */
export const LEG: readonly (readonly [number, number, number, number, number, number, number, number])[] = [
  [41.6, 5.5, 4.8, 6.4, 6.7, 6.0, -0.5, 2.4],
  [35.5, 5.5, 4.7, 6.1, 5.7, 6.3, 0.1, 2.5],
  [29.6, 4.4, 4.1, 5.0, 4.5, 6.6, 0.2, 2.7],
  [26.0, 4.3, 4.0, 5.6, 3.9, 6.75, 0.6, 3.0],
  [22.6, 4.0, 3.8, 4.4, 4.3, 6.85, 0.1, 2.7],
  [17.4, 5.1, 4.5, 4.0, 6.3, 7.0, -0.6, 2.4],
  [11.0, 3.8, 3.5, 3.4, 4.3, 7.2, -0.9, 2.5],
  [7.4, 3.3, 3.3, 3.5, 3.7, 7.3, -0.9, 2.7],
]

/** Feet turn out: x grows by this times z. */
export const TOE_OUT = 0.2
export const ANKLE: V3 = [7.3, 7.4, -0.9]

/** One head unit. */
export const HEAD_UNIT = 1.82
export const CHIN_HEIGHT = 81.7
export const HEAD_FORWARD = 0.3

/** Head units to body units. */
export const fromHead = ([x, y, z]: V3): V3 => [
  x * HEAD_UNIT,
  CHIN_HEIGHT + y * HEAD_UNIT,
  z * HEAD_UNIT + HEAD_FORWARD,
]
