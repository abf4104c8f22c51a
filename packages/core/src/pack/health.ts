import type { Problem } from '../base/problem.ts'
import { connectedPieces, signedVolume } from '../mesh/adjacency.ts'
import { Surface } from '../mesh/Surface.ts'
import type { PackPiece } from './Pack.ts'
import { cornersAt, crossOf, edgeOf, longestEdge, rimsOf, sheetOf, type Patch, type Sheet } from './sheets.ts'

/** What can be wrong with the surface of a piece and be mended here. */
export const MENDABLE = ['faces-flat', 'faces-doubled', 'faces-against', 'inside-out', 'holes', 'bits-stray'] as const
export type Mendable = (typeof MENDABLE)[number]
export const isMendable = (code: string): code is Mendable => (MENDABLE as readonly string[]).includes(code)

/** One thing that was found to be wrong with a piece. */
export interface Finding extends Problem {
  /** How many triangles, edges, vertices or holes it is about. */
  count: number
  /** Triangles of the piece that show where it is; none where it is all of it. */
  triangles: number[]
}

/** A gap of so many edges, in a component of at least so many triangles, is a hole; larger ones are openings. */
const HOLES = [
  { edges: 3, triangles: 24 },
  { edges: 5, triangles: 40 },
]
/** A component of no more triangles than this, with no more of the area than this, is a stray bit; all of them have little. */
const BIT = { triangles: 4, share: 2e-5, all: 0.01 }
/** More vertices do not fit into indices of sixteen bits. */
const MOST_VERTICES = 65_535
const MOST_INFLUENCES = 4

/** Everything that is wrong with one piece as it was found; empty of a sound one. */
export function healthOf(piece: PackPiece): Finding[] {
  const sheet = sheetOf(piece.positions, piece.triangles)
  const found: Finding[] = []
  const tell = (
    code: string,
    severity: Problem['severity'],
    count: number,
    triangles: Iterable<number>,
    message: string,
    remedy: string,
  ) => {
    if (count > 0)
      found.push({ code, severity, where: piece.id, message: `${message}.`, remedy, count, triangles: [...triangles] })
  }
  const drop = 'They can be left out.'
  tell(
    'faces-flat',
    'info',
    sheet.flat.size,
    sheet.flat,
    said(sheet.flat.size, 'triangle', 'has no area', 'have no area'),
    drop,
  )
  tell(
    'faces-doubled',
    'warning',
    sheet.doubled.size,
    sheet.doubled,
    said(sheet.doubled.size, 'triangle', 'lies on another', 'lie on others'),
    drop,
  )
  const against = sheet.patches.flatMap((p) => p.against)
  tell(
    'faces-against',
    'error',
    against.length,
    against,
    `${said(against.length, 'triangle', 'is', 'are')} turned against the rest: seen from outside as holes`,
    'They can be turned.',
  )
  const reversed = reversedPatches(sheet).flatMap((p) => p.faces)
  const whole = reversed.length * 2 > piece.triangles.length / 3
  tell(
    'inside-out',
    'error',
    reversed.length,
    whole ? [] : reversed,
    whole ? 'It is inside out' : `Parts of it are inside out, ${said(reversed.length, 'triangle', 'in all', 'in all')}`,
    'It can be turned.',
  )
  const holes = holesOf(sheet)
  tell(
    'holes',
    'warning',
    holes.length,
    holes.flatMap((loop) => facesAt(sheet, loop)),
    said(holes.length, 'small hole', 'is in it', 'are in it'),
    'They can be closed.',
  )
  const bits = strayBits(sheet)
  tell(
    'bits-stray',
    'info',
    bits.length,
    bits,
    said(bits.length, 'triangle', 'hangs', 'hang') + ' on nothing, too small to be seen',
    drop,
  )
  const crowded = [...sheet.edges].filter(([, uses]) => uses.length > 2)
  tell(
    'edges-shared',
    'info',
    crowded.length,
    crowded.flatMap(([, uses]) => uses.map((u) => u.face)),
    `${said(crowded.length, 'edge', 'has', 'have')} more than two triangles`,
    'It is drawn all the same; where light breaks oddly there, mend it where it was made.',
  )
  const { influences, weightsOff, normals, against: facing, lost = 0, scaled } = piece.found
  tell(
    'faces-lost',
    'warning',
    lost,
    [],
    `${said(lost, 'triangle', 'has', 'have')} a corner that is no place`,
    'What has no place is left out: mend it where it was made.',
  )
  const vertices = Math.max(piece.found.vertices, piece.positions.length / 3)
  tell(
    'vertices-many',
    'warning',
    vertices > MOST_VERTICES ? vertices : 0,
    [],
    `It has ${vertices.toLocaleString('en')} vertices: more than indices of sixteen bits can count`,
    'Make it coarser where it was made.',
  )
  tell(
    'influences-many',
    'info',
    influences > MOST_INFLUENCES ? influences : 0,
    [],
    `Its vertices hang on up to ${influences} bones`,
    'The four strongest are kept.',
  )
  tell(
    'weights-off',
    'warning',
    weightsOff,
    [],
    `The weights of ${said(weightsOff, 'vertex', 'do not', 'do not', 'vertices')} sum to one`,
    'They are brought to one.',
  )
  tell(
    'normals-against',
    'warning',
    normals && facing * 2 > piece.triangles.length / 3 ? facing : 0,
    [],
    'Its normals point inwards',
    'They are made anew here.',
  )
  tell(
    'node-scaled',
    'info',
    scaled ? 1 : 0,
    [],
    'It is stretched or mirrored by the node it hangs on',
    'It is taken as it is seen; settle the scale where it was made, and it stays so everywhere.',
  )
  return found
}

function said(count: number, one: string, single: string, plural: string, many = `${one}s`): string {
  return count === 1 ? `One ${one} ${single}` : `${count.toLocaleString('en')} ${many} ${plural}`
}

/** Small gaps, each as its points in the order in which a face that closes it goes. */
export function holesOf(sheet: Sheet): number[][] {
  const { pieceOf } = connectedPieces(sheet.faces, sheet.points.length / 3)
  const size = new Map<number, number>()
  for (let t = 0; t < sheet.faces.length; t += 3) {
    const piece = pieceOf[sheet.faces[t]!]!
    size.set(piece, (size.get(piece) ?? 0) + 1)
  }
  return rimsOf(sheet).filter(
    (loop) =>
      loop.length >= 3 &&
      HOLES.some((h) => loop.length <= h.edges && size.get(pieceOf[loop[0]!]!)! >= h.triangles) &&
      closingFaces(sheet, loop) !== null,
  )
}

/** The triangles that close a small gap, fanned out from the corner where they come out least thin; null where it has no area. */
export function closingFaces({ points }: Sheet, loop: readonly number[]): [number, number, number][] | null {
  let best: { faces: [number, number, number][]; least: number } | null = null
  for (let from = 0; from < loop.length; from++) {
    const at = (i: number) => loop[(from + i) % loop.length]!
    const faces = Array.from({ length: loop.length - 2 }, (_, i): [number, number, number] => [
      at(0),
      at(i + 1),
      at(i + 2),
    ])
    const least = Math.min(...faces.map((f) => thinness(points, f)))
    if (!best || least > best.least) best = { faces, least }
  }
  return best && best.least > THINNEST ? best.faces : null
}

/** Thinner triangles are none, as twice the area over the longest edge squared. */
const THINNEST = 1e-3

function thinness(points: Float32Array, corners: [number, number, number]): number {
  const longest = longestEdge(points, corners)
  return longest > 0 ? Math.hypot(...crossOf(points, corners)) / longest ** 2 : 0
}

/** Triangles with an edge of a loop. */
function facesAt(sheet: Sheet, loop: readonly number[]): number[] {
  const usesAt = (i: number) => sheet.edges.get(edgeOf(sheet, loop[i]!, loop[(i + 1) % loop.length]!)) ?? []
  return loop.flatMap((_, i) => usesAt(i).map((u) => u.face))
}

/** Triangles of components that are too small to be anything. */
export function strayBits(sheet: Sheet): number[] {
  const { pieceOf } = connectedPieces(sheet.faces, sheet.points.length / 3)
  const parts = new Map<number, { faces: number[]; area: number }>()
  let whole = 0
  for (let t = 0; t < sheet.faces.length / 3; t++) {
    const corners = cornersAt(sheet.faces, t)
    const area = Math.hypot(...crossOf(sheet.points, corners))
    whole += area
    const id = pieceOf[corners[0]]!
    const part = parts.get(id)
    if (part) {
      part.faces.push(t)
      part.area += area
    } else parts.set(id, { faces: [t], area })
  }
  const small = [...parts.values()].filter(
    ({ faces, area }) => faces.length <= BIT.triangles && area < BIT.share * whole,
  )
  // what is made of nothing but crumbs is made so
  if (small.reduce((s, { area }) => s + area, 0) > BIT.all * whole) return []
  return small.flatMap(({ faces }) => faces.filter((t) => !sheet.flat.has(t)))
}

/** Directions, evenly over the sphere (Fibonacci lattice). */
const DIRECTIONS = Array.from({ length: 24 }, (_, i): [number, number, number] => {
  const y = 1 - (2 * i + 1) / 24
  const r = Math.sqrt(1 - y * y)
  const a = i * Math.PI * (3 - Math.sqrt(5))
  return [r * Math.cos(a), y, r * Math.sin(a)]
})
/** Triangles of a patch that are looked out from. */
const LOOKS = 32
/** So many patches, the largest, are looked at; the others are like most of the piece. */
const MOST_LOOKED = 300
/** A patch that sees so much more of the sky from one side than from the other is surely turned so. */
const SURELY = 0.8
/** The others are turned as the whole piece is, if that sees so much more from behind. */
const MOSTLY = 0.1
/** A piece that sees no more than this from in front may be turned wrong all the same. */
const UNSEEN = 0.4
/** What is hollow by more than this share of its area's power bulges inwards. */
const HOLLOWED = 0.01
/** A closed patch whose volume is less than this share of its area's power is a sheet. */
const HOLLOW = 1e-3

/**
 * Patches that are inside out: closed ones by their volume, open ones by which of their sides sees more of the sky. What
 * sees as much from both sides, as a sheet does, is like most of the piece.
 */
export function reversedPatches(sheet: Sheet): Patch[] {
  const { points } = sheet
  let surface: Surface | null = null
  const measured = sheet.patches.map((patch) => {
    const turned = new Set(patch.against)
    const rightly = Uint32Array.from(
      patch.faces.flatMap((t) => {
        const [a, b, c] = cornersAt(sheet.faces, t)
        return turned.has(t) ? [a, c, b] : [a, b, c]
      }),
    )
    const area = patch.faces.reduce((s, t) => s + Math.hypot(...crossOf(points, cornersAt(sheet.faces, t))) / 2, 0)
    return { patch, rightly, area }
  })
  // a heap of crumbs is not looked at crumb by crumb
  const looked = new Set([...measured].sort((a, b) => b.area - a.area).slice(0, MOST_LOOKED))
  const judged = measured.map((one) => {
    const { patch, rightly, area } = one
    const volume = patch.closed ? signedVolume(points, rightly) : 0
    if (Math.abs(volume) > HOLLOW * area ** 1.5) return { patch, area, vote: volume < 0 ? 1 : -1, hollow: 0 }
    // one triangle by itself has no inside
    if (!looked.has(one) || patch.faces.length < 2) return { patch, area, vote: 0, hollow: 0 }
    surface ??= new Surface(points, sheet.faces)
    const hollow = -bulgeOf(points, rightly) / area ** 1.5
    return { patch, area, vote: skyBehind(points, rightly, surface), hollow }
  })
  const all = judged.reduce((s, j) => s + j.area, 0)
  const sum = (of: (j: (typeof judged)[number]) => number) => judged.reduce((s, j) => s + j.area * of(j), 0) / all
  const vote = sum((j) => j.vote)
  // of layers over each other little is seen from either side: there the way they bulge tells
  const mostly = vote > MOSTLY || (vote > -UNSEEN && sum((j) => j.hollow) > HOLLOWED)
  return judged.filter((j) => (Math.abs(j.vote) > SURELY ? j.vote > 0 : mostly)).map(({ patch }) => patch)
}

/** What a patch holds towards the middle of itself, cubic metres: a bowl that faces up less than nothing. */
function bulgeOf(points: Float32Array, faces: Uint32Array): number {
  const own = new Map<number, number>()
  for (const p of faces) if (!own.has(p)) own.set(p, own.size)
  const middle = [0, 0, 0]
  for (const p of own.keys()) for (let k = 0; k < 3; k++) middle[k]! += points[p * 3 + k]! / own.size
  const about = new Float32Array(own.size * 3)
  for (const [p, i] of own) for (let k = 0; k < 3; k++) about[i * 3 + k] = points[p * 3 + k]! - middle[k]!
  return signedVolume(
    about,
    faces.map((p) => own.get(p)!),
  )
}

const dot = (a: readonly number[], b: readonly number[]) => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!

/** How much more of the sky is seen from behind than from in front, on the mean, -1 to 1. */
function skyBehind(points: Float32Array, faces: Uint32Array, surface: Surface): number {
  const count = faces.length / 3
  const step = Math.max(1, Math.floor(count / LOOKS))
  let [sum, weight] = [0, 0]
  for (let t = 0; t < count; t += step) {
    const corners = cornersAt(faces, t)
    const cross = crossOf(points, corners)
    const area = Math.hypot(...cross)
    if (area === 0) continue
    const normal = cross.map((v) => v / area) as [number, number, number]
    const middle = [0, 1, 2].map((k) => corners.reduce((s, p) => s + points[p * 3 + k]! / 3, 0))
    const off = Math.sqrt(area) * 1e-3
    let front = 0
    let behind = 0
    for (const d of DIRECTIONS) {
      const along = dot(normal, d)
      // what grazes the triangle says nothing
      if (Math.abs(along) < 0.15) continue
      const side = Math.sign(along)
      const from = middle.map((m, k) => m + side * off * normal[k]!)
      const hit = surface.firstHit(from[0]!, from[1]!, from[2]!, ...d)
      // in front, what is hit from behind is another layer of the same thing; from behind all that is hit is in the way
      if (hit >= 0 && (side < 0 || dot(crossOf(points, cornersAt(surface.triangles, hit)), d) < 0)) continue
      if (side > 0) front++
      else behind++
    }
    sum += (area * (behind - front)) / (DIRECTIONS.length / 2)
    weight += area
  }
  return weight > 0 ? sum / weight : 0
}
