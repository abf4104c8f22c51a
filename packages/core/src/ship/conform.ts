import { Quaternion, Vector3 } from 'three'
import { problem, type Problem, type Read } from '../base/problem.ts'
import type { Figure } from '../build.ts'
import type { Mesh } from '../mesh/Mesh.ts'
import type { Clip } from '../motion/Clip.ts'
import type { Convention, ConventionJoint, Target } from '../recipe/target.ts'
import type { HelperPoint } from '../rig/helperPoints.ts'
import { createWorldPose, solveForward } from '../rig/Pose.ts'
import type { Bone } from '../rig/Skeleton.ts'
import { turnsAlong, type WrittenBone } from './boneAxes.ts'
import { oneWay } from './restInPose.ts'

/** What of a figure is written. */
export type Leaving = Pick<Figure, 'name' | 'mesh' | 'lods' | 'movements' | 'atlas' | 'doubleSided'> & {
  /** Its bones; `bones[0]` is what a clip moves about, the parent of all others. */
  bones: readonly LeavingBone[]
  /** What that hangs on, from the ground up: joints that no clip of ours turns, and on which no vertex hangs. */
  above: readonly LeavingBone[]
}

/** Places are in the file's unit, whatever a joint scales. */
export type LeavingBone = Bone & Pick<WrittenBone, 'scale'>

/** A figure by the names, the skeleton and the size that a target asks for, and what brings the rest there too. */
export interface Conformed {
  figure: Leaving
  /** Our name of a bone to its index in `figure.bones`; of bones that were left out to that of what they hang on. */
  place: ReadonlyMap<string, number>
  clip: (clip: Clip) => Clip
  point: (point: HelperPoint) => HelperPoint
}

/** A bone of the file before it has its number: of ours, or one that only its game has. */
interface Planned {
  name: string
  parent: Planned | null
  /** Index of our bone; -1 if it is none. */
  ours: number
  at: Vector3
  turn: Quaternion
  scale: number
}

/**
 * Brings a figure, as it stands at rest, to what its target's convention asks of it: bones by the game's names, turned at
 * rest as its own, in its hierarchy, with its root on the ground; joints no vertex hangs on left out, if so wanted; scaled.
 * Points stay where they are. Unit and axes are each format's own affair.
 */
export function conform(
  { skeleton, ...figure }: Omit<Leaving, 'bones' | 'above'> & { skeleton: { bones: readonly Bone[] } },
  { convention }: Pick<Target, 'convention'>,
): Read<Conformed> {
  const problems: Problem[] = []
  const { planned, above } = plan(skeleton.bones, convention, problems)
  const kept = convention.bones.unused === 'left-out' ? withoutUnused(planned, figure) : planned
  if (convention.bones.names === 'numbered') kept.forEach((p, i) => (p.name = numbered(i)))
  const clash = namesTwice([...above, ...kept])
  if (clash) return { value: null, problems: [...problems, clash] }
  const number = new Map(kept.map((p, i) => [p, i]))
  /** The nearest that stays, upward; what our root is part of stays always. */
  const staying = (p: Planned): number => {
    for (let at: Planned | null = p; at; at = at.parent) if (number.has(at)) return number.get(at)!
    return 0
  }
  const to = skeleton.bones.map((_, b) => staying(planned.find((p) => p.ours === b)!))
  const scale = convention.scale ?? 1
  const bones = bonesOf(kept, staying, skeleton.bones, convention, scale)
  const roots = above.map(({ name, at, turn, scale: own }, i): LeavingBone => ({
    ...{ name, parent: i - 1, at: scaled(at.toArray(), scale), turn: turn.toArray(), ...(own !== 1 && { scale: own }) },
    tail: i + 1 < above.length ? scaled(above[i + 1]!.at.toArray(), scale) : bones[0]!.at,
  }))
  const meshes = [figure.mesh, ...figure.lods].map((mesh) => meshOn(mesh, to, scale))
  return {
    value: {
      figure: {
        ...figure,
        ...{ mesh: meshes[0]!, lods: meshes.slice(1), bones, above: roots },
        movements: figure.movements.map((m) => ({ ...m, joints: movesOn(m.joints, kept, scale) })),
      },
      place: new Map(skeleton.bones.map(({ name }, b) => [name, to[b]!])),
      clip: (clip) => clipOn(clip, skeleton.bones, bones, kept, scale),
      point: (point) => ({ ...point, bone: to[point.bone]!, at: scaled(point.at, scale) }),
    },
    problems,
  }
}

const scaled = (at: readonly number[], scale: number) => at.map((v) => v * scale) as Bone['at']
const numbered = (i: number) => `bone${String(i + 1).padStart(3, '0')}`

function plan(
  bones: readonly Bone[],
  { bones: { names, table, joints = [], axes = 'unturned' }, root }: Convention,
  problems: Problem[],
): { planned: Planned[]; above: Planned[] } {
  const nameOf = (own: string) => (names === 'table' && Object.hasOwn(table, own) ? table[own]! : own)
  const own = bones.map((bone, ours): Planned => ({
    ...{ name: nameOf(bone.name), parent: null, ours },
    ...{ at: new Vector3(...bone.at), turn: new Quaternion(), scale: 1 },
  }))
  own.forEach((p, b) => (p.parent = own[bones[b]!.parent] ?? null))
  const ground: Planned[] = root
    ? [{ name: root, parent: null, ours: -1, at: new Vector3(), turn: new Quaternion(), scale: 1 }]
    : []
  if (names !== 'table' || joints.length === 0) return { planned: own, above: ground }
  const hung = hang(own, joints, axes === 'joints', problems)
  return hung ?? { planned: own, above: ground }
}

/**
 * Hangs our bones as the game's skeleton does: each on the joint that its own hangs on, with those between. Joints at the
 * end of which nothing of ours is are left out.
 *
 * @returns null where its joints make no tree that ends in our root
 */
function hang(
  own: readonly Planned[],
  joints: readonly ConventionJoint[],
  turned: boolean,
  problems: Problem[],
): { planned: Planned[]; above: Planned[] } | null {
  const theirs = new Map(joints.map((j) => [j.name, j]))
  const byName = new Map(own.map((p) => [p.name, p]))
  /** From a joint up to where nothing is above it; null where it goes round. */
  const wayUp = (name: string): string[] | null => {
    const way: string[] = []
    for (let at: string | null = name; at !== null; at = theirs.get(at)!.parent) {
      // what is not among them holds nothing
      if (way.includes(at) || !theirs.has(at)) return null
      way.push(at)
    }
    return way
  }
  const rootWay = wayUp(own[0]!.name)
  const matched = own.filter((p) => theirs.has(p.name))
  const astray = matched.find((p) => !wayUp(p.name)?.includes(own[0]!.name))
  if (!rootWay || !theirs.has(own[0]!.name) || astray) {
    const said = astray
      ? `“${astray.name}” does not hang on “${own[0]!.name}” there.`
      : `There is no “${own[0]!.name}” among its joints.`
    const fix = 'Learn the skeleton again, or match the joint from which all others hang.'
    problems.push(problem('joints-astray', 'target/convention/bones/joints', said, fix, 'warning'))
    return null
  }
  const made = new Map<string, Planned>()
  const planned: Planned[] = []
  const turnOf = ({ turn }: ConventionJoint) => (turned ? new Quaternion(...turn).normalize() : new Quaternion())
  const make = (name: string, parent: Planned | null): Planned => {
    const known = byName.get(name)
    const one = known ?? { name, parent, ours: -1, at: new Vector3(), turn: new Quaternion(), scale: 1 }
    one.parent = parent
    one.turn = turnOf(theirs.get(name)!)
    one.scale = theirs.get(name)!.scale ?? 1
    made.set(name, one)
    planned.push(one)
    return one
  }
  make(own[0]!.name, null)
  for (const p of own.slice(1)) {
    if (!theirs.has(p.name)) {
      // it hangs on what it hung on, and is turned as that is: what hangs on it is to that as it is in the game
      if (p.parent) [p.turn, p.scale] = [p.parent.turn.clone(), p.parent.scale]
      planned.push(p)
      continue
    }
    const before = p.parent
    const way = wayUp(p.name)!
    const from = way.findIndex((n) => made.has(n))
    for (let i = from - 1; i >= 0; i--) make(way[i]!, made.get(way[i + 1]!)!)
    // bones of ours alone stay between
    const top = way[from]!
    if (before && onTheWay(before, made.get(top)!, theirs)) made.get(way[from - 1]!)!.parent = before
  }
  placeBetween(planned)
  const above = rootWay.slice(1).reverse()
  const roots: Planned[] = []
  for (const [i, name] of above.entries()) {
    const { scale = 1, height = i === 0 ? 0 : 1 } = theirs.get(name)!
    roots.push({
      ...{ name, parent: roots.at(-1) ?? null, ours: -1, turn: turnOf(theirs.get(name)!), scale },
      at: own[0]!.at.clone().multiplyScalar(height),
    })
  }
  return { planned: parentsFirst(planned), above: roots }
}

/** Whether a bone hangs on another by bones that only we have. */
function onTheWay(bone: Planned, top: Planned, theirs: ReadonlyMap<string, unknown>): boolean {
  let at: Planned | null = bone
  while (at && at !== top && !theirs.has(at.name)) at = at.parent
  return at === top && bone !== top
}

/** Joints that only the game has stand evenly between those of ours that they are between. */
function placeBetween(planned: readonly Planned[]): void {
  // where ways part, what the first of them placed stays
  const placed = new Set<Planned>()
  for (const p of planned) {
    if (p.ours < 0 || p.parent === null || p.parent.ours >= 0) continue
    const between: Planned[] = []
    let top: Planned | null = p.parent
    for (; top && top.ours < 0; top = top.parent) between.unshift(top)
    if (!top) continue
    const from = top.at
    between.forEach((b, i) => {
      if (placed.has(b)) return
      placed.add(b)
      b.at.copy(from).lerp(p.at, (i + 1) / (between.length + 1))
    })
  }
}

function parentsFirst(planned: readonly Planned[]): Planned[] {
  const done = new Set<Planned>()
  const out: Planned[] = []
  const add = (p: Planned): void => {
    if (done.has(p)) return
    if (p.parent) add(p.parent)
    done.add(p)
    out.push(p)
  }
  planned.forEach(add)
  return out
}

/** Those on which a vertex hangs, here or further down, and the root. */
function withoutUnused(planned: readonly Planned[], { mesh, lods }: Pick<Leaving, 'mesh' | 'lods'>): Planned[] {
  const used = new Set<number>()
  for (const { joints, weights } of [mesh, ...lods])
    for (let i = 0; i < weights.length; i++) if (weights[i]! > 0) used.add(joints[i]!)
  const kept = new Set<Planned>([planned[0]!])
  for (const p of planned)
    if (used.has(p.ours)) for (let at: Planned | null = p; at && !kept.has(at); at = at.parent) kept.add(at)
  return planned.filter((p) => kept.has(p))
}

function namesTwice(all: readonly Planned[]): Problem | null {
  const seen = new Set<string>()
  for (const { name } of all) {
    if (seen.has(name))
      return problem(
        'bone-names',
        'target/convention/bones',
        `Two bones would be called “${name}”.`,
        'Give one of them another name in the table.',
      )
    seen.add(name)
  }
  return null
}

function bonesOf(
  kept: readonly Planned[],
  staying: (p: Planned) => number,
  before: readonly Bone[],
  { bones: { axes = 'unturned' } }: Convention,
  scale: number,
): LeavingBone[] {
  const parents = kept.map((p) => (p.parent ? staying(p.parent) : -1))
  const bones = kept.map(({ name, ours, at, turn, scale: own }, i): LeavingBone => {
    const child = kept[parents.indexOf(i)]
    const tail = ours >= 0 ? before[ours]!.tail : (child ?? kept[i]!).at.toArray()
    return {
      ...{ name, parent: parents[i]!, at: scaled(at.toArray(), scale), tail: scaled(tail, scale) },
      turn: turn.toArray(),
      ...(own !== 1 && { scale: own }),
    }
  })
  if (axes !== 'along') return bones
  return turnsAlong(bones).map((turn, i) => ({ ...bones[i]!, turn }))
}

function meshOn(mesh: Mesh, to: readonly number[], scale: number): Mesh {
  const joints = to.every((b, i) => b === i) ? mesh.joints : mesh.joints.map((j) => to[j] ?? 0)
  if (scale === 1) return { ...mesh, joints }
  return {
    ...mesh,
    joints,
    positions: mesh.positions.map((v) => v * scale),
    morphs: mesh.morphs.map((m) => ({ ...m, deltas: m.deltas.map((v) => v * scale) })),
  }
}

/** How joints move with a slider; those that only the game has go as far as what they are between. */
function movesOn(moves: Float32Array, kept: readonly Planned[], scale: number): Float32Array {
  const out = new Float32Array(kept.length * 3)
  kept.forEach((p, i) => {
    const nearest = p.ours >= 0 ? p : nearestOurs(p)
    const from = nearest ? nearest.ours : 0
    for (let k = 0; k < 3; k++) out[i * 3 + k] = moves[from * 3 + k]! * scale
  })
  return out
}

function nearestOurs(p: Planned): Planned | null {
  for (let at = p.parent; at; at = at.parent) if (at.ours >= 0) return at
  return null
}

/** A clip on the bones of the file: every bone of ours is turned in the world as before, whatever it hangs on now. */
function clipOn(
  clip: Clip,
  before: readonly Bone[],
  bones: readonly Bone[],
  kept: readonly Planned[],
  scale: number,
): Clip {
  const root = scale === 1 ? clip.root : clip.root.map((v) => v * scale)
  const travel = clip.travel * scale
  const ours = kept.map((p) => p.ours)
  const same = bones.every(
    ({ parent }, i) => ours[i]! >= 0 && (parent < 0 ? -1 : ours[parent]!) === before[ours[i]!]!.parent,
  )
  if (same) return { ...clip, root, travel, rotations: ours.map((b) => clip.rotations[b]!) }
  const n = clip.times.length
  const rotations = bones.map(() => new Float32Array(n * 4))
  const moves = bones.map(() => new Float32Array(n * 3))
  const world = createWorldPose(before)
  const [place, over] = [new Vector3(), new Vector3()]
  const pose = { turns: new Float32Array(before.length * 4), root: [0, 0, 0] as [number, number, number] }
  const turns = bones.map(() => new Quaternion())
  const own = new Quaternion()
  for (let s = 0; s < n; s++) {
    before.forEach((_, b) => {
      const r = clip.rotations[b]
      for (let k = 0; k < 4; k++) pose.turns[b * 4 + k] = r ? r[s * 4 + k]! : k === 3 ? 1 : 0
    })
    solveForward(before, pose, world)
    bones.forEach(({ parent }, i) => {
      const above = parent < 0 ? null : turns[parent]!
      if (ours[i]! >= 0) turns[i]!.fromArray(world.turns, ours[i]! * 4)
      else if (above) turns[i]!.copy(above)
      own.copy(turns[i]!)
      if (above) own.premultiply(above.clone().invert())
      own.normalize().toArray(rotations[i]!, s * 4)
      const from = parent < 0 ? -1 : ours[parent]!
      // where a joint is carried by what it hangs on now, and where it is
      if (ours[i]! < 0 || from < 0 || from === before[ours[i]!]!.parent) return
      place.fromArray(world.joints, ours[i]! * 3).sub(over.fromArray(world.joints, from * 3))
      place.applyQuaternion(above!.clone().invert()).multiplyScalar(scale)
      for (let k = 0; k < 3; k++)
        moves[i]![s * 3 + k] = place.getComponent(k) - (bones[i]!.at[k]! - bones[parent]!.at[k]!)
    })
  }
  const still = moves.map((own) => own.every((v) => Math.abs(v) < STAYS))
  return {
    ...{ ...clip, root, travel },
    rotations: rotations.map(oneWay),
    ...(still.includes(false) && { moves: moves.map((own, i) => (still[i] ? null : own)) }),
  }
}

/** A joint that is carried to within this of where it is needs no places, metres. */
const STAYS = 1e-4
