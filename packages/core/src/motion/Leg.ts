import { Vector3 } from 'three'
import type { ClipDef } from '../kit/schema.ts'
import { USUAL_BEND, type TwoBones } from '../rig/inverseKinematics.ts'
import type { Skeleton } from '../rig/Skeleton.ts'

/** A limb to stand on, as motion needs it: bones by index, places at rest. */
export interface Leg extends TwoBones {
  id: string
  side: 1 | -1
  bones: { upper: number; lower: number; foot: number; toes: number }
  channels: { knee: string; foot: string; toes: string }
  /** What its bones are called. */
  names: { knee: string; foot: string; toes: string | undefined }
  /** How much of a loop it walks behind the first leg. */
  phase: number
  /** The share of its loop in which it stands, from when to when. */
  stance: ClipDef['stance']
  hip: Vector3
  ankle: Vector3
  /** Where the foot bends: the toes' joint, or a place on the ground ahead of the ankle. */
  ball: Vector3
}

const UP = new Vector3(0, 1, 0)

/** The legs of a skeleton, with their phases in a clip. */
export function legsOf(
  { limbs, bones }: Pick<Skeleton, 'limbs' | 'bones'>,
  clip: Pick<ClipDef, 'phases' | 'alternate' | 'stance' | 'stances'>,
): Leg[] {
  const index = new Map(bones.map((b, i) => [b.name, i]))
  const at = (i: number) => new Vector3(...bones[i]!.at)
  return limbs
    .filter((limb) => limb.kind === 'leg')
    .map((limb): Leg => {
      const [upper, lower, foot, toes] = limb.bones.map((b) => index.get(b)!) as [number, number, number, number?]
      const [hip, knee, ankle] = [at(upper), at(lower), at(foot)]
      const pole = limb.pole ? new Vector3(...limb.pole).normalize() : new Vector3(0, 0, 1)
      const [, kneeChannel, footChannel, toesChannel] = limb.channels
      return {
        id: limb.id,
        side: limb.side === 'right' ? -1 : 1,
        bones: { upper, lower, foot, toes: toes ?? -1 },
        names: { knee: limb.bones[1]!, foot: limb.bones[2]!, toes: limb.bones[3] },
        channels: { knee: kneeChannel ?? 'knee', foot: footChannel ?? 'foot', toes: toesChannel ?? 'toes' },
        phase: phaseOf(limb, clip),
        stance: ownOf(clip.stances, limb.id) ?? clip.stance,
        upper: knee.clone().sub(hip),
        lower: ankle.clone().sub(knee),
        pole: pole.lengthSq() > 0.5 ? pole : UP.clone(),
        bend: USUAL_BEND,
        hip,
        ankle,
        ball: toes === undefined ? ballOf(limb, ankle) : at(toes),
      }
    })
}

/** Where a foot without toes bends: where they would be, or as far ahead of the ankle as that is high. */
const ballOf = ({ beyond }: Skeleton['limbs'][number], ankle: Vector3): Vector3 =>
  beyond ? new Vector3(...beyond) : ankle.clone().add(new Vector3(0, -ankle.y, ankle.y))

const ownOf = <T>(values: Readonly<Record<string, T>> | undefined, id: string): T | undefined =>
  values && Object.hasOwn(values, id) ? values[id] : undefined

function phaseOf(limb: Skeleton['limbs'][number], clip: Pick<ClipDef, 'phases' | 'alternate'>): number {
  const own = ownOf(clip.phases, limb.id)
  if (own !== undefined) return own
  return clip.alternate ? (limb.phase ?? (limb.side === 'right' ? 0.5 : 0)) : 0
}

/** The unit of lengths in curves, metres: the first leg stretched; half the skeleton's height without legs. */
export function legLength(legs: readonly Leg[], { bones }: Pick<Skeleton, 'bones'>): number {
  if (legs[0]) return legs[0].upper.length() + legs[0].lower.length()
  const heights = bones.map((b) => b.at[1])
  return Math.max(1e-3, (Math.max(...heights) - Math.min(...heights)) / 2)
}

/** The same of a skeleton alone, whatever it plays. */
export function unitOf(skeleton: Pick<Skeleton, 'limbs' | 'bones'>): number {
  return legLength(legsOf(skeleton, { alternate: false, stance: [0, 1] }), skeleton)
}
