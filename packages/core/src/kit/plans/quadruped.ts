import type { BodyPlan, Limb, PlannedBone, PlannedPoint } from '../plan.ts'

const SIDES = ['left', 'right'] as const
const ENDS = ['Hind', 'Fore'] as const
const STEMS = ['UpperLeg', 'LowerLeg', 'Foot', 'Toes'] as const

const bone = (name: string, parent: string | null, level: PlannedBone['level'] = 'far'): PlannedBone => ({
  ...{ name, parent, level },
})
const low = (name: string) => name[0]!.toLowerCase() + name.slice(1)
const TAIL = ['tail1', 'tail2', 'tail3'] as const

/** On four legs: dogs, horses, and creatures built like them. Toes and tails some have and others have not. */
export const QUADRUPED: BodyPlan = {
  id: 'quadruped',
  name: 'Four legs',
  bones: [
    bone('hips', null),
    bone('spine', 'hips', 'crowd'),
    bone('chest', 'spine'),
    bone('neck', 'chest'),
    bone('upperNeck', 'neck', 'crowd'),
    bone('head', 'upperNeck'),
    bone('jaw', 'head', 'near'),
    bone('leftEye', 'head', 'near'),
    bone('rightEye', 'head', 'near'),
    ...TAIL.map((name, i) => bone(name, i ? TAIL[i - 1]! : 'hips', i ? 'standard' : 'crowd')),
    ...SIDES.flatMap((side) =>
      ENDS.flatMap((end) =>
        STEMS.map((stem, i) =>
          bone(
            `${side}${end}${stem}`,
            i ? `${side}${end}${STEMS[i - 1]!}` : end === 'Hind' ? 'hips' : 'chest',
            stem === 'Toes' ? 'crowd' : 'far',
          ),
        ),
      ),
    ),
  ],
  pairs: [
    { id: 'eye', left: 'leftEye', right: 'rightEye' },
    ...ENDS.flatMap((end) =>
      STEMS.map((stem) => ({ id: low(`${end}${stem}`), left: `left${end}${stem}`, right: `right${end}${stem}` })),
    ),
  ],
  limbs: [
    // one foot after another: left hind, left fore, right hind, right fore
    ...SIDES.flatMap((side) =>
      ENDS.map((end): Limb => ({
        id: `${side}${end}`,
        kind: 'leg',
        side,
        bones: STEMS.map((stem) => `${side}${end}${stem}`),
        channels: [`${low(end)}UpperLeg`, `${low(end)}Knee`, `${low(end)}Foot`, `${low(end)}Toes`],
        phase: (side === 'left' ? 0 : 0.5) + (end === 'Fore' ? 0.25 : 0),
        // elbows point back
        ...(end === 'Fore' && { pole: [0, 0, -1] as [number, number, number] }),
      })),
    ),
    { id: 'neck', kind: 'neck', bones: ['neck', 'upperNeck'], channels: ['neck', 'upperNeck'] },
    { id: 'tail', kind: 'tail', bones: [...TAIL], channels: ['tail'], lag: 0.08 },
  ],
  ground: SIDES.flatMap((side) => ENDS.flatMap((end) => [`${side}${end}Foot`, `${side}${end}Toes`])),
  points: [
    { id: 'headTop', name: 'Top of the head', bone: 'head', place: 'top' },
    { id: 'leftEye', name: 'Left eye', bone: 'head', amid: ['leftEye'], place: 'joint' },
    { id: 'rightEye', name: 'Right eye', bone: 'head', amid: ['rightEye'], place: 'joint' },
    { id: 'lookAt', name: 'Where it looks', bone: 'head', place: 'ahead' },
    { id: 'backTop', name: 'Top of the back', bone: 'spine', place: 'top' },
    { id: 'hips', name: 'Hips', bone: 'hips', place: 'joint' },
    ...SIDES.flatMap((side) =>
      ENDS.map((end): PlannedPoint => ({
        id: `${side}${end}Sole`,
        name: `${side === 'left' ? 'Left' : 'Right'} ${end.toLowerCase()} sole`,
        bone: `${side}${end}Foot`,
        place: 'sole',
      })),
    ),
  ],
  poses: [
    {
      id: 'stride',
      name: 'A long stride',
      turns: {
        leftHindUpperLeg: [-26, 0, 0],
        rightHindUpperLeg: [24, 0, 0],
        leftHindLowerLeg: [20, 0, 0],
        leftForeUpperLeg: [22, 0, 0],
        rightForeUpperLeg: [-26, 0, 0],
        neck: [12, 8, 0],
        tail1: [0, 18, 0],
      },
    },
    { id: 'grazing', name: 'Head down', turns: { neck: [40, 0, 0], upperNeck: [26, 0, 0], head: [-14, 0, 0] } },
  ],
}
