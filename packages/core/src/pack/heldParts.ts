import { boneWords } from '../base/words.ts'
import type { Kit } from '../kit/Kit.ts'
import { namesBody } from '../kit/library.ts'
import type { BodyDef, KitManifest, PartDef, SlotDef } from '../kit/schema.ts'
import { rounded, type NewBone } from './figurePlan.ts'
import type { Pack, PackPiece } from './Pack.ts'
import { coloring, freshId, titleOf, writePart, type KitColors } from './packKit.ts'
import { joinPieces, trianglesOf } from './takeApart.ts'
import type { SlotKnowledge } from './sortPieces.ts'

/* What a figure without bones holds: it is no part of its body, and comes off. */

/** A thing that goes with one joint of its pack. */
export interface HeldPiece {
  piece: PackPiece
  joint: number
}

/**
 * Takes what a figure holds out of a pack on whose bones it hangs; what hangs on one bone is one thing.
 *
 * @param props triangles, by their number over all pieces
 * @param grown joints that are of the figure, whatever it looks like
 */
export function takeHeld(
  pack: Pack,
  props: ReadonlySet<number>,
  grown: ReadonlySet<number>,
): { pack: Pack; held: HeldPiece[] } {
  const byJoint = new Map<number, PackPiece[]>()
  let from = 0
  const pieces = pack.pieces.flatMap((piece) => {
    const { skin, triangles } = piece
    const all = [...Array(triangles.length / 3).keys()]
    const jointOf = (t: number) => skin!.joints[triangles[t * 3]! * 4]!
    const taken = skin ? all.filter((t) => props.has(from + t) && !grown.has(jointOf(t))) : []
    from += all.length
    if (taken.length === 0) return [piece]
    for (const joint of new Set(taken.map(jointOf))) {
      const bit = trianglesOf(
        piece,
        taken.filter((t) => jointOf(t) === joint),
      )
      byJoint.set(joint, [...(byJoint.get(joint) ?? []), bit])
    }
    const gone = new Set(taken)
    const left = all.filter((t) => !gone.has(t))
    return left.length ? [trianglesOf(piece, left)] : []
  })
  // a figure that is all held would be none
  if (pieces.length === 0) return { pack, held: [] }
  return {
    pack: { ...pack, pieces },
    held: [...byJoint].map(([joint, bits]) => ({ joint, piece: { ...joinPieces(bits), skin: null } })),
  }
}

/** The kit that is being made, as far as what is held is put into it. */
export interface HoldingKit {
  manifest: KitManifest
  files: Map<string, Uint8Array>
  colors: KitColors
  body: BodyDef
  bones: readonly NewBone[]
  /** Ids of parts that are taken. */
  taken: Set<string>
}

/**
 * Adds held things as parts that hang at sockets of the body: those it has there, or new ones at the joint.
 *
 * @param held as it lies on the body, metres, with the bone that holds it
 * @param knowledge of a body whose slots for such things are taken over
 */
export async function addHeld(
  held: readonly { piece: PackPiece; bone: string }[],
  { manifest, files, colors, body, bones, taken }: HoldingKit,
  knowledge: SlotKnowledge,
  kits: ReadonlyMap<string, Kit>,
): Promise<void> {
  for (const { piece, bone } of held) {
    const words = boneWords(bone).toLowerCase()
    const id = `held-${words.replace(/[^a-z0-9]+/g, '-')}`.slice(0, 60)
    const known = knownPlace(body, bone, knowledge, kits)
    const at = rounded(bones.find((b) => b.name === bone)!.at)
    const socket = known?.socket ?? { id, name: `Held, ${words}`, bone, at }
    if (!body.sockets.some((s) => s.id === socket.id)) body.sockets.push(socket)
    const region = body.regions.find((r) => r.bones.includes(bone)) ?? body.regions[0]!
    const slot: SlotDef = known?.slot ?? {
      ...{ id, name: `Held, ${words}`, singular: `Held, ${words}`, bodies: [], region: region.id, care: 1 },
    }
    const own = body.regions.some((r) => r.id === slot.region) ? slot.region : region.id
    if (!manifest.slots.some((s) => s.id === slot.id)) manifest.slots.push({ ...slot, region: own, bodies: [body.id] })
    const partId = freshId([...piece.names, 'held'], taken)
    const file = `parts/${partId}.glb`
    const positions = piece.positions.map((v, i) => v - socket.at[i % 3]!)
    files.set(file, await writePart({ ...piece, positions }, partId, coloring(colors, partId)))
    const part: PartDef = {
      ...{ id: partId, name: titleOf(partId), slot: slot.id, bodies: [body.id], file, tags: [] },
      ...{ how: 'attached', socket: socket.id, fit: 'rigid' },
    }
    manifest.parts.push(part)
  }
}

/** The socket that a body has on a bone, and the slot of most of what is made to hang there. */
function knownPlace(
  { sockets }: Pick<BodyDef, 'sockets'>,
  bone: string,
  { slots, space }: SlotKnowledge,
  kits: ReadonlyMap<string, Kit>,
): { socket: BodyDef['sockets'][number]; slot: SlotDef } | null {
  const there = new Set(sockets.filter((s) => s.bone === bone).map((s) => s.id))
  const counts = new Map<string, number>()
  for (const { manifest } of kits.values())
    for (const part of manifest.parts)
      if (
        part.how === 'attached' &&
        there.has(part.socket) &&
        namesBody(part.bodies, manifest.id, bodyRef(space.body))
      ) {
        const key = `${part.socket} ${part.slot}`
        counts.set(key, (counts.get(key) ?? 0) + 1)
      }
  const [best] = [...counts].sort(([a, n], [b, m]) => m - n || (a < b ? -1 : 1))
  if (!best) return null
  const [socketId, slotId] = best[0].split(' ')
  const socket = sockets.find((s) => s.id === socketId)!
  const slot = slots.find((s) => s.id === slotId)
  return slot ? { socket, slot } : null
}

const bodyRef = ({ kit, def }: { kit: string; def: { id: string } }) => ({ kit, id: def.id })
