import { Type, type Static } from '@sinclair/typebox'
import { closed, Id, list, Name, record, Vec3 } from '../base/schemas.ts'

/** How much skeleton a figure gets. */
export const DETAIL_LEVELS = ['far', 'crowd', 'standard', 'near', 'full'] as const
export type DetailLevel = (typeof DETAIL_LEVELS)[number]

export const LevelSchema = Type.Union(DETAIL_LEVELS.map((l) => Type.Literal(l)))

/** A bone of a body plan. Names are those of the open VRM humanoid standard where it has one. */
export const BoneSchema = Type.Object(
  {
    name: Id,
    parent: Type.Union([Id, Type.Null()]),
    /** The least detail at which the bone is there; below it, its weights fold onto `fold`. */
    level: LevelSchema,
    /** Where its weights go when it is left out; its parent if not said. */
    fold: Type.Optional(Id),
  },
  closed,
)

/** Limbs that wave as a whole, and may have any number of bones. */
export const CHAIN_KINDS = ['neck', 'tail', 'ear', 'wing', 'fin', 'stalk', 'hair', 'cloth'] as const
export type ChainKind = (typeof CHAIN_KINDS)[number]
export const LIMB_KINDS = ['leg', 'arm', 'digit', ...CHAIN_KINDS] as const

/**
 * A chain of bones that moves as one. A leg is upper, lower, foot and perhaps toes; an arm upper,
 * lower, hand; the others are any number of bones from the root to the tip.
 */
export const LimbSchema = Type.Object(
  {
    id: Id,
    kind: Type.Union(LIMB_KINDS.map((k) => Type.Literal(k))),
    side: Type.Optional(Type.Union([Type.Literal('left'), Type.Literal('right')])),
    bones: Type.Array(Id, { minItems: 1, maxItems: 24 }),
    /** The channels by which clips drive the bones, one each; a single one drives the whole chain. */
    channels: Type.Array(Id, { minItems: 1, maxItems: 24 }),
    /** Of a chain with one channel: how much later each bone does what the one before it did, in loops. */
    lag: Type.Optional(Type.Number({ minimum: -1, maximum: 1 })),
    /** Of a leg: how much of a loop it walks behind the first leg; a half for right legs if not said. */
    phase: Type.Optional(Type.Number({ minimum: 0, maximum: 1 })),
    /** Where the middle joint points when the limb bends; forward for legs, backward for arms if not said. */
    pole: Type.Optional(Vec3),
  },
  closed,
)

export const CheckPoseSchema = Type.Object(
  {
    id: Id,
    name: Name,
    /** Bone to its turn about the world's x, y and z in the rest pose, degrees. */
    turns: record(Vec3),
  },
  closed,
)

export const HELPER_PLACES = ['joint', 'top', 'front', 'back', 'sole', 'ahead'] as const

/** A place that games ask for and no bone stands at: where a hat sits, where it looks, where a foot ends. */
export const HelperPointSchema = Type.Object(
  {
    id: Id,
    name: Name,
    /** It goes with this one. */
    bone: Id,
    /** The bones in whose midst it is; that one if not said. */
    amid: Type.Optional(Type.Array(Id, { minItems: 1, maxItems: 4 })),
    /**
     * At that very place; above, before or behind it, where what the bone moves ends; under all that hangs on the bone;
     * or as far again ahead of the front as the front is from the back.
     */
    place: Type.Union(HELPER_PLACES.map((p) => Type.Literal(p))),
  },
  closed,
)

/** What kind of skeleton bodies have, and what is to be known of it; the same for every body of the kind. */
export const BodyPlanSchema = Type.Object(
  {
    id: Id,
    name: Name,
    /** Parents before their children; the first is the root. Bodies have those they have a landmark for. */
    bones: Type.Array(BoneSchema, { minItems: 1, maxItems: 240 }),
    /** Bones that mirror each other, and the channel by which clips turn both. */
    pairs: list(Type.Object({ id: Id, left: Id, right: Id }, closed), 120),
    limbs: list(LimbSchema, 60),
    /** The bones that stand on the ground. */
    ground: list(Id, 60),
    /** Poses besides that of rest in which clothes must hold. */
    poses: list(CheckPoseSchema, 24),
    /** Written into shipped files, besides the body's sockets. */
    points: Type.Optional(list(HelperPointSchema, 60)),
  },
  closed,
)

export type PlannedBone = Static<typeof BoneSchema>
export type Limb = Static<typeof LimbSchema>
export type PlannedPoint = Static<typeof HelperPointSchema>
export type CheckPose = Static<typeof CheckPoseSchema>
export type BodyPlan = Static<typeof BodyPlanSchema>

/** Why a list of bones is no skeleton, as the name of the bone at fault; null if it is one. */
export function boneFault(bones: readonly PlannedBone[]): { bone: string; reason: string } | null {
  const index = new Map<string, number>()
  for (const [i, bone] of bones.entries()) {
    if (index.has(bone.name)) return { bone: bone.name, reason: 'is there twice' }
    if (bone.parent === null && i > 0) return { bone: bone.name, reason: 'has no parent, and is not the first' }
    if (bone.parent !== null && i === 0) return { bone: bone.name, reason: 'is the first, and has a parent' }
    if (bone.parent !== null && !index.has(bone.parent))
      return { bone: bone.name, reason: `stands before “${bone.parent}”, from which it hangs` }
    index.set(bone.name, i)
  }
  // folding must end: every step goes to a bone of lesser detail or towards the root
  for (const level of DETAIL_LEVELS) {
    const rank = rankOf(bones, level)
    for (const bone of bones) {
      const seen = new Set<string>()
      for (let at = bone; DETAIL_LEVELS.indexOf(at.level) > rank;) {
        if (seen.has(at.name)) return { bone: bone.name, reason: 'folds onto itself' }
        seen.add(at.name)
        const next: PlannedBone | undefined = bones[index.get(at.fold ?? '') ?? index.get(at.parent ?? '') ?? -1]
        if (!next) return { bone: bone.name, reason: 'folds onto nothing: the root must be there at every detail' }
        at = next
      }
    }
  }
  return null
}

/** A skeleton whose root is there from the crowd on has in the far distance what it has in a crowd. */
function rankOf(bones: readonly PlannedBone[], level: DetailLevel): number {
  const rank = (l: DetailLevel | undefined) => DETAIL_LEVELS.indexOf(l ?? 'crowd')
  return Math.max(rank(level), Math.min(rank('crowd'), rank(bones[0]?.level)))
}

/** For each bone the index of the bone that carries its weights at a level; itself where it stays. */
export function foldBones(bones: readonly PlannedBone[], level: DetailLevel): Uint16Array {
  const rank = rankOf(bones, level)
  const index = new Map(bones.map((bone, i) => [bone.name, i]))
  const stays = (bone: PlannedBone) => DETAIL_LEVELS.indexOf(bone.level) <= rank
  return Uint16Array.from(bones, (bone) => {
    let at: PlannedBone = bone
    for (let steps = 0; !stays(at); steps++) {
      const next: number | undefined = index.get(at.fold ?? '') ?? index.get(at.parent ?? '')
      if (next === undefined || steps > bones.length) throw new Error(`bone ${bone.name} folds onto nothing`)
      at = bones[next]!
    }
    return index.get(at.name)!
  })
}
