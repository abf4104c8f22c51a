import type { ClipDef } from '@idle-tinker/core'

/** The two clips every figure on two legs ships with. Lengths in leg lengths, turns in degrees; the left side's curves. */
export const BASIC: [idle: ClipDef, walk: ClipDef] = [
  {
    id: 'idle',
    name: 'Idle',
    plan: 'biped',
    duration: 4,
    loop: true,
    travel: 0,
    stance: [0, 1],
    alternate: false,
    curves: {
      'hips.y': [
        [0, -0.012],
        [0.3, -0.018],
        [0.5, -0.012],
        [0.8, -0.02],
      ],
      'hips.x': [
        [0, 0],
        [0.25, 0.018],
        [0.5, 0.022],
        [0.75, 0.006],
      ],
      'hips.roll': [
        [0, 0],
        [0.4, -1.2],
        [0.8, 0.2],
      ],
      'spine.pitch': [
        [0, 1],
        [0.25, 2.4],
        [0.5, 1],
        [0.75, 2.4],
      ],
      'chest.pitch': [
        [0, 0],
        [0.25, -1.6],
        [0.5, 0],
        [0.75, -1.6],
      ],
      'spine.roll': [
        [0, 0],
        [0.4, 1.2],
        [0.8, -0.2],
      ],
      'head.yaw': [
        [0, 0],
        [0.3, 7],
        [0.45, 7],
        [0.7, -5],
        [0.85, -4],
      ],
      'head.pitch': [
        [0, 0],
        [0.25, 2],
        [0.6, -1],
      ],
      'upperArm.out': [
        [0, 13],
        [0.25, 14.5],
        [0.5, 13],
        [0.75, 14.5],
      ],
      'upperArm.swing': [
        [0, 2],
        [0.5, 5],
      ],
      'lowerArm.bend': [
        [0, 16],
        [0.5, 20],
      ],
      'fingers.curl': [[0, 16]],
      'foot.out': [[0, 0.012]],
      'stalk.pitch': [
        [0, 2],
        [0.4, -3],
        [0.7, 2],
      ],
      'stalk.yaw': [
        [0, 0],
        [0.3, 4],
        [0.7, -3],
      ],
      'tail.yaw': [
        [0, 0],
        [0.25, 9],
        [0.5, 0],
        [0.75, -9],
      ],
      'tail.pitch': [
        [0, 1],
        [0.5, -2],
      ],
    },
  },
  {
    id: 'walk',
    name: 'Walk',
    plan: 'biped',
    duration: 1,
    loop: true,
    travel: 1.36,
    stance: [0, 0.6],
    alternate: true,
    curves: {
      // the body is lowest just after each foot lands and highest over the standing leg
      'hips.y': [
        [0, -0.05],
        [0.08, -0.058],
        [0.3, -0.02],
        [0.5, -0.05],
        [0.58, -0.058],
        [0.8, -0.02],
      ],
      'hips.x': [
        [0, 0.005],
        [0.28, 0.03],
        [0.5, -0.005],
        [0.78, -0.03],
      ],
      'hips.yaw': [
        [0, -7],
        [0.5, 7],
      ],
      'hips.roll': [
        [0, 0],
        [0.15, -4],
        [0.4, 0],
        [0.65, 4],
        [0.9, 0],
      ],
      'hips.pitch': [[0, 2]],
      'spine.yaw': [
        [0, 6],
        [0.5, -6],
      ],
      'spine.pitch': [[0, 3]],
      'spine.roll': [
        [0, 0],
        [0.15, 2.5],
        [0.65, -2.5],
      ],
      'chest.yaw': [
        [0, 5],
        [0.5, -5],
      ],
      'upperChest.yaw': [
        [0, 2],
        [0.5, -2],
      ],
      'neck.yaw': [
        [0, -3],
        [0.5, 3],
      ],
      'head.yaw': [
        [0, -3],
        [0.5, 3],
      ],
      'head.pitch': [
        [0, -3],
        [0.1, -1],
        [0.3, -4],
        [0.6, -1],
        [0.8, -4],
      ],
      'upperArm.out': [
        [0, 15],
        [0.5, 17],
      ],
      'upperArm.swing': [
        [0, -24],
        [0.5, 26],
      ],
      'lowerArm.bend': [
        [0, 14],
        [0.5, 40],
      ],
      'fingers.curl': [[0, 22]],
      'foot.pitch': [
        [0, -16],
        [0.07, 0],
        [0.09, 0],
        [0.34, 0],
        [0.36, 0],
        [0.5, 20],
        [0.6, 46],
        [0.72, 34],
        [0.86, -6],
        [0.95, -18],
      ],
      'foot.lift': [
        [0.58, 0],
        [0.68, 0.05],
        [0.78, 0.09],
        [0.9, 0.045],
        [1, 0],
      ],
      'toes.pitch': [
        [0, -6],
        [0.1, 0],
        [0.55, 0],
        [0.7, 6],
        [0.9, -10],
      ],
      'foot.yaw': [[0, 3]],
      'stalk.pitch': [
        [0, -4],
        [0.25, 5],
        [0.5, -4],
        [0.75, 5],
      ],
      'tail.yaw': [
        [0, 14],
        [0.5, -14],
      ],
      'tail.pitch': [
        [0, 2],
        [0.25, -3],
        [0.5, 2],
        [0.75, -3],
      ],
    },
  },
]
