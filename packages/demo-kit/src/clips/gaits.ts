import { clip, held, rightHand, still, sway, walking } from './make.ts'

/** Ways to go somewhere: all made from the walk, but for the run. */
const STEPS = { alternate: true } as const

const RUN = clip(
  'run',
  'Run',
  0.66,
  {
    // lowest over the standing leg, highest while no foot is down
    'hips.y': [
      [0, -0.035],
      [0.14, -0.085],
      [0.42, 0.02],
      [0.5, -0.035],
      [0.64, -0.085],
      [0.92, 0.02],
    ],
    'hips.x': sway(0.012, -0.012, 0.16),
    'hips.yaw': sway(-11, 11),
    'hips.roll': sway(-3, 3, 0.16),
    'hips.pitch': still(7),
    'spine.pitch': still(5),
    'spine.yaw': sway(9, -9),
    'chest.yaw': sway(9, -9),
    'upperChest.yaw': sway(3, -3),
    'neck.yaw': sway(-4, 4),
    'head.yaw': sway(-5, 5),
    'head.pitch': still(-7),
    'upperArm.out': still(14),
    'upperArm.swing': sway(-46, 40),
    'upperArm.twist': still(12),
    'lowerArm.bend': sway(72, 98),
    'fingers.curl': still(55),
    'foot.pitch': [
      [0, -8],
      [0.05, 0],
      [0.18, 0],
      [0.3, 26],
      [0.38, 50],
      [0.5, 46],
      [0.6, 34],
      [0.74, 20],
      [0.88, -4],
    ],
    'foot.lift': [
      [0.36, 0],
      [0.42, 0.11],
      [0.6, 0.17],
      [0.76, 0.13],
      [0.9, 0.07],
      [1, 0],
    ],
    'toes.pitch': held([0, 0.3, 0], [0.5, 0.6, 8], [0.85, 0.9, -8]),
    'tail.yaw': sway(12, -12),
    'tail.pitch': still(-14),
    'stalk.pitch': sway(-10, 4),
  },
  { ...STEPS, travel: 2.2, stance: [0, 0.36] },
)

export const GAITS = [
  clip(
    'stroll',
    'Stroll',
    1.35,
    walking(
      {
        'hips.yaw': 0.7,
        'spine.yaw': 0.7,
        'chest.yaw': 0.7,
        'upperArm.swing': 0.6,
        'foot.lift': 0.8,
        'hips.y': 1.2,
      },
      {
        'spine.pitch': still(1),
        'head.yaw': [
          [0, 4],
          [0.35, 9],
          [0.8, -6],
        ],
        'lowerArm.bend': sway(12, 24),
      },
    ),
    { ...STEPS, travel: 1.0, stance: [0, 0.6] },
  ),
  clip(
    'hurry',
    'Hurry',
    0.78,
    walking(
      { 'hips.yaw': 1.25, 'spine.yaw': 1.2, 'chest.yaw': 1.3, 'foot.lift': 1.6, 'hips.y': 1.2 },
      {
        'hips.pitch': still(3),
        'spine.pitch': still(7),
        'head.pitch': still(-6),
        'upperArm.swing': sway(-34, 34),
        'lowerArm.bend': sway(44, 76),
        'fingers.curl': still(38),
      },
    ),
    { ...STEPS, travel: 1.42, stance: [0, 0.6] },
  ),
  RUN,
  clip(
    'stagger',
    'Stagger',
    1.25,
    walking(
      { 'foot.lift': 0.8, 'foot.pitch': 0.75, 'upperArm.swing': 0.5, 'hips.y': 1.2, 'hips.x': 1.4 },
      {
        'hips.roll': [
          [0, 2],
          [0.22, -6],
          [0.5, 1],
          [0.78, 6],
        ],
        'hips.yaw': sway(-7, 8),
        'spine.pitch': [
          [0, 8],
          [0.3, 16],
          [0.6, 5],
          [0.85, 13],
        ],
        'spine.roll': [
          [0.05, 3],
          [0.32, 9],
          [0.6, -2],
          [0.85, -8],
        ],
        'head.pitch': [
          [0, 12],
          [0.4, 4],
          [0.7, 18],
        ],
        'head.roll': sway(12, -10, 0.3),
        'upperArm.out': [
          [0, 24],
          [0.25, 42],
          [0.6, 20],
        ],
        'lowerArm.bend': sway(18, 34, 0.2),
        'foot.out': still(0.035),
      },
    ),
    { ...STEPS, travel: 0.62, stance: [0, 0.6] },
  ),
  clip(
    'carry-box',
    'Carry a box',
    1.15,
    walking(
      { 'hips.yaw': 0.6, 'spine.yaw': 0.5, 'chest.yaw': 0.4, 'upperChest.yaw': 0, 'foot.lift': 0.8 },
      {
        'hips.pitch': still(-2),
        'spine.pitch': still(-5),
        'head.pitch': still(3),
        'upperArm.out': still(6),
        'upperArm.swing': still(26),
        'upperArm.twist': still(14),
        'lowerArm.bend': still(72),
        'hand.bend': still(-8),
        'fingers.curl': still(30),
      },
    ),
    { ...STEPS, grip: { kind: 'thing' }, travel: 1.12, stance: [0, 0.6] },
  ),
  clip(
    'carry-lantern',
    'Carry a lantern',
    1.15,
    walking(
      { 'hips.yaw': 0.8, 'chest.yaw': 0.6, 'spine.yaw': 0.8, 'foot.pitch': 0.9 },
      {
        'rightUpperArm.out': still(12),
        'rightUpperArm.swing': still(48),
        'rightUpperArm.lift': still(14),
        'rightLowerArm.bend': [
          [0, 66],
          [0.5, 70],
        ],
        'rightHand.bend': still(10),
        ...rightHand(still(80), still(85)),
        'head.yaw': [
          [0, -6],
          [0.5, 2],
        ],
      },
    ),
    { ...STEPS, travel: 1.0, stance: [0, 0.6] },
  ),
]
