import type { BodyPlan } from '@idle-tinker/core'

/*
 * What is to be known of creatures that stand on four legs: two kinds of skeleton.
 */

type Bone = BodyPlan['bones'][number]
type Limb = BodyPlan['limbs'][number]

const SIDES = ['left', 'right'] as const
const ENDS = ['Hind', 'Fore'] as const
const STEMS = ['UpperLeg', 'LowerLeg', 'Foot', 'Toes'] as const

const bone = (name: string, parent: string | null, level: Bone['level'] = 'crowd'): Bone => ({ name, parent, level })

/** Four bones a leg: hind ones hang from the first, fore ones from the second of two bones. Long toes are there from afar. */
const legBones = (hind: string, fore: string, longToes: readonly string[] = []): Bone[] =>
  SIDES.flatMap((side) =>
    ENDS.flatMap((end) =>
      STEMS.map((stem, i) =>
        bone(
          `${side}${end}${stem}`,
          i === 0 ? (end === 'Hind' ? hind : fore) : `${side}${end}${STEMS[i - 1]!}`,
          stem === 'Toes' && !longToes.includes(end) ? 'crowd' : 'far',
        ),
      ),
    ),
  )

/** The names of all of them. */
export const LEG_BONES = legBones('', '').map((b) => b.name)

const low = (name: string) => name[0]!.toLowerCase() + name.slice(1)

const legPairs = ENDS.flatMap((end) =>
  STEMS.map((stem) => ({ id: low(`${end}${stem}`), left: `left${end}${stem}`, right: `right${end}${stem}` })),
)

/** Legs with their channels; a pole says where a leg's middle joint points. */
const legLimbs = (
  phase: (side: 'left' | 'right', end: 'Hind' | 'Fore') => number,
  poles: Record<string, Limb['pole']>,
) =>
  SIDES.flatMap((side) =>
    ENDS.map((end): Limb => ({
      id: `${side}${end}`,
      kind: 'leg',
      side,
      bones: STEMS.map((stem) => `${side}${end}${stem}`),
      channels: [`${low(end)}UpperLeg`, `${low(end)}Knee`, `${low(end)}Foot`, `${low(end)}Toes`],
      phase: phase(side, end),
      ...(poles[end] ? { pole: poles[end] } : {}),
    })),
  )

const ground = SIDES.flatMap((side) => ENDS.flatMap((end) => [`${side}${end}Foot`, `${side}${end}Toes`]))

type Point = NonNullable<BodyPlan['points']>[number]

/** What games ask for of anything on four legs. */
const pointsOn = (back: string): Point[] => [
  { id: 'headTop', name: 'Top of the head', bone: 'head', place: 'top' },
  { id: 'lookAt', name: 'Where it looks', bone: 'head', place: 'ahead' },
  { id: 'backTop', name: 'Top of the back', bone: back, place: 'top' },
  { id: 'hips', name: 'Hips', bone: 'hips', place: 'joint' },
  ...SIDES.flatMap((side) =>
    ENDS.map((end): Point => ({
      id: `${side}${end}Sole`,
      name: `${side === 'left' ? 'Left' : 'Right'} ${end.toLowerCase()} sole`,
      bone: `${side}${end}Foot`,
      place: 'sole',
    })),
  ),
]

/** Stilted waders: a trunk carried level, a neck, a short tail. */
export const WADER: BodyPlan = {
  id: 'wader',
  name: 'Four long legs and a neck',
  bones: [
    bone('hips', null, 'far'),
    bone('spine', 'hips'),
    bone('chest', 'spine', 'far'),
    bone('neckBase', 'chest', 'far'),
    bone('neckMiddle', 'neckBase'),
    bone('head', 'neckMiddle', 'far'),
    bone('tail1', 'hips'),
    bone('tail2', 'tail1', 'standard'),
    ...legBones('hips', 'chest'),
  ],
  pairs: legPairs,
  limbs: [
    // one foot after another: left hind, left fore, right hind, right fore
    ...legLimbs((side, end) => (side === 'left' ? 0 : 0.5) + (end === 'Fore' ? 0.25 : 0), { Fore: [0, 0, -1] }),
    { id: 'tail', kind: 'tail', bones: ['tail1', 'tail2'], channels: ['tail'], lag: 0.1 },
  ],
  ground,
  points: pointsOn('spine'),
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
        neckBase: [12, 8, 0],
        neckMiddle: [8, 8, 0],
        tail1: [0, 18, 0],
      },
    },
    { id: 'drinking', name: 'Head down', turns: { neckBase: [46, 0, 0], neckMiddle: [34, 0, 0], head: [-20, 0, 0] } },
  ],
}

/** Squat hoppers: a trunk that is head and belly at once, a jaw, hind legs to leap with. */
export const HOPPER: BodyPlan = {
  id: 'hopper',
  name: 'Leaping hind legs and a jaw',
  bones: [
    bone('hips', null, 'far'),
    bone('chest', 'hips', 'far'),
    bone('head', 'chest'),
    bone('jaw', 'chest'),
    bone('tongue', 'jaw', 'standard'),
    ...legBones('hips', 'chest', ['Hind']),
  ],
  pairs: legPairs,
  limbs: legLimbs((_side, end) => (end === 'Fore' ? 0.08 : 0), { Fore: [0, 0, -1] }),
  ground,
  points: pointsOn('chest'),
  poses: [
    {
      id: 'leap',
      name: 'In the leap',
      turns: {
        leftHindUpperLeg: [34, 0, 0],
        rightHindUpperLeg: [34, 0, 0],
        leftHindLowerLeg: [-44, 0, 0],
        rightHindLowerLeg: [-44, 0, 0],
        leftForeUpperLeg: [-24, 0, 0],
        rightForeUpperLeg: [-24, 0, 0],
        hips: [-10, 0, 0],
      },
    },
    { id: 'gaping', name: 'Mouth wide open', turns: { jaw: [16, 0, 0], head: [-10, 0, 0] } },
  ],
}
