import type { BodyPlan, Limb, PlannedBone, PlannedPoint } from '../plan.ts'

const FINGERS = ['Index', 'Middle', 'Ring', 'Little'] as const
const SIDES = ['left', 'right'] as const
type Side = (typeof SIDES)[number]
const UPPER: Record<Side, string> = { left: 'Left', right: 'Right' }

function bonesOf(s: Side): PlannedBone[] {
  const bones: PlannedBone[] = [
    { name: `${s}Shoulder`, parent: 'upperChest', level: 'crowd' },
    { name: `${s}UpperArm`, parent: `${s}Shoulder`, level: 'far' },
    { name: `${s}LowerArm`, parent: `${s}UpperArm`, level: 'far' },
    { name: `${s}Hand`, parent: `${s}LowerArm`, level: 'crowd' },
    { name: `${s}UpperLeg`, parent: 'hips', level: 'far' },
    { name: `${s}LowerLeg`, parent: `${s}UpperLeg`, level: 'far' },
    { name: `${s}Foot`, parent: `${s}LowerLeg`, level: 'far' },
    { name: `${s}Toes`, parent: `${s}Foot`, level: 'crowd' },
    { name: `${s}ThumbMetacarpal`, parent: `${s}Hand`, level: 'standard' },
    { name: `${s}ThumbProximal`, parent: `${s}ThumbMetacarpal`, level: 'standard' },
    { name: `${s}ThumbDistal`, parent: `${s}ThumbProximal`, level: 'full' },
  ]
  for (const finger of FINGERS) {
    // at standard detail the middle finger's bones carry the whole mitten of fingers
    const level = finger === 'Middle' ? 'standard' : 'near'
    const fold = (part: string) => (finger === 'Middle' ? {} : { fold: `${s}Middle${part}` })
    bones.push(
      { name: `${s}${finger}Proximal`, parent: `${s}Hand`, level, ...fold('Proximal') },
      { name: `${s}${finger}Intermediate`, parent: `${s}${finger}Proximal`, level, ...fold('Intermediate') },
      { name: `${s}${finger}Distal`, parent: `${s}${finger}Intermediate`, level: 'full' },
    )
  }
  return bones
}

function limbsOf(side: Side): Limb[] {
  const named = (...names: string[]) => names.map((n) => side + n)
  return [
    {
      id: `${side}Leg`,
      kind: 'leg',
      side,
      bones: named('UpperLeg', 'LowerLeg', 'Foot', 'Toes'),
      channels: ['upperLeg', 'knee', 'foot', 'toes'],
      phase: side === 'left' ? 0 : 0.5,
    },
    {
      id: `${side}Arm`,
      kind: 'arm',
      side,
      bones: named('UpperArm', 'LowerArm', 'Hand'),
      channels: ['upperArm', 'lowerArm', 'hand'],
    },
    ...FINGERS.map((finger): Limb => ({
      id: `${side}${finger}`,
      kind: 'digit',
      side,
      bones: named(`${finger}Proximal`, `${finger}Intermediate`, `${finger}Distal`),
      channels: ['fingers'],
    })),
  ]
}

const stems = [...bonesOf('left')].map((b) => b.name.slice('left'.length))

/** Upright on two legs, with two arms: people, and creatures built like them. */
export const BIPED: BodyPlan = {
  id: 'biped',
  name: 'Two legs, two arms',
  bones: [
    { name: 'hips', parent: null, level: 'far' },
    { name: 'spine', parent: 'hips', level: 'crowd' },
    { name: 'chest', parent: 'spine', level: 'far' },
    { name: 'upperChest', parent: 'chest', level: 'crowd' },
    { name: 'neck', parent: 'upperChest', level: 'crowd' },
    { name: 'head', parent: 'neck', level: 'far' },
    { name: 'jaw', parent: 'head', level: 'near' },
    { name: 'leftEye', parent: 'head', level: 'near' },
    { name: 'rightEye', parent: 'head', level: 'near' },
    ...SIDES.flatMap(bonesOf),
  ],
  pairs: ['Eye', ...stems].map((stem) => ({
    id: stem[0]!.toLowerCase() + stem.slice(1),
    left: `left${stem}`,
    right: `right${stem}`,
  })),
  limbs: SIDES.flatMap(limbsOf),
  ground: SIDES.flatMap((s) => [`${s}Foot`, `${s}Toes`]),
  points: [
    { id: 'headTop', name: 'Top of the head', bone: 'head', place: 'top' },
    { id: 'leftEye', name: 'Left eye', bone: 'head', amid: ['leftEye'], place: 'joint' },
    { id: 'rightEye', name: 'Right eye', bone: 'head', amid: ['rightEye'], place: 'joint' },
    { id: 'lookAt', name: 'Where it looks', bone: 'head', amid: ['leftEye', 'rightEye'], place: 'ahead' },
    { id: 'back', name: 'Back', bone: 'upperChest', place: 'back' },
    { id: 'hips', name: 'Hips', bone: 'hips', place: 'joint' },
    ...SIDES.map((s): PlannedPoint => ({
      id: `${s}Grip`,
      name: `${UPPER[s]} grip`,
      bone: `${s}Hand`,
      amid: [`${s}Hand`, `${s}MiddleProximal`],
      place: 'joint',
    })),
    ...SIDES.map((s): PlannedPoint => ({ id: `${s}Sole`, name: `${UPPER[s]} sole`, bone: `${s}Foot`, place: 'sole' })),
  ],
  poses: [
    { id: 'arms-down', name: 'Arms down', turns: { leftUpperArm: [0, 0, -34], rightUpperArm: [0, 0, 34] } },
    {
      id: 'stride',
      name: 'A long stride',
      turns: {
        leftUpperLeg: [-40, 0, 0],
        rightUpperLeg: [29, 0, 0],
        leftLowerLeg: [17, 0, 0],
        rightLowerLeg: [34, 0, 0],
        leftUpperArm: [29, 0, -17],
        rightUpperArm: [-34, 0, 17],
        leftLowerArm: [-34, 0, 0],
        rightLowerArm: [-34, 0, 0],
        spine: [7, 9, 0],
        head: [0, 17, 0],
      },
    },
  ],
}
