import { Matrix3, Matrix4, Quaternion, Vector3 } from 'three'
import type { BoundPart } from '../dress/bindPart.ts'
import { boundsOf } from '../mesh/Mesh.ts'

/** Pieces smaller than this share of the body's height keep their form, as do those that hang on one bone by so much. */
const KEPT = { size: 0.045, onBone: 0.9, scale: 0.25 }

/**
 * Gives small pieces and those on one bone back their form: the similarity that lies nearest to where their points went.
 *
 * @returns the piece of each point where it keeps its form, -1 elsewhere; and how each point's moves turn
 */
export function keepForms(
  bound: BoundPart,
  positions: Float32Array,
  { pieceOf, count }: { pieceOf: Uint32Array; count: number },
  fromHeight: number,
  toHeight: number,
) {
  const { rest, joints, weights } = bound
  const usual = Math.sqrt(toHeight / fromHeight)
  const members: number[][] = Array.from({ length: count }, () => [])
  pieceOf.forEach((piece, p) => members[piece]!.push(p))
  const stays = new Int32Array(pieceOf.length).fill(-1)
  const turns = new Float32Array(pieceOf.length * 4)
  for (let p = 0; p < pieceOf.length; p++) turns.set([0, 0, 0, 1], p * 4)
  const scales = new Float32Array(pieceOf.length).fill(usual)
  for (const [piece, points] of members.entries()) {
    const { min, max } = boundsOf(points.flatMap((p) => [...rest.subarray(p * 3, p * 3 + 3)]))
    const small = Math.hypot(...max.map((v, k) => v - min[k]!)) < KEPT.size * fromHeight
    const sums = new Map<number, number>()
    for (const p of points)
      for (let k = 0; k < 4; k++)
        sums.set(joints[p * 4 + k]!, (sums.get(joints[p * 4 + k]!) ?? 0) + weights[p * 4 + k]!)
    const onOne = Math.max(...sums.values()) >= KEPT.onBone * points.length
    if (points.length < 4 || !(small || onOne)) continue
    const fit = similarity(points, rest, positions, usual)
    for (const p of points) {
      stays[p] = piece
      fit.apply(rest, positions, p)
      turns.set(fit.turn.toArray(), p * 4)
      scales[p] = fit.scale
    }
  }
  // a quaternion's length says how much is grown
  for (let p = 0; p < pieceOf.length; p++) for (let k = 0; k < 4; k++) turns[p * 4 + k]! *= Math.sqrt(scales[p]!)
  return { pieceOf: stays, turns }
}

/** The similarity nearest to where points went, by least squares (Umeyama 1991; the turn by Newton's iteration for the polar factor). */
function similarity(points: readonly number[], rest: Float32Array, went: Float32Array, usual: number) {
  const mean = (list: Float32Array) =>
    points.reduce((s, p) => s.add(new Vector3().fromArray(list, p * 3)), new Vector3()).divideScalar(points.length)
  const [a, b] = [mean(rest), mean(went)]
  const m = new Matrix3().set(0, 0, 0, 0, 0, 0, 0, 0, 0)
  let spread = 0
  const [p, q] = [new Vector3(), new Vector3()]
  for (const i of points) {
    p.fromArray(rest, i * 3).sub(a)
    q.fromArray(went, i * 3).sub(b)
    spread += p.lengthSq()
    const x = p.toArray()
    const y = q.toArray()
    for (let r = 0; r < 3; r++) for (let c = 0; c < 3; c++) m.elements[c * 3 + r]! += y[r]! * x[c]!
  }
  const turn = polarTurn(m)
  // what was stretched is told by how far it went along the turn
  let along = 0
  for (const i of points) {
    p.fromArray(rest, i * 3)
      .sub(a)
      .applyQuaternion(turn)
    along += p.dot(q.fromArray(went, i * 3).sub(b))
  }
  const wanted = spread > 1e-12 ? along / spread : usual
  const scale = Math.min(usual * (1 + KEPT.scale), Math.max(usual * (1 - KEPT.scale), wanted))
  return {
    turn,
    scale,
    apply(from: Float32Array, to: Float32Array, i: number) {
      p.fromArray(from, i * 3)
        .sub(a)
        .applyQuaternion(turn)
        .multiplyScalar(scale)
        .add(b)
        .toArray(to, i * 3)
    },
  }
}

/** The turn in a matrix: none where it has no volume to tell it by. */
function polarTurn(m: Matrix3): Quaternion {
  const size = Math.max(...m.elements.map(Math.abs))
  const x = m.clone().multiplyScalar(1 / (size || 1))
  if (!(x.determinant() > 1e-9)) return new Quaternion()
  for (let i = 0; i < 30; i++) {
    const inverse = x.clone().invert().transpose()
    for (let e = 0; e < 9; e++) x.elements[e] = (x.elements[e]! + inverse.elements[e]!) / 2
  }
  return new Quaternion().setFromRotationMatrix(new Matrix4().setFromMatrix3(x))
}
