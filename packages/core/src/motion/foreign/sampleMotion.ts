import { Quaternion, Vector3 } from 'three'
import { placeJoints, type ForeignMotion } from './ForeignMotion.ts'
import { turnToOurs, type MotionMatch } from './matchMotion.ts'

/** The other figure at even times, in our axes and facing ahead, in its own unit; by our bone. */
export interface Sampled {
  n: number
  rate: number
  /** At rest. */
  rest: Map<number, Vector3>
  /** By bone, by sample: where its joint is, and how it is turned from rest, in the world. */
  at: Map<number, Vector3[]>
  turns: Map<number, Quaternion[]>
}

/** What the joints that our bones follow do between two times, in `n` samples. */
export function sampleMotion(
  motion: ForeignMotion,
  match: Pick<MotionMatch, 'up' | 'front'>,
  joints: ReadonlyMap<number, number>,
  from: number,
  seconds: number,
  n: number,
): Sampled {
  const ours = turnToOurs(match)
  const count = motion.joints.length
  const frames = [0, 1].map(() => ({ at: new Float32Array(count * 3), turns: new Float32Array(count * 4) }))
  const list = <T>() => new Map([...joints.keys()].map((b) => [b, [] as T[]]))
  const source: Sampled = { n, rate: (n - 1) / Math.max(seconds, 1e-6), rest: new Map(), at: list(), turns: list() }
  const back = new Map<number, Quaternion>()
  for (const [b, j] of joints) {
    const { at, turn } = motion.joints[j]!
    source.rest.set(b, new Vector3(...at).applyQuaternion(ours))
    back.set(b, new Quaternion(...turn).invert().multiply(ours.clone().invert()))
  }
  const [a, b] = frames as [(typeof frames)[0], (typeof frames)[0]]
  const [next, nextTurn] = [new Vector3(), new Quaternion()]
  for (let s = 0; s < n; s++) {
    const frame = Math.min(motion.frames - 1, (from + (seconds * s) / (n - 1)) / motion.step || 0)
    const low = Math.floor(frame + 1e-6)
    // most motions have a frame at every moment that is asked for
    const share = frame - low > 1e-4 && low + 1 < motion.frames ? frame - low : 0
    placeJoints(motion, low, a)
    if (share > 0) placeJoints(motion, low + 1, b)
    for (const [bone, j] of joints) {
      const place = new Vector3().fromArray(a.at, j * 3)
      const turn = new Quaternion().fromArray(a.turns, j * 4)
      if (share > 0) {
        place.lerp(next.fromArray(b.at, j * 3), share)
        turn.slerp(nextTurn.fromArray(b.turns, j * 4), share)
      }
      source.at.get(bone)!.push(place.applyQuaternion(ours))
      source.turns.get(bone)!.push(turn.premultiply(ours).multiply(back.get(bone)!))
    }
  }
  faceAhead(source)
  return source
}

/** Turns all of it so that the root looks ahead: on the whole, or at first of one who turns about. */
function faceAhead({ at, turns, n }: Sampled): void {
  const [root] = turns.keys()
  if (root === undefined) return
  const ways = turns.get(root)!.map((q) => new Vector3(0, 0, 1).applyQuaternion(q).setY(0))
  const mean = ways.reduce((sum, w) => sum.add(w), new Vector3())
  const ahead = mean.length() > 0.8 * n ? mean : ways.find((w) => w.length() > 0.3)
  if (!ahead || ahead.length() < 1e-6) return
  const turn = new Quaternion().setFromAxisAngle(new Vector3(0, 1, 0), -Math.atan2(ahead.x, ahead.z))
  for (const list of at.values()) for (const place of list) place.applyQuaternion(turn)
  for (const list of turns.values()) for (const own of list) own.premultiply(turn)
}
