import type { BodyDef } from '@idle-tinker/core'
import type { BodySource } from '../../writeKit.ts'
import { HIDE_EYE, POD } from '../growths.ts'
import { LEG_BONES } from '../plans.ts'
import { GULPER_ARCHETYPES } from './archetypes.ts'
import { EYE_MOODS } from '../eyeMoods.ts'
import { buildGulper, gulperSkin } from './body.ts'
import { GULPER_PARTS } from './parts.ts'
import { GULPER_CORRECTIVES, GULPER_GROUPS, GULPER_MOVEMENTS, GULPER_SLIDERS } from './sliders.ts'

/** Metres in one body unit: a gulper's skull is 0.83 m up. */
const SCALE = 0.0105

const REGIONS: BodyDef['regions'] = [
  { id: 'head', name: 'Head', bones: ['head'], care: 1.6 },
  { id: 'jaw', name: 'Jaw', bones: ['jaw', 'tongue'], care: 1.4 },
  { id: 'torso', name: 'Chest', bones: ['chest'] },
  { id: 'hips', name: 'Rump', bones: ['hips'] },
  { id: 'legs', name: 'Legs', bones: LEG_BONES },
]

export function gulper(): BodySource {
  const { sculpt, landmarks } = buildGulper()
  return {
    id: 'gulper',
    name: 'Gulper',
    plan: 'hopper',
    scale: SCALE,
    sculpt,
    landmarks,
    skin: gulperSkin,
    sliders: [...GULPER_SLIDERS, ...GULPER_MOVEMENTS],
    correctives: GULPER_CORRECTIVES,
    sliderGroups: GULPER_GROUPS,
    expressions: EYE_MOODS,
    archetypes: GULPER_ARCHETYPES,
    regions: REGIONS,
    bones: [],
    limbs: [],
    sockets: [
      { id: 'lure', name: 'Lure', bone: 'head', at: [0, 76.6, 14] },
      { id: 'brow', name: 'Brow', bone: 'head', at: [0, 70, 30] },
    ],
    seams: [],
    defaults: { eyes: 'eyes-pods', teeth: 'teeth-needles' },
    parts: [...GULPER_PARTS, HIDE_EYE, POD],
  }
}
