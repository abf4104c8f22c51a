import type { ClipDef } from '@idle-tinker/core'
import { held, shake, still, sway, type Curves } from './make.ts'

/* What anybody on four legs can play, be it a cat or a giraffe: necks and legs of any length. The left side's curves. */

const clip = (id: string, name: string, duration: number, curves: Curves, more: Partial<ClipDef> = {}): ClipDef => ({
  ...{ id: `four-${id}`, name, plan: 'quadruped', duration, loop: true, travel: 0, stance: [0, 1], alternate: false },
  curves,
  ...more,
})
const asked: Partial<ClipDef> = { optional: true }

/** A foot that is tipped off the ground after a share of the loop, and carried forward. */
const carried = (foot: string, from: number, lift: number, tip: number): Curves => {
  const at = (share: number) => from + (1 - from) * share
  return {
    [`${foot}Foot.pitch`]: [
      [0, 0],
      [from * 0.85, 0],
      [from, tip * 0.2],
      [at(0.35), tip],
      [at(0.7), tip * 0.4],
      [1, 0],
    ],
    [`${foot}Foot.lift`]: [
      [from, 0],
      [at(0.25), lift * 0.7],
      [at(0.5), lift],
      [at(0.8), lift * 0.5],
      [1, 0],
    ],
  }
}

const IDLE = clip('idle', 'Idle', 4, {
  'hips.y': sway(-0.008, -0.018),
  'hips.x': sway(0.005, -0.005),
  'spine.pitch': [
    [0, 0.4],
    [0.25, -0.6],
    [0.5, 0.4],
    [0.75, -0.6],
  ],
  'neck.pitch': sway(1, -1.5),
  'neck.yaw': held([0, 0.2, 0], [0.32, 0.5, 7], [0.66, 0.84, -6], [0.96, 1, 0]),
  'head.yaw': held([0, 0.22, 0], [0.34, 0.52, 11], [0.68, 0.86, -10], [0.97, 1, 0]),
  'head.pitch': sway(1.5, -1.5, 0.1),
  'tail.yaw': [
    [0, 6],
    [0.14, -6],
    [0.24, 4],
    [0.36, 0],
    [0.9, 0],
  ],
})

const WALK = clip(
  'walk',
  'Walk',
  1.05,
  {
    'hips.y': [
      [0, -0.03],
      [0.12, -0.018],
      [0.25, -0.03],
      [0.37, -0.018],
      [0.5, -0.03],
      [0.62, -0.018],
      [0.75, -0.03],
      [0.87, -0.018],
    ],
    'hips.x': sway(0.01, -0.01),
    'hips.yaw': sway(-3, 3),
    'hips.roll': sway(-1.6, 1.6),
    'spine.yaw': sway(3, -3),
    'chest.yaw': sway(2, -2),
    'chest.roll': sway(1.6, -1.6),
    'neck.pitch': [
      [0, 0],
      [0.2, 4],
      [0.5, 0],
      [0.7, 4],
    ],
    'head.pitch': [
      [0, 0],
      [0.2, -4],
      [0.5, 0],
      [0.7, -4],
    ],
    'neck.yaw': sway(-2, 2),
    'tail.yaw': sway(8, -8),
    ...carried('hind', 0.66, 0.12, 34),
    ...carried('fore', 0.66, 0.14, 34),
  },
  { travel: 1.12, stance: [0, 0.66], alternate: true },
)

/** Two feet at a time, across. */
const TROT = clip(
  'trot',
  'Trot',
  0.62,
  {
    'hips.y': [
      [0, -0.03],
      [0.22, 0.012],
      [0.5, -0.03],
      [0.72, 0.012],
    ],
    'hips.roll': sway(-1.5, 1.5),
    'chest.roll': sway(1.5, -1.5),
    'spine.pitch': [
      [0, 1],
      [0.25, -1],
      [0.5, 1],
      [0.75, -1],
    ],
    'neck.pitch': [
      [0, -6],
      [0.22, -3],
      [0.5, -6],
      [0.72, -3],
    ],
    'head.pitch': [
      [0, 4],
      [0.22, 1],
      [0.5, 4],
      [0.72, 1],
    ],
    'tail.pitch': still(-10),
    'tail.yaw': sway(6, -6),
    ...carried('hind', 0.46, 0.17, 42),
    ...carried('fore', 0.46, 0.2, 42),
  },
  {
    ...{ travel: 1.5, stance: [0, 0.46], alternate: true, ...asked },
    phases: { leftHind: 0, rightFore: 0, rightHind: 0.5, leftFore: 0.5 },
  },
)

/** Hind feet together and then fore feet, the back bending between them. */
const GALLOP = clip(
  'gallop',
  'Gallop',
  0.5,
  {
    'hips.y': sway(-0.045, 0.05, 0.05),
    'hips.pitch': sway(7, -7, 0.2),
    'spine.pitch': sway(-5, 5, 0.2),
    'chest.pitch': sway(-4, 4, 0.25),
    'neck.pitch': sway(2, 12, 0.2),
    'head.pitch': sway(2, -8, 0.2),
    'tail.pitch': sway(-24, -10, 0.1),
    ...carried('hind', 0.32, 0.22, 46),
    ...carried('fore', 0.32, 0.24, 46),
  },
  {
    ...{ travel: 2.3, stance: [0, 0.32], alternate: true, ...asked },
    phases: { leftHind: 0, rightHind: 0.1, leftFore: 0.46, rightFore: 0.56 },
  },
)

const LOOK = clip(
  'look',
  'Look about',
  5,
  {
    'hips.y': sway(-0.01, -0.018),
    'neck.yaw': held([0, 0.06, 0], [0.18, 0.4, 22], [0.54, 0.82, -24], [0.94, 1, 0]),
    'upperNeck.yaw': held([0, 0.06, 0], [0.2, 0.4, 14], [0.56, 0.82, -14], [0.94, 1, 0]),
    'head.yaw': held([0, 0.06, 0], [0.2, 0.4, 24], [0.56, 0.82, -26], [0.94, 1, 0]),
    'neck.pitch': held([0, 0.06, 0], [0.2, 0.4, -8], [0.6, 0.8, -4], [0.94, 1, 0]),
    'chest.yaw': held([0, 0.08, 0], [0.24, 0.4, 4], [0.6, 0.8, -4], [0.95, 1, 0]),
    'tail.yaw': sway(9, -9, 0.1),
  },
  asked,
)

/** With its head down to the ground, as far as it comes. */
const GRAZE = clip(
  'graze',
  'Graze',
  6,
  {
    'hips.y': held([0, 0.06, -0.01], [0.24, 0.76, -0.05], [0.95, 1, -0.01]),
    'hips.pitch': held([0, 0.06, 0], [0.24, 0.76, 5], [0.95, 1, 0]),
    'chest.pitch': held([0, 0.06, 0], [0.22, 0.76, 6], [0.95, 1, 0]),
    'neck.pitch': held([0, 0.05, 0], [0.24, 0.74, 44], [0.93, 1, 0]),
    'upperNeck.pitch': held([0, 0.05, 0], [0.26, 0.74, 26], [0.93, 1, 0]),
    'head.pitch': [
      [0, 0],
      [0.06, 0],
      [0.26, -14],
      [0.34, -8],
      [0.42, -16],
      [0.5, -8],
      [0.58, -16],
      [0.72, -12],
      [0.93, 0],
    ],
    'neck.yaw': held([0, 0.2, 0], [0.32, 0.44, 6], [0.56, 0.7, -6], [0.9, 1, 0]),
    'tail.yaw': sway(7, -7, 0.2),
  },
  asked,
)

const STARTLE = clip(
  'startle',
  'Startled',
  1.8,
  {
    'hips.y': [
      [0, -0.01],
      [0.1, -0.08],
      [0.24, 0.006],
      [0.7, 0.004],
      [1, -0.01],
    ],
    'hips.z': held([0, 0.04, 0], [0.2, 0.7, -0.045], [0.95, 1, 0]),
    'neck.pitch': held([0, 0.04, 0], [0.18, 0.7, -18], [0.96, 1, 0]),
    'upperNeck.pitch': held([0, 0.04, 0], [0.2, 0.7, -8], [0.96, 1, 0]),
    'head.pitch': held([0, 0.04, 0], [0.18, 0.7, 20], [0.96, 1, 0]),
    'head.yaw': held([0, 0.28, 0], [0.4, 0.52, 18], [0.64, 0.76, -16], [0.96, 1, 0]),
    'tail.pitch': held([0, 0.04, 0], [0.14, 0.7, 22], [0.96, 1, 0]),
  },
  { loop: false, ...asked },
)

/** From the head to the tail. */
const SHAKE = clip(
  'shake',
  'Shake off water',
  2,
  {
    'hips.y': held([0, 0.1, -0.01], [0.24, 0.72, -0.035], [0.92, 1, -0.01]),
    'head.roll': shake(0.14, 22),
    'upperNeck.roll': shake(0.18, 12),
    'neck.roll': shake(0.2, 10),
    'chest.roll': shake(0.26, 5),
    'spine.roll': shake(0.3, 5),
    'hips.roll': shake(0.34, 3),
    'tail.yaw': shake(0.38, 26),
    'head.pitch': held([0, 0.06, 0], [0.2, 0.6, 8], [0.9, 1, 0]),
  },
  asked,
)

/** Low on bent legs, looking ahead, a step held back. */
const CROUCH = clip(
  'crouch',
  'Crouch',
  4,
  {
    'hips.y': held([0, 0.06, -0.01], [0.2, 0.8, -0.3], [0.96, 1, -0.01]),
    'hips.pitch': held([0, 0.08, 0], [0.24, 0.8, 4], [0.96, 1, 0]),
    'hips.x': [
      [0, 0],
      [0.3, 0.012],
      [0.45, -0.012],
      [0.6, 0.012],
      [0.8, 0],
    ],
    'neck.pitch': held([0, 0.06, 0], [0.22, 0.8, 14], [0.96, 1, 0]),
    'head.pitch': held([0, 0.06, 0], [0.22, 0.8, -16], [0.96, 1, 0]),
    'head.yaw': held([0, 0.3, 0], [0.4, 0.5, 8], [0.6, 0.7, -8], [0.9, 1, 0]),
    'tail.pitch': held([0, 0.06, 0], [0.24, 0.8, 8], [0.96, 1, 0]),
    'tail.yaw': [
      [0, 0],
      [0.3, 10],
      [0.4, -10],
      [0.5, 10],
      [0.6, -10],
      [0.7, 8],
      [0.85, 0],
    ],
  },
  asked,
)

/** All but the first two go along only where a target asks for them. */
export const FOUR_LEGS: ClipDef[] = [IDLE, WALK, TROT, GALLOP, LOOK, GRAZE, STARTLE, SHAKE, CROUCH]
