import { checkPoses, poseCount, poseLayer } from '../dress/checkPoses.ts'
import type { PreparedBody } from '../body/PreparedBody.ts'
import { pointTriangles } from '../mesh/Mesh.ts'
import { triangleNormal } from '../mesh/normals.ts'
import type { Merged } from './mergeOutfit.ts'
import { sinkCovered } from './sinkCovered.ts'
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

/** Finds the outer shell of an outfit, for figures that are reduced a long way. */
export function outerShell(body: PreparedBody, { mesh, pieces, lining, rest, bones }: Merged): OuterShell {
  const kept = [...lining.keys()].filter((t) => !lining[t])
  const all = pointTriangles(mesh)
  const triangles = Uint32Array.from(kept.flatMap((t) => [all[t * 3]!, all[t * 3 + 1]!, all[t * 3 + 2]!]))
  const seen = new Uint8Array(kept.length)
  markViewed(rest, triangles, seen)
  const rig = checkPoses(body, bones)
  const last = poseCount(body) - 1
  if (last > 0) markViewed(poseLayer(rig, last, rest, mesh.joints, mesh.weights), triangles, seen, STRIDE_VIEWS)
  const dropped = new Uint8Array(lining.length).fill(1)
  kept.forEach((t, i) => (dropped[t] = seen[i] ? 0 : 1))
  const moves = sinkCovered(rest, triangles, pieces, body.scale)
  for (const { lies, points } of pieces) if (lies === 'on') raiseOffSkin(body, rest, points, moves)
  return { dropped, moves }
}

function raiseOffSkin(
  body: PreparedBody,
  rest: Float32Array,
  [start, end]: readonly [number, number],
  moves: Float32Array,
): void {
  const skin = body.model.mesh.positions
  for (let p = start; p < end; p++) {
    const place = body.surface.nearest(rest[p * 3]!, rest[p * 3 + 1]!, rest[p * 3 + 2]!)
    if (!place) continue
    const [a, b, c] = [0, 1, 2].map((k) => body.triangles[place.triangle * 3 + k]!) as [number, number, number]
    const normal = triangleNormal(skin, a, b, c)
    for (let k = 0; k < 3; k++) moves[p * 3 + k] = normal[k]! * RAISE * body.scale
  }
}
