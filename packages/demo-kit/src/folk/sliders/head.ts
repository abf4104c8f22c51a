import type { Point } from '../../model/Sculpt.ts'
import { scale, smoothstep, sub, type V3 } from '../../model/vector.ts'
import { fromHead } from '../proportions.ts'
import { face, type Field, head, onHead, side, slider, type SliderSpec, spots, STILL, sum } from './fields.ts'

/** How much of a change of the head's width reaches the rows that meet the neck, which keeps its own. */
const aboveNeck = ({ spot = '' }: Point): number =>
  /^under[4-8]$/.test(spot) ? 0.15 : /^under|^chin[5-8]$/.test(spot) ? 0.55 : 1

const PIVOT: V3 = [0, 83.5, -1]
export const headSize: Field = (p) =>
  onHead(p) ? scale(sub(p.at, PIVOT), 0.16 * smoothstep(-2, 4, p.at[1] - PIVOT[1] + 3) * aboveNeck(p)) : STILL

// the skull
export const faceLength = head((_x, y, z) => [0, Math.min(0, y - 4.4) * 0.17 * smoothstep(-2, 1.5, z), 0])
export const faceWidth = head((x, _y, _z, p) => [x * 0.13 * aboveNeck(p), 0, 0])
export const skullHeight = head((_x, y) => [0, Math.max(0, y - 5.6) * 0.2, 0])
export const skullTaper = head((x, y, _z, p) => [x * 0.055 * Math.max(-3, y - 5) * aboveNeck(p), 0, 0])
const skullDepth = head((_x, y, z, p) =>
  p.limb === 'ear' ? STILL : [0, 0, Math.min(0, z) * 0.16 * smoothstep(1, 4, y)],
)
export const forehead = spots({
  forehead0: [0, 0, 0.35],
  forehead1: [0, 0, 0.35],
  forehead2: [0.05, 0, 0.3],
  forehead3: [0.06, 0, 0.12],
  top0: [0, 0.1, 0.2],
  top1: [0, 0.1, 0.2],
  top2: [0, 0.08, 0.12],
})
const templeWidth = spots({
  brow3: [0.22, 0, 0.06],
  brow4: [0.28, 0, 0],
  forehead3: [0.28, 0, 0],
  forehead4: [0.32, 0, 0],
  forehead5: [0.28, 0, 0],
  top3: [0.14, 0, 0],
})

// brow and eyes
export const brow = face([1.4, 5.7, 4.1], [2.0, 0.6, 1.2], () => [0, -0.12, 0.42])
export const browHeight = spots({
  brow0: [0, 0.3, 0],
  brow1: [0, 0.3, 0],
  brow2: [0, 0.32, 0],
  brow3: [0, 0.26, 0],
  highLid1: [0, 0.05, 0],
  highLid2: [0, 0.07, 0],
  highLid3: [0, 0.06, 0],
  forehead0: [0, 0.1, 0],
  forehead1: [0, 0.1, 0],
  forehead2: [0, 0.1, 0],
})

const EYE: V3 = [1.6, 4.68, 3.4]
/** The rims of both lids, and the brow and cheek beside them a little. */
const lids = (move: (x: number, y: number) => V3): Field =>
  head((x, y, _z, p) => {
    const spot = p.spot ?? ''
    const on = /^(low|high)Lid[123]$/.test(spot) ? 1 : /^brow[12]$|^nose2$/.test(spot) ? 0.3 : 0
    return on ? scale(move(x, y), on) : STILL
  })
export const eyeSize = lids((x, y) => [(x - EYE[0]) * 0.2, (y - EYE[1]) * 0.26, 0])
export const eyeSpace = lids(() => [0.2, 0, -0.05])
const eyeHeight = lids(() => [0, 0.2, 0])
export const eyeTilt = lids((x) => [0, 0.17 * ((x - EYE[0]) / 1.1), 0])
const eyeDepth = lids(() => [0, 0, -0.28])
const hooded = spots({
  highLid1: [0, -0.14, 0.1],
  highLid2: [0, -0.2, 0.16],
  highLid3: [0, -0.16, 0.08],
  brow1: [0, -0.08, 0.06],
  brow2: [0, -0.12, 0.1],
  brow3: [0, -0.1, 0.05],
})
export const bags = spots({
  lowLid1: [0, -0.05, 0.08],
  lowLid2: [0, -0.12, 0.2],
  lowLid3: [0, -0.06, 0.1],
  nose2: [0, -0.06, 0.06],
})

// the nose
export const nose = face([0, 3.3, 5], [1.0, 1.1, 1.2], (x) => [x * 0.4, -0.1, 0.75])
export const bridge = spots({
  lowLid0: [0, 0, 0.55],
  tip0: [0, 0, 0.22],
  highLid0: [0, 0, 0.26],
  lowLid1: [0, 0, 0.06],
})
export const noseLength = spots({
  nose0: [0, -0.42, 0.34],
  tip0: [0, -0.3, 0.26],
  tip1: [0, -0.38, 0.28],
  nose1: [0, -0.14, 0.04],
  noseBase0: [0, -0.14, 0.1],
  noseBase1: [0, -0.1, 0.04],
})
export const noseTip = spots({
  nose0: [0, 0.36, 0.08],
  tip1: [0, 0.2, 0.06],
  tip0: [0, 0.06, 0.08],
  noseBase0: [0, 0.14, 0.02],
})
export const noseWidth = spots({
  nose1: [0.42, 0, 0],
  tip1: [0.14, 0, 0],
  noseBase1: [0.26, 0, 0],
  lowLid1: [0.04, 0, 0],
})
export const noseBulb = spots({
  tip1: [0.24, 0.02, 0.22],
  tip0: [0, 0.06, 0.16],
  nose0: [0, -0.02, 0.1],
  nose1: [0.12, 0, 0.06],
})
const noseHook = spots({ tip0: [0, 0.14, 0.36], lowLid0: [0, -0.06, 0.2], nose0: [0, -0.12, -0.04] })

// cheeks and ears
export const cheeks = spots({ nose2: [0.22, -0.08, 0.32], chin2: [0.32, 0.25, 0.32], nose3: [0.1, -0.04, 0.1] })
export const cheekbones = spots({ nose3: [0.3, 0, 0.24], nose2: [0.12, 0.02, 0.14], nose4: [0.14, 0, 0] })
const cheekboneHeight = spots({ nose2: [0, 0.26, 0.02], nose3: [0, 0.3, 0], nose4: [0, 0.16, 0] })
export const jowl = spots({
  chin2: [0.1, -0.3, 0],
  chin3: [0.14, -0.32, 0],
  under2: [0.04, -0.24, 0],
  under3: [0.08, -0.26, 0],
})
const onEar = (move: (y: number, z: number) => V3): Field =>
  head((_x, y, z, p) => (p.limb === 'ear' ? move(y, z) : STILL))
export const ears: Field = (p) => (p.limb === 'ear' ? scale(sub(p.at, fromHead([3.3 * side(p), 4.4, 0])), 0.45) : STILL)
const earHeight = onEar(() => [0, 0.4, 0])
const earFlare = onEar((_y, z) => [0.75 * smoothstep(0.3, -1.3, z), 0, 0.2 * smoothstep(0.3, -1.3, z)])
const earPoint = onEar((y) => [
  0.1 * smoothstep(4.7, 5.5, y),
  0.75 * smoothstep(4.7, 5.5, y),
  -0.35 * smoothstep(4.7, 5.5, y),
])

// the mouth: all of it where it moves as one
const MOUTH = [
  'lowRim',
  'lowLip',
  'corner',
  'highLip',
  'highRim',
  'throat',
  'highTeeth',
  'highTeethTop',
  'lowTeeth',
  'tongue',
]
const wholeMouth = (by: V3, more: Record<string, V3> = {}) =>
  spots({ ...Object.fromEntries(MOUTH.map((row) => [row, by])), ...more })
export const mouth = spots({
  corner0: [0.32, 0, -0.1],
  highRim1: [0.12, 0, -0.02],
  lowRim1: [0.13, 0, -0.02],
  highLip1: [0.13, 0, -0.02],
  lowLip1: [0.13, 0, -0.02],
  chin1: [0.05, 0, 0],
})
const mouthHeight = wholeMouth([0, 0.26, 0], { noseBase0: [0, 0.06, 0], noseBase1: [0, 0.06, 0] })
export const lips = spots({
  highRim0: [0, 0.13, 0.06],
  highRim1: [0, 0.15, 0.06],
  highLip: [0, 0, 0.12],
  lowRim0: [0, -0.15, 0.07],
  lowRim1: [0, -0.14, 0.07],
  lowLip: [0, 0, 0.12],
  corner0: [0, 0, 0.03],
})
const upperLip = spots({ highRim0: [0, 0.12, 0.14], highRim1: [0, 0.12, 0.14], highLip: [0, -0.02, 0.16] })
const mouthForward = wholeMouth([0, 0, 0.34], {
  corner0: [0, 0, 0.2],
  noseBase0: [0, 0, 0.2],
  noseBase1: [0, 0, 0.14],
  chin0: [0, 0, 0.1],
  chin1: [0, 0, 0.08],
})
const mouthCorners = spots({
  corner0: [0.02, 0.24, -0.04],
  highLip1: [0, 0.07, 0],
  lowLip1: [0, 0.07, 0],
  highRim1: [0, 0.05, 0],
  lowRim1: [0, 0.06, 0],
})

// jaw and chin
export const jaw = spots({
  chin2: [0.3, 0, 0],
  chin3: [0.5, -0.06, 0],
  chin4: [0.4, -0.1, 0],
  under2: [0.14, 0, 0],
  under3: [0.2, -0.04, 0],
  under4: [0.14, -0.06, 0],
})
const jawAngle = spots({
  chin3: [0.06, -0.36, -0.1],
  chin4: [0.06, -0.5, -0.1],
  under3: [0.04, -0.34, 0],
  under4: [0, -0.4, 0],
})
const jawForward = spots({
  chin0: [0, 0, 0.36],
  chin1: [0, 0, 0.34],
  chin2: [0, 0, 0.22],
  under0: [0, 0, 0.3],
  under1: [0, 0, 0.28],
  under2: [0, 0, 0.16],
  lowRim: [0, 0, 0.28],
  lowLip: [0, 0, 0.2],
  lowTeeth: [0, 0, 0.2],
})
export const chin = spots({
  chin0: [0, -0.2, 0.5],
  chin1: [0.04, -0.18, 0.42],
  chin2: [0.02, -0.06, 0.08],
  under0: [0, -0.2, 0.36],
  under1: [0, -0.18, 0.3],
  lowRim0: [0, 0, 0.08],
})
const chinLength = spots({
  chin0: [0, -0.42, 0.04],
  chin1: [0, -0.38, 0.04],
  chin2: [0, -0.14, 0],
  under0: [0, -0.42, 0.04],
  under1: [0, -0.38, 0],
  under2: [0, -0.14, 0],
})
const chinWidth = spots({
  chin1: [0.42, 0, 0],
  chin2: [0.14, -0.04, 0.08],
  under1: [0.3, 0, 0],
  under2: [0.1, -0.02, 0],
})
export const underchin = spots({
  under0: [0, -0.3, -0.05],
  under1: [0.1, -0.36, 0],
  under2: [0.14, -0.34, 0.1],
  under3: [0.06, -0.16, 0],
})

export const HEAD_SLIDERS: SliderSpec[] = [
  slider('head', 'Head', 'head', ['small', 'large'], headSize, -0.8, ['crown', [1, 0, 0]]),
  slider('face-length', 'Face length', 'head', ['short', 'long'], faceLength, -0.8),
  slider('face-width', 'Face width', 'head', ['narrow', 'broad'], faceWidth, -0.9, ['leftTemple', [1, 0, 0]]),
  slider('skull-height', 'Skull height', 'head', ['low', 'high'], skullHeight, -0.8, ['forehead', [0, 1, 0]]),
  slider('skull-taper', 'Head shape', 'head', ['pear', 'egg'], skullTaper, -0.9),
  slider('skull-depth', 'Back of the head', 'head', ['flat', 'long'], skullDepth, -0.8),
  slider('forehead', 'Forehead', 'head', ['sloping', 'domed'], forehead, -0.8, ['forehead', [0, 0, 1]]),
  slider('temples', 'Temples', 'head', ['hollow', 'wide'], templeWidth, -0.8),

  slider('brow', 'Brow ridge', 'eyes', ['light', 'heavy'], brow, -0.6, ['leftBrow', [0, 0, 1]]),
  slider('brow-height', 'Brow height', 'eyes', ['low', 'high'], browHeight, -0.7, ['leftBrow', [0, 1, 0]]),
  slider('eye-size', 'Eye size', 'eyes', ['small', 'large'], eyeSize, -0.8, ['leftEyeCorner', [0.7, -0.7, 0]]),
  slider('eye-space', 'Eyes apart', 'eyes', ['close', 'wide'], eyeSpace, -0.9, ['leftEyeCorner', [1, 0, 0]]),
  slider('eye-height', 'Eye height', 'eyes', ['low', 'high'], eyeHeight, -0.8),
  slider('eye-tilt', 'Eye tilt', 'eyes', ['drooping', 'rising'], eyeTilt, -1, ['leftEyeCorner', [0, 1, 0]]),
  slider('eye-depth', 'Eye depth', 'eyes', ['bulging', 'deep-set'], eyeDepth, -0.8),
  slider('hooded', 'Upper lids', 'eyes', ['open', 'hooded'], hooded, -0.5),
  slider('bags', 'Lower lids', 'eyes', ['smooth', 'baggy'], bags, -0.5),

  slider('nose', 'Nose', 'nose', ['small', 'large'], nose, -0.7, ['noseTip', [0, 0, 1]]),
  slider('bridge', 'Bridge of the nose', 'nose', ['low', 'high'], bridge, -0.7),
  slider('nose-length', 'Nose length', 'nose', ['short', 'long'], noseLength, -0.9),
  slider('nose-width', 'Nose width', 'nose', ['narrow', 'broad'], noseWidth, -0.8, ['leftNostril', [1, 0, 0]]),
  slider('nose-tip', 'Nose tip', 'nose', ['hanging', 'turned up'], noseTip, -0.9, ['noseTip', [0, 1, 0]]),
  slider('nose-bulb', 'Nose roundness', 'nose', ['sharp', 'bulbous'], noseBulb, -0.7),
  slider('nose-hook', 'Nose line', 'nose', ['scooped', 'hooked'], noseHook, -0.7),

  slider('cheeks', 'Cheeks', 'cheeks', ['hollow', 'full'], cheeks, -0.6, ['leftCheek', [0, 0, 1]]),
  slider('cheekbones', 'Cheekbones', 'cheeks', ['flat', 'wide'], cheekbones, -0.7, ['leftCheekbone', [1, 0, 0]]),
  slider('cheekbone-height', 'Cheekbone height', 'cheeks', ['low', 'high'], cheekboneHeight, -0.8, [
    'leftCheekbone',
    [0, 1, 0],
  ]),
  slider('jowl', 'Jowl', 'cheeks', ['firm', 'hanging'], jowl, -0.5),
  slider('ears', 'Ears', 'cheeks', ['small', 'large'], ears, -0.5, ['leftEar', [0.3, -0.9, 0]]),
  slider('ear-height', 'Ear height', 'cheeks', ['low', 'high'], earHeight, -0.8),
  slider('ear-flare', 'Ears stand', 'cheeks', ['close', 'out'], earFlare, -0.25, ['leftEar', [1, 0, 0]]),
  slider('ear-point', 'Ear tips', 'cheeks', ['round', 'pointed'], earPoint, -0.3),

  slider('mouth', 'Mouth', 'mouth', ['small', 'wide'], mouth, -0.8, ['leftMouthCorner', [1, 0, 0]]),
  slider('mouth-height', 'Mouth height', 'mouth', ['low', 'high'], mouthHeight, -0.8),
  slider('lips', 'Lips', 'mouth', ['thin', 'full'], lips, -0.75, ['lips', [0, 0, 1]]),
  slider('upper-lip', 'Upper lip', 'mouth', ['flat', 'full'], upperLip, -0.6),
  slider('mouth-forward', 'Mouth stands', 'mouth', ['back', 'forward'], mouthForward, -0.6),
  slider('mouth-corners', 'Corners of the mouth', 'mouth', ['down', 'up'], mouthCorners, -0.9, [
    'leftMouthCorner',
    [0, 1, 0],
  ]),

  slider('jaw', 'Jaw', 'jaw', ['narrow', 'square'], jaw, -0.9, ['leftJawCorner', [1, 0, 0]]),
  slider('jaw-angle', 'Jaw angle', 'jaw', ['high', 'low'], jawAngle, -0.6, ['leftJawCorner', [0, -1, 0]]),
  slider('jaw-forward', 'Lower jaw', 'jaw', ['receding', 'jutting'], jawForward, -0.8),
  slider('chin', 'Chin', 'jaw', ['weak', 'strong'], chin, -0.8, ['chin', [0, 0, 1]]),
  slider('chin-length', 'Chin length', 'jaw', ['short', 'long'], chinLength, -0.7, ['chin', [0, -1, 0]]),
  slider('chin-width', 'Chin width', 'jaw', ['pointed', 'broad'], chinWidth, -0.7),
  slider('underchin', 'Under the chin', 'jaw', ['tight', 'double'], underchin, -0.3),
]

/** What years and the sexes do to a head. */
export const youngFace = sum(
  [faceLength, -0.75],
  [skullHeight, 0.25],
  [cheeks, 0.75],
  [chin, -0.6],
  [nose, -0.6],
  [noseLength, -0.7],
  [noseTip, 0.5],
  [bridge, -0.9],
  [eyeSize, 0.8],
  [eyeSpace, 0.3],
  [brow, -0.8],
  [browHeight, 0.15],
  [forehead, 0.5],
  [jaw, -0.4],
  [mouth, -0.5],
)
export const oldFace = sum(
  [jowl, 0.8],
  [cheeks, -0.5],
  [noseLength, 0.6],
  [noseBulb, 0.5],
  [nose, 0.3],
  [ears, 0.7],
  [lips, -0.7],
  [brow, 0.45],
  [eyeTilt, -0.7],
  [eyeSize, -0.25],
  [bags, 0.7],
  [underchin, 0.4],
  [templeWidth, -0.5],
)
export const femaleFace = sum(
  [jaw, -0.5],
  [chin, -0.25],
  [chinWidth, -0.3],
  [brow, -0.5],
  [browHeight, 0.2],
  [lips, 0.35],
  [eyeSize, 0.25],
  [nose, -0.25],
  [cheekbones, 0.15],
  [faceLength, -0.15],
)
export const maleFace = sum(
  [jaw, 0.4],
  [jawAngle, 0.3],
  [chin, 0.35],
  [chinWidth, 0.3],
  [brow, 0.45],
  [lips, -0.3],
  [nose, 0.2],
  [faceLength, 0.15],
)
export const heavyFace = sum([cheeks, 0.7], [jowl, 0.5], [underchin, 0.9], [faceWidth, 0.3], [jaw, 0.2])
export const leanFace = sum(
  [cheeks, -0.5],
  [underchin, -0.3],
  [cheekbones, 0.25],
  [templeWidth, -0.3],
  [faceWidth, -0.15],
)
