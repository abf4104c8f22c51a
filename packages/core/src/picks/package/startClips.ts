import type { Mesh } from '../../mesh/Mesh.ts'
import { lowestHeight } from '../../body/standOnGround.ts'
import { clipsFor, wantedBy } from '../../recipe/clips.ts'
import type { Kits } from '../../recipe/resolve.ts'
import type { Target } from '../../recipe/target.ts'
import type { Skeleton } from '../../rig/Skeleton.ts'
import type { Clip } from '../../motion/Clip.ts'
import { clipsOf } from '../../ship/clips.ts'
import type { PickBody } from '../picks.ts'
import type { PackedPiece } from './pieces.ts'
import type { Standing } from './standing.ts'

/**
 * The clips of a body, fitted to it as it begins, in the shoes it begins with. They are played by all looks: the
 * runtime takes the way of the hips by the length of the legs.
 *
 * @param worn the options of the start
 */
export function startClips(
  standing: Standing,
  pieces: readonly PackedPiece[],
  worn: ReadonlySet<number>,
  pick: PickBody,
  kits: Kits,
  target: Target,
): Clip[] {
  const wanted = pick.clips ? wantedBy({ ...target, keepClips: pick.clips }) : wantedBy(target)
  if (clipsFor(kits, pick.body).filter(wanted).length === 0) return []
  const { mesh: all } = standing.merged
  const corners: number[] = []
  const indices: number[] = []
  for (const { option, points, levels } of pieces) {
    if (option !== null && !worn.has(option)) continue
    const { corners: vertices, indices: own, patches } = levels[0]!
    let at = 0
    for (const { triangles, hiddenBy } of patches) {
      const run = own.subarray(at, (at += triangles * 3))
      if (hiddenBy.some((o) => worn.has(o))) continue
      for (const c of run) {
        indices.push(corners.length)
        corners.push(points[vertices[c]!]!)
      }
    }
  }
  const drawn = new Set(corners)
  const lift = -lowestHeight(
    all.positions,
    standing.ground.filter((p) => drawn.has(p)),
  )
  const up = (positions: Float32Array) => positions.map((v, i) => (i % 3 === 1 ? v + lift : v))
  const mesh: Mesh = {
    ...all,
    ...{ positions: up(all.positions), joints: standing.joints, weights: standing.weights, morphs: [] },
    ...{ cornerPoints: Uint32Array.from(corners), indices: Uint32Array.from(indices) },
    normals: new Float32Array(corners.length * 3),
    ...{ softness: new Uint8Array(corners.length), shades: new Uint8Array(corners.length) },
    ...{ regions: new Uint16Array(corners.length), uvs: new Float32Array(corners.length * 2) },
  }
  const raised = (at: [number, number, number]): [number, number, number] => [at[0], at[1] + lift, at[2]]
  const skeleton: Skeleton = {
    ...standing.skeleton,
    bones: standing.skeleton.bones.map((b) => ({ ...b, at: raised(b.at), tail: raised(b.tail) })),
    limbs: standing.skeleton.limbs.map((l) => ({ ...l, ...(l.beyond && { beyond: raised(l.beyond) }) })),
  }
  return clipsOf({ mesh, skeleton }, kits, { body: pick.body }, wanted).map((clip) => ({
    ...clip,
    // how high a figure stands is found when it is worn
    root: clip.root.map((v, i) => (i % 3 === 1 ? v - lift : v)),
  }))
}
