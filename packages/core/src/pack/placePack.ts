import { Matrix4, Vector3 } from 'three'
import { boundsOf, type Bounds } from '../mesh/Mesh.ts'
import type { Pack, PackPiece } from './Pack.ts'
import { shapeOn, type BodySpace } from './bodySpace.ts'
import { sizeOf } from './pieceOf.ts'
import { likeness, type SlotKnowledge } from './sortPieces.ts'
import { wordsOf } from '../base/words.ts'

/** Units that models come in, in metres, and how common each is (log of a share). */
const UNITS = [
  { unit: 'm', metres: 1, share: Math.log(0.5) },
  { unit: 'cm', metres: 0.01, share: Math.log(0.3) },
  { unit: 'mm', metres: 0.001, share: Math.log(0.1) },
  { unit: 'inch', metres: 0.0254, share: Math.log(0.06) },
  { unit: 'foot', metres: 0.3048, share: Math.log(0.04) },
] as const
export type Unit = (typeof UNITS)[number]['unit']

/** What one of a unit is in metres. */
export const metresIn = (unit: Unit): number => UNITS.find((u) => u.unit === unit)!.metres

/** How tall people and animals are, metres, and how far the logs of their heights stray in squares: what units are told by. */
export const PERSON = { height: 1.7, spread: 0.08 }
export const ANIMAL = { height: 0.9, spread: 1.28 }

/** The unit in which a figure of such a height in its file is most likely as tall as those of its kind, and how sure that is. */
export function unitByHeight(height: number, given?: Unit, kind = PERSON): { unit: Unit; sure: number } {
  if (given) return { unit: given, sure: 1 }
  const scores = UNITS.map(({ metres, share }) => share - Math.log((height * metres) / kind.height) ** 2 / kind.spread)
  const best = scores.indexOf(Math.max(...scores))
  const all = scores.reduce((sum, s) => sum + Math.exp(s - scores[best]!), 0)
  return { unit: UNITS[best]!.unit, sure: 1 / all }
}

export const UNIT_NAMES: readonly Unit[] = UNITS.map(({ unit }) => unit)

export const AXIS_NAMES = ['x', '-x', 'y', '-y', 'z', '-z'] as const
export type Axis = (typeof AXIS_NAMES)[number]

/** How a pack lies: which of its axes is up and which is to the front, and what its numbers count. */
export interface Placing {
  up: Axis
  front: Axis
  unit: Unit
  /** How sure each is, 0 to 1. */
  sure: { up: number; front: number; unit: number }
  /** How tall all of it stands, metres. */
  height: number
  /** From a pack's numbers to the metres of the body it was measured on, as a column-major 4 × 4 matrix. */
  toBody: number[]
}

const AXES: Record<Axis, readonly [number, number, number]> = {
  x: [1, 0, 0],
  '-x': [-1, 0, 0],
  y: [0, 1, 0],
  '-y': [0, -1, 0],
  z: [0, 0, 1],
  '-z': [0, 0, -1],
}

/** Turns what points up and to the front to where our bodies have it: Y up, facing Z. */
export function turnOf(up: Axis, front: Axis): Matrix4 {
  const [u, f] = [new Vector3(...AXES[up]), new Vector3(...AXES[front])]
  const side = new Vector3().crossVectors(u, f)
  return new Matrix4().makeBasis(side, u, f).transpose()
}

/** Ways that are looked at: what is up is told by files one way or the other, what is in front by anything. */
const WAYS: readonly (readonly [Axis, Axis])[] = [
  ['y', 'z'],
  ['y', '-z'],
  ['y', 'x'],
  ['y', '-x'],
  ['z', '-y'],
  ['z', 'y'],
  ['z', 'x'],
  ['z', '-x'],
]
/** How common each is before anything is seen: what the glTF format says, and what is asked of OBJ; logs. */
const USUAL: readonly number[] = [0, -2, -2.5, -2.5, -0.5, -2.5, -3, -3]

/** How many pieces are tried on. */
const TRIED = 24
/** What the likeness of one piece to what is known is worth in logs, against what is usual. */
const WORTH = 4
/** How far the heights of figures stray: the variance of their logs. */
const HEIGHT_SPREAD = 0.2
/** What is so much less likely is not tried, in logs. */
const BEHIND = 10
/** All pieces together may be so much taller or lower than the body and still make a whole figure. */
const WHOLE = 1.8
/** How much less likely: no whole figure; another one's size; logs. */
const LONE = 1.5
/** And so much less for each further piece, up to many: of a whole set one expects a whole figure. */
const EACH = 0.7
const MANY = 20
const RESIZED = 0.7
/** The pieces of a pack together are hardly smaller than the body by more than this. */
const SMALLEST = 10

/** What a person says of how a pack lies; the rest is guessed. */
export type PlacingGiven = Partial<Pick<Placing, 'up' | 'front' | 'unit'>>

/**
 * Guesses how a pack lies by trying it on a body every way, and seeing which way its pieces lie as things on that body
 * do; bones tell it at once where they have names.
 *
 * @param given has the last word; a front that is not across what is up is no way to lie, and is passed over
 */
export function placePack(pack: Pack, knowledge: SlotKnowledge, given: PlacingGiven = {}): Placing {
  const { space } = knowledge
  const box = boundsOfAll(pack.pieces)
  const bones = toldByBones(pack)
  const up = given.up ?? bones?.up
  const told = { up, front: [given.front, bones?.front].find((f) => f && f.at(-1) !== up?.at(-1)) }
  const pieces = [...pack.pieces].sort((a, b) => sizeOf(b) - sizeOf(a)).slice(0, TRIED)
  const ways = told.up && !WAYS.some(([u, f]) => u === told.up && f === (told.front ?? f)) ? aroundAxis(told.up) : WAYS
  const all = ways
    .filter(([u, f]) => u === (told.up ?? u) && f === (told.front ?? f))
    .flatMap((way) => waysOf(...way, box, pack.pieces.length, space, bones ? 0 : (USUAL[WAYS.indexOf(way)] ?? 0)))
    .filter((one) => one.unit === (given.unit ?? one.unit))
  // likeness only takes away: what is behind already need not be tried
  let lead = -Infinity
  for (const one of all.sort((a, b) => b.score - a.score)) {
    if (one.score < lead - BEHIND) one.score = -Infinity
    else one.score += WORTH * likenessOf(pieces, one.matrix, knowledge)
    lead = Math.max(lead, one.score)
  }
  all.sort((a, b) => b.score - a.score)
  const best = all[0]!
  const total = all.reduce((sum, t) => sum + Math.exp(t.score - best.score), 0)
  const sure = (same: (t: (typeof all)[number]) => boolean) =>
    all.filter(same).reduce((sum, t) => sum + Math.exp(t.score - best.score), 0) / total
  return {
    up: best.up,
    front: best.front,
    unit: best.unit,
    sure: {
      up: sure((t) => t.up === best.up),
      front: sure((t) => t.up === best.up && t.front === best.front),
      unit: sure((t) => t.unit === best.unit),
    },
    height: best.height * metresIn(best.unit),
    toBody: best.matrix.toArray(),
  }
}

/** What may be in front where something unusual is up. */
const aroundAxis = (up: Axis): (readonly [Axis, Axis])[] =>
  AXIS_NAMES.filter((a) => a.at(-1) !== up.at(-1)).map((front) => [up, front] as const)

/** One way up and round, in every unit that may be. */
function waysOf(up: Axis, front: Axis, box: Bounds, pieces: number, space: BodySpace, usual: number) {
  const height = extentOf(box, up)
  return scalesFor(height, pieces, space).map(({ unit, scale, likely, whole }) => {
    const matrix = turnOf(up, front).premultiply(new Matrix4().makeScale(scale, scale, scale))
    // a whole figure stands on the ground, wherever its origin is
    const corners = [box.min, box.max].map((v) => new Vector3(...v).applyMatrix4(matrix).y)
    if (whole) matrix.premultiply(new Matrix4().makeTranslation(0, space.floor - Math.min(...corners), 0))
    return { up, front, unit, height, matrix, score: likely + usual }
  })
}

/** Units, and for each what brings the pack to the body: as it is, or as tall as the body where it seems a whole figure. */
function scalesFor(height: number, pieces: number, space: BodySpace) {
  return UNITS.flatMap(({ unit, metres, share }) => {
    const off = Math.log((height * metres) / space.height)
    const seemsWhole = Math.abs(off) < Math.log(WHOLE)
    const asTall = -(off ** 2) / (2 * HEIGHT_SPREAD)
    // pieces alone may be small, but not as small as a button, and hardly larger than the figure
    const lone = LONE + EACH * Math.min(MANY, pieces - 1)
    const alone = -lone - 20 * Math.max(0, off) ** 2 - 5 * Math.max(0, -off - Math.log(SMALLEST)) ** 2
    const asItIs = { unit, scale: metres, likely: share + (seemsWhole ? asTall : alone), whole: false }
    const asWhole = { unit, scale: space.height / height, likely: share + asTall - RESIZED, whole: true }
    return seemsWhole ? [asItIs, asWhole] : [asItIs]
  })
}

/** How like to what is known the pieces lie, all together: 0 for just like it, less for less. */
function likenessOf(pieces: readonly PackPiece[], matrix: Matrix4, knowledge: SlotKnowledge): number {
  let sum = 0
  for (const { positions, triangles } of pieces) {
    const soup = { positions: moved(positions, matrix), triangles }
    sum += likeness(knowledge, shapeOn(knowledge.space, soup, true))
  }
  return sum
}

/** Places after a matrix. */
export function moved(positions: Float32Array, matrix: Matrix4): Float32Array {
  const out = new Float32Array(positions.length)
  const point = new Vector3()
  for (let i = 0; i < out.length; i += 3) point.fromArray(positions, i).applyMatrix4(matrix).toArray(out, i)
  return out
}

/** What bones say of up and front, where their names tell feet from head and left from right. */
function toldByBones({ joints }: Pack): { up?: Axis; front?: Axis } | null {
  const mean = (wanted: (words: readonly string[]) => boolean): Vector3 | null => {
    const found = joints.filter(({ name }) => wanted(wordsOf(name)))
    if (found.length === 0) return null
    return found.reduce((sum, { at }) => sum.add(new Vector3(...at)), new Vector3()).divideScalar(found.length)
  }
  const has =
    (...any: string[]) =>
    (words: readonly string[]) =>
      any.some((w) => words.includes(w))
  const [head, feet] = [mean(has('head', 'neck')), mean(has('foot', 'feet', 'toe', 'ankle'))]
  const [left, right] = [mean(has('left', 'l')), mean(has('right', 'r'))]
  if (!head || !feet) return null
  const up = nearestAxis(head.clone().sub(feet))
  if (!left || !right) return { up }
  return { up, front: nearestAxis(left.sub(right).cross(new Vector3(...AXES[up]))) }
}

function nearestAxis(way: Vector3): Axis {
  return AXIS_NAMES.reduce<Axis>(
    (best, axis) => (way.dot(new Vector3(...AXES[axis])) > way.dot(new Vector3(...AXES[best])) ? axis : best),
    'x',
  )
}

function boundsOfAll(pieces: readonly PackPiece[]): Bounds {
  const boxes = pieces.map((p) => boundsOf(p.positions))
  const over = (side: 'min' | 'max', pick: (...v: number[]) => number) =>
    [0, 1, 2].map((k) => boxes.reduce((v, b) => pick(v, b[side][k]!), boxes[0]![side][k]!)) as Bounds['min']
  return { min: over('min', Math.min), max: over('max', Math.max) }
}

const extentOf = ({ min, max }: Bounds, up: Axis): number => {
  const k = ['x', 'y', 'z'].indexOf(up.at(-1)!)
  return Math.max(1e-9, max[k]! - min[k]!)
}
