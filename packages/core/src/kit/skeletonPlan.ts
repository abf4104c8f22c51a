/** How much skeleton a figure gets. */
export const DETAIL_LEVELS = ['crowd', 'standard', 'near'] as const
export type DetailLevel = (typeof DETAIL_LEVELS)[number]

/** A bone of a body plan. Names are those of the open VRM humanoid standard where it has one. */
export interface PlannedBone {
  name: string
  parent: string | null
  /** The least detail at which the bone is there; below it, its weights fold onto `fold`. */
  level: DetailLevel
  /** Where its weights go when it is left out; its parent if not said. */
  fold?: string
}

const FINGERS = ['Index', 'Middle', 'Ring', 'Little'] as const

function side(s: 'left' | 'right'): PlannedBone[] {
  const bones: PlannedBone[] = [
    { name: `${s}Shoulder`, parent: 'upperChest', level: 'crowd' },
    { name: `${s}UpperArm`, parent: `${s}Shoulder`, level: 'crowd' },
    { name: `${s}LowerArm`, parent: `${s}UpperArm`, level: 'crowd' },
    { name: `${s}Hand`, parent: `${s}LowerArm`, level: 'crowd' },
    { name: `${s}UpperLeg`, parent: 'hips', level: 'crowd' },
    { name: `${s}LowerLeg`, parent: `${s}UpperLeg`, level: 'crowd' },
    { name: `${s}Foot`, parent: `${s}LowerLeg`, level: 'crowd' },
    { name: `${s}Toes`, parent: `${s}Foot`, level: 'crowd' },
    { name: `${s}ThumbMetacarpal`, parent: `${s}Hand`, level: 'standard' },
    { name: `${s}ThumbProximal`, parent: `${s}ThumbMetacarpal`, level: 'standard' },
  ]
  for (const finger of FINGERS) {
    // at standard detail the middle finger's bones carry the whole mitten of fingers
    const level = finger === 'Middle' ? 'standard' : 'near'
    const fold = (part: string) => (finger === 'Middle' ? {} : { fold: `${s}Middle${part}` })
    bones.push(
      { name: `${s}${finger}Proximal`, parent: `${s}Hand`, level, ...fold('Proximal') },
      { name: `${s}${finger}Intermediate`, parent: `${s}${finger}Proximal`, level, ...fold('Intermediate') },
    )
  }
  return bones
}

const BIPED: PlannedBone[] = [
  { name: 'hips', parent: null, level: 'crowd' },
  { name: 'spine', parent: 'hips', level: 'crowd' },
  { name: 'chest', parent: 'spine', level: 'crowd' },
  { name: 'upperChest', parent: 'chest', level: 'crowd' },
  { name: 'neck', parent: 'upperChest', level: 'crowd' },
  { name: 'head', parent: 'neck', level: 'crowd' },
  { name: 'jaw', parent: 'head', level: 'near' },
  { name: 'leftEye', parent: 'head', level: 'near' },
  { name: 'rightEye', parent: 'head', level: 'near' },
  ...side('left'),
  ...side('right'),
]

export const BODY_PLANS = { biped: BIPED } as const
export type BodyPlan = keyof typeof BODY_PLANS

/** A body's bones in order, parents first: its plan's, those it has a landmark for, then its own (a tail, say). */
export function planBones(
  plan: BodyPlan,
  landmarks: ReadonlySet<string>,
  extra: readonly PlannedBone[],
): PlannedBone[] {
  return [...BODY_PLANS[plan], ...extra].filter((bone) => landmarks.has(bone.name))
}

/** For each bone the index of the bone that carries its weights at a level; itself where it stays. */
export function foldBones(bones: readonly PlannedBone[], level: DetailLevel): Uint8Array {
  const rank = DETAIL_LEVELS.indexOf(level)
  const index = new Map(bones.map((bone, i) => [bone.name, i]))
  const stays = (bone: PlannedBone) => DETAIL_LEVELS.indexOf(bone.level) <= rank
  return Uint8Array.from(bones, (bone) => {
    let at: PlannedBone = bone
    while (!stays(at)) {
      const next: number | undefined = index.get(at.fold ?? '') ?? index.get(at.parent ?? '')
      if (next === undefined) throw new Error(`bone ${at.name} folds onto nothing`)
      at = bones[next]!
    }
    return index.get(at.name)!
  })
}
