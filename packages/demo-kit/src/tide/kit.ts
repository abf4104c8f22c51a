import { KIT_FORMAT, type BodyDef, type PaletteDef } from '@idle-tinker/core'
import { color, own, slotsOf } from '../entries.ts'
import { along, flipX } from '../model/vector.ts'
import type { KitSource } from '../writeKit.ts'
import { buildOttern, OTTERN_ARM, OTTERN_SHOULDER, otternSkin } from './ottern.ts'
import { Dummy } from '../model/garment.ts'
import GROWTHS from './growths.ts'
import OTTERN_PARTS from './parts.ts'
import { OTTERN_EXPRESSIONS, OTTERN_MOVEMENTS, OTTERN_MOVING } from './expressions.ts'
import { OTTERN_ARCHETYPES } from './archetypes.ts'
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

const slot = slotsOf('ottern')
const palette = (id: string, name: string, swatches: Record<string, string[]>): PaletteDef => ({ id, name, swatches })

export function tideKit(): KitSource {
  const { sculpt, landmarks } = buildOttern()
  const grip = along(along(OTTERN_SHOULDER, OTTERN_ARM, 30), [-0.8, -0.4, 0.2], 2.2)
  return {
    manifest: {
      format: KIT_FORMAT,
      version: 2,
      id: 'tide-creatures',
      name: 'Tide creatures',
      kitVersion: '2.2.0',
      license: 'CC0-1.0',
      slots: [
        slot('horns', 'Crown of the head', 'crown piece', 'head', { weight: 0.9 }),
        slot('eyes', 'Eyes', 'eyes', 'head', { weight: 0.1, care: 2.5, picture: 'face' }),
        slot('whiskers', 'Whiskers', 'whiskers', 'head', { weight: 0.1, picture: 'face' }),
        slot('neck', 'Neckwear', 'neckwear', 'neck', { weight: 0.5 }),
        slot('vest', 'Vest', 'vest', 'torso', { weight: 0.8 }),
        slot('bag', 'Belt and bag', 'belt or bag', 'hips', { weight: 0.5 }),
        slot('back', 'Back', 'growth on the back', 'torso', { weight: 0.7, picture: 'behind' }),
        slot('left-hand', 'Left paw', 'thing in the left paw', 'arms', { weight: 0.4 }),
        slot('right-hand', 'Right paw', 'thing in the right paw', 'arms', { weight: 0.7 }),
        slot('tail', 'Tail', 'tail piece', 'tail', { weight: 0.5 }),
        slot('growths', 'Growths', 'growth', 'head', { weight: 0.3, most: 30, empty: 1 }),
      ],
      colorRegions: [
        own('fur', 'Fur', '#7a5238'),
        own('belly', 'Belly', '#d9bf92'),
        own('paw', 'Paws', '#4e3527'),
        own('claw', 'Claws', '#2c211d'),
        own('nose', 'Nose', '#241d20'),
        own('ear-inside', 'Inside of the ears', '#a9745a'),
        own('eye-white', 'Eye rim', '#e8d9b8'),
        own('iris', 'Iris', '#8a5420'),
        own('pupil', 'Pupil', '#17130f'),
        own('glint', 'Glint', '#ffffff'),
        own('whisker', 'Whiskers', '#efe6cf'),
        color('hair', 'Tufts', '#d9bf92'),
        color('coral', 'Coral', '#e0735a'),
        color('shell', 'Shell', '#e8b9a0'),
        color('shell-edge', 'Shell edge', '#f3dcc2'),
        color('scarf', 'Scarf', '#c8472f'),
        color('scarf-stripe', 'Scarf stripe', '#e3b040'),
        color('frill', 'Frill', '#4fa38f'),
        color('vest', 'Vest', '#2f7285'),
        color('vest-lining', 'Vest lining', '#c9a15d'),
        color('leather', 'Leather', '#7d4d30'),
        color('leather-dark', 'Flap', '#5d3823'),
        color('metal', 'Brass', '#dcae55'),
        color('rope', 'Rope', '#c8a870'),
        color('cork', 'Cork', '#c98a4e'),
        color('barnacle', 'Barnacles', '#cfc7b4'),
        color('wood', 'Wood', '#a87848'),
        color('glow', 'Glow', '#bff5e0'),
      ],
      palettes: [
        palette('river-brown', 'River brown', {
          fur: ['#7a5238', '#5a3a28', '#9c7048', '#6e5a4a', '#a5662f', '#48372f'],
          belly: ['#d9bf92', '#ecdcb8', '#c9a878'],
          frill: ['#4fa38f', '#b5a03c', '#3f6f9a'],
          shell: ['#e8b9a0', '#9fb8c9'],
          scarf: ['#c8472f', '#2f7285', '#5f8a3c', '#7a4f86'],
          'scarf-stripe': ['#e3b040', '#f0e0b8'],
          vest: ['#2f7285', '#7c3f3a', '#4d6a3a', '#c9962e'],
          coral: ['#e0735a', '#d94f6a'],
        }),
        palette('deep-glow', 'Deep Glow', {
          fur: ['#31505c', '#22364a', '#4a7a78', '#3a4a70'],
          belly: ['#a8d8c8', '#8fc3c9'],
          scarf: ['#3fb8a0', '#e8e07a'],
          'scarf-stripe': ['#d8f5e0', '#1d4a5c'],
          vest: ['#1f5a66', '#5a4a86'],
          frill: ['#6fe0c0'],
          coral: ['#7fe8d0'],
          iris: ['#e8d84a'],
        }),
        palette('salt-wedding', 'Salt Wedding', {
          fur: ['#b09a84', '#857668', '#d6c4ac', '#c2a07a'],
          belly: ['#f6ecd8'],
          scarf: ['#d97a6a', '#8fb8c9'],
          'scarf-stripe': ['#fbf6ea'],
          vest: ['#c9a86a', '#d8b8b0'],
          shell: ['#f6d8cc'],
          coral: ['#f0a090'],
        }),
      ],
    },
    bodies: [
      {
        id: 'ottern',
        name: 'Ottern',
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
        limbs: [
          { id: 'tail', kind: 'tail', bones: ['tail1', 'tail2', 'tail3', 'tail4'], channels: ['tail'], lag: 0.09 },
        ],
        sockets: [
          { id: 'rightGrip', name: 'Right grip', bone: 'rightHand', at: [...flipX(grip)] },
          { id: 'leftGrip', name: 'Left grip', bone: 'leftHand', at: [...grip] },
          { id: 'brow', name: 'Brow', bone: 'head', at: [...new Dummy(sculpt).front(0, 95, 0)] },
        ],
        seams: [],
        defaults: { eyes: 'eyes-round' },
        parts: [...OTTERN_PARTS, ...GROWTHS],
      },
    ],
  }
}
