import type { ClipDef } from '@idle-tinker/core'
import { held, still, sway, type Curves } from '../../clips/make.ts'
import { asked, carried, clip } from './make.ts'

const PLAIN: ClipDef[] = [
  clip('wader-idle', 'Idle', 'wader', 5, {
    'hips.y': [
      [0, -0.01],
      [0.5, -0.022],
    ],
    'hips.x': [
      [0, 0.006],
      [0.5, -0.006],
    ],
    'spine.pitch': [
      [0, 0.4],
      [0.25, -0.6],
      [0.5, 0.4],
      [0.75, -0.6],
    ],
    'neckBase.pitch': [
      [0, 2],
      [0.3, 4],
      [0.5, -1],
      [0.8, 0],
    ],
    'neckBase.yaw': [
      [0, 0],
      [0.3, 10],
      [0.45, 10],
      [0.7, -9],
      [0.85, -8],
    ],
    'neckMiddle.yaw': [
      [0, 0],
      [0.32, 9],
      [0.47, 9],
      [0.72, -9],
      [0.87, -8],
    ],
    'head.yaw': [
      [0, 0],
      [0.34, 12],
      [0.5, 12],
      [0.74, -12],
      [0.9, -10],
    ],
    'head.pitch': [
      [0, -1],
      [0.35, 5],
      [0.6, -3],
      [0.9, 2],
    ],
    'tail.yaw': [
      [0, 8],
      [0.12, -8],
      [0.2, 6],
      [0.3, 0],
      [0.9, 0],
    ],
    'tail.pitch': still(2),
    'stalk.pitch': [
      [0, 2],
      [0.25, -3],
      [0.5, 3],
      [0.75, -2],
    ],
    'stalk.yaw': [
      [0, 0],
      [0.36, -6],
      [0.5, 2],
      [0.76, 6],
      [0.9, -2],
    ],
  }),
  clip(
    'wader-walk',
    'Walk',
    'wader',
    1.7,
    {
      'hips.y': [
        [0, -0.03],
        [0.12, -0.016],
        [0.25, -0.03],
        [0.37, -0.016],
        [0.5, -0.03],
        [0.62, -0.016],
        [0.75, -0.03],
        [0.87, -0.016],
      ],
      'hips.x': [
        [0, 0.012],
        [0.5, -0.012],
      ],
      'hips.yaw': [
        [0, -3],
        [0.5, 3],
      ],
      'hips.roll': [
        [0, -1.6],
        [0.5, 1.6],
      ],
      'spine.yaw': [
        [0, 3],
        [0.5, -3],
      ],
      'chest.yaw': [
        [0, 3],
        [0.5, -3],
      ],
      'chest.roll': [
        [0, 1.6],
        [0.5, -1.6],
      ],
      // the head goes forward with each fore foot, and stays where it is in between
      'neckBase.pitch': [
        [0, 2],
        [0.2, 8],
        [0.5, 2],
        [0.7, 8],
      ],
      'neckMiddle.pitch': [
        [0, -3],
        [0.2, 5],
        [0.5, -3],
        [0.7, 5],
      ],
      'neckBase.yaw': [
        [0, -2],
        [0.5, 2],
      ],
      'head.pitch': [
        [0, 1],
        [0.2, -12],
        [0.5, 1],
        [0.7, -12],
      ],
      'tail.yaw': [
        [0, 9],
        [0.5, -9],
      ],
      'stalk.pitch': [
        [0, -3],
        [0.25, 5],
        [0.5, -3],
        [0.75, 5],
      ],
      'stalk.yaw': [
        [0, 3],
        [0.5, -3],
      ],
      ...carried('hind', 0.64, 0.14, 46),
      ...carried('fore', 0.64, 0.17, 46),
    },
    { travel: 0.86, stance: [0, 0.64], alternate: true },
  ),
  clip('wader-signal', 'Signal with the lure', 'wader', 3.2, {
    'hips.y': [
      [0, -0.012],
      [0.3, -0.04],
      [0.5, -0.02],
      [0.75, -0.04],
    ],
    'neckBase.pitch': [
      [0, 0],
      [0.2, 24],
      [0.4, 18],
      [0.55, -9],
      [0.8, -7],
    ],
    'neckMiddle.pitch': [
      [0, 0],
      [0.2, 16],
      [0.4, 14],
      [0.55, -6],
      [0.8, -4],
    ],
    'head.pitch': [
      [0, 0],
      [0.2, -14],
      [0.4, -12],
      [0.55, 12],
      [0.8, 8],
    ],
    'head.roll': [
      [0, 0],
      [0.24, 12],
      [0.34, -12],
      [0.44, 10],
      [0.55, 0],
      [0.9, 0],
    ],
    'stalk.pitch': [
      [0, 0],
      [0.2, 16],
      [0.42, 9],
      [0.55, -14],
      [0.8, -6],
    ],
    'stalk.yaw': [
      [0, 0],
      [0.22, 20],
      [0.32, -22],
      [0.42, 20],
      [0.52, -14],
      [0.62, 6],
      [0.72, 0],
    ],
    'tail.pitch': [
      [0, 0],
      [0.2, -14],
      [0.5, 12],
      [0.8, 4],
    ],
  }),
]

const MORE: ClipDef[] = [
  clip(
    'wader-hurry',
    'Hurry',
    'wader',
    0.95,
    {
      'hips.y': [
        [0, -0.035],
        [0.2, 0.012],
        [0.5, -0.035],
        [0.7, 0.012],
      ],
      'hips.pitch': sway(-1.5, 1.5, 0.1),
      'hips.roll': sway(-2, 2),
      'chest.roll': sway(2, -2),
      'neckBase.pitch': [
        [0, 12],
        [0.2, 20],
        [0.5, 12],
        [0.7, 20],
      ],
      'neckMiddle.pitch': [
        [0, 2],
        [0.22, 8],
        [0.5, 2],
        [0.72, 8],
      ],
      'head.pitch': [
        [0, -12],
        [0.22, -24],
        [0.5, -12],
        [0.72, -24],
      ],
      'tail.pitch': still(-16),
      'tail.yaw': sway(12, -12),
      'stalk.pitch': [
        [0, -8],
        [0.25, 10],
        [0.5, -8],
        [0.75, 10],
      ],
      ...carried('hind', 0.48, 0.16, 50),
      ...carried('fore', 0.48, 0.2, 46),
    },
    {
      // two feet at a time, across
      ...{ travel: 1.05, stance: [0, 0.48], alternate: true },
      phases: { leftHind: 0, rightFore: 0, rightHind: 0.5, leftFore: 0.5 },
    },
  ),
  clip(
    'wader-drink',
    'Drink',
    'wader',
    6,
    {
      'hips.y': held([0, 0.08, -0.012], [0.28, 0.72, -0.15], [0.95, 1, -0.012]),
      // fore feet apart, to get down between them
      'foreFoot.out': still(0.05),
      'hips.pitch': held([0, 0.08, 0], [0.28, 0.72, 17], [0.95, 1, 0]),
      'neckBase.pitch': held([0, 0.06, 0], [0.26, 0.7, 84], [0.92, 1, 0]),
      'neckMiddle.pitch': [
        [0, 0],
        [0.06, 0],
        [0.28, 26],
        [0.36, 32],
        [0.42, 26],
        [0.48, 32],
        [0.54, 26],
        [0.6, 32],
        [0.68, 26],
        [0.9, -6],
        [0.96, 0],
      ],
      // a swallow with the head thrown back
      'head.pitch': [
        [0, 0],
        [0.06, 0],
        [0.28, -26],
        [0.68, -26],
        [0.84, -28],
        [0.9, -30],
        [0.97, 0],
      ],
      'tail.pitch': held([0, 0.1, 0], [0.3, 0.7, -12], [0.95, 1, 0]),
      'stalk.pitch': held([0, 0.1, 0], [0.3, 0.7, -26], [0.95, 1, 0]),
      'tail.yaw': sway(5, -5, 0.2),
    },
    { lies: true },
  ),
  clip('wader-preen', 'Preen', 'wader', 5, {
    'hips.y': sway(-0.012, -0.024),
    'hips.roll': held([0, 0.06, 0], [0.2, 0.8, 2], [0.95, 1, 0]),
    'chest.yaw': held([0, 0.06, 0], [0.22, 0.78, 8], [0.94, 1, 0]),
    'neckBase.yaw': held([0, 0.06, 0], [0.22, 0.78, 62], [0.94, 1, 0]),
    'neckMiddle.yaw': held([0, 0.06, 0], [0.24, 0.78, 66], [0.94, 1, 0]),
    'neckMiddle.pitch': held([0, 0.06, 0], [0.24, 0.78, 26], [0.94, 1, 0]),
    'head.yaw': held([0, 0.06, 0], [0.24, 0.78, 26], [0.94, 1, 0]),
    'head.pitch': [
      [0, 0],
      [0.08, 0],
      [0.26, 12],
      [0.33, 24],
      [0.4, 10],
      [0.47, 26],
      [0.54, 12],
      [0.61, 24],
      [0.7, 12],
      [0.92, 0],
    ],
    'tail.pitch': still(-6),
    'tail.yaw': held([0, 0.1, 0], [0.3, 0.75, 14], [0.95, 1, 0]),
    'stalk.pitch': [
      [0, 0],
      [0.3, 8],
      [0.4, -6],
      [0.5, 8],
      [0.6, -6],
      [0.8, 0],
    ],
  }),
  clip(
    'wader-startle',
    'Startled',
    'wader',
    1.8,
    {
      'hips.y': [
        [0, -0.012],
        [0.1, -0.09],
        [0.24, 0.01],
        [0.7, 0.008],
        [1, -0.012],
      ],
      'hips.z': held([0, 0.04, 0], [0.2, 0.7, -0.05], [0.95, 1, 0]),
      'hips.pitch': held([0, 0.04, 0], [0.16, 0.7, -5], [0.95, 1, 0]),
      'neckBase.pitch': held([0, 0.04, 0], [0.18, 0.7, -26], [0.96, 1, 0]),
      'neckMiddle.pitch': held([0, 0.04, 0], [0.2, 0.7, -14], [0.96, 1, 0]),
      'head.pitch': held([0, 0.04, 0], [0.18, 0.7, 34], [0.96, 1, 0]),
      'head.yaw': [
        [0, 0],
        [0.3, 0],
        [0.42, 20],
        [0.52, 20],
        [0.64, -18],
        [0.76, -18],
        [1, 0],
      ],
      'tail.pitch': held([0, 0.04, 0], [0.14, 0.7, 30], [0.96, 1, 0]),
      'stalk.pitch': [
        [0, 0],
        [0.1, 24],
        [0.2, -30],
        [0.32, 12],
        [0.44, -6],
        [1, 0],
      ],
    },
    { loop: false },
  ),
  clip('wader-shake', 'Shake off water', 'wader', 2.2, {
    'hips.y': held([0, 0.1, -0.012], [0.24, 0.72, -0.04], [0.92, 1, -0.012]),
    // from the head to the tail
    'head.roll': shake(0.14, 26),
    'neckMiddle.roll': shake(0.18, 16),
    'neckBase.roll': shake(0.22, 12),
    'chest.roll': shake(0.26, 5),
    'spine.roll': shake(0.3, 5),
    'hips.roll': shake(0.34, 3),
    'tail.yaw': shake(0.38, 30),
    'stalk.yaw': shake(0.16, 34),
    'head.pitch': held([0, 0.06, 0], [0.2, 0.6, 10], [0.9, 1, 0]),
  }),
]

/** To and fro four times, from a phase on, less each time. */
function shake(from: number, by: number): Curves[string] {
  const beat = 0.055
  const swings = [1, -1, 0.9, -0.9, 0.6, -0.5, 0.2].map((share, i): [number, number] => [
    Number((from + beat * (i + 1)).toFixed(3)),
    share * by,
  ])
  return [[0, 0], [from, 0], ...swings, [Number((from + beat * 8).toFixed(3)), 0]]
}

export const WADER: ClipDef[] = [...PLAIN, ...MORE.map(asked)]
