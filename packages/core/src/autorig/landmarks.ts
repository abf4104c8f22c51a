/** Where something of a figure is that its bones go by. */
export interface Landmark {
  id: LandmarkId
  at: Point
  /** How likely it is right, 0 to 1: what a person should look at first is what is least. */
  sure: number
}

export type Point = [number, number, number]

/** On the middle plane. */
export const MIDDLE = ['crown', 'chin', 'neck', 'groin'] as const
/** Of each side, from the trunk outwards. */
export const PAIRED = ['Shoulder', 'Elbow', 'Wrist', 'Knuckles', 'Hip', 'Knee', 'Ankle', 'Ball', 'Toe'] as const
export const SIDES = ['left', 'right'] as const
export type Side = (typeof SIDES)[number]
export type PairedId = `${Side}${(typeof PAIRED)[number]}`
export type LandmarkId = (typeof MIDDLE)[number] | PairedId

/** All of them, in the order in which they are shown. */
export const LANDMARK_IDS: readonly LandmarkId[] = [
  ...MIDDLE,
  ...SIDES.flatMap((side) => PAIRED.map((stem): PairedId => `${side}${stem}`)),
]

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
