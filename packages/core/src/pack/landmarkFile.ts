import { Type, type Static } from '@sinclair/typebox'
import { problem, type Read } from '../base/problem.ts'
import { readDocument, type DocumentKind } from '../base/readDocument.ts'
import { closed, list, record, Vec3 } from '../base/schemas.ts'
import { CHAIN_POINTS, DRAWN_KINDS, type DrawnChain } from '../autorig/drawnChains.ts'
import { LANDMARK_IDS, LANDMARKS, legsBy, type Landmark, type Point } from '../autorig/landmarks.ts'
import { AXIS_NAMES, UNIT_NAMES } from './placePack.ts'
import type { FigureSurvey, RigGiven } from './rigPack.ts'

const FORMAT = 'idle-tinker-landmarks'

/** How a mesh lies, and where on it its landmarks are: metres, standing on the ground, Y up, facing Z. */
const LandmarksSchema = Type.Object(
  {
    format: Type.Literal(FORMAT),
    version: Type.Literal(1),
    up: Type.Union(AXIS_NAMES.map((a) => Type.Literal(a))),
    front: Type.Union(AXIS_NAMES.map((a) => Type.Literal(a))),
    unit: Type.Union(UNIT_NAMES.map((u) => Type.Literal(u))),
    /** On how many legs it stands, 0 where all its chains are drawn; looked for if not said. */
    legs: Type.Optional(Type.Union([Type.Literal(0), Type.Literal(2), Type.Literal(4)])),
    /** Those that are not in it are looked for. */
    landmarks: record(Vec3, LANDMARK_IDS.length),
    /** Chains that were drawn; see `DrawnChain`. */
    chains: Type.Optional(
      list(
        Type.Object(
          {
            kind: Type.Union(DRAWN_KINDS.map((k) => Type.Literal(k))),
            mirrored: Type.Boolean(),
            points: Type.Array(Vec3, { minItems: CHAIN_POINTS.least, maxItems: CHAIN_POINTS.most }),
          },
          closed,
        ),
        40,
      ),
    ),
  },
  closed,
)
export type LandmarkFile = Static<typeof LandmarksSchema>

export const LANDMARKS_KIND: DocumentKind<typeof LandmarksSchema> = {
  format: FORMAT,
  noun: 'file of landmarks',
  schema: LandmarksSchema,
  older: [],
}

/** Landmarks as a file, to the tenth of a millimetre. */
export function landmarkFile({
  placing: { up, front, unit },
  landmarks,
  chains = [],
}: {
  placing: Pick<FigureSurvey['placing'], 'up' | 'front' | 'unit'>
  landmarks: readonly Landmark[]
  chains?: readonly DrawnChain[]
}): LandmarkFile {
  const rounded = (v: number) => Math.round(v * 1e4) / 1e4
  return {
    format: FORMAT,
    version: 1,
    ...{ up, front, unit },
    legs: landmarks.length ? legsBy(landmarks) : 0,
    landmarks: Object.fromEntries(landmarks.map(({ id, at }) => [id, at.map(rounded) as Point])),
    ...(chains.length && {
      chains: chains.map(({ points, ...chain }) => ({ ...chain, points: points.map((p) => p.map(rounded) as Point) })),
    }),
  }
}

/** Reads a file of landmarks: JSON text or a parsed value. */
export function readLandmarkFile(input: unknown, where = 'landmarks'): Read<LandmarkFile> {
  const read = readDocument(LANDMARKS_KIND, input, where)
  if (!read.value) return read
  const known: readonly string[] = read.value.legs ? LANDMARKS[read.value.legs].ids : LANDMARK_IDS
  const unknown = Object.keys(read.value.landmarks).filter((id) => !known.includes(id))
  if (unknown.length === 0) return read
  const names = unknown.map((id) => `“${id}”`).join(', ')
  const remedy = `It may have ${known.join(', ')}.`
  return { value: null, problems: [problem('landmark-unknown', where, `There is no landmark ${names}.`, remedy)] }
}

/** What a file of landmarks says of how a mesh lies. */
export const givenBy = ({ up, front, unit, legs }: LandmarkFile): RigGiven => ({
  ...{ up, front, unit },
  ...(legs !== undefined && { legs }),
})

/** Landmarks with those of a file in their places: what somebody has set is sure. */
export function setLandmarks(landmarks: readonly Landmark[], { landmarks: set }: LandmarkFile): Landmark[] {
  const found = landmarks.map((one) => (set[one.id] ? { ...one, at: [...set[one.id]!] as Point, sure: 1 } : one))
  // a tail that was not seen
  const { ids } = LANDMARKS[legsBy(landmarks)]
  const added = ids.filter((id) => set[id] && !found.some((one) => one.id === id))
  return [...found, ...added.map((id): Landmark => ({ id, at: [...set[id]!], sure: 1 }))]
}
