import type { Box3 } from 'three'
import type { MeshBVH } from 'three-mesh-bvh'

/**
 * A tree of boxes around triangles, laid out flat so that a question walks it without calling anyone or making
 * anything: nodes stand in the order of a walk that goes left first, so a node's first child stands right after it.
 */
export interface BoxTree {
  /** Least x, y, z, then greatest, metres; six a node. */
  boxes: Float32Array
  /** The node after all that is below this one; one a node. The second child of a branch is `after` its first. */
  after: Uint32Array
  /** Where the triangles of a leaf begin in `triangles`, and how many there are: 0 for a branch; one a node. */
  first: Uint32Array
  count: Uint32Array
  triangles: Uint32Array
}

/** The tree that three-mesh-bvh has built, flat. */
export function flatTree(bvh: MeshBVH, triangleCount: number): BoxTree {
  const boxes: number[] = []
  const first: number[] = []
  const count: number[] = []
  const depths: number[] = []
  bvh.traverse((depth, isLeaf, box, offset, size) => {
    depths.push(depth)
    for (let k = 0; k < 6; k++) boxes.push(box[k]!)
    first.push(isLeaf ? offset : 0)
    count.push(isLeaf ? size : 0)
  })
  const nodes = depths.length
  const after = new Uint32Array(nodes)
  // the next node that is no deeper
  const open: number[] = []
  for (let n = 0; n <= nodes; n++) {
    while (open.length && (n === nodes || depths[open.at(-1)!]! >= depths[n]!)) after[open.pop()!] = n
    open.push(n)
  }
  const triangles = new Uint32Array(triangleCount)
  for (let i = 0; i < triangleCount; i++) triangles[i] = bvh.resolveTriangleIndex(i)
  return {
    boxes: Float32Array.from(boxes),
    after,
    first: Uint32Array.from(first),
    count: Uint32Array.from(count),
    triangles,
  }
}

/** How far a place is from a node's box, metres; 0 within. */
export function distanceToBox(boxes: Float32Array, node: number, x: number, y: number, z: number): number {
  const o = node * 6
  const dx = Math.max(boxes[o]!, Math.min(boxes[o + 3]!, x)) - x
  const dy = Math.max(boxes[o + 1]!, Math.min(boxes[o + 4]!, y)) - y
  const dz = Math.max(boxes[o + 2]!, Math.min(boxes[o + 5]!, z)) - z
  return Math.sqrt(dx * dx + dy * dy + dz * dz)
}

/** Whether a node's box and another meet. */
export function meetsBox(boxes: Float32Array, node: number, { min, max }: Box3): boolean {
  const o = node * 6
  return (
    max.x >= boxes[o]! &&
    min.x <= boxes[o + 3]! &&
    max.y >= boxes[o + 1]! &&
    min.y <= boxes[o + 4]! &&
    max.z >= boxes[o + 2]! &&
    min.z <= boxes[o + 5]!
  )
}

/**
 * Whether a ray meets a node's box within some distance (slabs; Kay & Kajiya 1986).
 *
 * @param ix one over the direction, and so on: infinite where it has no part along an axis
 */
export function entersBox(
  boxes: Float32Array,
  node: number,
  ox: number,
  oy: number,
  oz: number,
  ix: number,
  iy: number,
  iz: number,
  far: number,
): boolean {
  const o = node * 6
  let enters = 0
  let leaves = far
  // along a side of the box one of the two is no number: neither comparison holds, and the stretch stays as it is
  const x0 = (boxes[o]! - ox) * ix
  const x1 = (boxes[o + 3]! - ox) * ix
  if (x0 <= x1) {
    if (x0 > enters) enters = x0
    if (x1 < leaves) leaves = x1
  } else if (x1 < x0) {
    if (x1 > enters) enters = x1
    if (x0 < leaves) leaves = x0
  }
  const y0 = (boxes[o + 1]! - oy) * iy
  const y1 = (boxes[o + 4]! - oy) * iy
  if (y0 <= y1) {
    if (y0 > enters) enters = y0
    if (y1 < leaves) leaves = y1
  } else if (y1 < y0) {
    if (y1 > enters) enters = y1
    if (y0 < leaves) leaves = y0
  }
  const z0 = (boxes[o + 2]! - oz) * iz
  const z1 = (boxes[o + 5]! - oz) * iz
  if (z0 <= z1) {
    if (z0 > enters) enters = z0
    if (z1 < leaves) leaves = z1
  } else if (z1 < z0) {
    if (z1 > enters) enters = z1
    if (z0 < leaves) leaves = z0
  }
  return enters <= leaves
}
