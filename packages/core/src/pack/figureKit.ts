import { Matrix4 } from 'three'
import { problem, type Problem, type Read } from '../base/problem.ts'
import type { Kit } from '../kit/Kit.ts'
import { partOf, refOf } from '../kit/library.ts'
import type { BodyPlan } from '../kit/plan.ts'
import type { RiggedChain } from '../autorig/drawnChains.ts'
import type { KitFiles } from '../kit/readKit.ts'
import type { KitManifest, LookDef, PartDef, SlotDef } from '../kit/schema.ts'
import { boundsOf } from '../mesh/Mesh.ts'
import type { ForeignJoint } from '../rig/foreignSkeleton.ts'
import type { Pack, PackPiece } from './Pack.ts'
import {
  addManifest,
  freshId,
  newManifest,
  namesOf,
  orderedPieces,
  picturesLeft,
  partLike,
  coloring,
  kitColors,
  SURE,
  titleOf,
  type PackOrder,
  type WrittenSkin,
  writePart,
} from './packKit.ts'
import { limbsBy, levelsByReach, planned, planOf, regionsOf, rounded, socketsOf, type NewBone } from './figurePlan.ts'
import { metresIn, moved, type Placing } from './placePack.ts'
import { proportionSliders } from './proportions.ts'
import { addHeld, type HeldPiece } from './heldParts.ts'
import { joinPieces } from './takeApart.ts'
import type { SortedPiece } from './sortPack.ts'
import { nearestExample, type SlotKnowledge } from './sortPieces.ts'
import { wordsOf } from '../base/words.ts'

/** What stands for the body itself where a slot is asked for. */
export const THE_BODY = '@body'

/** What a body has whose bones nothing is known of. */
const NO_SLIDERS = { sliders: [], sliderGroups: [], morphs: [] }

/** The id of the body in a kit that is made of a figure. */
const BODY = 'figure'

/** What becomes of the pieces of a figure. */
export interface FigureOrder extends PackOrder {
  /** Which joints of the pack are which bones of which plan, where that is known; looked for if left out. */
  known?: PlannedJoints
  /** What it holds, which comes off. */
  held?: readonly HeldPiece[]
}

/** Joints that are the bones of a plan, and chains beyond it; without a plan chains are all that is known. */
export interface PlannedJoints {
  plan: BodyPlan | null
  bones: ReadonlyMap<string, number>
  /** By joints. */
  chains?: readonly RiggedChain[]
}

/**
 * Makes a kit of a figure that somebody else dressed and skinned: some of its pieces are its body, the others parts that
 * share its skeleton and keep their own skin. An upright figure gets the bones of the open VRM standard, one on four legs
 * those of the plan for these, and with them clips, poses and details; what has other limbs keeps its own bones.
 *
 * @param knowledge of a body whose slots the new one takes over
 * @param order `slots` names the slot of each piece, `THE_BODY` for what is the body
 */
export async function figureKit(
  found: Pack,
  placing: Placing,
  knowledge: SlotKnowledge,
  kits: ReadonlyMap<string, Kit>,
  order: FigureOrder,
): Promise<Read<KitFiles>> {
  const { id, name, slots, names } = order
  const problems: Problem[] = []
  const refuse = (code: string, message: string, remedy: string): Read<KitFiles> => ({
    value: null,
    problems: [...problems, problem(code, 'pack', message, remedy)],
  })
  const pack = onOneSkeleton(found, (p) => slots.get(p.id) === THE_BODY)
  const body = pack.pieces.filter((p) => slots.get(p.id) === THE_BODY)
  if (body.length === 0) return refuse('body-none', 'No piece is the body.', 'Say of one at least that it is.')
  if (!body.some((p) => p.skin))
    return refuse('skin-missing', 'Its body hangs on no bones.', 'Choose a body that it is worn on.')

  // the size it has by its unit, with its feet on the ground
  const matrix = new Matrix4().fromArray(placing.toBody)
  const scaled = metresIn(placing.unit) / new Matrix4().fromArray(placing.toBody).getMaxScaleOnAxis()
  matrix.premultiply(new Matrix4().makeScale(scaled, scaled, scaled))
  const floor = Math.min(...body.map((p) => boundsOf(moved(p.positions, matrix)).min[1]))
  matrix.premultiply(new Matrix4().makeTranslation(0, -floor, 0))
  const placed = (p: PackPiece) => ({ ...p, positions: moved(p.positions, matrix) })
  const places = moved(Float32Array.from(pack.joints.flatMap((j) => j.at)), matrix)
  const joints = pack.joints.map((j, i): ForeignJoint => ({
    ...j,
    at: [...places.subarray(i * 3, i * 3 + 3)] as never,
  }))

  const known: PlannedJoints | null = order.known ?? planned(joints)
  const matched = known?.plan ? { plan: known.plan, bones: known.bones } : null
  const chains = known?.chains ?? []
  const used = usedJoints(pack.pieces)
  for (const j of chains.flatMap((c) => c.bones)) used.add(j)
  const bones = matched ? plannedBones(joints, used, matched.bones, matched.plan) : ownBones(joints, used)
  const boneOf = holderOf(joints, bones)
  const manifest = newManifest(id, name)
  const colors = kitColors(manifest, order)
  const inPlan = new Set((matched?.plan.bones ?? bones).map((b) => b.name))
  const limbs = limbsBy(chains, bones)
  const like = knowledge.space.body
  const regions = regionsOf(bones, matched?.plan ?? null, like)
  const file = 'bodies/figure.glb'
  const files = new Map<string, Uint8Array>()
  const skinOf = (piece: PackPiece): WrittenSkin => ({ bones, ...skinOnBones(piece, boneOf, bones) })
  const whole = placed(joinPieces(body))
  const skin = skinOf(whole)
  levelsByReach(bones, whole.positions, skin).forEach((level, i) => {
    const bone = bones[i]!
    if (!matched) bone.level = level
    // beyond a plan there is none in the distance, and what is small is there as fingers are
    else if (!inPlan.has(bone.name)) bone.level = level === 'far' ? 'crowd' : level === 'full' ? 'near' : level
  })
  if (!matched) manifest.plans = [planOf(bones, limbs, `${id}-plan`.slice(0, 60), name)]
  const own = matched ? proportionSliders(matched.plan, bones, whole.positions, skin) : NO_SLIDERS
  files.set(file, await writePart(whole, BODY, coloring(colors, BODY), skin, own.morphs))
  manifest.bodies.push({
    id: BODY,
    name,
    plan: manifest.plans?.[0]?.id ?? matched!.plan.id,
    file,
    sliders: own.sliders,
    sliderGroups: own.sliderGroups,
    regions,
    landmarks: bones.map((b) => ({ id: b.name, at: rounded(b.at) })),
    sockets: matched?.plan.id === like.plan.id ? socketsOf(bones, like.def) : [],
    seams: [],
    bones: bones
      .filter((b) => !inPlan.has(b.name))
      .map(({ name: bone, parent, level }) => ({ name: bone, parent, level })),
    ...(matched && limbs.length && { limbs }),
    defaults: {},
  })

  const taken = new Set<string>()
  const slotsThere = new Map<string, SlotDef>()
  for (const piece of orderedPieces(pack, order, knowledge)) {
    const slot = slots.get(piece.id)
    const known = knowledge.slots.find((s) => s.id === slot)
    if (slot === undefined || slot === THE_BODY || !known) continue
    const region = regions.some((r) => r.id === known.region) ? known.region : regions[0]!.id
    slotsThere.set(slot, { ...known, region, bodies: [BODY] })
    const soup = {
      positions: moved(piece.positions, new Matrix4().fromArray(placing.toBody)),
      triangles: piece.triangles,
    }
    const like = nearestExample(knowledge, soup, slot)
    const model = like && partOf(kits, refOf(like.part, knowledge.space.body.kit))?.def
    const called = names?.get(piece.id)?.trim()
    const partId = freshId(called ? [called, ...piece.names] : namesOf(piece, pack, known), taken)
    const partFile = `parts/${partId}.glb`
    const there = placed(piece)
    files.set(partFile, await writePart(there, partId, coloring(colors, partId), there.skin ? skinOf(there) : null))
    manifest.parts.push(
      wornLike(model, { id: partId, name: called || titleOf(partId), slot, file: partFile, own: piece.skin !== null }),
    )
  }
  manifest.slots = knowledge.slots.flatMap((s) => slotsThere.get(s.id) ?? [])
  const held = (order.held ?? []).map(({ piece, joint }) => ({
    piece: placed(piece),
    bone: bones[boneOf[joint]!]!.name,
  }))
  await addHeld(held, { manifest, files, colors, body: manifest.bodies[0]!, bones, taken }, knowledge, kits)
  // as it came
  if (held.length) manifest.looks = [lookOf(manifest, name)]
  for (const part of manifest.parts)
    if (part.how === 'worn') {
      part.covers = part.covers?.filter((s) => slotsThere.has(s))
      part.presses = part.presses?.filter((s) => slotsThere.has(s))
    }
  problems.push(...picturesLeft(colors))
  const faults = addManifest(files, manifest)
  if (faults.length) return { value: null, problems: [...problems, ...faults] }
  return { value: files, problems }
}

/**
 * Which pieces of a dressed figure are its body: what they are called; else what hangs on most of the bones, and the
 * other bits of its figure that are mostly of the same material, as the hands of a coated one with its head.
 *
 * @param worn pieces that surely go to a slot, and are no body where another may be
 */
export function bodyPieces(pack: Pick<Pack, 'pieces'>, worn: ReadonlySet<string> = new Set()): Set<string> {
  // of several figures the first is the body
  const fileOf = (p: PackPiece) => p.id.slice(0, p.id.lastIndexOf('#'))
  const called = calledBody(pack)
  const first = pack.pieces.find((p) => called.has(p.id))
  if (first) return new Set(pack.pieces.filter((p) => called.has(p.id) && fileOf(p) === fileOf(first)).map((p) => p.id))
  const skinned = pack.pieces.filter((p) => p.skin)
  const open = skinned.filter((p) => !worn.has(p.id))
  const [body] = (open.length ? open : skinned)
    .map((piece) => ({ piece, held: usedJoints([piece]).size }))
    .sort((a, b) => b.held - a.held)
    .map((one) => one.piece)
  if (!body) return new Set()
  const told = new Set(skinned.map(mainMaterial)).size > 1
  const alike = skinned.filter(
    (p) => told && p.bitOf && p.bitOf.piece === body.bitOf?.piece && mainMaterial(p) === mainMaterial(body),
  )
  return new Set([body, ...alike].map((p) => p.id))
}

/** The file's material that most triangles of a piece are of. */
function mainMaterial({ materials, materialOf }: PackPiece): string {
  const counts = new Map<string, number>()
  for (const m of materialOf) {
    const name = materials[m]!.of ?? materials[m]!.name
    counts.set(name, (counts.get(name) ?? 0) + 1)
  }
  return [...counts].reduce((best, one) => (one[1] > best[1] ? one : best), ['', 0])[0]
}

/**
 * A pack with the joints of its body's skeleton alone. What hangs on another skeleton, as that of another figure, hangs on
 * the joints of the same names, or of those above them; where there is none of those either it has no skin.
 */
function onOneSkeleton(pack: Pack, isBody: (piece: PackPiece) => boolean): Pack {
  const { joints } = pack
  const top = joints.map((_, j) => {
    let at = j
    while (joints[at]!.parent >= 0) at = joints[at]!.parent
    return at
  })
  const tops = new Set([...usedJoints(pack.pieces.filter(isBody))].map((j) => top[j]!))
  if (joints.every((_, j) => tops.has(top[j]!))) return pack
  const kept = [...joints.keys()].filter((j) => tops.has(top[j]!))
  const number = new Map(kept.map((j, i) => [j, i]))
  const byName = new Map(kept.map((j) => [joints[j]!.name, number.get(j)!]).reverse() as [string, number][])
  const goesTo = joints.map((_, j) => {
    let at = j
    while (at >= 0 && !number.has(at) && !byName.has(joints[at]!.name)) at = joints[at]!.parent
    return at < 0 ? -1 : (number.get(at) ?? byName.get(joints[at]!.name)!)
  })
  const pieces = pack.pieces.map((piece): PackPiece => {
    const { skin } = piece
    if (!skin) return piece
    const lost = skin.joints.some((j, i) => skin.weights[i]! > 0 && goesTo[j]! < 0)
    return { ...piece, skin: lost ? null : { ...skin, joints: skin.joints.map((j) => Math.max(0, goesTo[j]!)) } }
  })
  const parents = (parent: number) => (parent < 0 ? -1 : (number.get(parent) ?? -1))
  return { pieces, joints: kept.map((j) => ({ ...joints[j]!, parent: parents(joints[j]!.parent) })) }
}

/** The pieces that surely go to a slot. */
export function surelyWorn(sorted: readonly SortedPiece[]): Set<string> {
  return new Set(sorted.filter((s) => s.guesses[0]!.confidence >= SURE).map((s) => s.piece))
}

/** The skinned pieces that are called a body, where not all are. */
export function calledBody({ pieces }: Pick<Pack, 'pieces'>): Set<string> {
  const said = pieces.filter((p) => p.skin && p.names.some((n) => wordsOf(n).some((w) => BODY_WORDS.has(w))))
  return new Set(said.length < pieces.length ? said.map((p) => p.id) : [])
}

const BODY_WORDS = new Set(['body', 'skin', 'nude', 'flesh'])

function usedJoints(pieces: readonly PackPiece[]): Set<number> {
  const used = new Set<number>()
  for (const { skin } of pieces) skin?.joints.forEach((j, i) => skin.weights[i]! > 0.02 && used.add(j))
  return used
}

/** The bones of the plan that are there or needed above others, then what else holds something, on them. */
function plannedBones(
  joints: readonly ForeignJoint[],
  used: ReadonlySet<number>,
  matched: ReadonlyMap<string, number>,
  plan: BodyPlan,
): NewBone[] {
  const needed = new Set<string>()
  const parentOf = new Map(plan.bones.map((b) => [b.name, b.parent]))
  for (const bone of matched.keys())
    for (let at: string | null = bone; at; at = parentOf.get(at) ?? null) needed.add(at)
  const bones = plan.bones
    .filter((b) => needed.has(b.name))
    .map((b): NewBone => {
      const joint = matched.get(b.name) ?? -1
      return { ...b, joint, at: joint < 0 ? [NaN, NaN, NaN] : joints[joint]!.at }
    })
  standBetween(bones)
  return withExtras(bones, joints, used)
}

/** What the file has no joint for stands between what is above and what is below it. */
function standBetween(bones: NewBone[]): void {
  const known = (b: NewBone | undefined) => b !== undefined && Number.isFinite(b.at[0])
  for (const bone of bones) {
    if (known(bone)) continue
    const above = bones.find((b) => b.name === bone.parent)
    let below = bones.find((b) => b.parent === bone.name)
    let steps = 2
    while (below && !known(below)) {
      below = bones.find((b) => b.parent === below!.name)
      steps++
    }
    if (!above || !known(above)) bone.at = below ? [...below.at] : [0, 0, 0]
    else if (!below) bone.at = [...above.at]
    else bone.at = above.at.map((v, k) => v + (below.at[k]! - v) / steps) as NewBone['at']
  }
}

/** Joints that hold something and are no bone yet hang from the nearest bone above them. */
function withExtras(bones: NewBone[], joints: readonly ForeignJoint[], used: ReadonlySet<number>): NewBone[] {
  const all = [...bones]
  const byJoint = new Map(all.filter((b) => b.joint >= 0).map((b) => [b.joint, b.name]))
  const taken = new Set(all.map((b) => b.name))
  for (const [j, joint] of joints.entries()) {
    if (byJoint.has(j) || !used.has(j) || wordsOf(joint.name).some((w) => w === 'twist' || w === 'roll')) continue
    let above = joint.parent
    while (above >= 0 && !byJoint.has(above)) above = joints[above]!.parent
    const parent = byJoint.get(above) ?? all[0]!.name
    const name = freshId([joint.name], taken)
    all.push({ name, parent, level: 'near', at: joint.at, joint: j })
    byJoint.set(j, name)
  }
  return all
}

/** All joints that hold something, and those above them, under names that kits can have. */
function ownBones(joints: readonly ForeignJoint[], used: ReadonlySet<number>): NewBone[] {
  const wanted = new Set<number>()
  for (const j of used) for (let at = j; at >= 0 && !wanted.has(at); at = joints[at]!.parent) wanted.add(at)
  const depth = (j: number) => {
    let steps = 0
    for (let at = joints[j]!.parent; at >= 0; at = joints[at]!.parent) steps++
    return steps
  }
  const order = [...wanted]
    .map((j) => [j, depth(j)] as const)
    .sort((a, b) => a[1] - b[1] || a[0] - b[0])
    .map(([j]) => j)
  const taken = new Set<string>()
  const nameOf = new Map<number, string>()
  const root = order.find((j) => joints[j]!.parent < 0)
  return order.map((j): NewBone => {
    const name = freshId([joints[j]!.name], taken)
    nameOf.set(j, name)
    const parent = j === root ? null : (nameOf.get(joints[j]!.parent) ?? nameOf.get(root!)!)
    return { name, parent, level: 'crowd', at: joints[j]!.at, joint: j }
  })
}

/** Of each joint, the number of the bone that it is, or of the nearest above it that is one. */
function holderOf(joints: readonly ForeignJoint[], bones: readonly NewBone[]): Int32Array {
  const byJoint = new Map(bones.flatMap((b, i) => (b.joint >= 0 ? [[b.joint, i] as const] : [])))
  return Int32Array.from(joints, (_, j) => {
    let at = j
    while (at >= 0 && !byJoint.has(at)) at = joints[at]!.parent
    return byJoint.get(at) ?? 0
  })
}

/** A piece's skin by numbers of bones; a vertex that hangs on nothing hangs on the nearest. */
function skinOnBones(piece: PackPiece, boneOf: Int32Array, bones: readonly NewBone[]) {
  const count = piece.positions.length / 3
  const joints = new Uint16Array(count * 4)
  const weights = new Float32Array(count * 4)
  for (let v = 0; v < count; v++) {
    const shares = new Map<number, number>()
    for (let k = 0; piece.skin && k < 4; k++) {
      const w = piece.skin.weights[v * 4 + k]!
      const bone = boneOf[piece.skin.joints[v * 4 + k]!]!
      if (w > 0) shares.set(bone, (shares.get(bone) ?? 0) + w)
    }
    if (shares.size === 0) shares.set(nearestBone(piece.positions, v, bones), 1)
    ;[...shares]
      .sort((a, b) => b[1] - a[1] || a[0] - b[0])
      .forEach(([bone, w], k) => {
        joints[v * 4 + k] = bone
        weights[v * 4 + k] = w
      })
  }
  return { joints, weights }
}

function nearestBone(positions: Float32Array, v: number, bones: readonly NewBone[]): number {
  const far = bones.map(({ at }) => Math.hypot(...at.map((c, k) => c - positions[v * 3 + k]!)))
  return far.indexOf(Math.min(...far))
}

/** A figure of a kit with all it came with on. */
function lookOf({ parts }: KitManifest, name: string): LookDef {
  const first = parts.filter((p, i) => parts.findIndex((q) => q.slot === p.slot) === i)
  return { id: 'as-it-came', name, body: BODY, parts: first.map((p) => p.id), sliders: {}, colors: {} }
}

/** A part that is worn as another is, where that is worn; else one that goes with its bones. */
function wornLike(
  model: PartDef | undefined | null,
  { id, name, slot, file, own }: { id: string; name: string; slot: string; file: string; own: boolean },
): PartDef {
  const like =
    model?.how === 'worn' ? model : ({ how: 'worn', layer: 1, clearance: 0 } as Extract<PartDef, { how: 'worn' }>)
  const made = partLike({ ...like, binds: undefined }, id, name, slot, { kit: '', def: { id: BODY } }, file)
  return { ...made, bodies: [BODY], ...(own && { skin: 'own' }) } as PartDef
}
