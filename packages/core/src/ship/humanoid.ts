/** Bones that every humanoid of the open VRM standard 1.0 has. */
export const HUMAN_BONES: readonly string[] = [
  ...['hips', 'spine', 'head'],
  ...['left', 'right'].flatMap((side) =>
    ['UpperLeg', 'LowerLeg', 'Foot', 'UpperArm', 'LowerArm', 'Hand'].map((bone) => `${side}${bone}`),
  ),
]
