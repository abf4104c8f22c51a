import { ringAround, type Chain, type Sculpt } from '../model/Sculpt.ts'
import { add, along, dot, lerp, mean, scale, sub, unit, type V3 } from '../model/vector.ts'
import { ARM_AXIS, ARM_UP, KNUCKLES, PALM, SHOULDER, WRIST } from './proportions.ts'

const FRONT: V3 = [0, 0, 1]

/** A place in the arm's own frame: along the axis, up, to the front. */
export function onArm(u: number, up: number, front: number): V3 {
  return along(along(along(SHOULDER, ARM_AXIS, u), ARM_UP, up), FRONT, front)
}

/** Fingers from the index to the little one: length and how much they spread to the front. */
const FINGERS = [
  { name: 'Index', length: 6.2, spread: 0.16 },
  { name: 'Middle', length: 7.0, spread: 0.03 },
  { name: 'Ring', length: 6.5, spread: -0.08 },
  { name: 'Little', length: 5.1, spread: -0.24 },
] as const
const KNUCKLE_Z = [4.9, 2.45, 0, -2.35, -4.5]
const KNUCKLE_BACK = [0.6, 0, 0, 0.35, 1.0]

/** The thumb's six sides, across and up, in the order of its root. */
const THUMB_RING = [
  [-0.62, 0.9],
  [-1, 0],
  [-0.62, -0.9],
  [0.62, -0.9],
  [1, 0],
  [0.62, 0.9],
] as const

/** Where the three bones of each finger start, from its root. */
export type FingerJoints = Record<string, readonly [V3, V3, V3]>
/** The last joint of a finger lies so far from the middle one to its tip. */
const LAST_JOINT = 0.45
const THUMB_JOINT = 0.55

/** Makes the left hand on the wrist ring (up, front, down, back) and returns its joints. */
export function buildHand(s: Sculpt, wrist: Chain): FingerJoints {
  const joints: Record<string, readonly [V3, V3, V3]> = {}
  const center = (u: number): V3 => along(SHOULDER, ARM_AXIS, u)
  const put = (at: V3, u: number, tag: string, axis: V3) => s.add(at, { limb: tag, u, out: unit(sub(at, axis)) })

  s.as({ region: 'skin', tag: 'leftHand' }, () => {
    const [palm1, palm2] = PALM.map(([u, up, down, front, back, e], i) =>
      ringAround(center(u), ARM_UP, FRONT, [up, down, front, back], e, 8).map((at) =>
        s.add(at, { limb: 'leftHand', row: i + 1, u, out: unit(sub(at, center(u))) }),
      ),
    ) as [Chain, Chain]
    s.loft(wrist, palm1, true, { row: 0 })
    // quads 1 and 2 (front) of the second band stay open: the thumb's root
    s.loft(palm1, palm2, true, { row: 1 }, [1, 2])

    const top = KNUCKLE_Z.map((z, i) =>
      put(onArm(KNUCKLES - KNUCKLE_BACK[i]!, 1.35, z), KNUCKLES, 'leftHand', onArm(KNUCKLES, 0, z)),
    )
    const low = KNUCKLE_Z.map((z, i) =>
      put(onArm(KNUCKLES - KNUCKLE_BACK[i]! - 0.3, -1.45, z), KNUCKLES, 'leftHand', onArm(KNUCKLES, 0, z)),
    )
    // the knuckles as a loop in the palm's order: back of the hand from its middle to the front, round, and back
    const loop = [top[2]!, top[1]!, top[0]!, low[0]!, low[1]!, low[2]!, low[3]!, low[4]!, top[4]!, top[3]!]
    s.stitch(palm2, loop, true, { row: 2 })

    FINGERS.forEach((finger, i) => {
      const tag = 'leftHand'
      let ring = [top[i]!, top[i + 1]!, low[i + 1]!, low[i]!]
      const root = mean(ring.map((p) => s.at(p)))
      const dir = unit(add(add(ARM_AXIS, scale(FRONT, finger.spread)), scale(ARM_UP, -0.12)))
      const bend = unit(add(dir, scale(ARM_UP, -0.28)))
      const mid = along(root, dir, finger.length * 0.52)
      const tip = along(mid, bend, finger.length * 0.48)
      joints[finger.name] = [root, mid, lerp(mid, tip, LAST_JOINT)]
      const sizes: [V3, number, number][] = [
        [mid, 0.97, 0.86],
        [tip, 0.62, 0.6],
      ]
      for (const [at, wide, thick] of sizes) {
        const next = [
          [1, 1],
          [-1, 1],
          [-1, -1],
          [1, -1],
        ].map(([f, u]) => {
          const place = along(along(at, FRONT, f! * wide * 1.02), ARM_UP, u! * thick)
          return put(place, KNUCKLES + 3, tag, at)
        })
        s.loft(next, ring, true)
        ring = next
      }
      s.face([...ring].reverse())
    })

    // thumb: six points of the open palm, tapering forward
    const hole = [palm1[1]!, palm1[2]!, palm1[3]!, palm2[3]!, palm2[2]!, palm2[1]!]
    const root = mean(hole.map((p) => s.at(p)))
    const dir = unit(add(add(scale(ARM_AXIS, 0.8), scale(FRONT, 0.72)), scale(ARM_UP, -0.3)))
    const knuckle = along(root, dir, 2.6)
    const tip = along(knuckle, unit(add(dir, scale(ARM_AXIS, 0.45))), 3.9)
    joints.Thumb = [along(root, dir, -0.6), knuckle, lerp(knuckle, tip, THUMB_JOINT)]
    const across = unit(sub(ARM_AXIS, scale(dir, dot(ARM_AXIS, dir))))
    let ring = hole
    for (const [at, size] of [
      [knuckle, 1.5],
      [lerp(knuckle, tip, THUMB_JOINT), 1.25],
      [tip, 0.72],
    ] as const) {
      const next = THUMB_RING.map(([a, u]) =>
        put(along(along(at, across, a * size), ARM_UP, u * size * 0.9), WRIST + 6, 'leftHand', at),
      )
      s.loft(ring, next, true)
      ring = next
    }
    s.cap(ring, scale(dir, 0.25))
  })
  return joints
}
