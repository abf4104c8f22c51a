import { Euler, Quaternion, Vector3 } from 'three'
import { canonicalJson } from '../base/canonical.ts'
import { problem, type Problem } from '../base/problem.ts'
import type { BodyModel, PartModel } from '../kit/Kit.ts'
import { computeNormals, createNormalScratch } from '../mesh/normals.ts'
import { boundsOf, type Mesh } from '../mesh/Mesh.ts'
import type { PartInstance, Place } from './schema.ts'

/** Places remembered a part: a dragging hand leaves many behind that nobody asks for again. */
const MOST_PLACES = 256
const made = new WeakMap<PartModel, Map<string, PartModel>>()

/**
 * A kit's part as an instance of a recipe wants it: turned, scaled, mirrored, at another socket or
 * spot, in another layer. The part itself where nothing was said; what cannot be is told, and left.
 */
export function placePartModel(
  part: PartModel,
  { place, layer, clearance }: Pick<PartInstance, 'place' | 'layer' | 'clearance'>,
  body: BodyModel,
  where: string,
  problems: Problem[],
): PartModel {
  if (!place && layer === undefined && clearance === undefined) return part
  const said = { ...(place && { place: usable(part, place, body, where, problems) }), layer, clearance }
  if (part.def.how !== 'worn' && (layer !== undefined || clearance !== undefined))
    problems.push(
      problem(
        'place-unused',
        where,
        `“${part.def.name}” is not worn in layers; its layer and clearance change nothing.`,
        'Leave them out.',
        'info',
      ),
    )
  const key = canonicalJson([body.hash, said])
  let own = made.get(part)
  if (!own) made.set(part, (own = new Map()))
  let ready = own.get(key)
  if (!ready) {
    own.set(key, (ready = { ...placed(part, said), hash: `${part.hash} ${key}` }))
    if (own.size > MOST_PLACES) own.delete(own.keys().next().value!)
  }
  return ready
}

/** A place with what its part and body can do; the rest is told. */
function usable(part: PartModel, place: Place, body: BodyModel, where: string, problems: Problem[]): Place {
  const tell = (code: string, message: string, remedy: string) =>
    problems.push(problem(code, `${where}/place`, message, remedy, 'warning'))
  const { at, ...rest } = place
  if (part.def.how === 'replaces') {
    tell(
      'place-unused',
      `“${part.def.name}” stands in for a part of the body and cannot be moved.`,
      'Leave its place out.',
    )
    return {}
  }
  if (!at) return rest
  if (part.def.how === 'worn') {
    tell('place-unused', `“${part.def.name}” lies on the body and has no socket.`, 'Leave its place out.')
    return rest
  }
  if ('socket' in at) {
    if (body.def.sockets.some((s) => s.id === at.socket)) return place
    tell('socket-unknown', `The body has no socket “${at.socket}”.`, 'Name one of its sockets.')
    return rest
  }
  const sum = at.shares.reduce((s, v) => s + v, 0)
  // whether another instance has such a triangle is known once all of them are
  if ((at.on || at.triangle < body.mesh.indices.length / 3) && sum > 0)
    return { ...rest, at: { ...at, shares: at.shares.map((v) => v / sum) as [number, number, number] } }
  tell('spot-unknown', `The body has no triangle ${at.triangle}.`, 'Place it on the body again.')
  return rest
}

function placed(part: PartModel, said: { place?: Place; layer?: number; clearance?: number }): PartModel {
  const { place = {}, layer, clearance } = said
  let { def } = part
  if (def.how === 'worn') def = { ...def, layer: layer ?? def.layer, clearance: clearance ?? def.clearance }
  else if (def.how === 'attached' && place.at && 'socket' in place.at) def = { ...def, socket: place.at.socket }
  const spot = place.at && 'triangle' in place.at ? place.at : undefined
  const middle = def.how === 'worn' ? middleOf(part.mesh) : new Vector3()
  const move = mover(place, middle)
  return {
    ...part,
    def,
    ...(spot && { spot }),
    mesh: moved(part.mesh, place, move),
    bones: part.bones.map((bone) => ({ ...bone, at: move(new Vector3(...bone.at)).toArray() })),
  }
}

function middleOf({ positions }: Mesh): Vector3 {
  const { min, max } = boundsOf(positions)
  return new Vector3(...min).add(new Vector3(...max)).multiplyScalar(0.5)
}

/** Mirrors in the body's middle plane, then scales and turns about `middle`: where it sits, or its own middle if worn. */
function mover({ mirrored, scale = 1, turn = [0, 0, 0] }: Place, middle: Vector3): (v: Vector3) => Vector3 {
  const [x, y, z] = turn.map((d) => (d * Math.PI) / 180) as [number, number, number]
  const q = new Quaternion().setFromEuler(new Euler(x, y, z, 'YXZ'))
  const size = new Vector3(...(typeof scale === 'number' ? [scale, scale, scale] : scale))
  const about = middle.clone()
  if (mirrored) about.x = -about.x
  return (v) => {
    if (mirrored) v.x = -v.x
    return v.sub(about).multiply(size).applyQuaternion(q).add(about)
  }
}

function moved(mesh: Mesh, place: Place, move: (v: Vector3) => Vector3): Mesh {
  const { mirrored, scale = 1, turn = [] } = place
  if (!mirrored && [scale].flat().every((s) => s === 1) && turn.every((d) => d === 0)) return mesh
  const origin = move(new Vector3())
  const all = (list: Float32Array, moves = false) => {
    const out = new Float32Array(list.length)
    for (let i = 0; i < list.length; i += 3) {
      const v = move(new Vector3().fromArray(list, i))
      if (moves) v.sub(origin)
      v.toArray(out, i)
    }
    return out
  }
  const indices = mesh.indices.slice()
  if (place.mirrored)
    for (let i = 0; i < indices.length; i += 3) [indices[i + 1], indices[i + 2]] = [indices[i + 2]!, indices[i + 1]!]
  const next: Mesh = {
    ...mesh,
    positions: all(mesh.positions),
    morphs: mesh.morphs.map((m) => ({ ...m, deltas: all(m.deltas, true) })),
    normals: new Float32Array(mesh.normals.length),
    indices,
  }
  computeNormals(next, next.positions, next.normals, createNormalScratch(next))
  return next
}
