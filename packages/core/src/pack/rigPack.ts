import { Matrix4, Vector3 } from 'three'
import { findFourLegged } from '../autorig/findFourLegged.ts'
import { findLandmarks } from '../autorig/findLandmarks.ts'
import { chainBones, chainFaults, type DrawnChain, type RiggedChain } from '../autorig/drawnChains.ts'
import { standingFigure, toPlace, type StandingFigure } from '../autorig/Figure.ts'
import { islandsOf } from '../autorig/islands.ts'
import { legsBy, type Landmark, type Legs, type Point } from '../autorig/landmarks.ts'
import { PLAN_OF, rigSkeleton } from '../autorig/rigSkeleton.ts'
import { rigWeights } from '../autorig/rigWeights.ts'
import { buildOf, type Build } from '../autorig/buildOf.ts'
import { stanceOf, type Way } from '../autorig/stance.ts'
import { surroundingsOf } from '../autorig/surroundings.ts'
import { cellAt, type Soup } from '../autorig/Voxels.ts'
import { problem, type Problem, type Read } from '../base/problem.ts'
import type { Kit } from '../kit/Kit.ts'
import type { KitFiles } from '../kit/readKit.ts'
import { boundsOf } from '../mesh/Mesh.ts'
import { figureKit, THE_BODY } from './figureKit.ts'
import { takeHeld } from './heldParts.ts'
import type { Pack } from './Pack.ts'
import type { PackOrder } from './packKit.ts'
import type { SlotKnowledge } from './sortPieces.ts'
import { trianglesOf } from './takeApart.ts'
import {
  ANIMAL,
  AXIS_NAMES,
  metresIn,
  moved,
  turnOf,
  PERSON,
  unitByHeight,
  type Axis,
  type Placing,
  type PlacingGiven,
} from './placePack.ts'

/** Cells along the longest side of a figure that joints are looked for in. */
const FINE = 80
/** What is less sure than this should be looked at. */
export const DOUBTFUL = 0.5
/** A figure that meets its mirror image in less than this has no two like sides. */
const UNEVEN = 0.55
/** Figures are taller than this and lower than that, metres; what is not is told. */
const [SMALL, LARGE] = [0.15, 12]
/** An island of so much of the largest is another figure, not a button. */
const ANOTHER = 0.35

/** A figure without bones as it stands. */
export interface PlacedMesh {
  /** Its pieces, without what is no part of it. */
  pack: Pack
  /** How it lies in its file; `toBody` brings it to metres, standing on the ground and facing z. */
  placing: Placing
  /** It, as it was filled to be looked into; in metres, as `placing` puts it. */
  figure: StandingFigure
}

/** What a person says of a figure without bones; the rest is looked for. */
export interface RigGiven extends PlacingGiven {
  /** On how many legs it stands; 0 where its chains are drawn, whatever they are. */
  legs?: Legs | 0
}

/** What was seen of it. */
export interface FigureSurvey extends PlacedMesh {
  /** `other` where its landmarks are not known here: its chains are drawn by hand. */
  build: Build
  /** In metres, as `placing` puts it. */
  landmarks: Landmark[]
}

/**
 * Finds how a figure without bones lies.
 *
 * @param given what a person says of it has the last word
 */
export function placeMesh(found: Pack, given: RigGiven = {}): Read<PlacedMesh> {
  const aside = surroundingsOf(soupOf(found))
  const pack = aside.size ? without(found, aside) : found
  const soup = soupOf(pack)
  if (soup.triangles.length === 0)
    return refuse('rig-empty', 'There is no surface in it.', 'Drop a file with the mesh of a figure.')
  const { min, max } = boundsOf(soup.positions)
  const sides = max.map((v, k) => v - min[k]!).sort((a, b) => a - b)
  if (!(sides[1]! > 0) || sides[0]! < sides[2]! * 1e-3)
    return refuse('rig-flat', 'It is flat: there is no room in it for bones.', 'Drop a figure with a front and a back.')
  const up = given.up && wayOf(given.up)
  const front = given.front && given.front.at(-1) !== given.up?.at(-1) ? wayOf(given.front) : undefined
  const stance = stanceOf(soup, { ...(up && { up }), ...(front && { front }) })
  const placing = placingOf(soup, stance, given)
  const problems: Problem[] = []
  const tell = (code: string, message: string, remedy: string) =>
    problems.push(problem(code, 'mesh', message, remedy, 'warning'))
  if (aside.size)
    tell(
      'rig-aside',
      'A ground under it, or specks far from it, are left out.',
      'Take them out of the file to be told no more.',
    )
  if (placing.height < SMALL || placing.height > LARGE)
    tell(
      'rig-size',
      `It would stand ${placing.height.toPrecision(2)} m tall.`,
      'Choose another unit, or scale it where it was made.',
    )
  return { value: { pack, placing, figure: standingFigure(placedSoup(soup, placing), FINE) }, problems }
}

/** A pack without some of its triangles, by their number over all pieces; what is left of no piece is gone. */
function without({ joints, pieces }: Pack, aside: ReadonlySet<number>): Pack {
  let from = 0
  return {
    joints,
    pieces: pieces.flatMap((piece) => {
      const count = piece.triangles.length / 3
      const kept = [...Array(count).keys()].filter((t) => !aside.has(from + t))
      from += count
      if (kept.length === count) return [piece]
      return kept.length ? [trianglesOf(piece, kept)] : []
    }),
  }
}

/**
 * Looks at a figure without bones that stands: how it is built, and where its joints are.
 *
 * @param given on how many legs it stands, where a person says so
 */
export function surveyPlaced(
  { pack, placing, figure }: PlacedMesh,
  { legs }: Pick<RigGiven, 'legs'> = {},
): Read<FigureSurvey> {
  const seen = buildOf(figure)
  const build = legs === 0 ? 'other' : legs === 4 ? 'quadruped' : legs === 2 && seen !== 'robed' ? 'biped' : seen
  const problems: Problem[] = []
  const tell = (code: string, message: string, remedy: string) =>
    problems.push(problem(code, 'mesh', message, remedy, 'warning'))
  const { sizes } = islandsOf(figure.voxels)
  if (figure.loose > 0 && sizes.length > 1 && sizes[1]! > ANOTHER * sizes[0]!)
    tell(
      'rig-several',
      'There seem to be several figures in it.',
      'Keep one in the file: bones are made for all as for one.',
    )
  // its chains may be drawn
  if (build === 'other') {
    if (legs !== 0)
      tell(
        'rig-plan',
        'It stands on neither two nor four legs that can be told apart, and is no robed figure either.',
        'Draw its chains: the trunk first, then what hangs on it. Or say what is up, what is in front and on how many legs it stands, if that is wrong.',
      )
    return { value: { pack, placing, figure, build, landmarks: [] }, problems }
  }
  const refused = (code: string, message: string, remedy: string): Read<FigureSurvey> => ({
    value: null,
    problems: [...problems, problem(code, 'mesh', message, remedy)],
  })
  if (figure.overlap < UNEVEN)
    tell('rig-uneven', 'Its sides are not alike: each is looked at by itself.', 'Look at the joints of both sides.')
  if (build === 'robed')
    tell(
      'rig-robed',
      'Something long hides its legs.',
      'Legs stand where they mostly do: look at hips, knees and ankles.',
    )
  const landmarks = build === 'quadruped' ? findFourLegged(figure) : findLandmarks(figure, build === 'robed')
  if (!landmarks)
    return refused(
      'rig-legs',
      'Four legs cannot be told apart in it.',
      'Say what is up and in front, if that is wrong, or that it stands on two.',
    )
  if (figure.props.size)
    tell('rig-held', 'It holds something, or wears it by itself.', 'That becomes a part of its own, which comes off.')
  if (landmarks.some((l) => l.id.endsWith('Knuckles') && l.at[1] < 0.01 * figure.tall * figure.voxels.cell))
    tell('rig-knuckles', 'A hand reaches the ground.', 'Look at the wrists and knuckles.')
  return { value: { pack, placing, figure, build, landmarks }, problems }
}

/** Both: how a figure without bones lies, and what is seen of it. */
export function surveyFigure(pack: Pack, given: RigGiven = {}): Read<FigureSurvey> {
  const mesh = placeMesh(pack, given)
  if (!mesh.value) return { value: null, problems: mesh.problems }
  const survey = surveyPlaced(mesh.value, given)
  return { ...survey, problems: [...mesh.problems, ...survey.problems] }
}

/**
 * A place in the middle of what lies behind it, as when a landmark is set from one side: along one axis, in the limb that
 * is nearest to where it is; itself where nothing is behind it.
 *
 * @param axis 0 where it was seen from the side, 2 where it was seen from the front
 */
export function settled({ voxels }: StandingFigure, at: Point, axis: 0 | 2): Point {
  const { size, solid, origin, cell } = voxels
  const line = [...at] as Point
  const filled = (i: number) => {
    line[axis] = origin[axis] + (i + 0.5) * cell
    return solid[cellAt(voxels, ...line)] === 1
  }
  let best: { middle: number; off: number } | null = null
  for (let i = 0; i < size[axis]; i++) {
    if (!filled(i)) continue
    let end = i
    while (end + 1 < size[axis] && filled(end + 1)) end++
    const ends = [origin[axis] + i * cell, origin[axis] + (end + 1) * cell] as const
    const off = Math.max(0, ends[0] - at[axis], at[axis] - ends[1])
    if (!best || off < best.off) best = { middle: (ends[0] + ends[1]) / 2, off }
    i = end
  }
  line[axis] = best ? best.middle : at[axis]
  return line
}

const refuse = (code: string, message: string, remedy: string): Read<never> => ({
  value: null,
  problems: [problem(code, 'mesh', message, remedy)],
})

/** A figure as it was seen, and as a person has put it right. */
export interface RigOrder extends Omit<FigureSurvey, 'build'> {
  /** Chains that were drawn, in metres as the landmarks are; the trunk among them where there are no landmarks. */
  chains?: readonly DrawnChain[]
}

/**
 * A pack whose pieces hang on bones that are made for it.
 *
 * @returns the pack, and which of its joints are the chains that were drawn
 */
export function rigPack({ pack, placing, figure, landmarks, chains: drawn = [] }: RigOrder): {
  pack: Pack
  chains: RiggedChain[]
} {
  const plan = landmarks.length ? rigSkeleton(landmarks, legsBy(landmarks)) : []
  const { bones, chains } = chainBones(drawn, plan, toPlace(figure, figure.plane, 0, 0)[0])
  const { joints, weights } = rigWeights(figure, bones)
  const back = new Matrix4().fromArray(placing.toBody).invert()
  let from = 0
  const pieces = pack.pieces.map((piece) => {
    const to = from + (piece.positions.length / 3) * 4
    const skin = { joints: joints.slice(from, to), weights: weights.slice(from, to) }
    from = to
    return { ...piece, skin }
  })
  return {
    chains,
    pack: {
      pieces,
      joints: bones.map(({ name, parent, at }) => ({
        name,
        parent,
        at: new Vector3(...at).applyMatrix4(back).toArray() as [number, number, number],
      })),
    },
  }
}

/** All triangles of a pack, in its own unit and axes. */
function soupOf({ pieces }: Pack): Soup {
  const positions = new Float32Array(pieces.reduce((n, p) => n + p.positions.length, 0))
  const triangles = new Uint32Array(pieces.reduce((n, p) => n + p.triangles.length, 0))
  let [point, corner] = [0, 0]
  for (const piece of pieces) {
    positions.set(piece.positions, point * 3)
    for (const v of piece.triangles) triangles[corner++] = v + point
    point += piece.positions.length / 3
  }
  return { positions, triangles }
}

function placedSoup(soup: Soup, { toBody }: Placing): Soup {
  return { positions: moved(soup.positions, new Matrix4().fromArray(toBody)), triangles: soup.triangles }
}

function placingOf(soup: Soup, stance: ReturnType<typeof stanceOf>, given: RigGiven): Placing {
  const [up, front] = [axisOf(stance.up), axisOf(stance.front)]
  const turned = turnOf(up, front)
  const { min, max } = boundsOf(moved(soup.positions, turned))
  const tall = max[1] - min[1]
  const { unit, sure } = unitByHeight(
    tall,
    given.unit,
    given.legs === 4 || (stance.four && given.legs !== 2) ? ANIMAL : PERSON,
  )
  const metres = metresIn(unit)
  const toBody = turned
    .premultiply(new Matrix4().makeScale(metres, metres, metres))
    .premultiply(new Matrix4().makeTranslation(0, -min[1] * metres, 0))
  return { up, front, unit, sure: { ...stance.sure, unit: sure }, height: tall * metres, toBody: toBody.toArray() }
}

const wayOf = (axis: Axis): Way => ({
  axis: ['x', 'y', 'z'].indexOf(axis.at(-1)!) as Way['axis'],
  sign: axis.startsWith('-') ? -1 : 1,
})

const axisOf = ({ axis, sign }: Way): Axis => AXIS_NAMES[axis * 2 + (sign === 1 ? 0 : 1)]!

/**
 * Makes a kit of a figure without bones: it becomes a body on the bones of its landmarks and of the chains that were drawn,
 * with sliders of its proportions.
 *
 * @param knowledge of a body whose slots, regions and sockets the new one takes over
 */
export async function rigKit(
  survey: RigOrder,
  knowledge: SlotKnowledge,
  kits: ReadonlyMap<string, Kit>,
  order: Omit<PackOrder, 'slots'>,
): Promise<Read<KitFiles>> {
  const bare = survey.landmarks.length === 0
  const problems = chainFaults(survey.chains ?? [], bare)
  if (problems.length) return { value: null, problems }
  const { pack: rigged, chains } = rigPack(survey)
  const drawn = new Set(chains.flatMap((c) => c.bones))
  // what somebody draws a chain along is no thing that is held
  const { pack, held } = bare ? { pack: rigged, held: [] } : takeHeld(rigged, survey.figure.props, drawn)
  const slots = new Map(pack.pieces.map((p) => [p.id, THE_BODY]))
  // nothing is to be guessed of bones that were made, wherever a person has put them
  const bones = new Map(pack.joints.flatMap((j, i) => (drawn.has(i) ? [] : [[j.name, i] as const])))
  const plan = bare ? null : PLAN_OF[legsBy(survey.landmarks)]
  return figureKit(pack, survey.placing, knowledge, kits, { ...order, slots, known: { plan, bones, chains }, held })
}
