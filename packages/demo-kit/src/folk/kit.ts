import { CLIPS, FOUR_LEGS } from '../clips/index.ts'
import { POSES } from '../clips/poses.ts'
import { KIT_FORMAT, type BodyDef, type ColorRegionDef, type PaletteDef, type SlotDef } from '@idle-tinker/core'
import { color, own, slotsOf } from '../entries.ts'
import { flipX } from '../model/vector.ts'
import { Dummy } from '../model/garment.ts'
import { HUMAN_ARCHETYPES } from './archetypes.ts'
import { buildHumanBody, fingerBones, humanSkin } from './body.ts'
import { LOOKS } from './looks.ts'
import { FACE_CORRECTIVES, HUMAN_EXPRESSIONS, HUMAN_MOVEMENTS, MOVING_GROUPS } from './expressions.ts'
import { onArm } from './hand.ts'
import beards from './parts/beards.ts'
import belts from './parts/belts.ts'
import coats from './parts/coats.ts'
import dresses from './parts/dresses.ts'
import eyes from './parts/eyes.ts'
import footwear from './parts/footwear.ts'
import hair from './parts/hair.ts'
import handwear from './parts/handwear.ts'
import headwear from './parts/headwear.ts'
import held from './parts/held.ts'
import hoods from './parts/hoods.ts'
import legwear from './parts/legwear.ts'
import loads from './parts/loads.ts'
import longHair from './parts/longHair.ts'
import neckwear from './parts/neckwear.ts'
import outerwear from './parts/outerwear.ts'
import replacing from './parts/replacing.ts'
import tops from './parts/tops.ts'
import trims from './parts/trims.ts'
import { HUMAN_SCALE } from './proportions.ts'
import { HUMAN_CORRECTIVES, HUMAN_GROUPS, HUMAN_SLIDERS } from './sliders/whole.ts'
import type { KitSource } from '../writeKit.ts'

const REGIONS: BodyDef['regions'] = [
  { id: 'head', name: 'Head', bones: ['head', 'jaw', 'leftEye', 'rightEye'], care: 2.2 },
  { id: 'neck', name: 'Neck', bones: ['neck'] },
  { id: 'torso', name: 'Trunk', bones: ['spine', 'chest', 'upperChest', 'leftShoulder', 'rightShoulder'] },
  { id: 'hips', name: 'Hips', bones: ['hips'] },
  { id: 'arms', name: 'Arms', bones: ['leftUpperArm', 'leftLowerArm', 'rightUpperArm', 'rightLowerArm'] },
  {
    id: 'hands',
    name: 'Hands',
    care: 0.85,
    bones: ['left', 'right'].flatMap((s) => [
      `${s}Hand`,
      ...['Thumb', 'Index', 'Middle', 'Ring', 'Little'].flatMap((f) => fingerBones(f).map((bone) => s + bone)),
    ]),
  },
  { id: 'thighs', name: 'Thighs', bones: ['leftUpperLeg', 'rightUpperLeg'] },
  { id: 'leftShin', name: 'Left shin and foot', bones: ['leftLowerLeg', 'leftFoot', 'leftToes'], care: 1.25 },
  { id: 'rightShin', name: 'Right shin and foot', bones: ['rightLowerLeg', 'rightFoot', 'rightToes'], care: 1.25 },
]

const slot = slotsOf('human')

const SLOTS: SlotDef[] = [
  slot('hat', 'Headwear', 'headwear', 'head', { weight: 1 }),
  slot('hair', 'Hair', 'hair', 'head', { weight: 0.7, picture: 'head' }),
  slot('brows', 'Brows', 'brows', 'head', { weight: 0.1, care: 3, picture: 'face' }),
  slot('eyes', 'Eyes', 'eyes', 'head', { weight: 0.1, care: 4, picture: 'face' }),
  slot('beard', 'Beard', 'beard', 'head', { weight: 0.5, picture: 'head' }),
  slot('neck', 'Neckwear', 'neckwear', 'neck', { weight: 0.5 }),
  slot('over', 'Outer layer', 'outer layer', 'torso', { weight: 1 }),
  slot('top', 'Shirt', 'shirt', 'torso', { weight: 0.6, empty: 0.05 }),
  slot('belt', 'Belt', 'belt', 'hips', { weight: 0.35 }),
  slot('back', 'Back', 'load', 'torso', { weight: 0.7, picture: 'behind' }),
  slot('hands', 'Hands', 'handwear', 'hands', { weight: 0.2 }),
  slot('left-hand', 'Left hand', 'thing in the left hand', 'hands', { weight: 0.4 }),
  slot('right-hand', 'Right hand', 'thing in the right hand', 'hands', { weight: 0.7 }),
  slot('legs', 'Legs', 'legwear', 'thighs', { weight: 0.8, empty: 0.05 }),
  slot('left-leg', 'Left leg', 'left leg', 'leftShin', { weight: 0.5 }),
  slot('right-leg', 'Right leg', 'right leg', 'rightShin', { weight: 0.5, empty: 1 }),
  slot('feet', 'Feet', 'footwear', 'leftShin', { weight: 0.3, empty: 0.05 }),
  slot('other-head', 'Other head', 'other head', 'head', { weight: 1, empty: 1 }),
  slot('other-left-hand', 'Other left hand', 'other left hand', 'hands', { weight: 0.4, empty: 1 }),
  slot('other-right-hand', 'Other right hand', 'other right hand', 'hands', { weight: 0.4, empty: 1 }),
  slot('tail', 'Tail', 'tail', 'hips', { weight: 0.6, empty: 1, picture: 'behind' }),
  slot('trims', 'Trims', 'trim', 'torso', { weight: 0.1, most: 30, empty: 1 }),
]

const COLORS: ColorRegionDef[] = [
  own('skin', 'Skin', '#e3aa80'),
  own('lips', 'Lips', '#bd6f5e'),
  own('mouth', 'Inside of the mouth', '#6b2f33'),
  own('teeth', 'Teeth', '#efe6d2'),
  own('tongue', 'Tongue', '#b5605a'),
  own('underlayer', 'Underlayer', '#cfc5b0'),
  own('eye-white', 'Eye white', '#f4efe4'),
  own('iris', 'Iris', '#4f7d86'),
  own('pupil', 'Pupil', '#1d1a1c'),
  own('lash', 'Lashes', '#2c1f1b'),
  own('brow', 'Brows', '#5d3420'),
  own('hair', 'Hair', '#8a4a24'),
  color('shirt', 'Shirt', '#e6dcc4'),
  color('trim', 'Shirt buttons', '#b08a4a'),
  color('knit', 'Knit', '#36586e'),
  color('knit-trim', 'Knit bands', '#d9c9a2'),
  color('bodice', 'Bodice', '#8c3f3a'),
  color('coat', 'Coat', '#2f7285'),
  color('coat-trim', 'Coat trim', '#23566b'),
  color('coat-lining', 'Lining', '#8a4636'),
  color('oilskin', 'Oilskin', '#e0a52f'),
  color('waistcoat', 'Waistcoat', '#7c4a3a'),
  color('smock', 'Smock', '#6f8f8a'),
  color('smock-trim', 'Smock trim', '#d8c79c'),
  color('shawl', 'Shawl', '#a5483d'),
  color('shawl-trim', 'Shawl edge', '#d9b36a'),
  color('trousers', 'Trousers', '#8d7b60'),
  color('trousers-trim', 'Turn-ups', '#a6947a'),
  color('waders', 'Waders', '#5f6b4c'),
  color('socks', 'Socks', '#b9a98c'),
  color('skirt', 'Skirt', '#5d5f7c'),
  color('skirt-trim', 'Skirt edge', '#c9a15d'),
  color('leather', 'Leather', '#7d4d30'),
  color('sole', 'Soles', '#3b2a22'),
  color('wood', 'Wood', '#b07d4a'),
  color('wraps', 'Wraps', '#c9b48d'),
  color('metal', 'Brass', '#dcae55'),
  color('rope', 'Rope', '#c8a870'),
  color('net', 'Net', '#7f8d7a'),
  color('cork', 'Cork', '#c98a4e'),
  color('basket', 'Basket', '#b98a50'),
  color('felt', 'Felt', '#6d5440'),
  color('hat-band', 'Hat band', '#b8432f'),
  color('scarf', 'Scarf', '#c2503a'),
  color('scarf-trim', 'Scarf fringe', '#e0b86a'),
  color('glow', 'Lamplight', '#ffe08a'),
  color('paper', 'Paper', '#f0e6cc'),
  color('paint', 'Paint', '#c2503a'),
  color('fish', 'Fish', '#8fa9b3'),
  color('fish-fin', 'Fins', '#5f7f8f'),
]

const SKINS = ['#f0c39c', '#e3aa80', '#c98a5e', '#a56a43', '#7d4b30', '#5a3524']
const HAIRS = ['#2a1d18', '#4a2c1b', '#8a4a24', '#b9733a', '#d9a850', '#9b9690', '#e4e0d6']

/** One palette: its own cloth colors; people's skins and hair are everybody's. */
function palette(id: string, name: string, cloth: Record<string, string[]>): PaletteDef {
  return {
    id,
    name,
    swatches: {
      skin: SKINS,
      hair: HAIRS,
      brow: ['#2a1d18', '#4a2c1b', '#6a3a20', '#8d8880'],
      iris: ['#4f7d86', '#5b4630', '#6b7a3c', '#3c5f8a'],
      ...cloth,
    },
  }
}

const PALETTES: PaletteDef[] = [
  palette('tar-and-rope', 'Tar & Rope', {
    coat: ['#4a4640', '#3b3a3c', '#5c4a38'],
    'coat-trim': ['#2c2a2a', '#6e5638'],
    'coat-lining': ['#a37b4a', '#7b3c2c'],
    oilskin: ['#8a7a4a', '#55524a'],
    shirt: ['#d8ccb0', '#b8a98a'],
    knit: ['#5c5a52', '#3f4a4c'],
    'knit-trim': ['#cbb68c'],
    smock: ['#7d7460', '#5c5f58'],
    trousers: ['#57503f', '#6e6450', '#3f3d3a'],
    waders: ['#4c4a3c'],
    skirt: ['#5b4d3c', '#49454a'],
    scarf: ['#b5632f', '#8a3a2a'],
    shawl: ['#7c5a3a'],
    waistcoat: ['#6a4c33'],
    felt: ['#3e3630', '#57462f'],
    'hat-band': ['#b5832f'],
    bodice: ['#6b4630'],
  }),
  palette('low-tide', 'Low Tide', {
    coat: ['#4d7d80', '#6a8f86', '#3f6474'],
    'coat-trim': ['#34595f'],
    'coat-lining': ['#c7b48a'],
    oilskin: ['#7fa08a', '#a9b68a'],
    shirt: ['#e8e2cf', '#c9d3c8'],
    knit: ['#5f8890', '#8aa39a'],
    'knit-trim': ['#eadfc0'],
    smock: ['#8aa8a0', '#9db0a4'],
    trousers: ['#8b8672', '#6c7a74'],
    waders: ['#56705f'],
    skirt: ['#5f7f86', '#86907c'],
    scarf: ['#d98a5f', '#e3c27a'],
    shawl: ['#7a9c94'],
    waistcoat: ['#57706a'],
    felt: ['#7c7a66'],
    'hat-band': ['#d98a5f'],
    bodice: ['#4d7d80'],
  }),
  palette('lantern-night', 'Lantern Night', {
    coat: ['#33406b', '#472f5c', '#243a5a'],
    'coat-trim': ['#d9a441', '#202a4a'],
    'coat-lining': ['#c2632f', '#d9a441'],
    oilskin: ['#d98f2a', '#3a4f7a'],
    shirt: ['#e9d9b8', '#8f9ac0'],
    knit: ['#3d4f80', '#6b3f63'],
    'knit-trim': ['#e0b050'],
    smock: ['#4a5f8c', '#5a4a7a'],
    trousers: ['#3b3f5c', '#4c4560'],
    waders: ['#3a5560'],
    skirt: ['#5a3564', '#2f4470'],
    scarf: ['#e08a2f', '#d9563a'],
    shawl: ['#8a3f5c', '#d99a3a'],
    waistcoat: ['#8a4a3a'],
    felt: ['#2d2f4a'],
    'hat-band': ['#e0a53a'],
    bodice: ['#a3423f'],
  }),
  palette('market-morning', 'Market Morning', {
    coat: ['#c2563a', '#3f8a72', '#d99a3a', '#5b7fb0'],
    'coat-trim': ['#f0dfb8', '#8a3a2c'],
    'coat-lining': ['#f0dfb8'],
    oilskin: ['#f0b93a', '#e8833a'],
    shirt: ['#f6eedb', '#f0d9c0', '#d5e3e0'],
    knit: ['#c9463a', '#3f7f96'],
    'knit-trim': ['#f6eedb'],
    smock: ['#6fa39a', '#d98a6a'],
    trousers: ['#6f7f9a', '#a3825c', '#7a6a5a'],
    waders: ['#6f8a5c'],
    skirt: ['#d9763f', '#5f9a86', '#b5506a'],
    scarf: ['#e8c13f', '#d9483a', '#3f9a8a'],
    shawl: ['#d9763f', '#5f8fb0'],
    waistcoat: ['#c98a3a', '#5f7f5a'],
    felt: ['#a3743f', '#5f5a4a'],
    'hat-band': ['#d9483a', '#3f8a72'],
    bodice: ['#b5434a', '#3f7f72'],
  }),
  palette('deep-glow', 'Deep Glow', {
    coat: ['#1f5a66', '#1d4a5c', '#2a6f6a'],
    'coat-trim': ['#5fd0b8', '#123a48'],
    'coat-lining': ['#49b8a8'],
    oilskin: ['#3fa890', '#1f6f7a'],
    shirt: ['#bfe0d6', '#9fc4c8'],
    knit: ['#23707a'],
    'knit-trim': ['#8fe0c8'],
    smock: ['#3a8088'],
    trousers: ['#2f4f5a', '#3c5560'],
    waders: ['#2a5a52'],
    skirt: ['#24606f', '#3a4f7a'],
    scarf: ['#6fe0c0', '#e8e07a'],
    shawl: ['#2f8f8a'],
    waistcoat: ['#1f4f5a'],
    felt: ['#1d3a48'],
    'hat-band': ['#6fe0c0'],
    bodice: ['#2a6f7a'],
  }),
  palette('salt-wedding', 'Salt Wedding', {
    coat: ['#e8e0d0', '#c9d3d8', '#d8b8b0'],
    'coat-trim': ['#b8975a', '#8fa3b0'],
    'coat-lining': ['#c98a7a', '#8fb0b8'],
    oilskin: ['#f0e2b0'],
    shirt: ['#fbf6ea'],
    knit: ['#d8dce0', '#e0c9b8'],
    'knit-trim': ['#b8975a'],
    smock: ['#dfe6e4', '#e8d3c8'],
    trousers: ['#b0a894', '#8f9aa6'],
    waders: ['#a3b09a'],
    skirt: ['#f0e6d8', '#d9b8b0', '#b8c9d3'],
    scarf: ['#d97a6a', '#8fb8c9'],
    shawl: ['#e8d8b8', '#d9a8a0'],
    waistcoat: ['#c9a86a'],
    felt: ['#d8cfc0'],
    'hat-band': ['#c98a7a'],
    bodice: ['#d9a8a0', '#8fa9b8'],
  }),
]

export function folkKit(): KitSource {
  const { sculpt, landmarks } = buildHumanBody()
  const grip = onArm(36, -2.2, 0.8)
  return {
    manifest: {
      format: KIT_FORMAT,
      version: 2,
      id: 'saltwick-folk',
      name: 'Saltwick folk',
      kitVersion: '2.10.0',
      license: 'CC0-1.0',
      slots: SLOTS,
      colorRegions: COLORS,
      palettes: PALETTES,
      clips: [...CLIPS, ...FOUR_LEGS],
      poses: POSES,
      looks: LOOKS,
    },
    bodies: [
      {
        id: 'human',
        name: 'Human',
        plan: 'biped',
        scale: HUMAN_SCALE,
        sculpt,
        landmarks,
        skin: (p) => humanSkin(p, landmarks),
        sliders: [...HUMAN_SLIDERS, ...HUMAN_MOVEMENTS],
        correctives: [...HUMAN_CORRECTIVES, ...FACE_CORRECTIVES],
        sliderGroups: [...HUMAN_GROUPS, ...MOVING_GROUPS],
        expressions: HUMAN_EXPRESSIONS,
        archetypes: HUMAN_ARCHETYPES,
        regions: REGIONS,
        bones: [],
        limbs: [],
        sockets: [
          { id: 'rightGrip', name: 'Right grip', bone: 'rightHand', at: [...flipX(grip)] },
          { id: 'leftGrip', name: 'Left grip', bone: 'leftHand', at: [...grip] },
          { id: 'breast', name: 'Breast', bone: 'upperChest', at: [...new Dummy(sculpt).front(5, 71, 2)] },
          { id: 'back', name: 'Back', bone: 'upperChest', at: [0, 70, -8.6] },
        ],
        seams: [
          { id: 'leftKnee', name: 'Left knee', region: 'leftShin' },
          { id: 'rightKnee', name: 'Right knee', region: 'rightShin' },
          { id: 'neck', name: 'Neck', region: 'head', faces: (f) => f.tag === 'head' },
          { id: 'leftWrist', name: 'Left wrist', region: 'hands', faces: (f) => f.tag === 'leftHand' },
          { id: 'rightWrist', name: 'Right wrist', region: 'hands', faces: (f) => f.tag === 'rightHand' },
          { id: 'seat', name: 'Seat', region: 'hips', faces: (f) => f.tag === 'torso' && f.row === 0 && f.col === 5 },
        ],
        defaults: { eyes: 'eyes-open', brows: 'brows-straight' },
        parts: [
          ...eyes,
          ...hair,
          ...beards,
          ...longHair,
          ...tops,
          ...dresses,
          ...trims,
          ...outerwear,
          ...coats,
          ...legwear,
          ...footwear,
          ...handwear,
          ...belts,
          ...headwear,
          ...hoods,
          ...neckwear,
          ...held,
          ...loads,
          ...replacing,
        ],
      },
    ],
  }
}
