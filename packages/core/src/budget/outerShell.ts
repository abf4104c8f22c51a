import type { PreparedBody } from '../body/PreparedBody.ts'
import { checkPoses, poseCount, poseLayer } from '../dress/checkPoses.ts'
import { isCloth, type Layer } from '../dress/Layer.ts'
import type { Outfit } from '../dress/outfit.ts'
import { PairMemory } from '../base/PairMemory.ts'
import { triangleNormal } from '../mesh/normals.ts'
import type { Merged } from './mergeOutfit.ts'
import { sinkCovered, type RestShape } from './sinkCovered.ts'
import { markViewed, type Views } from './viewedTriangles.ts'

/** What of an outfit counts from a distance; the same for every shape of the body. */
export interface OuterShell {
  /** 1 where a triangle can go: the inner wall of cloth, or seen from nowhere at rest or in a stride. */
  dropped: Uint8Array
  /** Moves that keep layers in order when triangles grow larger than the gaps between them: xyz a point, metres. */
  moves: Float32Array
}

/** How far plates on the skin (eyes, brows) are raised, metres: flat cheeks and lids would cut into them. */
const RAISE = 0.005

/** In a stride limbs open what they covered at rest; level views show it. */
const STRIDE_VIEWS: Views = [{ elevation: 8, turns: 4 }]

const bodies = new WeakMap<PreparedBody, RestShape>()
/** By the rest positions, which are one array for all outfits of a body that let a part out in the same way. */
const restShapes = new PairMemory<PreparedBody, Float32Array, RestShape>()
const raised = new PairMemory<RestShape, PreparedBody, Float32Array>()

/** Finds the outer shell of an outfit, for figures that are reduced a long way. */
export function outerShell(
  { body, layers, linings }: Outfit,
  { mesh, pieces, lining, rest, bones }: Merged,
): OuterShell {
  const [triangles, numbers] = outerTriangles(mesh, lining)
  const seen = new Uint8Array(numbers.length)
  markViewed(rest, triangles, seen)
  const rig = checkPoses(body, bones)
  const last = poseCount(body) - 1
  if (last > 0) markViewed(poseLayer(rig, last, rest, mesh.joints, mesh.weights), triangles, seen, STRIDE_VIEWS)
  const dropped = new Uint8Array(lining.length).fill(1)
  numbers.forEach((t, i) => (dropped[t] = seen[i] ? 0 : 1))
  const shapes = layers.map((layer, i) => restShapeOf(body, layer, linings[i]!))
  const moves = sinkCovered([bodyShapeOf(body), ...shapes], body.scale)
  shapes.forEach((shape, i) => {
    if (shape.lies !== 'on') return
    moves.set(
      raised.get(shape, body, () => raiseOffSkin(body, shape)),
      pieces[i + 1]!.points[0] * 3,
    )
  })
  return { dropped, moves }
}

/** The points of the triangles that are not the inner wall of cloth, and which triangles those are. */
function outerTriangles({ indices, cornerPoints }: Merged['mesh'], lining: Uint8Array): [Uint32Array, Uint32Array] {
  const numbers = new Uint32Array(lining.length)
  const points = new Uint32Array(lining.length * 3)
  let count = 0
  for (let t = 0; t < lining.length; t++) {
    if (lining[t]) continue
    for (let k = 0; k < 3; k++) points[count * 3 + k] = cornerPoints[indices[t * 3 + k]!]!
    numbers[count++] = t
  }
  return [points.subarray(0, count * 3), numbers.subarray(0, count)]
}

function bodyShapeOf(body: PreparedBody): RestShape {
  let shape = bodies.get(body)
  if (!shape) {
    shape = { positions: body.model.mesh.positions, triangles: body.triangles, lies: 'beneath' }
    bodies.set(body, shape)
  }
  return shape
}

function restShapeOf(body: PreparedBody, { bound, rest }: Layer, lining: Uint8Array): RestShape {
  return restShapes.get(body, rest, () => ({
    positions: rest,
    triangles: bound.triangles.filter((_, i) => !lining[Math.floor(i / 3)]),
    lies: isCloth(bound.part) ? 'over' : bound.part.def.how === 'worn' ? 'on' : 'free',
  }))
}

/** The way off the skin for every point of a plate on it, xyz, metres. */
function raiseOffSkin(body: PreparedBody, { positions }: RestShape): Float32Array {
  const skin = body.model.mesh.positions
  const moves = new Float32Array(positions.length)
  for (let p = 0; p < positions.length; p += 3) {
    const place = body.surface.nearest(positions[p]!, positions[p + 1]!, positions[p + 2]!)
    if (!place) continue
    const [a, b, c] = [0, 1, 2].map((k) => body.triangles[place.triangle * 3 + k]!) as [number, number, number]
    const normal = triangleNormal(skin, a, b, c)
    for (let k = 0; k < 3; k++) moves[p + k] = normal[k]! * RAISE * body.scale
  }
  return moves
}
