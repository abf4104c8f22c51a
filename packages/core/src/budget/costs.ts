import { problem, type Problem } from '../base/problem.ts'
import { cornerCount, pointTriangles, triangleCount, type Mesh } from '../mesh/Mesh.ts'
import type { Target } from '../recipe/target.ts'
import type { Piece } from './mergeOutfit.ts'

/** What a figure costs in a game. */
export interface Costs {
  triangles: number
  vertices: number
  bones: number
  influences: number
  drawCalls: number
  /** The atlas in video memory, RGBA, without mip levels. */
  textureBytes: number
  /** The GLB; estimated to a few percent until the file has been written. */
  fileBytes: number
}

/** Costs of one piece of a figure: the body or one part. The draw call and the atlas are the whole figure's. */
export interface PieceCost {
  instance: string
  slot: string
  kit: string
  id: string
  triangles: number
  vertices: number
  /** Bones that carry any of it. */
  bones: number
  /** Most influences on one of its points. */
  influences: number
  /** Its share of the GLB: vertices and indices. */
  fileBytes: number
}

/** Bytes of one vertex as `ship` writes it: position, normal, texture coordinates, shade, joints, weights. */
const VERTEX_BYTES = 12 + 12 + 4 + 4 + 4 + 4
/** One move of a vertex's position or normal by a kept morph: its number, and the move. */
const MOVED_BYTES = 2 + 12
/** The same where so many move that all are written, without numbers. */
const DENSE_BYTES = 12
/** Of the corners of faces that move so many turn enough to be written: measured on the demo figures. */
const TURNING = 0.8
/** JSON, helper points, two clips and the recipe, and what each bone, morph and byte of texture adds: measured on the demo figures. */
const FILE_OVERHEAD = 10_000
const BYTES_A_BONE = 900
/** Those two; what every other adds, and adds for each bone: not all turn in it. */
const USUAL_CLIPS = 2
const BYTES_A_CLIP = 5_600
const BYTES_A_CLIP_AND_BONE = 180
/** So much of that is keys. */
const KEYS_SHARE = 0.4
const BYTES_A_MORPH = 900
const ATLAS_PNG_BYTES = 700

/** What vertices and triangles take in a GLB. */
export function meshBytes(vertices: number, triangles: number): number {
  return vertices * VERTEX_BYTES + triangles * (vertices > 65_535 ? 12 : 6)
}

/** What a figure's meshes weigh in a GLB, as counted from the meshes themselves. */
export interface Contents {
  triangles: number
  vertices: number
  bones: number
  /** Kept morphs, and the moves of positions and normals in them, together. */
  morphs: number
  moved: number
  /** How many go along; two where nothing is said. */
  clips?: number
  /** How many times as many keys they have as where a target says nothing of them. */
  keys?: number
}

/** By what a target says of keys, how many times as many clips have; measured on the demo figures. */
export function keysOf({ motion: { tolerance, rate = 30 } = {} }: Pick<Target, 'motion'>): number {
  // from every key at none to a half of the usual at a centimetre and a half; the usual is off by about two and a half
  const kept = tolerance === undefined ? 1 : Math.min(5, (Math.max(tolerance, 1e-3) / 2.5) ** -0.22)
  return kept * (rate / 30) ** 0.4
}

/**
 * Counts for each morph the corners that move, and those of faces of which any point does: such a face turns at all of
 * its corners. Faces that no morph moves are looked at once.
 */
function countMoves(mesh: Mesh, tell: (moved: number, turned: number) => void): void {
  const { cornerPoints, indices, morphs } = mesh
  const points = pointTriangles(mesh)
  const cornersAt = new Uint32Array(mesh.positions.length / 3)
  for (const p of cornerPoints) cornersAt[p]!++
  // the number of the last morph that moved a point, or turned a corner
  const movedBy = new Uint32Array(cornersAt.length)
  const turnedBy = new Uint32Array(cornerPoints.length)
  for (const morph of morphs) for (const p of morph.points) movedBy[p] = 1
  const faces: number[] = []
  for (let i = 0; i < points.length; i += 3)
    if ((movedBy[points[i]!]! | movedBy[points[i + 1]!]! | movedBy[points[i + 2]!]!) !== 0) faces.push(i)
  for (let m = 0; m < morphs.length; m++) {
    const number = m + 2
    let moved = 0
    for (const p of morphs[m]!.points) {
      if (movedBy[p] === number) continue
      movedBy[p] = number
      moved += cornersAt[p]!
    }
    let turned = 0
    for (const i of faces) {
      const isMoved =
        movedBy[points[i]!] === number || movedBy[points[i + 1]!] === number || movedBy[points[i + 2]!] === number
      if (!isMoved) continue
      for (let k = i; k < i + 3; k++) {
        const corner = indices[k]!
        if (turnedBy[corner] === number) continue
        turnedBy[corner] = number
        turned++
      }
    }
    tell(moved, turned)
  }
}

/** Counts what levels of detail hold together. */
export function contentsOf(levels: readonly Mesh[], bones: number): Contents {
  const all: Contents = { triangles: 0, vertices: 0, bones, morphs: 0, moved: 0 }
  for (const mesh of levels) {
    all.triangles += triangleCount(mesh)
    all.vertices += cornerCount(mesh)
    all.morphs += mesh.morphs.length
    if (mesh.morphs.length)
      countMoves(mesh, (moved, turned) => {
        all.moved += asMoves(moved, cornerCount(mesh)) + asMoves(turned * TURNING, cornerCount(mesh))
      })
  }
  return all
}

/** What moves of so many of all vertices come to, in moves that are written one by one. */
const asMoves = (moved: number, all: number) => (moved * 2 < all ? moved : (all * DENSE_BYTES) / MOVED_BYTES)

export function estimateFileBytes({
  triangles,
  vertices,
  bones,
  morphs,
  moved,
  clips = USUAL_CLIPS,
  keys = 1,
}: Contents): number {
  const clip = BYTES_A_CLIP + bones * BYTES_A_CLIP_AND_BONE
  const more = clip * KEYS_SHARE * (keys - 1)
  return Math.round(
    FILE_OVERHEAD +
      ATLAS_PNG_BYTES +
      meshBytes(vertices, triangles) +
      bones * BYTES_A_BONE +
      (clips - USUAL_CLIPS) * clip +
      clips * more +
      morphs * BYTES_A_MORPH +
      moved * MOVED_BYTES,
  )
}

const NAMES: Record<keyof Target['limits'], string> = {
  triangles: 'triangles',
  vertices: 'vertices',
  bones: 'bones',
  drawCalls: 'draw calls',
  textureBytes: 'texture bytes',
  fileBytes: 'file bytes',
}

const REMEDIES: Record<keyof Target['limits'], string> = {
  triangles: 'Bring the figure under the limit or take off the most expensive part.',
  vertices: 'Bring the triangles down; the vertices follow.',
  bones: 'Choose less skeleton detail.',
  drawCalls: 'Ship the figure with one atlas.',
  textureBytes: 'Choose a smaller atlas.',
  fileBytes: 'Bring the triangles down or ship fewer clips.',
}

/** Where costs are over a target's limits. */
export function overBudget(costs: Costs, target: Target): Problem[] {
  const problems: Problem[] = []
  for (const key of Object.keys(NAMES) as (keyof Target['limits'])[])
    if (costs[key] > target.limits[key])
      problems.push(
        problem(
          'over-budget',
          `costs/${key}`,
          `${costs[key]} ${NAMES[key]}, the target allows ${target.limits[key]}.`,
          REMEDIES[key],
          'warning',
        ),
      )
  if (costs.influences > target.influences)
    problems.push(
      problem(
        'over-budget',
        'costs/influences',
        `${costs.influences} influences a point, the target allows ${target.influences}.`,
        'Choose another target.',
        'warning',
      ),
    )
  return problems
}

/** Most influences on one point of a mesh. */
export function mostInfluences(weights: Float32Array): number {
  let most = 0
  for (let p = 0; p < weights.length; p += 4) {
    let n = 0
    for (let k = 0; k < 4; k++) if (weights[p + k]! > 0) n++
    if (n > most) most = n
  }
  return most
}

/** What each piece of a figure costs. */
export function costsByPiece(mesh: Mesh, pieces: readonly Piece[]): PieceCost[] {
  return pieces.map((piece) => {
    const triangles = piece.triangles[1] - piece.triangles[0]
    const vertices = piece.corners[1] - piece.corners[0]
    const bones = new Set<number>()
    let influences = 0
    for (let c = piece.corners[0]; c < piece.corners[1]; c++) {
      const p = mesh.cornerPoints[c]! * 4
      let n = 0
      for (let k = 0; k < 4; k++)
        if (mesh.weights[p + k]! > 0) {
          bones.add(mesh.joints[p + k]!)
          n++
        }
      influences = Math.max(influences, n)
    }
    const { instance, slot, kit, id } = piece
    const fileBytes = meshBytes(vertices, triangles)
    return { instance, slot, kit, id, triangles, vertices, bones: bones.size, influences, fileBytes }
  })
}
