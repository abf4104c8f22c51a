import { prepareBody, type PreparedBody } from '../body/PreparedBody.ts'
import { addDelta } from '../body/shapeBody.ts'
import { bindPart, type BoundPart } from '../dress/bindPart.ts'
import { carryDelta } from '../dress/tie.ts'
import type { BodyModel, PartModel } from '../kit/Kit.ts'
import { connectedPieces } from '../mesh/adjacency.ts'
import type { Morph } from '../mesh/Mesh.ts'
import { pointNormals, triangleNormal } from '../mesh/normals.ts'
import { boneMaps, carried } from './refitBones.ts'
import { adjusted, heightOf, pushOut, reportOn, smooth, type RefitAdjust, type RefitReport } from './refitFit.ts'
import { keepForms } from './refitForms.ts'

/** A part carried from one body to another. */
export interface Refit {
  /** Where its points lie on the other body: xyz a point, metres. */
  positions: Float32Array
  /** How its moves turn and grow there, a quaternion and a factor a point: for what it moves by itself. */
  turns: Float32Array
  /** How it went. */
  report: RefitReport
}

/** How far residuals are smoothed, round by round. */
const ROUNDS = [24, 14, 8, 5, 3, 2]
const FACING = 0.25
/** A bone counts for a point from this share on. */
const SHARED = 0.1

/**
 * Carries a part from one body to another that has bones of the same names: as each bone is longer, thicker and turned
 * the other way, then as the one skin comes to lie on the other (non-rigid registration by projection with residuals
 * smoothed less and less), and last out of the new body as far as it lay off the old one. Small pieces and those on one
 * bone keep their form.
 *
 * @returns null where the bodies share no bones, or the part takes the place of something
 */
export function refitPart(
  part: PartModel,
  fromModel: BodyModel,
  toModel: BodyModel,
  adjust: RefitAdjust = {},
): Refit | null {
  if (part.def.how === 'replaces') return null
  const [from, to] = [prepareBody(fromModel), prepareBody(toModel)]
  const bones = boneMaps(from, to)
  if (!bones) return null
  const bound = bindPart(from, part)
  const skin = fromModel.mesh
  const roughly = carried(skin.positions, skin, bones)
  const onto = registered(roughly, from, to)
  const positions = byTieAndBones(bound, carried(bound.rest, bound, bones), skin.positions, roughly, onto, from.scale)
  const pieces = connectedPieces(bound.triangles, positions.length / 3)
  const kept = keepForms(bound, positions, pieces, heightOf(from), heightOf(to))
  adjusted(positions, adjust, bound, to, kept.pieceOf)
  pushOut(bound, positions, from, to, kept.pieceOf, Math.min(0, adjust.looser ?? 0))
  return { positions, turns: kept.turns, report: reportOn(bound, positions, from, to) }
}

/**
 * Near the body a part goes as the skin below it goes; what hangs far off goes as its bones go, and as the skin differs
 * from that.
 */
function byTieAndBones(
  bound: BoundPart,
  byBones: Float32Array,
  skin: Float32Array,
  roughly: Float32Array,
  onto: Float32Array,
  scale: number,
): Float32Array {
  const all = Uint32Array.from({ length: skin.length / 3 }, (_, p) => p)
  const moveOf = (from: Float32Array): Morph => ({
    name: 'refit',
    points: all,
    deltas: onto.map((v, i) => v - from[i]!),
  })
  const near = bound.rest.slice()
  addDelta(carryDelta(bound.tie, moveOf(skin)), 1, near)
  addDelta(carryDelta(bound.tie, moveOf(roughly)), 1, byBones)
  return near.map((v, i) => {
    const far = bound.distances[Math.floor(i / 3)]! / scale
    const share = Math.min(1, Math.max(0, (far - HANGS.from) / (HANGS.to - HANGS.from)))
    return v * (1 - share) + byBones[i]! * share
  })
}

/** How far off the body a point goes by its bones alone, metres of a grown person. */
const HANGS = { from: 0.05, to: 0.16 }

/** The first body's points, roughly on the other one, brought onto its surface. */
function registered(roughly: Float32Array, from: PreparedBody, to: PreparedBody): Float32Array {
  const out = roughly.slice()
  const count = out.length / 3
  const bonesOf = sharesByName(from)
  const theirs = sharesByName(to)
  const mine = Array.from({ length: count }, (_, p) => bonesOf(p))
  const faceBones = Array.from({ length: to.triangles.length / 3 }, (_, t) => {
    const names = new Set<string>()
    for (let k = 0; k < 3; k++) for (const name of theirs(to.triangles[t * 3 + k]!)) names.add(name)
    return names
  })
  const faceNormals = Array.from({ length: to.triangles.length / 3 }, (_, t) =>
    triangleNormal(
      to.model.mesh.positions,
      ...([0, 1, 2].map((k) => to.triangles[t * 3 + k]!) as [number, number, number]),
    ),
  )
  for (const passes of ROUNDS) {
    const normals = pointNormals(out, from.triangles)
    const open = new Float32Array(out.length)
    const known = new Uint8Array(count)
    for (let p = 0; p < count; p++) {
      const accept = (t: number) => {
        const n = faceNormals[t]!
        const facing = n[0] * normals[p * 3]! + n[1] * normals[p * 3 + 1]! + n[2] * normals[p * 3 + 2]!
        return facing > FACING && mine[p]!.some((name) => faceBones[t]!.has(name))
      }
      const place = to.surface.nearest(out[p * 3]!, out[p * 3 + 1]!, out[p * 3 + 2]!, Infinity, accept)
      if (!place) continue
      known[p] = 1
      for (let k = 0; k < 3; k++) open[p * 3 + k] = place.point[k]! - out[p * 3 + k]!
    }
    smooth(open, from.neighbours, passes, known)
    for (let i = 0; i < out.length; i++) out[i]! += open[i]!
  }
  return out
}

/** The names of the bones that hold a point. */
function sharesByName({ model }: PreparedBody): (point: number) => string[] {
  const { joints, weights } = model.mesh
  return (p) =>
    [0, 1, 2, 3].flatMap((k) => (weights[p * 4 + k]! >= SHARED ? [model.bones[joints[p * 4 + k]!]!.name] : []))
}
