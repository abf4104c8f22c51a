import { loftBiped, type BodySculpt } from '../model/loftBiped.ts'
import { Sculpt, type Point } from '../model/Sculpt.ts'
import { chain, mix, type Skinning } from '../model/skinning.ts'
import { add, along, flipX, lerp, scale, smoothstep, sub, type V3 } from '../model/vector.ts'
import { buildFoot } from './foot.ts'
import { buildHand, type FingerJoints } from './hand.ts'
import { buildHead } from './head.ts'
import {
  ANKLE,
  ARM,
  ARM_AXIS,
  ARM_UP,
  CROTCH,
  ELBOW,
  fromHead,
  HIP_LOOP,
  LEG,
  NECK,
  SHOULDER,
  SHOULDER_LOOP,
  TORSO,
  WRIST,
} from './proportions.ts'

/** The human body at rest: one closed surface, ears apart. */
export function buildHumanBody(): BodySculpt {
  const s = new Sculpt()
  s.region = 'skin'
  const { neckTop, wrist, ankle } = loftBiped(s, {
    hipLoop: HIP_LOOP,
    crotch: CROTCH,
    torso: TORSO,
    shoulderLoop: SHOULDER_LOOP,
    necks: NECK,
    arm: { origin: SHOULDER, axis: ARM_AXIS, up: ARM_UP, rings: ARM },
    leg: LEG,
    region: (limb, row) =>
      (limb === 'torso' && row < TORSO.length) || (limb === 'leftLeg' && row <= 1) ? 'underlayer' : 'skin',
  })
  buildHead(s, neckTop)
  const fingers = buildHand(s, wrist)
  const ball = buildFoot(s, ankle)
  s.mirror()
  return { sculpt: s, landmarks: humanLandmarks(fingers, ball) }
}

function humanLandmarks(fingers: FingerJoints, ball: V3): Map<string, V3> {
  const marks = new Map<string, V3>([
    ['hips', [0, 50, -0.6]],
    ['spine', [0, 55.5, -0.8]],
    ['chest', [0, 61.5, -0.8]],
    ['upperChest', [0, 69, -0.8]],
    ['neck', [0, 80.2, -1.6]],
    ['head', [0, 84.8, -1.0]],
    ['jaw', fromHead([0, 2.4, 0.4])],
    ['crown', fromHead([0, 9.65, -0.5])],
    ['chin', fromHead([0, 0.6, 4.1])],
    ['waist', [8.7, 60.4, -0.4]],
    ['belly', [0, 57, 6.7]],
    ['hipSide', [10.4, 50, -0.3]],
    // where the figure is pulled
    ['neckSide', [4.6, 82, -1]],
    ['breastbone', [0, 72, 7.8]],
    ['ribSide', [10.6, 66, -0.4]],
    ['shoulderBlades', [0, 73, -7.8]],
    ['seat', [0, 47, -8]],
    ['forehead', fromHead([0, 7.3, 4.1])],
    ['noseTip', fromHead([0, 3.1, 5.1])],
    ['lips', fromHead([0, 1.86, 4.3])],
  ])
  const pair = (name: string, at: V3) => {
    marks.set(`left${name}`, at)
    marks.set(`right${name}`, flipX(at))
  }
  const arm = (u: number) => along(SHOULDER, ARM_AXIS, u)
  pair('Shoulder', [3.2, 77, -1])
  pair('UpperArm', add(SHOULDER, [0.6, 0.2, 0]))
  pair('LowerArm', arm(ELBOW))
  pair('Hand', arm(WRIST))
  for (const [finger, joints] of Object.entries(fingers))
    fingerBones(finger).forEach((bone, i) => pair(bone, joints[i]!))
  pair('UpperLeg', [6, 46.8, -0.4])
  pair('LowerLeg', [6.75, 26, 0.4])
  pair('Foot', ANKLE)
  pair('Toes', ball)
  pair('Eye', fromHead([1.43, 4.62, 2.4]))
  pair('Deltoid', along(along(SHOULDER, ARM_AXIS, 3), ARM_UP, 4.6))
  pair('Knee', [6.75, 26, 6])
  pair('Breast', [5.2, 69.5, 8.2])
  pair('Biceps', add(arm(8.5), [0, 0, 4.6]))
  pair('Forearm', add(arm(20), [0, 0, 4.4]))
  pair('Knuckles', arm(37))
  pair('Thigh', [11.6, 37, -0.2])
  pair('Calf', [7, 17.4, -6.8])
  pair('Temple', fromHead([3.5, 6.2, 0.6]))
  pair('Brow', fromHead([1.8, 5.9, 4.0]))
  pair('BrowInner', fromHead([0.8, 5.65, 4.3]))
  pair('EyeCorner', fromHead([2.5, 4.7, 2.8]))
  pair('Nostril', fromHead([0.92, 3.2, 4.1]))
  pair('Cheek', fromHead([1.95, 2.8, 3.6]))
  pair('Cheekbone', fromHead([3.0, 3.85, 2.3]))
  pair('Ear', fromHead([3.8, 4.5, -0.4]))
  pair('MouthCorner', fromHead([1.2, 1.9, 3.7]))
  pair('JawCorner', fromHead([3.1, 1.5, -0.4]))
  return marks
}

/** Skin weights of the human body, from where each point belongs. */
export function humanSkin(p: Point, landmarks: ReadonlyMap<string, V3>): Skinning {
  const side = p.at[0] >= 0 ? 'left' : 'right'
  const [x, y, z] = [Math.abs(p.at[0]), p.at[1], p.at[2]]
  const trunk = () =>
    chain(y, 'hips', [
      [53.5, 3, 'spine'],
      [61, 3.5, 'chest'],
      [68, 3.5, 'upperChest'],
      [80.5, 2, 'neck'],
      [84.5, 1.8, 'head'],
    ])
  if (p.limb === 'head' || p.limb === 'ear') return chain(y + z * 0.12, 'neck', [[83.2, 1.6, 'head']])
  if (p.limb === 'neck')
    return chain(y - z * 0.25, 'upperChest', [
      [80.5, 2.2, 'neck'],
      [87.2, 1.8, 'head'],
    ])
  if (p.limb === 'torso') {
    const toLeg = smoothstep(52, 43, y)
    const legs: Skinning =
      x < 1.5
        ? [
            ['leftUpperLeg', 0.5],
            ['rightUpperLeg', 0.5],
          ]
        : [[`${side}UpperLeg`, 1]]
    const low = y < 52 ? mix(trunk(), legs, toLeg * (x < 1.5 ? 0.5 : 0.62)) : trunk()
    const toShoulder = smoothstep(67, 75, y) * smoothstep(5.5, 11, x)
    return mix(
      low,
      [
        [`${side}Shoulder`, 0.72],
        [`${side}UpperArm`, 0.28],
      ],
      toShoulder * 0.85,
    )
  }
  if (p.limb.endsWith('Arm'))
    return chain(p.u, `${side}Shoulder`, [
      [1.2, 3.6, `${side}UpperArm`],
      [ELBOW, 2.4, `${side}LowerArm`],
      [WRIST, 1.6, `${side}Hand`],
    ])
  if (p.limb.endsWith('Hand')) return handSkin(p, side, landmarks)
  if (p.limb.endsWith('Leg'))
    return chain(-p.u, 'hips', [
      [-45.5, 5, `${side}UpperLeg`],
      [-26, 3.4, `${side}LowerLeg`],
      [-7.2, 2, `${side}Foot`],
    ])
  if (p.limb.endsWith('Foot')) return chain(z, `${side}Foot`, [[10.6, 1.6, `${side}Toes`]])
  return trunk()
}

/** The bones of a finger from its root, without their side. */
export const fingerBones = (finger: string): [string, string, string] =>
  finger === 'Thumb'
    ? ['ThumbMetacarpal', 'ThumbProximal', 'ThumbDistal']
    : [`${finger}Proximal`, `${finger}Intermediate`, `${finger}Distal`]

function handSkin(p: Point, side: string, landmarks: ReadonlyMap<string, V3>): Skinning {
  // the finger whose line it lies on, if it is beyond the knuckles
  let best: { name: string; d: number; t: number } | null = null
  for (const finger of ['Thumb', 'Index', 'Middle', 'Ring', 'Little']) {
    const [root, mid] = fingerBones(finger).map((bone) => landmarks.get(side + bone)!) as [V3, V3, V3]
    const line = sub(mid, root)
    const length = Math.hypot(...line)
    const dir = scale(line, 1 / length)
    const rel = sub(p.at, root)
    const t = (rel[0] * dir[0] + rel[1] * dir[1] + rel[2] * dir[2]) / length
    const foot = lerp(root, mid, Math.min(2.2, Math.max(0, t)))
    const d = Math.hypot(...sub(p.at, foot))
    if (!best || d < best.d) best = { name: finger, d, t }
  }
  const { name, t } = best!
  if (p.u < 36.5 && name !== 'Thumb') return [[`${side}Hand`, 1]]
  if (name === 'Thumb' && p.u < 33) return [[`${side}Hand`, 1]]
  const [first, second, third] = fingerBones(name).map((bone) => side + bone) as [string, string, string]
  const [root, mid, last] = [first, second, third].map((bone) => landmarks.get(bone)!) as [V3, V3, V3]
  const length = Math.hypot(...sub(mid, root))
  return chain(t, `${side}Hand`, [
    // the ball of the thumb bends with it
    [...(name === 'Thumb' ? ([0.25, 0.45] as const) : ([0.05, 0.25] as const)), first],
    [1, 0.2, second],
    [1 + Math.hypot(...sub(last, mid)) / length, 0.2, third],
  ])
}
