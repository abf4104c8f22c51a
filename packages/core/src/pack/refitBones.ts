import { Quaternion, Vector3 } from 'three'
import type { PreparedBody } from '../body/PreparedBody.ts'
import type { BoundPart } from '../dress/bindPart.ts'

/** How much longer or thicker one bone may count against the other. */
const RATIO = { least: 0.3, most: 3.5 }

/** What becomes of one bone of a body on another. */
export interface BoneMap {
  from: Vector3
  to: Vector3
  /** Along the bone on the first body. */
  axis: Vector3
  turn: Quaternion
  along: number
  across: number
}

/** What becomes of each bone of the first body on the other; null where they share none. */
export function boneMaps(from: PreparedBody, to: PreparedBody): BoneMap[] | null {
  const there = new Map(to.model.bones.map((b, i) => [b.name, i]))
  const here = new Map(from.model.bones.map((b, i) => [b.name, i]))
  const shared = from.model.bones.filter((b) => there.has(b.name)).length
  if (shared === 0) return null
  const [a, b] = [shapesOfBones(from, there), shapesOfBones(to, here)]
  const maps: (BoneMap | null)[] = []
  from.model.bones.forEach((bone, i) => {
    const other = there.get(bone.name)
    if (other === undefined) {
      // what the other body has no bone for goes with what it hangs from
      maps.push(bone.parent === null ? null : (maps[here.get(bone.parent)!] ?? null))
      return
    }
    const [own, its] = [a[i]!, b[other]!]
    const ratio = (x: number, y: number) => Math.min(RATIO.most, Math.max(RATIO.least, x > 1e-4 ? y / x : 1))
    maps.push({
      ...{ from: own.joint, to: its.joint, axis: own.axis },
      turn: new Quaternion().setFromUnitVectors(own.axis, its.axis),
      along: ratio(own.length, its.length),
      across: ratio(own.radius, its.radius),
    })
  })
  const any = maps.find((m) => m !== null)!
  return maps.map((m) => m ?? any)
}

/** Where each bone starts, which way it goes and how long, and how thick the body is about it. */
function shapesOfBones({ model, landmarks, jointLandmarks }: PreparedBody, others: ReadonlyMap<string, number>) {
  const { positions, joints, weights } = model.mesh
  const jointAt = (b: number) => new Vector3().fromArray(landmarks, jointLandmarks[b]! * 3)
  const held = model.bones.map(() => [] as number[])
  for (let p = 0; p < positions.length / 3; p++)
    for (let k = 0; k < 4; k++) if (weights[p * 4 + k]! > 0.5) held[joints[p * 4 + k]!]!.push(p)
  return model.bones.map((bone, b) => {
    const joint = jointAt(b)
    const below = [...model.bones.keys()].filter(
      (i) => model.bones[i]!.parent === bone.name && others.has(model.bones[i]!.name),
    )
    const points = held[b]!.map((p) => new Vector3().fromArray(positions, p * 3))
    const middle = (list: readonly Vector3[]) =>
      list.reduce((sum, v) => sum.add(v), new Vector3()).divideScalar(list.length || 1)
    // bones that branch (hips, a chest) go to the middle of what hangs from them; the last of a chain to what it holds
    const tip = below.length ? middle(below.map(jointAt)) : points.length ? middle(points) : joint.clone()
    const axis = tip.sub(joint)
    const length = axis.length()
    if (length > 1e-5) axis.divideScalar(length)
    else axis.set(0, 1, 0)
    const across = points.map((p) => {
      const off = p.sub(joint)
      return Math.sqrt(Math.max(0, off.lengthSq() - off.dot(axis) ** 2))
    })
    return { joint, axis, length, radius: across.reduce((s, r) => s + r, 0) / (across.length || 1) }
  })
}

/** Points as their bones carry them, by shares. */
export function carried(
  positions: Float32Array,
  { joints, weights }: Pick<BoundPart, 'joints' | 'weights'>,
  bones: readonly BoneMap[],
): Float32Array {
  const out = new Float32Array(positions.length)
  const [at, sum, along] = [new Vector3(), new Vector3(), new Vector3()]
  for (let p = 0; p < positions.length / 3; p++) {
    sum.set(0, 0, 0)
    let all = 0
    for (let k = 0; k < 4; k++) {
      const w = weights[p * 4 + k]!
      // bones that a part brings are none of the body's
      const map = w > 0 ? bones[joints[p * 4 + k]!] : undefined
      if (!map) continue
      at.fromArray(positions, p * 3).sub(map.from)
      along.copy(map.axis).multiplyScalar(at.dot(map.axis))
      at.sub(along).multiplyScalar(map.across).addScaledVector(along, map.along)
      at.applyQuaternion(map.turn).add(map.to)
      sum.addScaledVector(at, w)
      all += w
    }
    sum.multiplyScalar(1 / (all || 1)).toArray(out, p * 3)
  }
  return out
}
