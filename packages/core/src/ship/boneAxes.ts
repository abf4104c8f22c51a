import { Matrix4, Quaternion, Vector3 } from 'three'
import type { Bone } from '../rig/Skeleton.ts'

/** Bones that lie closer to the front than this have their z from above instead: the cosine of eight degrees. */
const AHEAD = 0.99
const FRONT = new Vector3(0, 0, 1)
const BELOW = new Vector3(0, -1, 0)

/** Turns at rest by which every bone's y lies along it and its z as far to the front as it can; xyzw, in the figure's space. */
export function turnsAlong(bones: readonly Pick<Bone, 'at' | 'tail'>[]): Bone['turn'][] {
  const m = new Matrix4()
  return bones.map(({ at, tail }) => {
    const y = new Vector3(...tail).sub(new Vector3(...at))
    if (y.length() < 1e-6) return [0, 0, 0, 1]
    y.normalize()
    const z = (Math.abs(y.dot(FRONT)) > AHEAD ? BELOW : FRONT).clone()
    z.addScaledVector(y, -z.dot(y)).normalize()
    return new Quaternion().setFromRotationMatrix(m.makeBasis(new Vector3().crossVectors(y, z), y, z)).toArray()
  })
}

/** A bone as it is written. */
export type WrittenBone = Pick<Bone, 'name' | 'parent' | 'at' | 'turn'> & {
  /** How much longer a unit of what hangs on it is than one of the file's; as long if not said. */
  scale?: number
}

/** How a joint is turned from the one above it; both xyzw in the figure's space. */
export const localTurn = (above: Bone['turn'], turn: Bone['turn']): Quaternion =>
  new Quaternion(...above)
    .invert()
    .multiply(new Quaternion(...turn))
    .normalize()

/** How a joint is scaled from the one above it. */
export const localScale = (above: Pick<WrittenBone, 'scale'> | null, { scale = 1 }: Pick<WrittenBone, 'scale'>) =>
  scale / (above?.scale ?? 1)

/** Where a joint stands from the one above it, in that one's axes and units at rest. */
export function localPlace(
  above: Pick<WrittenBone, 'at' | 'turn' | 'scale'> | null,
  at: readonly number[],
): [number, number, number] {
  if (!above) return [at[0]!, at[1]!, at[2]!]
  return new Vector3(at[0]! - above.at[0], at[1]! - above.at[1], at[2]! - above.at[2])
    .applyQuaternion(new Quaternion(...above.turn).invert())
    .divideScalar(above.scale ?? 1)
    .toArray()
}
