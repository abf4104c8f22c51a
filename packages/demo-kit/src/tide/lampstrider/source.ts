import type { BodyDef } from '@idle-tinker/core'
import type { BodySource } from '../../writeKit.ts'
import { PLUME_EYE } from '../growths.ts'
import { LURES } from '../lures.ts'
import { LEG_BONES } from '../plans.ts'
import { LAMPSTRIDER_ARCHETYPES } from './archetypes.ts'
import { EYE_MOODS } from '../eyeMoods.ts'
import { buildLampstrider, lampstriderSkin } from './body.ts'
import { LAMPSTRIDER_PARTS } from './parts.ts'
import { LAMPSTRIDER_CORRECTIVES, LAMPSTRIDER_GROUPS, LAMPSTRIDER_MOVEMENTS, LAMPSTRIDER_SLIDERS } from './sliders.ts'

/** Metres in one body unit: a lampstrider's crown is 2.05 m up. */
const SCALE = 0.0205

const REGIONS: BodyDef['regions'] = [
  { id: 'head', name: 'Head', bones: ['head'], care: 2.4 },
  { id: 'neck', name: 'Neck', bones: ['neckBase', 'neckMiddle'] },
  { id: 'torso', name: 'Trunk', bones: ['spine', 'chest'] },
  { id: 'hips', name: 'Hips', bones: ['hips'] },
  { id: 'legs', name: 'Legs', bones: LEG_BONES },
  { id: 'tail', name: 'Tail', bones: ['tail1', 'tail2'] },
]

export function lampstrider(): BodySource {
  const { sculpt, landmarks } = buildLampstrider()
  return {
    id: 'lampstrider',
    name: 'Lampstrider',
    plan: 'wader',
    scale: SCALE,
    sculpt,
    landmarks,
    skin: lampstriderSkin,
    sliders: [...LAMPSTRIDER_SLIDERS, ...LAMPSTRIDER_MOVEMENTS],
    correctives: LAMPSTRIDER_CORRECTIVES,
    sliderGroups: LAMPSTRIDER_GROUPS,
    expressions: EYE_MOODS,
    archetypes: LAMPSTRIDER_ARCHETYPES,
    regions: REGIONS,
    bones: [],
    limbs: [],
    sockets: [
      { id: 'lure', name: 'Lure', bone: 'head', at: [0, 98.6, 29.4] },
      { id: 'brow', name: 'Brow', bone: 'head', at: [0, 97.6, 32.6] },
    ],
    seams: [],
    defaults: { eyes: 'eyes-wader-round' },
    parts: [...LAMPSTRIDER_PARTS, ...LURES, PLUME_EYE],
  }
}
