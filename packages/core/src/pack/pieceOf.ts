import { problem, type Problem } from '../base/problem.ts'
import { boundsOf } from '../mesh/Mesh.ts'
import { weldRows } from '../mesh/weld.ts'
import { onTile } from './pictures.ts'
import type { PackMaterial, PackPiece, PieceFacts } from './Pack.ts'

/** Triangles of one material, as a file has them. */
export interface Run {
  /** xyz a vertex. */
  positions: ArrayLike<number>
  /** xyz a vertex; without, every triangle is shaded by itself. */
  normals: ArrayLike<number> | null
  indices: ArrayLike<number>
  /** Four joints of the pack a vertex and how much it hangs on each; left out without a skin. */
  skin?: { joints: ArrayLike<number>; weights: ArrayLike<number> } | null
  material: PackMaterial
  /** uv a vertex, where its material has a picture that can be taken along. */
  uvs?: ArrayLike<number>
  found: PieceFacts
}

/** What is told of a piece that is left out. */
export const setAside = (where: string, message: string): Problem =>
  problem('piece-set-aside', where, message, 'Mend it where it was made, and bring it in again.', 'warning')
/** Why it is, where `pieceOf` makes nothing of it. */
export const NOT_DRAWN = 'It has no triangle whose corners are all places.'

/**
 * All runs of one mesh as one piece: what belongs together is judged together. Vertices at one place that face one way
 * become one; triangles with a corner that is no place are left out, and counted.
 *
 * @returns null where no triangle is left
 */
export function pieceOf(runs: readonly Run[]): Omit<PackPiece, 'id' | 'names'> | null {
  const corners: number[] = []
  const materials: PackMaterial[] = []
  const materialOf: number[] = []
  const cameFrom: [run: number, vertex: number][] = []
  const painted = runs.some((r) => r.uvs)
  const places: number[] = []
  let sharp = 0
  let lost = 0
  for (const [r, { positions, normals, indices, material, uvs }] of runs.entries()) {
    let number = materials.findIndex(
      (m) =>
        m.name === material.name &&
        m.color === material.color &&
        m.picture === material.picture &&
        m.paint?.picture === material.paint?.picture,
    )
    if (number < 0) number = materials.push(material) - 1
    for (let i = 0; i + 2 < indices.length; i += 3) {
      const three = [indices[i]!, indices[i + 1]!, indices[i + 2]!]
      if (!three.every((v) => [0, 1, 2].every((k) => Number.isFinite(positions[v * 3 + k])))) {
        lost++
        continue
      }
      sharp++
      for (const v of three) {
        cameFrom.push([r, v])
        for (let k = 0; k < 6; k++)
          corners.push(k < 3 ? positions[v * 3 + k]! : normals ? normals[v * 3 + k - 3]! : k === 3 ? sharp : 0)
      }
      materialOf.push(number)
      if (painted) places.push(...((uvs && onTile(uvs, three[0]!, three[1]!, three[2]!)) ?? NOWHERE))
    }
  }
  if (materialOf.length === 0) return null
  const rows = Float32Array.from(corners)
  const { kindOf, first } = weldRows(rows, 6)
  const positions = new Float32Array(first.length * 3)
  first.forEach((row, v) => positions.set(rows.subarray(row * 6, row * 6 + 3), v * 3))
  return {
    positions,
    triangles: kindOf,
    materials,
    materialOf: Uint16Array.from(materialOf),
    ...(painted && { uvs: Float32Array.from(places) }),
    skin: skinOf(
      runs,
      Array.from(first, (row) => cameFrom[row]!),
    ),
    found: { ...runs.map((r) => r.found).reduce(bothFacts), lost },
  }
}

/** A triangle that lies on no picture, or on more of it than there is. */
const NOWHERE = [0.5, 0.5, 0.5, 0.5, 0.5, 0.5]

/** The skin of some vertices, each of a run. */
function skinOf(runs: readonly Run[], vertices: readonly (readonly [number, number])[]): PackPiece['skin'] {
  if (!runs.some((r) => r.skin)) return null
  const [joints, weights] = [new Uint16Array(vertices.length * 4), new Float32Array(vertices.length * 4)]
  vertices.forEach(([run, v], i) => {
    const { skin } = runs[run]!
    for (let k = 0; skin && k < 4; k++) {
      joints[i * 4 + k] = skin.joints[v * 4 + k]!
      weights[i * 4 + k] = skin.weights[v * 4 + k]!
    }
  })
  return { joints, weights }
}

/** What is known of two pieces together. */
export const bothFacts = (a: PieceFacts, b: PieceFacts): PieceFacts => ({
  vertices: Math.max(a.vertices, b.vertices),
  influences: Math.max(a.influences, b.influences),
  weightsOff: a.weightsOff + b.weightsOff,
  normals: a.normals && b.normals,
  against: a.against + b.against,
  lost: (a.lost ?? 0) + (b.lost ?? 0),
  scaled: a.scaled || b.scaled,
})

/** How many triangles have normals that point to the other side than they are wound to; in any one space. */
export function facingAgainst(
  positions: ArrayLike<number>,
  normals: ArrayLike<number>,
  indices: ArrayLike<number>,
): number {
  let against = 0
  const at = (list: ArrayLike<number>, i: number, k: number) => list[indices[i]! * 3 + k]!
  for (let i = 0; i + 2 < indices.length; i += 3) {
    const u = [0, 1, 2].map((k) => at(positions, i + 1, k) - at(positions, i, k))
    const v = [0, 1, 2].map((k) => at(positions, i + 2, k) - at(positions, i, k))
    let dot = 0
    for (let k = 0; k < 3; k++) {
      const cross = u[(k + 1) % 3]! * v[(k + 2) % 3]! - u[(k + 2) % 3]! * v[(k + 1) % 3]!
      dot += cross * (at(normals, i, k) + at(normals, i + 1, k) + at(normals, i + 2, k))
    }
    if (dot < 0) against++
  }
  return against
}

/** How large a piece is, corner to corner, in the file's own unit. */
export function sizeOf({ positions }: Pick<PackPiece, 'positions'>): number {
  const { min, max } = boundsOf(positions)
  return Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2])
}

/** What a file is called, without its folders and its ending. */
export const stemOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1).replace(/\.[^.]*$/, '')
