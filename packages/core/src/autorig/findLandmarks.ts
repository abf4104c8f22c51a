import { armJoints, findArms, type FoundArm } from './findArms.ts'
import { findLegs, footOf, kneeOf, type FoundLegs } from './findLegs.ts'
import { toPlace, type StandingFigure } from './Figure.ts'
import {
  evened,
  LANDMARKS,
  SIDES,
  typicalPlace,
  type Landmark,
  type LandmarkId,
  type Point,
  type Side,
} from './landmarks.ts'
import { blobOf, blobsAt, clamp, type Blob } from './slices.ts'

/** A neck is looked for so far above where the arms leave the trunk, as a share of the height, and about it. */
const NECK = { above: 0.11, about: 0.075, lowest: 0.64 }
/** Shoulders are so far under the neck, as a share of the height. */
const SHOULDER = 0.045
/** From the arm pit up to where arms that stand off leave the trunk, as a share of the height. */
const PIT = 0.05
/** Arms that rise more than this towards the trunk, of one, hang. */
const SLOPING = 0.3
/** Hips by the height of the neck, and by where the legs part. */
const HIPS = { byNeck: 0.585, byCrotch: 1.085, over: 0.005, least: 0.34 }
/** How sure something is that only usual proportions say. */
const GUESSED = 0.2

/**
 * The landmarks of a figure on two legs. Each comes from what is seen of it; where nothing is seen, from usual
 * proportions, and says so by being less sure.
 *
 * @param robed whether something long hides the legs
 */
export function findLandmarks(figure: StandingFigure, robed: boolean): Landmark[] {
  const { low, tall, plane } = figure
  const found = new Map<LandmarkId, { at: Point; sure: number }>()
  const put = (id: LandmarkId, at: Point, sure: number) => found.set(id, { at, sure })
  const legs = robed ? null : findLegs(figure)
  const arms = findArms(figure, legs)
  // an arm pit lies lower than the shoulder
  const shares = SIDES.flatMap((side) => {
    const arm = arms[side]
    return arm ? [(arm.path[arm.root]![1] - low) / tall + (arm.free ? PIT : 0)] : []
  })
  const armHeight = shares.length ? clamp(Math.max(...shares), 0.5, 0.85) : 0.72
  const trunk = new Trunk(figure)
  const neck = neckOf(figure, trunk, low + tall * clamp(armHeight + NECK.above, NECK.lowest, 0.9))
  put('neck', [plane, neck.y, trunk.middleAt(neck.y)], neck.sure)
  put('crown', [plane, low + tall - 1, trunk.middleAt(low + tall * 0.95)], 0.9)
  const face = trunk.at(neck.y + (low + tall - neck.y) * 0.35)
  put(
    'chin',
    [plane, neck.y + (low + tall - neck.y) * 0.24, face ? (face.z + face.maxZ) / 2 : trunk.middleAt(neck.y)],
    neck.sure * 0.9,
  )

  const byNeck = low + (neck.y - low) * HIPS.byNeck
  const parted = legs !== null && !legs.hidden
  const crotch = parted ? legs.crotch : byNeck - tall * 0.035
  let hip = byNeck
  if (parted) {
    const byCrotch = low + (crotch - low) * HIPS.byCrotch + HIPS.over * tall
    hip = (byCrotch - low) / (neck.y - low) > HIPS.least ? (byCrotch + byNeck) / 2 : byCrotch
  }
  put('groin', [plane, crotch, trunk.middleAt(hip)], parted ? 0.8 : GUESSED)
  const reach = SIDES.map((side) => arms[side]?.path.length ?? 0)
  for (const side of SIDES) {
    const arm = arms[side]
    // the longer one may hold something
    const longer = arm !== null && arm.path.length > 1.12 * Math.min(...reach)
    putArm(figure, side, arm && longer ? { ...arm, sure: arm.sure * 0.3 } : arm, neck.y, trunk, put)
    putLeg(figure, side, legs, hip, put)
  }

  const middle = { x: plane, z: trunk.middleAt(low + tall * 0.6) }
  const landmarks = LANDMARKS[2].ids.map((id): Landmark => {
    const one = found.get(id)
    if (one) return { id, at: one.at, sure: one.sure }
    const at = typicalPlace(id, tall, middle)
    return { id, at: [at[0], at[1] + low, at[2]], sure: GUESSED }
  })
  return evened(landmarks, figure).map((l) => ({ ...l, at: toPlace(figure, ...l.at) }))
}

/** The patch of the trunk in each slice: that which holds the middle plane, without the arms where they stand off. */
class Trunk {
  private readonly figure: StandingFigure
  private readonly known = new Map<number, Blob | null>()

  constructor(figure: StandingFigure) {
    this.figure = figure
  }

  at(y: number): Blob | null {
    const level = Math.round(y)
    let blob = this.known.get(level)
    if (blob === undefined) {
      const { voxels, plane } = this.figure
      const nx = voxels.size[0]
      blob = blobsAt(voxels, level).find((b) => b.minX <= plane + 1 && b.maxX >= plane - 1) ?? null
      // arms that grow out of it are no part of its depth: only what is near the middle counts
      if (blob) {
        const wide = Math.max(2, this.figure.tall * 0.05)
        const cells = blob.cells.filter((c) => Math.abs((c % nx) - plane) <= wide)
        if (cells.length) blob = { ...blob, z: blobOf(cells, nx).z }
      }
      this.known.set(level, blob)
    }
    return blob
  }

  /** The middle of the trunk at a height, along z. */
  middleAt(y: number): number {
    for (let d = 0; d < this.figure.tall * 0.2; d++) {
      const blob = this.at(y - d) ?? this.at(y + d)
      if (blob) return blob.z
    }
    return (this.figure.voxels.size[2] - 1) / 2
  }
}

/** Where a figure is thinnest between arms and head; in cells. */
function neckOf({ low, tall }: StandingFigure, trunk: Trunk, about: number): { y: number; sure: number } {
  const wide = NECK.about * tall
  const from = Math.max(low, Math.ceil(about - wide * 2.2))
  const rows: { y: number; thin: number }[] = []
  for (let y = from; y < low + tall * 0.95; y++) {
    const blob = trunk.at(y)
    if (blob) rows.push({ y, thin: Math.sqrt(blob.maxX - blob.minX + 1) * Math.sqrt(Math.sqrt(blob.area)) })
  }
  let best = { y: clamp(about, low, low + tall * 0.92), score: Infinity, waist: 1 }
  rows.forEach(({ y, thin }, i) => {
    // thinner than the shoulders under it, and than the head over it
    const [below, above] = [rows.slice(0, i), rows.slice(i + 1)].map((some) => Math.max(0, ...some.map((r) => r.thin)))
    if (!below || !above) return
    const waist = thin / Math.min(below, above)
    const score = waist * (1 + 0.12 * ((y - about) / wide) ** 2)
    if (score < best.score) best = { y, score, waist }
  })
  return { y: best.y, sure: clamp(2.5 * (1 - best.waist), GUESSED, 0.9) }
}

type Put = (id: LandmarkId, at: Point, sure: number) => void

function putArm(figure: StandingFigure, side: Side, arm: FoundArm | null, neck: number, trunk: Trunk, put: Put): void {
  if (!arm) return
  const { tall, plane } = figure
  // the way through the middle turns into the trunk below the shoulder: the line of the arm goes on up to where shoulders are
  const own = arm.free
    ? arm.path.slice(Math.floor(arm.root * 0.4))
    : arm.path.slice(Math.floor(arm.root * 0.25), Math.ceil(arm.root * 0.65) + 1)
  const { at, way } = lineOf(own)
  const level = neck - SHOULDER * tall
  let shoulder = arm.path[arm.root]!
  if (way[1] > SLOPING) {
    const t = (level - at[1]) / way[1]
    const [x, y, z] = at.map((v, k) => v + way[k]! * t) as Point
    const out = at[0] - plane
    // it stays on its side, and no arm grows wider towards its shoulder
    shoulder = [plane + Math.sign(out) * clamp((x - plane) * Math.sign(out), 0.25 * Math.abs(out), Math.abs(out)), y, z]
  }
  // wherever the line leads, shoulders are at the height of shoulders, and not before or behind the trunk
  const middle = trunk.middleAt(level)
  shoulder = [
    shoulder[0],
    clamp(shoulder[1], level - 0.05 * tall, level + 0.03 * tall),
    clamp(shoulder[2], middle - 0.06 * tall, middle + 0.06 * tall),
  ]
  const { elbow, wrist, knuckles } = armJoints(arm, shoulder)
  put(`${side}Shoulder`, shoulder, arm.sure * 0.85)
  put(`${side}Elbow`, elbow, arm.sure * 0.85)
  put(`${side}Wrist`, wrist, arm.sure * 0.9)
  put(`${side}Knuckles`, knuckles, arm.sure)
}

/** The line that fits some places best that follow each other: the middle of them, and the way it goes. */
function lineOf(path: readonly Point[]): { at: Point; way: Point } {
  const at = [0, 1, 2].map((k) => path.reduce((s, p) => s + p[k]!, 0) / path.length) as Point
  // along a path that hardly bends the places weighted by their order point along it
  const way = [0, 1, 2].map((k) => path.reduce((s, p, i) => s + (i - (path.length - 1) / 2) * (p[k]! - at[k]!), 0))
  const long = Math.hypot(...way) || 1
  return { at, way: way.map((v) => v / long) as Point }
}

function putLeg(figure: StandingFigure, side: Side, legs: FoundLegs | null, hipY: number, put: Put): void {
  if (!legs) return
  const track = legs[side]
  const top = track.blobs.slice(-Math.max(1, Math.round(track.blobs.length * 0.12)))
  const mean = (pick: (b: Blob) => number) => top.reduce((s, b) => s + pick(b), 0) / top.length
  const hip: Point = [mean((b) => b.x), hipY, mean((b) => b.z)]
  const { ankle, ball, toe, sure } = footOf(figure, track)
  put(`${side}Hip`, hip, legs.hidden ? GUESSED : 0.75)
  put(`${side}Knee`, kneeOf(figure, track, hip, ankle), legs.hidden ? GUESSED : 0.7)
  put(`${side}Ankle`, ankle, sure)
  put(`${side}Ball`, ball, sure)
  put(`${side}Toe`, toe, sure)
}
