import type { ClipDef } from '@idle-tinker/core'

/*
 * How the four-legged creatures move. Lengths in leg lengths, turns in degrees; the left side's curves.
 */

type Curves = ClipDef['curves']
const still = (value: number): Curves[string] => [[0, value]]

const clip = (
  id: string,
  name: string,
  plan: string,
  duration: number,
  curves: Curves,
  more: Partial<ClipDef> = {},
): ClipDef => ({ id, name, plan, duration, loop: true, travel: 0, stance: [0, 1], alternate: false, curves, ...more })

/** A foot that is rolled off and carried forward high, as through water. */
const waded = (foot: string, lift: number): Curves => ({
  [`${foot}Foot.pitch`]: [
    [0, -4],
    [0.08, 0],
    [0.5, 0],
    [0.66, 22],
    [0.78, 46],
    [0.9, 18],
    [1, -4],
  ],
  [`${foot}Foot.lift`]: [
    [0.62, 0],
    [0.72, lift * 0.6],
    [0.82, lift],
    [0.93, lift * 0.5],
    [1, 0],
  ],
})

const WADER: ClipDef[] = [
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
      ...waded('hind', 0.14),
      ...waded('fore', 0.17),
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

const HOPPER: ClipDef[] = [
  clip('hopper-idle', 'Idle', 'hopper', 3.6, {
    'hips.y': [
      [0, -0.005],
      [0.5, -0.035],
    ],
    'hips.pitch': [
      [0, 0],
      [0.5, 1.4],
    ],
    'chest.pitch': [
      [0, 0],
      [0.5, -2],
    ],
    'head.pitch': [
      [0, -1],
      [0.5, 1.5],
    ],
    // the throat pumps
    'jaw.pitch': [
      [0, 0],
      [0.12, 2.4],
      [0.25, 0],
      [0.37, 2.4],
      [0.5, 0],
      [0.62, 2.4],
      [0.75, 0],
      [0.87, 2.4],
    ],
    'tongue.pitch': [
      [0, 0],
      [0.5, -5],
    ],
    'hips.yaw': [
      [0, 0],
      [0.3, 3],
      [0.5, 3],
      [0.75, -3],
      [0.9, -2],
    ],
    'stalk.pitch': [
      [0, 3],
      [0.5, -3],
    ],
    'stalk.yaw': [
      [0, 4],
      [0.25, -4],
      [0.5, 4],
      [0.75, -4],
    ],
  }),
  clip(
    'hopper-hop',
    'Hop',
    'hopper',
    0.95,
    {
      'hips.y': [
        [0, -0.02],
        [0.1, -0.045],
        [0.24, 0],
        [0.38, 0.14],
        [0.5, 0.42],
        [0.64, 0.56],
        [0.8, 0.36],
        [0.92, 0.08],
      ],
      'hips.pitch': [
        [0, 3],
        [0.12, 4],
        [0.28, -8],
        [0.42, -20],
        [0.6, -6],
        [0.8, 12],
        [0.93, 9],
      ],
      'chest.pitch': [
        [0, -2],
        [0.3, 3],
        [0.6, -2],
        [0.9, -4],
      ],
      'head.pitch': [
        [0, -2],
        [0.3, 3],
        [0.6, -2],
        [0.92, -5],
      ],
      'jaw.pitch': [
        [0, 2],
        [0.1, 4],
        [0.35, -3],
        [0.7, 6],
        [0.92, 0],
      ],
      'tongue.pitch': [
        [0, -6],
        [0.4, 6],
        [0.7, -12],
      ],
      // thrown off behind, trailing, then drawn up to land on
      'hindFoot.pitch': [
        [0, 0],
        [0.24, 0],
        [0.36, 18],
        [0.46, 50],
        [0.56, 76],
        [0.68, 60],
        [0.82, 8],
        [0.93, -12],
        [1, 0],
      ],
      'hindFoot.lift': [
        [0.46, 0],
        [0.56, 0.06],
        [0.66, 0.2],
        [0.8, 0.36],
        [0.92, 0.12],
        [1, 0],
      ],
      'foreFoot.pitch': [
        [0, 0],
        [0.3, 0],
        [0.45, 34],
        [0.66, 20],
        [0.86, -16],
        [1, 0],
      ],
      'foreFoot.lift': [
        [0.4, 0],
        [0.56, 0.42],
        [0.72, 0.46],
        [0.88, 0.16],
        [1, 0],
      ],
      'stalk.pitch': [
        [0, -6],
        [0.2, -2],
        [0.45, 9],
        [0.7, 2],
        [0.9, -8],
      ],
    },
    {
      travel: 1.15,
      stance: [0, 0.42],
      stances: { leftFore: [0, 0.2], rightFore: [0, 0.2] },
      phases: { leftHind: 0, rightHind: 0, leftFore: 0.92, rightFore: 0.92 },
    },
  ),
  clip('hopper-gulp', 'Gulp', 'hopper', 2.4, {
    'hips.y': [
      [0, -0.02],
      [0.2, -0.035],
      [0.36, 0.06],
      [0.5, -0.03],
      [0.8, -0.02],
    ],
    'hips.pitch': [
      [0, 0],
      [0.2, 4],
      [0.36, -9],
      [0.52, 3],
      [0.8, 0],
    ],
    'jaw.pitch': [
      [0, 0],
      [0.2, 9],
      [0.34, 20],
      [0.42, 18],
      [0.5, -5],
      [0.6, 3],
      [0.7, -4],
      [0.8, 1],
      [0.92, 0],
    ],
    'head.pitch': [
      [0, 0],
      [0.2, 4],
      [0.34, -12],
      [0.42, -11],
      [0.5, 4],
      [0.7, 1],
      [0.9, 0],
    ],
    'tongue.pitch': [
      [0, 0],
      [0.2, 6],
      [0.34, -22],
      [0.42, -14],
      [0.5, 4],
      [0.8, 0],
    ],
    'stalk.pitch': [
      [0, 0],
      [0.2, -8],
      [0.36, 9],
      [0.52, -6],
      [0.7, 4],
      [0.9, 0],
    ],
  }),
]

export const TIDE_CLIPS: ClipDef[] = [...WADER, ...HOPPER]
