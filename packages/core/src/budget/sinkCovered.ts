import { boundsOf, type Bounds } from '../mesh/Mesh.ts'
import { pointNormals } from '../mesh/normals.ts'
import { Surface } from '../mesh/Surface.ts'
import { PairMemory } from '../base/PairMemory.ts'

/** A piece of an outfit before any slider. What was found out about two of them is remembered as long as they live. */
export interface RestShape {
  /** xyz a point, metres. */
  positions: Float32Array
  /** Three points each; the inner wall of cloth left out. */
  triangles: Uint32Array
  /** The body; cloth over it; what lies flat on the skin (eyes, brows); what stands free. */
  lies: 'beneath' | 'over' | 'on' | 'free'
}

/** Cloth this near above a point of a grown person covers it, metres. */
const REACH = 0.04
/** How far a covered point is sunk, metres: more than flat triangles cut off a round limb at crowd detail or in a stride. */
const DEPTH = 0.018

const normals = new WeakMap<RestShape, Float32Array>()
const sheets = new WeakMap<RestShape, Bounds & { surface: Surface }>()
const covers = new PairMemory<RestShape, RestShape, Uint8Array>()

/**
 * How far points that lie beneath another piece are to be sunk before a figure is reduced: fewer,
 * flatter triangles of the cloth above then still pass over them. A point counts as covered when
 * the ray along its normal soon meets cloth of a later piece.
 *
 * @param shapes pieces from the skin outward
 * @param scale  of the body
 * @returns xyz a point of each shape, one shape after the other, metres; zero where nothing lies above
 */
export function sinkCovered(shapes: readonly RestShape[], scale: number): Float32Array {
  const moves = new Float32Array(shapes.reduce((n, { positions }) => n + positions.length, 0))
  let start = 0
  shapes.forEach((inner, i) => {
    if (inner.lies === 'beneath' || inner.lies === 'over') {
      const own = moves.subarray(start, start + inner.positions.length)
      for (const outer of shapes.slice(i + 1)) {
        if (outer.lies !== 'over' || outer.triangles.length === 0) continue
        sink(
          inner,
          covers.get(inner, outer, () => coveredPoints(inner, outer, scale)),
          DEPTH * scale,
          own,
        )
      }
    }
    start += inner.positions.length
  })
  return moves
}

function sink(shape: RestShape, covered: Uint8Array, depth: number, moves: Float32Array): void {
  const facing = normalsOf(shape)
  for (let p = 0; p < covered.length; p++)
    if (covered[p]) for (let k = p * 3; k < p * 3 + 3; k++) moves[k] = -facing[k]! * depth
}

/** 1 for each point of one shape above which cloth of the other lies. */
function coveredPoints(inner: RestShape, outer: RestShape, scale: number): Uint8Array {
  const reach = REACH * scale
  const { surface, min, max } = sheetOf(outer)
  const { positions } = inner
  const facing = normalsOf(inner)
  const covered = new Uint8Array(positions.length / 3)
  for (let p = 0; p < covered.length; p++) {
    const x = positions[p * 3]!
    const y = positions[p * 3 + 1]!
    const z = positions[p * 3 + 2]!
    if (x <= min[0] - reach || x >= max[0] + reach) continue
    if (y <= min[1] - reach || y >= max[1] + reach) continue
    if (z <= min[2] - reach || z >= max[2] + reach) continue
    const distance = surface.castRay(x, y, z, facing[p * 3]!, facing[p * 3 + 1]!, facing[p * 3 + 2]!, 0, reach)
    covered[p] = distance === Infinity ? 0 : 1
  }
  return covered
}

function normalsOf(shape: RestShape): Float32Array {
  let made = normals.get(shape)
  if (!made) normals.set(shape, (made = pointNormals(shape.positions, shape.triangles)))
  return made
}

/** A shape as a surface, and the box around it. */
function sheetOf(shape: RestShape): Bounds & { surface: Surface } {
  let made = sheets.get(shape)
  if (!made) {
    const { positions, triangles } = shape
    const used = new Float32Array(triangles.length * 3)
    triangles.forEach((p, i) => used.set(positions.subarray(p * 3, p * 3 + 3), i * 3))
    sheets.set(shape, (made = { surface: new Surface(positions, triangles), ...boundsOf(used) }))
  }
  return made
}
