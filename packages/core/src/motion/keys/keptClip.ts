import { Type, type Static } from '@sinclair/typebox'
import { problem, type Problem, type Read } from '../../base/problem.ts'
import { readDocument, type DocumentKind } from '../../base/readDocument.ts'
import { closed, Id, list, Name, record } from '../../base/schemas.ts'
import { isTurn, KeptPoseSchema, type KeptPose } from '../poses/keptPose.ts'
import { EASES } from './easing.ts'

export const CLIP_FORMAT = 'idle-tinker-clip'

/** The shortest and the longest clip that can be made, seconds. */
export const CLIP_SPAN = [0.1, 60] as const
/** Keys of one kind that a clip may have. */
export const MOST_KEYS = 300
/** Keys that are nearer are at one time, seconds. */
export const SAME_TIME = 0.004

const { turns, root } = KeptPoseSchema.properties
const At = Type.Number({ minimum: 0, maximum: CLIP_SPAN[1] })
/** How it goes on to the next key. */
const EaseName = Type.Union(EASES.map((e) => Type.Literal(e)))

/**
 * A clip made here, as it is kept: poses and faces at some times, and how each goes over into the next. For any figure of
 * the plan, as a pose is.
 */
export const KeptClipSchema = Type.Object(
  {
    format: Type.Literal(CLIP_FORMAT),
    version: Type.Literal(1),
    name: Name,
    /** The kind of skeleton it is for. */
    plan: Id,
    /** Seconds. */
    duration: Type.Number({ minimum: CLIP_SPAN[0], maximum: CLIP_SPAN[1] }),
    /** Whether its end goes over into its beginning. */
    loop: Type.Boolean(),
    /** By time, each later than the one before. */
    poses: list(Type.Object({ at: At, ease: EaseName, turns, root }, closed), MOST_KEYS),
    /** Expression to how much of it there is, over the face the figure has; what is not named is not there. */
    faces: list(
      Type.Object({ at: At, ease: EaseName, shares: record(Type.Number({ minimum: 0, maximum: 1 }), 60) }, closed),
      MOST_KEYS,
    ),
  },
  closed,
)
export type KeptClip = Static<typeof KeptClipSchema>
export type PoseKey = KeptClip['poses'][number]
export type FaceKey = KeptClip['faces'][number]
/** The two kinds of keys. */
export type KeyTrack = 'poses' | 'faces'

export const CLIP_KIND: DocumentKind<typeof KeptClipSchema> = {
  format: CLIP_FORMAT,
  noun: 'clip',
  schema: KeptClipSchema,
  older: [],
}

/** Reads a kept clip; keys that are out of order or beyond its end, and turns that are none, are told. */
export function readClip(input: unknown, where = 'clip'): Read<KeptClip> {
  const read = readDocument(CLIP_KIND, input, where)
  const clip = read.value
  if (!clip) return read
  const faults: Problem[] = []
  const tell = (code: string, place: string, message: string) =>
    void faults.push(problem(code, `${where}/${place}`, message, 'Correct it.'))
  for (const track of ['poses', 'faces'] as const)
    clip[track].forEach(({ at }, i, all) => {
      if (i > 0 && at < all[i - 1]!.at + SAME_TIME)
        tell('key-order', `${track}/${i}/at`, 'It is not later than the key before it.')
      if (at > clip.duration) tell('key-late', `${track}/${i}/at`, 'It is later than the end of the clip.')
    })
  clip.poses.forEach((pose, i) => {
    for (const [bone, turn] of Object.entries(pose.turns))
      if (!isTurn(turn)) tell('pose-turn', `poses/${i}/turns/${bone}`, 'This is no turn: its length is not 1.')
  })
  return faults.length ? { value: null, problems: [...read.problems, ...faults.slice(0, 20)] } : read
}

/** A clip without keys. */
export const newClip = (name: string, plan: string): KeptClip => ({
  ...{ format: CLIP_FORMAT, version: 1, name, plan, duration: 2, loop: true, poses: [], faces: [] },
})

/** A key's pose as a pose of its own. */
export const poseOfKey = ({ turns, root }: Pick<PoseKey, 'turns' | 'root'>, { plan, name }: KeptClip): KeptPose => ({
  ...{ format: 'idle-tinker-pose', version: 1, name, plan, turns, root },
})
