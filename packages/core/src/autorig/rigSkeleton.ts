import type { BodyPlan } from '../kit/plan.ts'
import { BIPED } from '../kit/plans/biped.ts'
import { QUADRUPED } from '../kit/plans/quadruped.ts'
import { LANDMARKS, SIDES, type Landmark, type LandmarkId, type Legs, type Point } from './landmarks.ts'

/** A bone of a figure that was given bones: its joint, where it ends, and which bone it hangs from, -1 for the first. */
export interface RiggedBone {
  name: string
  parent: number
  at: Point
  tail: Point
}

interface Joint {
  at: Point
  tail: Point
}

/** The plan of figures on so many legs. */
export const PLAN_OF: Readonly<Record<Legs, BodyPlan>> = { 2: BIPED, 4: QUADRUPED }

/**
 * The bones of the plan for a figure with these landmarks, under the names of the open VRM standard where that has one.
 * Fingers and face are left to the person.
 *
 * @throws where a landmark is missing that every figure of the kind has
 */
export function rigSkeleton(landmarks: readonly Landmark[], legs: Legs): RiggedBone[] {
  const places = new Map(landmarks.map((l) => [l.id, l.at]))
  const { ids, optional } = LANDMARKS[legs]
  for (const id of ids) if (!places.has(id) && !optional.includes(id)) throw new Error(`the landmark ${id} is missing`)
  const joints = legs === 4 ? jointsOnFour(places) : jointsOnTwo(places)
  const bones: RiggedBone[] = []
  for (const { name, parent } of PLAN_OF[legs].bones) {
    const joint = joints.get(name)
    if (!joint) continue
    bones.push({ name, parent: bones.findIndex((b) => b.name === parent), ...joint })
  }
  return bones
}

const between = (a: Point, b: Point, t: number) => a.map((v, k) => v + (b[k]! - v) * t) as Point

/** Where the bones between hips and neck begin, as shares of that way: set by eye, lower ones shorter. */
const SPINE = [
  ['spine', 0.18],
  ['chest', 0.38],
  ['upperChest', 0.63],
] as const
/** From the middle of the hip joints up to the hips: a share of the way to the neck. */
const HIPS = 0.09
/** A collar bone begins so far out towards its shoulder, and so much higher. */
const COLLAR = { out: 0.27, up: 0.06 }
/** The head turns so far up from the neck to the chin, at least; and so far at most to the crown. */
const HEAD = { least: 0.12, most: 0.4 }

function jointsOnTwo(places: ReadonlyMap<LandmarkId, Point>): Map<string, Joint> {
  const at = (id: LandmarkId) => places.get(id)!
  const pelvis = between(at('leftHip'), at('rightHip'), 0.5)
  const [neck, crown, chin] = [at('neck'), at('crown'), at('chin')]
  const hips = between(pelvis, neck, HIPS)
  const share = Math.min(HEAD.most, Math.max(HEAD.least, (chin[1] - neck[1]) / Math.max(1e-9, crown[1] - neck[1])))
  const joints = new Map<string, Joint>()
  const put = (name: string, from: Point, to: Point) => joints.set(name, { at: from, tail: to })
  const stops = SPINE.map(([name, t]) => [name, between(hips, neck, t)] as const)
  put('hips', hips, stops[0]![1])
  stops.forEach(([name, from], i) => put(name, from, stops[i + 1]?.[1] ?? neck))
  const head = between(neck, crown, share)
  put('neck', neck, head)
  put('head', head, crown)
  for (const side of SIDES) {
    const shoulder = at(`${side}Shoulder`)
    const elbow = at(`${side}Elbow`)
    const wrist = at(`${side}Wrist`)
    const top: Point = [between(pelvis, neck, 0.9)[0], shoulder[1], between(hips, neck, 0.85)[2]]
    const collar = between(top, shoulder, COLLAR.out)
    collar[1] += COLLAR.up * Math.abs(shoulder[0] - top[0])
    const knuckles = at(`${side}Knuckles`)
    put(`${side}Shoulder`, collar, shoulder)
    put(`${side}UpperArm`, shoulder, elbow)
    put(`${side}LowerArm`, elbow, wrist)
    // a hand goes on beyond its knuckles
    put(`${side}Hand`, wrist, between(wrist, knuckles, 2))
    put(`${side}UpperLeg`, at(`${side}Hip`), at(`${side}Knee`))
    put(`${side}LowerLeg`, at(`${side}Knee`), at(`${side}Ankle`))
    put(`${side}Foot`, at(`${side}Ankle`), at(`${side}Ball`))
    put(`${side}Toes`, at(`${side}Ball`), at(`${side}Toe`))
  }
  return joints
}

/** Of a trunk on four legs, from the hips to the root of the neck: where the spine begins, and the chest that bears the fore legs. */
const LEVEL = { spine: 0.3, chest: 0.64 }
/** The hips are so far up from the middle of the joints of the hind legs towards the line from the root of the tail to the neck. */
const RUMP = 0.4
/** A neck bends at so much of its way. */
const NECK = 0.5

function jointsOnFour(places: ReadonlyMap<LandmarkId, Point>): Map<string, Joint> {
  const at = (id: LandmarkId) => places.get(id)!
  const joints = new Map<string, Joint>()
  const put = (name: string, from: Point, to: Point) => joints.set(name, { at: from, tail: to })
  const [neck, head] = [at('neckBase'), at('headBase')]
  const pelvis = between(at('leftHindHip'), at('rightHindHip'), 0.5)
  const over = places.get('tailBase') ?? ([pelvis[0], (pelvis[1] + neck[1]) / 2, pelvis[2]] as Point)
  const hips: Point = [pelvis[0], pelvis[1] + Math.max(0, over[1] - pelvis[1]) * RUMP, pelvis[2]]
  const [spine, chest] = [between(hips, neck, LEVEL.spine), between(hips, neck, LEVEL.chest)]
  const upper = between(neck, head, NECK)
  put('hips', hips, spine)
  put('spine', spine, chest)
  put('chest', chest, neck)
  put('neck', neck, upper)
  put('upperNeck', upper, head)
  put('head', head, at('nose'))
  const [base, middle, tip] = (['tailBase', 'tailMiddle', 'tailTip'] as const).map((id) => places.get(id))
  if (base && middle && tip) {
    // three bones along a tail that bends once
    const third = between(base, middle, 2 / 3)
    const second = between(middle, tip, 1 / 3)
    put('tail1', base, third)
    put('tail2', third, second)
    put('tail3', second, tip)
  }
  for (const side of SIDES) {
    const chain = (end: 'Hind' | 'Fore', stops: readonly LandmarkId[]) =>
      ['UpperLeg', 'LowerLeg', 'Foot', 'Toes'].forEach((stem, i) =>
        put(`${side}${end}${stem}`, at(stops[i]!), at(stops[i + 1]!)),
      )
    chain('Hind', [`${side}HindHip`, `${side}HindKnee`, `${side}HindAnkle`, `${side}HindBall`, `${side}HindToe`])
    chain('Fore', [`${side}ForeShoulder`, `${side}ForeElbow`, `${side}ForeWrist`, `${side}ForeBall`, `${side}ForeToe`])
  }
  return joints
}
