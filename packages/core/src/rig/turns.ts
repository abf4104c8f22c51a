import { Quaternion, Vector3 } from 'three'

/** A turn so many times, or a share of it. */
export function timesTurn(turn: Readonly<Quaternion>, times: number): Quaternion {
  const { x, y, z, w } = turn
  const angle = 2 * Math.atan2(Math.hypot(x, y, z), w)
  const axis = new Vector3(x, y, z)
  return axis.lengthSq() < 1e-20 ? new Quaternion() : new Quaternion().setFromAxisAngle(axis.normalize(), angle * times)
}

/**
 * How far a turn goes about an axis, radians, from -π to π: the twist of its decomposition into a swing and, before it,
 * a twist about that axis.
 *
 * @param axis of length one
 */
export function twistAbout({ x, y, z, w }: Readonly<Quaternion>, axis: Readonly<Vector3>): number {
  const angle = 2 * Math.atan2(axis.x * x + axis.y * y + axis.z * z, w)
  // the shorter way round
  if (angle > Math.PI) return angle - 2 * Math.PI
  return angle < -Math.PI ? angle + 2 * Math.PI : angle
}

/** The same turn as a mirror across the figure's middle shows it. */
export function mirroredTurn({ x, y, z, w }: Readonly<Quaternion>): Quaternion {
  return new Quaternion(x, -y, -z, w)
}
