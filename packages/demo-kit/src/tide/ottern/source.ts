import type { BodyDef } from '@idle-tinker/core'
import { Dummy } from '../../model/garment.ts'
import { along, flipX } from '../../model/vector.ts'
import type { BodySource } from '../../writeKit.ts'
import GROWTHS, { FUR_EYE } from '../growths.ts'
import { OTTERN_ARCHETYPES } from './archetypes.ts'
import { buildOttern, OTTERN_ARM, OTTERN_SHOULDER, otternSkin } from './body.ts'
import { OTTERN_EXPRESSIONS, OTTERN_MOVEMENTS, OTTERN_MOVING } from './expressions.ts'
import OTTERN_PARTS from './parts.ts'
import { OTTERN_CORRECTIVES, OTTERN_GROUPS, OTTERN_SLIDERS } from './sliders.ts'

/** Metres in one body unit: an ottern stands 1.22 m tall. */
const SCALE = 0.0122

const both = (...names: string[]) => ['left', 'right'].flatMap((s) => names.map((n) => `${s}${n}`))

const REGIONS: BodyDef['regions'] = [
  { id: 'head', name: 'Head', bones: ['head', 'jaw', 'leftEye', 'rightEye'], care: 2.2 },
  { id: 'neck', name: 'Neck', bones: ['neck'] },
  { id: 'torso', name: 'Trunk', bones: ['spine', 'chest', 'upperChest', ...both('Shoulder')] },
  { id: 'hips', name: 'Hips', bones: ['hips'] },
  { id: 'arms', name: 'Arms', bones: both('UpperArm', 'LowerArm', 'Hand') },
  { id: 'legs', name: 'Legs', bones: both('UpperLeg', 'LowerLeg', 'Foot', 'Toes') },
  { id: 'tail', name: 'Tail', bones: ['tail1', 'tail2', 'tail3', 'tail4'] },
]

export function ottern(): BodySource {
  const { sculpt, landmarks } = buildOttern()
  const grip = along(along(OTTERN_SHOULDER, OTTERN_ARM, 30), [-0.8, -0.4, 0.2], 2.2)
  return {
    id: 'ottern',
    name: 'Ottern',
    plan: 'biped',
    scale: SCALE,
    sculpt,
    landmarks,
    skin: otternSkin,
    sliders: [...OTTERN_SLIDERS, ...OTTERN_MOVEMENTS],
    correctives: OTTERN_CORRECTIVES,
    sliderGroups: [...OTTERN_GROUPS, ...OTTERN_MOVING],
    expressions: OTTERN_EXPRESSIONS,
    archetypes: OTTERN_ARCHETYPES,
    regions: REGIONS,
    bones: [1, 2, 3, 4].map((i) => ({
      name: `tail${i}`,
      parent: i === 1 ? 'hips' : `tail${i - 1}`,
      level: i <= 2 ? ('crowd' as const) : ('standard' as const),
    })),
    limbs: [{ id: 'tail', kind: 'tail', bones: ['tail1', 'tail2', 'tail3', 'tail4'], channels: ['tail'], lag: 0.09 }],
    sockets: [
      { id: 'rightGrip', name: 'Right grip', bone: 'rightHand', at: [...flipX(grip)] },
      { id: 'leftGrip', name: 'Left grip', bone: 'leftHand', at: [...grip] },
      { id: 'brow', name: 'Brow', bone: 'head', at: [...new Dummy(sculpt).front(0, 95, 0)] },
    ],
    seams: [
      { id: 'neck', name: 'Neck', region: 'head', faces: (f) => f.tag === 'head' },
      { id: 'tailRoot', name: 'Root of the tail', region: 'tail', faces: (f) => f.tag === 'tail' },
    ],
    defaults: { eyes: 'eyes-round' },
    parts: [...OTTERN_PARTS, ...GROWTHS, FUR_EYE],
  }
}
