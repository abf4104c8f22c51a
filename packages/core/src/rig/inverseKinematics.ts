import { Matrix4, Quaternion, Vector3 } from 'three'

/** Two bones that end in a third joint: at rest, the way along each. */
export interface TwoBones {
  upper: Vector3 // first joint to middle joint
  lower: Vector3 // middle joint to end
  /** The middle joint points this way when the limb bends, at rest. */
  pole: Vector3
  /** Least and greatest bend at the middle joint, radians; 0 is straight. */
  bend: readonly [least: number, most: number]
}

/** A straight limb cannot tell which way to bend, and snaps; a folded one runs through itself. */
export const USUAL_BEND: TwoBones['bend'] = [0.06, 2.75]

const DOWN = new Vector3(0, -1, 0)

/** The distance between the ends of two bones at a bend between them (law of cosines). */
function spanAt([a, b]: readonly [number, number], bend: number): number {
  return Math.sqrt(Math.max(0, a * a + b * b + 2 * a * b * Math.cos(bend)))
}

const lengthsOf = ({ upper, lower }: TwoBones): [number, number] => [upper.length(), lower.length()]

/** The longest way the limb can span within its limits. */
export function longestReach(limb: TwoBones): number {
  return spanAt(lengthsOf(limb), limb.bend[0])
}

/**
 * Where the middle joint and the end of two bones come to lie when the end goes to a place, the
 * middle joint towards a direction. Out of reach, the end comes as near as the limits let it.
 *
 * @param socket where the first joint is, metres
 * @param pole   which way the middle joint is to point, in the world
 */
export function placeMiddle(
  lengths: readonly [upper: number, lower: number],
  socket: Vector3,
  target: Vector3,
  pole: Vector3,
  limits: TwoBones['bend'],
): { middle: Vector3; end: Vector3; bend: Vector3 } {
  const [a, b] = lengths
  const way = target.clone().sub(socket)
  const d = Math.min(spanAt(lengths, limits[0]), Math.max(spanAt(lengths, limits[1]), way.length()))
  const dir = way.lengthSq() > 1e-12 ? way.normalize() : DOWN.clone()
  const cos = Math.min(1, Math.max(-1, (a * a + d * d - b * b) / (2 * a * d)))
  const bend = across(pole, dir)
  const middle = socket
    .clone()
    .addScaledVector(dir, cos * a)
    .addScaledVector(bend, Math.sqrt(1 - cos * cos) * a)
  return { middle, end: socket.clone().addScaledVector(dir, d), bend }
}

/** World turns of the two bones that bring the end of a limb to a place; see `placeMiddle`. */
export function solveTwoBones(
  limb: TwoBones,
  socket: Vector3,
  target: Vector3,
  pole: Vector3,
): { upper: Quaternion; lower: Quaternion } {
  const { middle, end, bend } = placeMiddle(lengthsOf(limb), socket, target, pole, limb.bend)
  const hinge = new Vector3().crossVectors(bend, end.clone().sub(socket)).normalize()
  const restHinge = new Vector3().crossVectors(limb.pole, DOWN).normalize()
  return {
    upper: frameTurn(limb.upper, restHinge, middle.clone().sub(socket), hinge),
    lower: frameTurn(limb.lower, restHinge, end.clone().sub(middle), hinge),
  }
}

/** What of a vector stands across a direction, unit length; any such vector where nothing does. */
function across(v: Vector3, dir: Vector3, out = new Vector3()): Vector3 {
  out.copy(v).addScaledVector(dir, -v.dot(dir))
  if (out.lengthSq() > 1e-10) return out.normalize()
  if (Math.abs(dir.y) < 0.9) out.set(0, 1, 0)
  else out.set(0, 0, 1)
  return out.addScaledVector(dir, -out.dot(dir)).normalize()
}

/** The rotation that takes a bone's direction and hinge to others. */
function frameTurn(fromDir: Vector3, fromHinge: Vector3, toDir: Vector3, toHinge: Vector3): Quaternion {
  const turn = frame(toDir, toHinge, TO).multiply(frame(fromDir, fromHinge, FROM).transpose())
  return new Quaternion().setFromRotationMatrix(turn)
}

// limbs are bent for every moment of every clip: what that takes is made once
const [TO, FROM] = [new Matrix4(), new Matrix4()]
const [ALONG, ACROSS, OUT] = [new Vector3(), new Vector3(), new Vector3()]

/** The axes of a limb: y along it, x across it near the hinge. */
function frame(dir: Vector3, hinge: Vector3, out: Matrix4): Matrix4 {
  const y = ALONG.copy(dir).normalize()
  const x = across(hinge, y, ACROSS)
  return out.makeBasis(x, y, OUT.crossVectors(x, y))
}
