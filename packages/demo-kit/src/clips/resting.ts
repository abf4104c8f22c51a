import { breathing, clip, held, STANDS, still, sway, type Curves } from './make.ts'

/** Sitting as on a bollard: thighs level, feet under the knees. Where hips, trunk and arms are. */
const SEAT: Record<string, number> = {
  'hips.y': -0.5,
  'hips.z': -0.4,
  'hips.pitch': -4,
  'spine.pitch': 7,
  'upperArm.swing': 22,
  'upperArm.out': 10,
  'upperArm.twist': 16,
  'lowerArm.bend': 56,
  'fingers.curl': 22,
  'foot.out': 0.03,
  'knee.out': 8,
  'tail.pitch': 30,
}
const onSeat = (): Curves => Object.fromEntries(Object.entries(SEAT).map(([c, v]) => [c, still(v)]))
const standing = (channel: string) => STANDS[channel]?.[0]?.[1] ?? 0

/** From how one stands to how one sits, or back. */
function between(down: boolean): Curves {
  const way = ([a, b]: readonly [number, number]) =>
    down ? held([0, 0.06, a], [0.9, 1, b]) : held([0, 0.1, b], [0.94, 1, a])
  const curves = Object.entries(SEAT).map(([c, v]) => [c, way([standing(c), v])] as const)
  return {
    ...Object.fromEntries(curves),
    // the trunk leans over the feet on the way
    'spine.pitch': down
      ? [
          [0, 1.5],
          [0.35, 30],
          [0.6, 34],
          [1, 7],
        ]
      : [
          [0, 7],
          [0.3, 36],
          [0.6, 22],
          [1, 1.5],
        ],
    'head.pitch': [
      [0, 0],
      [0.4, -14],
      [1, 0],
    ],
  }
}

export const RESTING = [
  clip('sit-down', 'Sit down', 1.4, between(true), { loop: false }),
  clip('sit', 'Sit', 5, {
    ...onSeat(),
    ...breathing(2, 7),
    'head.yaw': [
      [0, 0],
      [0.3, 12],
      [0.5, 10],
      [0.8, -10],
    ],
    'head.pitch': sway(2, -2),
    'tail.yaw': sway(10, -10),
  }),
  clip('stand-up', 'Stand up', 1.3, between(false), { loop: false }),
  clip('mend-net', 'Mend a net', 3, {
    ...onSeat(),
    'spine.pitch': sway(15, 17),
    'head.pitch': sway(20, 23, 0.2),
    'head.yaw': sway(-4, 5, 0.2),
    'upperArm.out': still(6),
    'leftUpperArm.swing': sway(20, 23),
    'leftUpperArm.twist': still(34),
    'leftLowerArm.bend': sway(84, 88),
    // over, through, and drawn tight
    'rightUpperArm.swing': [
      [0, 22],
      [0.25, 30],
      [0.5, 18],
      [0.75, 26],
    ],
    'rightUpperArm.lift': [
      [0, 0],
      [0.3, 2],
      [0.6, 22],
      [0.8, 10],
    ],
    'rightUpperArm.twist': [
      [0, 34],
      [0.3, 40],
      [0.6, 14],
    ],
    'rightLowerArm.bend': [
      [0, 88],
      [0.25, 80],
      [0.5, 92],
      [0.65, 106],
    ],
    'fingers.curl': sway(48, 62),
  }),
  clip(
    'lie',
    'Lie',
    6,
    {
      'hips.y': still(-1),
      'hips.pitch': still(-90),
      'chest.pitch': [
        [0, 0],
        [0.25, -2],
        [0.5, 0],
        [0.75, -2],
      ],
      'neck.pitch': still(8),
      'head.yaw': [
        [0, 6],
        [0.4, 10],
        [0.7, -4],
      ],
      'upperArm.out': still(20),
      'upperArm.swing': still(8),
      'lowerArm.bend': still(14),
      'fingers.curl': still(26),
      'foot.along': still(1.17),
      'foot.pitch': still(-64),
      'foot.yaw': still(16),
      'foot.out': still(0.05),
      // a tail lies between the legs
      'tail1.pitch': still(-58),
      'tail.pitch': still(-6),
    },
    { lies: true },
  ),
]
