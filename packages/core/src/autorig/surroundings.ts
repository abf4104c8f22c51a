import { areaAt, piecesOf } from './pieces.ts'
import type { Soup } from './Voxels.ts'

/** A sheet no thicker than this share of its length, and so many times larger than all else, is a ground or a backdrop. */
const SHEET = { thin: 0.01, larger: 1.2 }
/** What lies so far outside where nearly all of the surface is, in sizes of that, and has so little of it, is a stray speck. */
const SPECK = { off: 1, area: 0.02, all: 0.98 }

/**
 * The triangles that are no part of a figure, by their number: the ground it stands on, and specks far from it. Both would
 * make it a small thing in a large room.
 */
export function surroundingsOf(soup: Soup): Set<number> {
  const found = piecesOf(soup).map((faces): Piece => {
    const piece = { faces, area: 0, ...emptyBox() }
    for (const t of faces) {
      piece.area += areaAt(soup, t)
      for (let k = 0; k < 3; k++) grow(piece, soup.positions, soup.triangles[t * 3 + k]! * 3)
    }
    return piece
  })
  // only the largest can be larger than all others together
  const left = found.filter((p) => sizeOf(p) > 0).sort((a, b) => sizeOf(b) - sizeOf(a))
  const aside: Piece[] = []
  while (left.length > 1 && isSheet(left[0]!) && sizeOf(left[0]!) > SHEET.larger * sizeOf(boxOf(left.slice(1))))
    aside.push(left.shift()!)
  // from the one with most surface on, until nearly all of it is there: where that is, the figure is
  const all = left.reduce((sum, p) => sum + p.area, 0)
  const most: Piece[] = []
  let sum = 0
  for (const piece of left.toSorted((a, b) => b.area - a.area)) {
    if (sum > SPECK.all * all) break
    most.push(piece)
    sum += piece.area
  }
  const figure = boxOf(most)
  const far = SPECK.off * sizeOf(figure)
  for (const p of left) if (p.area < SPECK.area * all && isBeyond(p, figure, far)) aside.push(p)
  return new Set(aside.flatMap((p) => p.faces))
}

interface Box {
  min: number[]
  max: number[]
}
interface Piece extends Box {
  faces: number[]
  area: number
}

const emptyBox = (): Box => ({ min: [Infinity, Infinity, Infinity], max: [-Infinity, -Infinity, -Infinity] })

function grow({ min, max }: Box, positions: Float32Array, i: number): void {
  for (let k = 0; k < 3; k++) {
    min[k] = Math.min(min[k]!, positions[i + k]!)
    max[k] = Math.max(max[k]!, positions[i + k]!)
  }
}

function boxOf(boxes: readonly Box[]): Box {
  const all = emptyBox()
  for (const { min, max } of boxes)
    for (let k = 0; k < 3; k++) {
      all.min[k] = Math.min(all.min[k]!, min[k]!)
      all.max[k] = Math.max(all.max[k]!, max[k]!)
    }
  return all
}

const sizeOf = ({ min, max }: Box): number => Math.max(0, ...max.map((v, k) => v - min[k]!))

function isSheet(box: Box): boolean {
  return Math.min(...box.max.map((v, k) => v - box.min[k]!)) < SHEET.thin * sizeOf(box)
}

function isBeyond(box: Box, other: Box, far: number): boolean {
  return [0, 1, 2].some((k) => box.min[k]! > other.max[k]! + far || box.max[k]! < other.min[k]! - far)
}
