import { clip, STANDS, still, sway } from './make.ts'

/** From one value to another and back twice a loop: with each pull of either hand. */
const twice = (a: number, b: number): [number, number][] => [0.08, 0.33, 0.58, 0.83].map((at, i) => [at, i % 2 ? b : a])

/** What hands do in a harbour. */
export const WORK = [
  clip(
    'haul-rope',
    'Haul a rope',
    1.8,
    {
      ...STANDS,
      'hips.z': twice(-0.05, -0.16),
      'hips.y': twice(-0.1, -0.16),
      'hips.pitch': twice(-3, -11),
      'spine.pitch': twice(9, -3),
      'spine.yaw': sway(14, -14, 0.1),
      'chest.yaw': sway(8, -8, 0.1),
      'head.yaw': sway(-12, 12, 0.1),
      'head.pitch': still(-2),
      // one hand reaches along the rope while the other draws it to the belly
      'leftUpperArm.swing': sway(62, 52, 0.05),
      'leftLowerArm.bend': sway(66, 26, 0.05),
      'rightUpperArm.swing': sway(52, 62, 0.05),
      'rightLowerArm.bend': sway(26, 66, 0.05),
      'upperArm.out': still(2),
      'upperArm.twist': still(20),
      'fingers.curl': still(76),
      'leftFoot.along': still(0.26),
      'rightFoot.along': still(-0.2),
      'rightFoot.yaw': still(24),
      'foot.out': still(0.03),
    },
    { grip: { kind: 'line', along: [0, -0.2, 1] } },
  ),
  clip(
    'climb',
    'Climb a ladder',
    1.4,
    {
      'hips.y': [
        [0, 0.14],
        [0.25, 0.18],
        [0.5, 0.14],
        [0.75, 0.18],
      ],
      'hips.z': still(-0.08),
      'hips.yaw': sway(-6, 6),
      'hips.roll': sway(5, -5),
      'spine.pitch': still(4),
      'spine.roll': sway(-4, 4),
      'head.pitch': still(-16),
      'upperArm.out': still(11),
      'upperArm.twist': still(8),
      'upperArm.swing': [
        [0, 96],
        [0.3, 150],
        [0.5, 146],
        [0.8, 112],
      ],
      'lowerArm.bend': [
        [0, 80],
        [0.3, 30],
        [0.5, 40],
        [0.8, 66],
      ],
      'fingers.curl': still(72),
      // the foot on the side of the hand that is low goes up
      'foot.lift': [
        [0, 0.12],
        [0.28, 0.46],
        [0.5, 0.46],
        [0.78, 0.26],
      ],
      'foot.along': [
        [0, 0.16],
        [0.14, 0.06],
        [0.3, 0.16],
        [0.7, 0.16],
      ],
      'foot.pitch': [
        [0, 14],
        [0.28, -6],
        [0.6, 2],
      ],
      'knee.out': still(14),
      'foot.out': still(0.02),
      'tail.pitch': still(-6),
      'tail.yaw': sway(10, -10),
    },
    { alternate: true, stance: [0, 0], grip: { kind: 'line', along: [0, 1, 0], each: true } },
  ),
]
