import type { BodyPlan } from '../kit/plan.ts'
import type { BodyDef } from '../kit/schema.ts'

type Place = readonly [number, number, number]

/** A bone of a body, where its joint stands, metres; parents first. */
export interface ProportionedBone {
  name: string
  parent: string | null
  at: Place
}

/** How every vertex moves at one end of a slider: xyz each, metres. */
export interface WholeMorph {
  name: string
  deltas: Float32Array
}

/** What a slider changes about some bones: how long they are, how thick, or how large all on them is. */
type Change = 'long' | 'thick' | 'large'

interface Proportion {
  id: string
  name: string
  group: string
  change: Change
  ends: [string, string]
  bones: (plan: BodyPlan) => string[]
}

/** How far the ends of a slider go, as factors. */
const ENDS = { up: 1.22, down: 0.82 }

const limb =
  (kind: 'leg' | 'arm', segments: number) =>
  ({ limbs }: BodyPlan) =>
    limbs.filter((l) => l.kind === kind).flatMap((l) => l.bones.slice(0, segments))

/** All bones of a limb on the middle plane. */
const chain =
  (kind: 'neck' | 'tail') =>
  ({ limbs }: BodyPlan) =>
    limbs.filter((l) => l.kind === kind && !l.side).flatMap((l) => l.bones)

/** The bones that bear those from which arms hang, or legs that are not the first, without the root. */
function trunk({ bones, limbs, pairs }: BodyPlan): string[] {
  const parents = new Map(bones.map((b) => [b.name, b.parent]))
  const paired = new Set(pairs.flatMap((p) => [p.left, p.right]))
  const root = bones[0]!.name
  const borne =
    limbs.find((l) => l.kind === 'arm') ?? limbs.find((l) => l.kind === 'leg' && parents.get(l.bones[0]!) !== root)
  const line: string[] = []
  for (let at = borne ? (parents.get(borne.bones[0]!) ?? null) : null; at; at = parents.get(at) ?? null)
    // collar bones are of one side
    if (!paired.has(at) && at !== root) line.unshift(at)
  return line
}

const PROPORTIONS: readonly Proportion[] = [
  { id: 'legs', name: 'Legs', group: 'proportions', change: 'long', ends: ['short', 'long'], bones: limb('leg', 2) },
  { id: 'trunk', name: 'Trunk', group: 'proportions', change: 'long', ends: ['short', 'long'], bones: trunk },
  { id: 'arms', name: 'Arms', group: 'proportions', change: 'long', ends: ['short', 'long'], bones: limb('arm', 2) },
  { id: 'neck', name: 'Neck', group: 'proportions', change: 'long', ends: ['short', 'long'], bones: chain('neck') },
  { id: 'tail', name: 'Tail', group: 'proportions', change: 'long', ends: ['short', 'long'], bones: chain('tail') },
  {
    id: 'head-size',
    name: 'Head',
    group: 'proportions',
    change: 'large',
    ends: ['small', 'large'],
    bones: ({ bones }) => bones.filter((b) => b.name === 'head').map((b) => b.name),
  },
  { id: 'trunk-girth', name: 'Trunk, thick', group: 'girths', change: 'thick', ends: ['slim', 'stout'], bones: trunk },
  {
    id: 'arm-girth',
    name: 'Arms, thick',
    group: 'girths',
    change: 'thick',
    ends: ['slim', 'stout'],
    bones: limb('arm', 2),
  },
  {
    id: 'leg-girth',
    name: 'Legs, thick',
    group: 'girths',
    change: 'thick',
    ends: ['slim', 'stout'],
    bones: limb('leg', 2),
  },
]

const GROUPS: BodyDef['sliderGroups'] = [
  { id: 'proportions', name: 'Proportions' },
  { id: 'girths', name: 'Girths' },
]

/**
 * Sliders that any body has whose bones are known: how long and how thick its limbs and trunk are, and how large its head.
 * Every vertex goes as the bones it hangs on.
 *
 * @param skin four bones a vertex and their weights
 * @returns the sliders, their groups, and a morph for each end of each
 */
export function proportionSliders(
  plan: BodyPlan,
  bones: readonly ProportionedBone[],
  positions: Float32Array,
  skin: { joints: Uint16Array; weights: Float32Array },
): Pick<BodyDef, 'sliders' | 'sliderGroups'> & { morphs: WholeMorph[] } {
  const sliders: BodyDef['sliders'] = []
  const morphs: WholeMorph[] = []
  for (const { id, name, group, change, ends, bones: wanted } of PROPORTIONS) {
    const changed = new Set(wanted(plan).filter((b) => bones.some((one) => one.name === b)))
    if (changed.size === 0) continue
    const up = `${id}+`
    const down = `${id}-`
    sliders.push({ id, name, group, min: -1, max: 1, default: 0, up, down, ends })
    morphs.push({ name: up, deltas: deltasOf(bones, changed, change, ENDS.up, positions, skin) })
    morphs.push({ name: down, deltas: deltasOf(bones, changed, change, ENDS.down, positions, skin) })
  }
  const groups = GROUPS.filter((g) => sliders.some((s) => s.group === g.id))
  return { sliders, sliderGroups: groups, morphs }
}

function deltasOf(
  bones: readonly ProportionedBone[],
  changed: ReadonlySet<string>,
  change: Change,
  factor: number,
  positions: Float32Array,
  { joints, weights }: { joints: Uint16Array; weights: Float32Array },
): Float32Array {
  const moves = movesOf(bones, changed, change, factor)
  const deltas = new Float32Array(positions.length)
  for (let v = 0; v < positions.length / 3; v++)
    for (let k = 0; k < 4; k++) {
      const w = weights[v * 4 + k]!
      if (w <= 0) continue
      const { from, to, way, along, across } = moves[joints[v * 4 + k]!]!
      const off = [0, 1, 2].map((c) => positions[v * 3 + c]! - from[c]!)
      const ahead = off.reduce((s, x, c) => s + x * way[c]!, 0)
      for (let c = 0; c < 3; c++) {
        const own = ahead * way[c]!
        deltas[v * 3 + c]! += w * (to[c]! + own * along + (off[c]! - own) * across - positions[v * 3 + c]!)
      }
    }
  return deltas
}

/** How each bone goes: from where to where, the way it lies, and what it is stretched by along and across that. */
function movesOf(bones: readonly ProportionedBone[], changed: ReadonlySet<string>, change: Change, factor: number) {
  const index = new Map(bones.map((b, i) => [b.name, i]))
  const next = (bone: ProportionedBone) => bones.find((b) => b.parent === bone.name)
  const moves: { from: Place; to: number[]; way: number[]; along: number; across: number }[] = []
  // what is on something large is as large
  const large = new Set<string>()
  for (const bone of bones) {
    const tail = next(bone)?.at ?? bone.at
    const long = Math.hypot(...tail.map((v, k) => v - bone.at[k]!))
    const way = long > 0 ? tail.map((v, k) => (v - bone.at[k]!) / long) : [0, 1, 0]
    const parent = bone.parent === null ? undefined : moves[index.get(bone.parent)!]
    const of = bone.parent === null ? undefined : bones[index.get(bone.parent)!]
    const to = [...bone.at] as number[]
    if (parent && of) {
      const off = bone.at.map((v, k) => v - of.at[k]!)
      const ahead = off.reduce((s, x, k) => s + x * parent.way[k]!, 0)
      for (let k = 0; k < 3; k++) {
        const own = ahead * parent.way[k]!
        to[k] = parent.to[k]! + own * parent.along + (off[k]! - own) * parent.across
      }
    }
    const is = changed.has(bone.name) || (change === 'large' && bone.parent !== null && large.has(bone.parent))
    if (is) large.add(bone.name)
    moves.push({
      from: bone.at,
      to,
      way,
      along: is && change !== 'thick' ? factor : 1,
      across: is && change !== 'long' ? factor : 1,
    })
  }
  return moves
}
