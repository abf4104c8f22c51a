import type { BodyPlan } from '../kit/plan.ts'
import { LANDMARK_IDS, SIDES, type Landmark, type LandmarkId, type Point } from './landmarks.ts'

/** A bone of a figure that was given bones: its joint, where it ends, and which bone it hangs from, -1 for the first. */
export interface RiggedBone {
  name: string
  parent: number
  at: Point
  tail: Point
}

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

/**
 * The bones of an upright plan for a figure with these landmarks, under the names of the open VRM standard; only those
 * whose names the plan has, so that whatever works for the plan works for them. Fingers and face are left to the person.
 *
 * @throws where a landmark is missing
 */
export function rigSkeleton(landmarks: readonly Landmark[], plan: BodyPlan): RiggedBone[] {
  const places = new Map(landmarks.map((l) => [l.id, l.at]))
  for (const id of LANDMARK_IDS) if (!places.has(id)) throw new Error(`the landmark ${id} is missing`)
  const at = (id: LandmarkId) => places.get(id)!
  const between = (a: Point, b: Point, t: number) => a.map((v, k) => v + (b[k]! - v) * t) as Point
  const pelvis = between(at('leftHip'), at('rightHip'), 0.5)
  const [neck, crown, chin] = [at('neck'), at('crown'), at('chin')]
  const hips = between(pelvis, neck, HIPS)
  const share = Math.min(HEAD.most, Math.max(HEAD.least, (chin[1] - neck[1]) / Math.max(1e-9, crown[1] - neck[1])))
  const joints = new Map<string, { at: Point; tail: Point }>()
  const put = (name: string, from: Point, to: Point) => joints.set(name, { at: from, tail: to })
  const stops = SPINE.map(([name, t]) => [name, between(hips, neck, t)] as const)
  put('hips', hips, stops[0]![1])
  stops.forEach(([name, from], i) => put(name, from, stops[i + 1]?.[1] ?? neck))
  const head = between(neck, crown, share)
  put('neck', neck, head)
  put('head', head, crown)
  for (const side of SIDES) {
    const [shoulder, elbow, wrist] = [at(`${side}Shoulder`), at(`${side}Elbow`), at(`${side}Wrist`)]
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
  const bones: RiggedBone[] = []
  for (const { name, parent } of plan.bones) {
    const joint = joints.get(name)
    if (!joint) continue
    bones.push({ name, parent: bones.findIndex((b) => b.name === parent), ...joint })
  }
  return bones
}
