/** Where something of a figure is that its bones go by. */
export interface Landmark {
  id: LandmarkId
  at: Point
  /** How likely it is right, 0 to 1: what a person should look at first is what is least. */
  sure: number
}

export type Point = [number, number, number]

export const SIDES = ['left', 'right'] as const
export type Side = (typeof SIDES)[number]

/** On how many legs a figure stands whose joints are known here. */
export type Legs = 2 | 4

/** Of upright figures, on the middle plane. */
export const MIDDLE = ['crown', 'chin', 'neck', 'groin'] as const
/** Of each side, from the trunk outwards. */
export const PAIRED = ['Shoulder', 'Elbow', 'Wrist', 'Knuckles', 'Hip', 'Knee', 'Ankle', 'Ball', 'Toe'] as const
/** Of those on four legs, on the middle plane: from the nose back. */
export const FOUR_MIDDLE = ['nose', 'crown', 'headBase', 'neckBase', 'tailBase', 'tailMiddle', 'tailTip'] as const
/** Of each leg, from the trunk to the ground. */
export const HIND = ['HindHip', 'HindKnee', 'HindAnkle', 'HindBall', 'HindToe'] as const
export const FORE = ['ForeShoulder', 'ForeElbow', 'ForeWrist', 'ForeBall', 'ForeToe'] as const

type Stem = (typeof PAIRED)[number] | (typeof HIND)[number] | (typeof FORE)[number]
export type PairedId = `${Side}${Stem}`
export type LandmarkId = (typeof MIDDLE)[number] | (typeof FOUR_MIDDLE)[number] | PairedId

/** What is looked for on figures of one kind. */
interface LandmarkSet {
  /** In the order in which they are shown. */
  ids: readonly LandmarkId[]
  /** What some have and others have not. */
  optional: readonly LandmarkId[]
  /** What is joined, so that limbs are seen as such. */
  lines: readonly (readonly LandmarkId[])[]
}

const ofSide = (side: Side, stems: readonly Stem[]) => stems.map((stem): PairedId => `${side}${stem}`)

/** The landmarks of figures by how many legs they stand on. */
export const LANDMARKS: Readonly<Record<Legs, LandmarkSet>> = {
  2: {
    ids: [...MIDDLE, ...SIDES.flatMap((side) => ofSide(side, PAIRED))],
    optional: [],
    lines: [
      MIDDLE,
      ...SIDES.flatMap((side): LandmarkId[][] => [
        ['neck', ...ofSide(side, PAIRED.slice(0, 4))],
        ['groin', ...ofSide(side, PAIRED.slice(4))],
      ]),
    ],
  },
  4: {
    ids: [...FOUR_MIDDLE, ...SIDES.flatMap((side) => ofSide(side, [...HIND, ...FORE]))],
    optional: FOUR_MIDDLE.slice(4),
    lines: [
      ['nose', 'headBase', 'neckBase', 'tailBase', 'tailMiddle', 'tailTip'],
      ['crown', 'headBase'],
      ...SIDES.flatMap((side) => [ofSide(side, HIND), ofSide(side, FORE)]),
    ],
  },
}

/** All there are. */
export const LANDMARK_IDS: readonly LandmarkId[] = [...new Set([...LANDMARKS[2].ids, ...LANDMARKS[4].ids])]

/** On how many legs a figure stands that has these. */
export function legsBy(landmarks: readonly Pick<Landmark, 'id'>[]): Legs {
  const own = new Set<LandmarkId>(LANDMARKS[2].ids)
  return landmarks.some(({ id }) => !own.has(id)) ? 4 : 2
}

/** What mirrors so well has its joints so too. */
const EVEN = 0.85

/**
 * Landmarks of a figure: where it is even each and its mirror image meet half way, the surer one leading.
 *
 * @param figure where its left and right meet, and how well they do
 */
export function evened(
  landmarks: readonly Landmark[],
  { plane, overlap }: { plane: number; overlap: number },
): readonly Landmark[] {
  if (overlap <= EVEN) return landmarks
  const byId = new Map(landmarks.map((l) => [l.id, l]))
  return landmarks.map((one) => {
    const other = byId.get(mirroredId(one.id)) ?? one
    if (other === one) return { ...one, at: [plane, one.at[1], one.at[2]] }
    const across: Point = [2 * plane - other.at[0], other.at[1], other.at[2]]
    const share = other.sure ** 2 / (one.sure ** 2 + other.sure ** 2)
    const at = one.at.map((v, k) => v + (across[k]! - v) * share) as Point
    return { ...one, at, sure: (one.sure + other.sure) / 2 }
  })
}

/** The one on the other side; itself on the middle. */
export function mirroredId(id: LandmarkId): LandmarkId {
  const [side, other] = id.startsWith('left') ? ['left', 'right'] : ['right', 'left']
  return id.startsWith(side!) ? (`${other!}${id.slice(side!.length)}` as LandmarkId) : id
}

/**
 * A person who stands with arms half lowered, as shares of the height, left side: set by eye, for what is not found. Such a
 * place is a guess and says so.
 */
const TYPICAL: Record<(typeof MIDDLE)[number] | (typeof PAIRED)[number], Point> = {
  crown: [0, 1, 0],
  chin: [0, 0.865, 0.05],
  neck: [0, 0.82, -0.01],
  groin: [0, 0.46, 0],
  Shoulder: [0.115, 0.79, -0.01],
  Elbow: [0.225, 0.66, -0.01],
  Wrist: [0.31, 0.55, 0],
  Knuckles: [0.36, 0.495, 0.005],
  Hip: [0.055, 0.5, 0],
  Knee: [0.06, 0.275, 0.005],
  Ankle: [0.062, 0.055, -0.015],
  Ball: [0.07, 0.02, 0.06],
  Toe: [0.075, 0.012, 0.1],
}

/** Where a landmark is on a person of usual build whose height and middle are these. */
export function typicalPlace(id: LandmarkId, height: number, middle: { x: number; z: number }): Point {
  const side = id.startsWith('left') ? 1 : id.startsWith('right') ? -1 : 0
  const stem = side === 0 ? id : id.slice(side === 1 ? 4 : 5)
  const [x, y, z] = TYPICAL[stem as keyof typeof TYPICAL]
  return [middle.x + x * height * (side || 1), y * height, middle.z + z * height]
}
