import { closingFaces, holesOf, reversedPatches, strayBits, type Mendable } from './health.ts'
import type { Pack, PackPiece } from './Pack.ts'
import { edgeOf, sheetOf } from './sheets.ts'

/**
 * A piece without some of its faults; the given one stays as it is. Vertices that lie at one place are brought to it to
 * the bit, so that nothing gapes where flat triangles were left out.
 *
 * @param faults what to mend; what the piece does not have is passed over
 */
export function mendPiece(piece: PackPiece, faults: ReadonlySet<Mendable>): PackPiece {
  if (faults.size === 0) return piece
  const sheet = sheetOf(piece.positions, piece.triangles)
  const positions = piece.positions.slice()
  sheet.pointOf.forEach((p, v) => positions.set(sheet.points.subarray(p * 3, p * 3 + 3), v * 3))
  const dropped = new Set<number>()
  const drop = (triangles: Iterable<number>) => {
    for (const t of triangles) dropped.add(t)
  }
  if (faults.has('faces-flat')) drop(sheet.flat)
  if (faults.has('faces-doubled')) drop(sheet.doubled)
  if (faults.has('bits-stray')) drop(strayBits(sheet))
  const turned = new Set<number>()
  const turn = (triangles: Iterable<number>) => {
    for (const t of triangles) if (!turned.delete(t)) turned.add(t)
  }
  if (faults.has('faces-against')) for (const patch of sheet.patches) turn(patch.against)
  const reversed = faults.has('inside-out') ? reversedPatches(sheet) : []
  // of what is turned against the rest and not mended too, the rest decides
  for (const patch of reversed) turn(patch.faces)
  const inverted = new Set(reversed.flatMap((p) => p.faces))
  const triangles: number[] = []
  const materialOf: number[] = []
  const uvs: number[] = []
  const uvOf = (t: number, order: readonly number[]) =>
    order.flatMap((k) => [...(piece.uvs?.subarray(t * 6 + k * 2, t * 6 + k * 2 + 2) ?? [])])
  for (let t = 0; t < piece.triangles.length / 3; t++) {
    if (dropped.has(t)) continue
    const a = piece.triangles[t * 3]!
    const b = piece.triangles[t * 3 + 1]!
    const c = piece.triangles[t * 3 + 2]!
    triangles.push(...(turned.has(t) ? [a, c, b] : [a, b, c]))
    materialOf.push(piece.materialOf[t]!)
    uvs.push(...uvOf(t, turned.has(t) ? [0, 2, 1] : [0, 1, 2]))
  }
  if (faults.has('holes'))
    for (const loop of holesOf(sheet)) {
      // the corners of a neighbour, so that what closes the hole is shaded as one with it
      const vertexOf = new Map<number, number>()
      let neighbour = -1
      loop.forEach((p, i) => {
        for (const { face } of sheet.edges.get(edgeOf(sheet, p, loop[(i + 1) % loop.length]!)) ?? []) {
          neighbour = face
          for (let k = 0; k < 3; k++) vertexOf.set(sheet.faces[face * 3 + k]!, piece.triangles[face * 3 + k]!)
        }
      })
      for (const [a, b, c] of closingFaces(sheet, loop) ?? []) {
        const face = inverted.has(neighbour) ? [a, c, b] : [a, b, c]
        triangles.push(...face.map((p) => vertexOf.get(p)!))
        materialOf.push(piece.materialOf[neighbour]!)
        // what closes a hole has one color: that of its neighbour's corner
        uvs.push(...uvOf(neighbour, [0, 0, 0]))
      }
    }
  return {
    ...piece,
    positions,
    triangles: Uint32Array.from(triangles),
    materialOf: Uint16Array.from(materialOf),
    ...(piece.uvs && { uvs: Float32Array.from(uvs) }),
  }
}

/** A pack whose pieces are mended, each of its own faults; what is not named stays the same object. */
export function mendPack(pack: Pack, faults: ReadonlyMap<string, ReadonlySet<Mendable>>): Pack {
  return { ...pack, pieces: pack.pieces.map((piece) => mendPiece(piece, faults.get(piece.id) ?? new Set())) }
}
