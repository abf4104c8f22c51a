import { Quaternion, Vector3 } from 'three'
import type { ClipDef } from '../kit/schema.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { sampleCurve } from './curves.ts'
import type { FittedClip } from './fitClip.ts'

/** World position of every joint at a sample, between samples by slerp; xyz a bone, metres. */
export function jointsAt(skeleton: Skeleton, clip: FittedClip, time: number): Vector3[] {
  const { turns, root } = poseAt(clip, time)
  const world: { at: Vector3; turn: Quaternion }[] = []
  skeleton.bones.forEach((bone, i) => {
    const parent = bone.parent >= 0 ? world[bone.parent]! : null
    const offset = new Vector3(...bone.at)
    if (parent)
      offset
        .sub(new Vector3(...skeleton.bones[bone.parent]!.at))
        .applyQuaternion(parent.turn)
        .add(parent.at)
    else offset.set(...root)
    world[i] = { at: offset, turn: parent ? parent.turn.clone().multiply(turns[i]!) : turns[i]!.clone() }
  })
  return world.map((w) => w.at)
}

/** Local turns and root position at a time, as an engine would play them. */
export function poseAt(clip: FittedClip, time: number): { turns: Quaternion[]; root: [number, number, number] } {
  const n = clip.times.length
  const t = clip.loop
    ? ((time % clip.duration) + clip.duration) % clip.duration
    : Math.min(clip.duration, Math.max(0, time))
  const f = (t / clip.duration) * (n - 1)
  const i = Math.min(n - 2, Math.floor(f))
  const s = f - i
  const turns = clip.rotations.map((r) => {
    if (!r) return new Quaternion()
    return new Quaternion().fromArray(r, i * 4).slerp(new Quaternion().fromArray(r, (i + 1) * 4), s)
  })
  const root = [0, 1, 2].map((k) => clip.root[i * 3 + k]! * (1 - s) + clip.root[(i + 1) * 3 + k]! * s) as [
    number,
    number,
    number,
  ]
  return { turns, root }
}

/**
 * How far a standing foot slips over the ground, metres: the largest sideways or lengthwise drift
 * of the ball of the foot while it carries, the figure moving at the clip's own pace. Sampled four
 * times as finely as the clip.
 */
export function measureFootSlide(def: ClipDef, clip: FittedClip, skeleton: Skeleton): number {
  let worst = 0
  for (const side of ['left', 'right'] as const) {
    const toes = skeleton.bones.findIndex((b) => b.name === `${side}Toes`)
    if (toes < 0) continue
    const shift = def.alternate && side === 'right' ? 0.5 : 0
    const [start, end] = def.stance
    const steps = Math.max(8, Math.round((end - start) * clip.times.length * 4))
    let low = [Infinity, Infinity]
    let high = [-Infinity, -Infinity]
    for (let k = 0; k <= steps; k++) {
      const phase = start + ((end - start) * k) / steps
      // with the toes up, the heel carries and the ball swings about it
      if (pitchAt(def, phase) < 0) continue
      const p = jointsAt(skeleton, clip, (phase + shift) * clip.duration)[toes]!
      const place = [p.x, p.z + clip.travel * phase]
      low = low.map((v, i) => Math.min(v, place[i]!))
      high = high.map((v, i) => Math.max(v, place[i]!))
    }
    for (let i = 0; i < 2; i++) if (high[i]! > low[i]!) worst = Math.max(worst, high[i]! - low[i]!)
  }
  return worst
}

function pitchAt(def: ClipDef, phase: number): number {
  const keys = def.curves['foot.pitch']
  if (!keys) return 0
  return sampleCurve(keys, phase, def.loop)
}
