import { Vector3 } from 'three'
import { CHAIN_KINDS, type ChainKind, type Limb } from '../kit/plan.ts'
import type { Mesh } from '../mesh/Mesh.ts'
import type { RigBone, RigLimb, RigPlan } from './Skeleton.ts'

/** What is asked for beyond the bones of the plan. */
export interface Refinement {
  /** Bones of their own for what twists about the length of an arm or a leg. */
  twists: boolean
  /** So many bones for chains of a kind; those of the plan where not said. */
  chains: Readonly<Partial<Record<ChainKind, number>>>
}

/** A plan with the bones that were asked for. */
export interface RefinedRig {
  plan: RigPlan
  /** Index of a planned bone to that of the one in its place in `plan`. */
  instead: Uint16Array
  /** Where each joint stands, by what it lies among. */
  places: JointPlace[]
  /** So many bones of `plan` a point as `stride` says, and their weights. */
  skin: { joints: Uint16Array; weights: Float32Array; stride: number }
}

/** Shares of planned joints, and of points of the skin, that sum to one. */
interface JointPlace {
  joints: (readonly [bone: number, share: number])[]
  points: (readonly [point: number, share: number])[]
}

/** A figure at rest, with the bones of its plan. */
interface Rest extends Pick<Mesh, 'positions' | 'joints' | 'weights'> {
  /** xyz a planned bone, metres. */
  at: Float32Array
}

/** Weights of bones that go anew onto others, by where a point lies along a line. */
interface Spread {
  from: ReadonlySet<number>
  /** Indices in the refined plan, and where along the line each has its skin to itself, 0 to 1. */
  onto: { bone: number; center: number }[]
  line: Vector3[]
}

/** So many bones a point can hang on while weights are spread: each of four on two. */
const SPREAD_STRIDE = 8
const SUFFIX = 'Twist'
/** Skin between a joint and the next takes so much of the twist of what lies beyond. */
const HALF = 0.5
/** Of a chain's last bone the points this near to its end, as a share of its length, say where that is. */
const TIP = 0.15
/** What hangs on a bone with less says nothing of its extent. */
const HELD = 0.25

/**
 * Gives a plan bones that it does not have by itself, for any body: twist bones, each between two joints of an arm or a
 * leg, and chains with another number of bones, evenly along the line of their joints.
 */
export function refineRig(plan: RigPlan, rest: Rest, { twists, chains }: Refinement): RefinedRig {
  const refiner = new Refiner(plan, rest)
  for (const limb of plan.limbs) {
    const count = isChain(limb) ? chains[limb.kind] : undefined
    if (count !== undefined) refiner.chain(limb, count)
    else if (twists && (limb.kind === 'arm' || limb.kind === 'leg')) refiner.twists(limb)
  }
  return refiner.done()
}

const isChain = (limb: Limb): limb is Limb & { kind: ChainKind } =>
  (CHAIN_KINDS as readonly string[]).includes(limb.kind)

/** Where the joints of a refined plan stand. Linear in both: moves of joints come from moves of what they lie among. */
export function jointsOf(
  { places }: RefinedRig,
  planned: ArrayLike<number>,
  positions: ArrayLike<number>,
): Float32Array {
  const out = new Float32Array(places.length * 3)
  places.forEach(({ joints, points }, i) => {
    for (let k = 0; k < 3; k++) {
      let sum = 0
      for (const [bone, share] of joints) sum += share * planned[bone * 3 + k]!
      for (const [point, share] of points) sum += share * positions[point * 3 + k]!
      out[i * 3 + k] = sum
    }
  })
  return out
}

interface Added {
  bone: RigBone
  place: JointPlace
}

class Refiner {
  private readonly index: Map<string, number>
  private readonly taken: Set<string>
  /** Bones that come after a planned one, and those that come in its place. */
  private readonly after = new Map<number, Added[]>()
  private readonly inPlace = new Map<number, Added[]>()
  /** Planned bone to the name of the one in its place. */
  private readonly renamed = new Map<string, string>()
  private readonly limbs: Map<RigLimb, RigLimb>
  private readonly spreads: { from: number[]; onto: { bone: string; center: number }[]; line: Vector3[] }[] = []
  private readonly plan: RigPlan
  private readonly rest: Rest

  constructor(plan: RigPlan, rest: Rest) {
    this.plan = plan
    this.rest = rest
    this.index = new Map(plan.bones.map((b, i) => [b.name, i]))
    this.taken = new Set(this.index.keys())
    this.limbs = new Map(plan.limbs.map((limb) => [limb, limb]))
  }

  private at(bone: number): Vector3 {
    return new Vector3().fromArray(this.rest.at, bone * 3)
  }

  /** The upper bone's twist is half undone where it begins, the lower takes half of what turns its end. */
  twists(limb: RigLimb): void {
    const [upper, lower, end] = limb.bones.map((name) => this.index.get(name))
    if (upper === undefined || lower === undefined) return
    this.twist(upper, lower, { of: limb.bones[0]!, share: -HALF })
    if (end !== undefined) this.twist(lower, end, { of: limb.bones[2]!, share: HALF })
  }

  private twist(bone: number, next: number, twist: NonNullable<RigBone['twist']>): void {
    const { name } = this.plan.bones[bone]!
    const own = name + SUFFIX
    if (this.taken.has(own)) return
    this.taken.add(own)
    const place: JointPlace = {
      joints: [
        [bone, HALF],
        [next, HALF],
      ],
      points: [],
    }
    push(this.after, bone, { bone: { name: own, parent: name, level: 'full', twist }, place })
    const [first, last] = twist.share < 0 ? [own, name] : [name, own]
    this.spreads.push({
      from: [bone],
      onto: [
        { bone: first, center: 0 },
        { bone: last, center: 1 },
      ],
      line: [this.at(bone), this.at(next)],
    })
  }

  chain(limb: RigLimb, count: number): void {
    const old = limb.bones.map((name) => this.index.get(name))
    const bones = old.filter((b) => b !== undefined)
    const linked = bones.every((b, i) => i === 0 || this.plan.bones[b]!.parent === limb.bones[i - 1])
    // a bone that waves in two chains keeps to the first
    if (limb.bones.some((name) => this.renamed.has(name))) return
    if (bones.length !== limb.bones.length || !linked || count < 1) return
    const end = this.endOf(bones)
    const line = [...bones.map((b) => this.at(b)), end.at]
    const lengths = line.slice(1).map((p, i) => p.distanceTo(line[i]!))
    const whole = lengths.reduce((a, b) => a + b, 0)
    if (whole === 0) return
    const names = this.namesOf(limb, count)
    const placed = names.map((name, i): Added => {
      const [segment, share] = along(lengths, (whole * i) / count)
      const here = bones[segment]!
      const place: JointPlace = { joints: [[here, 1 - share]], points: [] }
      if (segment + 1 < bones.length) place.joints.push([bones[segment + 1]!, share])
      else if (share > 0) place.points = end.points.map((p) => [p, share / end.points.length])
      const { fold: _fold, ...first } = this.plan.bones[bones[0]!]!
      return { bone: { ...first, name, parent: i === 0 ? first.parent : names[i - 1]! }, place }
    })
    this.inPlace.set(bones[0]!, placed)
    for (const b of bones.slice(1)) this.inPlace.set(b, [])
    let reached = 0
    limb.bones.forEach((name, i) => {
      // the bone whose skin lies where this one's began
      this.renamed.set(name, names[Math.min(count - 1, Math.floor((reached / whole) * count + 1e-6))]!)
      reached += lengths[i]!
    })
    const parts = limb.bones.length / count
    // bones that each turn by an angle take the end of n of them, in all one long, (n + 1) / 2 of it to the side
    const share = (limb.bones.length + 1) / (count + 1)
    const played = names.map((_, i) => along(lengths, (whole * (i + HALF)) / count)[0])
    this.limbs.set(limb, {
      ...limb,
      bones: names,
      channels: played.map((b) => limb.channels[b] ?? limb.channels[0]!),
      plays: played.map((b, i) => ({ bone: limb.bones[b]!, share, place: (i + HALF) * parts + HALF })),
    })
    this.spreads.push({
      from: bones,
      onto: names.map((bone, i) => ({ bone, center: (i + HALF) / count })),
      line,
    })
  }

  /** The first keeps its name; the others count on from it. */
  private namesOf(limb: RigLimb, count: number): string[] {
    const free = new Set(this.taken)
    for (const name of limb.bones) free.delete(name)
    const stem = limb.bones[0]!.replace(/\d+$/, '')
    const names = Array.from({ length: count }, (_, i) => {
      let name = i === 0 ? limb.bones[0]! : `${stem}${i + 1}`
      if (free.has(name)) name = `${limb.id}-${name}`
      for (let n = 2; free.has(name); n++) name = `${limb.id}-${i + 1}-${n}`
      free.add(name)
      return name
    })
    for (const name of limb.bones) this.taken.delete(name)
    for (const name of names) this.taken.add(name)
    return names
  }

  /** Where the last bone of a chain ends: the points it holds that are farthest along it. */
  private endOf(bones: readonly number[]): { at: Vector3; points: number[] } {
    const { positions, joints, weights } = this.rest
    const last = bones.at(-1)!
    const root = this.at(last)
    const held: number[] = []
    for (let p = 0; p < positions.length / 3; p++) {
      let sum = 0
      for (let k = 0; k < 4; k++) if (joints[p * 4 + k] === last) sum += weights[p * 4 + k]!
      if (sum > HELD) held.push(p)
    }
    const at = (p: number) => new Vector3().fromArray(positions, p * 3)
    const before = bones.length > 1 ? this.at(bones.at(-2)!) : root
    const way = root.clone().sub(before)
    // a chain of one bone lies as its skin does
    if (way.lengthSq() < 1e-10) for (const p of held) way.add(at(p).sub(root))
    if (held.length === 0 || way.lengthSq() < 1e-10) return { at: root, points: [] }
    way.normalize()
    const far = held.map((p) => at(p).sub(root).dot(way))
    const most = Math.max(...far)
    if (most <= 0) return { at: root, points: [] }
    const points = held.filter((_, i) => far[i]! >= most * (1 - TIP))
    const middle = points.reduce((sum, p) => sum.add(at(p)), new Vector3()).divideScalar(points.length)
    return { at: middle, points }
  }

  done(): RefinedRig {
    const named = (name: string) => this.renamed.get(name) ?? name
    const bones: RigBone[] = []
    const places: JointPlace[] = []
    const put = ({ bone, place }: Added) => {
      bones.push(bone)
      places.push(place)
    }
    this.plan.bones.forEach((bone, i) => {
      const added = this.inPlace.get(i)
      if (added)
        added.forEach(({ bone: b, place }, k) =>
          put({ bone: k === 0 && b.parent !== null ? { ...b, parent: named(b.parent) } : b, place }),
        )
      else
        put({
          bone: {
            ...bone,
            parent: bone.parent === null ? null : named(bone.parent),
            ...(bone.fold !== undefined && { fold: named(bone.fold) }),
          },
          place: { joints: [[i, 1]], points: [] },
        })
      this.after.get(i)?.forEach(put)
    })
    const index = new Map(bones.map((b, i) => [b.name, i]))
    const instead = Uint16Array.from(this.plan.bones, (b) => index.get(named(b.name))!)
    const spreads = this.spreads.map(({ from, onto, line }): Spread => ({
      from: new Set(from),
      onto: onto.map(({ bone, center }) => ({ bone: index.get(bone)!, center })),
      line,
    }))
    if (spreads.length === 0) return { plan: this.plan, instead, places, skin: { ...this.rest, stride: 4 } }
    const limbs = this.plan.limbs.map((limb) => this.limbs.get(limb)!)
    const plan = { bones, limbs, pairs: this.pairs(limbs, index) }
    return { plan, instead, places, skin: spreadSkin(this.rest, instead, spreads) }
  }

  /** Those of the plan that are there, and those of chains that were pairs bone by bone and have other bones now. */
  private pairs(limbs: readonly RigLimb[], index: ReadonlyMap<string, number>): RigPlan['pairs'] {
    const { pairs } = this.plan
    const gone = new Set(this.renamed.keys())
    const anew = limbs.flatMap((left, l) => {
      const pair = pairs.find((p) => p.left === this.plan.limbs[l]!.bones[0])
      const right = limbs.find((_, r) => pair && this.plan.limbs[r]!.bones[0] === pair.right)
      if (!pair || !right || !left.plays || right.bones.length !== left.bones.length) return []
      return left.bones.map((bone, i) => ({
        id: i === 0 ? pair.id : `${pair.id}${i + 1}`,
        left: bone,
        right: right.bones[i]!,
      }))
    })
    return [
      ...pairs.filter(({ left, right }) => !gone.has(left) && !gone.has(right) && index.has(left) && index.has(right)),
      ...anew,
    ]
  }
}

/** In which of some lengths in a row a place lies, and how far along it, 0 to 1. */
function along(lengths: readonly number[], place: number): [index: number, share: number] {
  let left = place
  for (const [i, length] of lengths.entries()) {
    if (left < length || i === lengths.length - 1) return [i, length > 0 ? Math.min(1, left / length) : 0]
    left -= length
  }
  return [0, 0]
}

function push<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  map.set(key, [...(map.get(key) ?? []), value])
}

function spreadSkin(rest: Rest, instead: Uint16Array, spreads: readonly Spread[]): RefinedRig['skin'] {
  const points = rest.positions.length / 3
  const joints = new Uint16Array(points * SPREAD_STRIDE)
  const weights = new Float32Array(points * SPREAD_STRIDE)
  for (let p = 0; p < points; p++) {
    const out: [bone: number, weight: number][] = []
    const sums = new Map<Spread, number>()
    for (let k = 0; k < 4; k++) {
      const weight = rest.weights[p * 4 + k]!
      const bone = rest.joints[p * 4 + k]!
      if (weight <= 0) continue
      const spread = spreads.find((s) => s.from.has(bone))
      if (spread) sums.set(spread, (sums.get(spread) ?? 0) + weight)
      else out.push([instead[bone]!, weight])
    }
    for (const [spread, sum] of sums) {
      const at = placeAlong(spread.line, new Vector3().fromArray(rest.positions, p * 3))
      for (const [bone, share] of sharesAt(spread.onto, at)) out.push([bone, sum * share])
    }
    out.forEach(([bone, weight], k) => {
      joints[p * SPREAD_STRIDE + k] = bone
      weights[p * SPREAD_STRIDE + k] = weight
    })
  }
  return { joints, weights, stride: SPREAD_STRIDE }
}

/** How far along a line of straight pieces the place on it lies that is nearest to a point, 0 to 1. */
function placeAlong(line: readonly Vector3[], point: Vector3): number {
  let [best, at, before, whole] = [Infinity, 0, 0, 0]
  for (let i = 1; i < line.length; i++) {
    const way = line[i]!.clone().sub(line[i - 1]!)
    const length = way.length()
    if (length > 0) {
      const share = Math.min(
        1,
        Math.max(
          0,
          point
            .clone()
            .sub(line[i - 1]!)
            .dot(way) /
            length ** 2,
        ),
      )
      const distance = line[i - 1]!.clone().addScaledVector(way, share).distanceTo(point)
      if (distance < best) [best, at] = [distance, before + share * length]
    }
    before += length
    whole = before
  }
  return whole > 0 ? at / whole : 0
}

/** Of two neighbours in a row each has the more the nearer its center is. */
function sharesAt(onto: Spread['onto'], at: number): [bone: number, share: number][] {
  const next = onto.findIndex((o) => o.center > at)
  if (next === 0) return [[onto[0]!.bone, 1]]
  if (next < 0) return [[onto.at(-1)!.bone, 1]]
  const [a, b] = [onto[next - 1]!, onto[next]!]
  const share = (at - a.center) / (b.center - a.center)
  return [
    [a.bone, 1 - share],
    [b.bone, share],
  ]
}
