import { Matrix4 } from 'three'
import { connectedPieces } from '../mesh/adjacency.ts'
import { boundsOf } from '../mesh/Mesh.ts'
import { Surface } from '../mesh/Surface.ts'
import type { Pack, PackPiece } from './Pack.ts'
import { bothFacts } from './pieceOf.ts'
import { moved, type Placing } from './placePack.ts'
import { weldPlaces } from './sheets.ts'

/** Some triangles of a piece that stay together. */
interface Bit {
  triangles: number[]
  material: string
  /** Why it is by itself. */
  why: string
  /** As placed: its box's ends, and its middle. */
  min: readonly number[]
  max: readonly number[]
  middle: readonly number[]
  /** Welded points. */
  points: Set<number>
  /** Its colors. */
  colors: Set<string>
  /** How much of it each joint holds, summing to one; empty without a skin. */
  bones: Map<number, number>
}

/** Bits smaller than this go with the larger one they lie on (buttons with their coat), as a share of the height of all. */
const SMALL = 0.09
/** So near it lies on it, as a share of that height. */
const ON = 0.012
/** Bits of one material and bone as near as this are one thing, as a share of that height. */
const NEAR = 0.012
/** And so much of them is held by the same bones. */
const NEAR_ALIKE = 0.3
/** What touches something of another material stays with it where the same bones hold so much of both. */
const TOUCHING_ALIKE = 0.4
/**
 * Flush is what lies so near with so much of its vertices on something that is larger than it by so much and held alike;
 * what is as tall as a body has no trim. Shares: of the height, of vertices, of size, of bones, of the height.
 */
const FLUSH = { near: 0.004, share: 0.6, size: 0.8, alike: 0.5, body: 0.5 }
/** Two are the two sides of one thing where size and place differ by no more, as a share of that height. */
const PAIRED = 0.012
/** A piece that would come apart into more is left whole: that is no figure. */
const MOST_BITS = 120

/** What is as tall as this share of a body, and holds so much of a pack's triangles, is more than one thing on it. */
const WHOLE = { height: 0.8, triangles: 0.75 }

/** The pieces of a pack that look like several things in one, as a dressed figure does. */
export function wholeFigures(pack: Pack, placing: Placing, height: number): Set<string> {
  const all = pack.pieces.reduce((n, p) => n + p.triangles.length, 0)
  const matrix = new Matrix4().fromArray(placing.toBody)
  const whole = pack.pieces.filter((piece) => {
    const { min, max } = boundsOf(moved(piece.positions, matrix))
    return (
      max[1] - min[1] > WHOLE.height * height &&
      piece.triangles.length > WHOLE.triangles * all &&
      bitsKnown(piece, placing).length > 1
    )
  })
  return new Set(whole.map((p) => p.id))
}

/**
 * Takes apart what is several things in one mesh: by the file's materials, then by what hangs together. What touches
 * another and is held by the same bone stays with it, as trim with its shirt; so do the two sides of a pair, and small
 * bits with what they lie on. What has no skin is not joined again by its bones.
 *
 * @returns the bits, largest first, each with the piece's names and why it is by itself; the piece where it is one thing
 */
export function takeApart(piece: PackPiece, { toBody }: Pick<Placing, 'toBody'>): PackPiece[] {
  const positions = moved(piece.positions, new Matrix4().fromArray(toBody))
  const welded = weldPlaces(positions)
  const { min, max } = boundsOf(positions)
  const height = Math.max(max[1] - min[1], 1e-9)
  let bits = bitsOf(piece, positions, { ...welded, points: welded.points.length / 3 })
  if (bits.length === 1 || bits.length > MOST_BITS * 4) return [piece]
  // where all is of one color, what lies close by tells nothing
  if (new Set(piece.materials.map((m) => m.color)).size > 1)
    bits = joinNear(bits, { positions, triangles: piece.triangles }, height)
  if (piece.skin) bits = joinTouching(bits)
  bits = joinPairs(bits, height)
  bits = joinFlush(bits, { positions, triangles: piece.triangles }, height)
  bits = joinSmall(bits, { positions, triangles: piece.triangles }, height)
  bits = joinPairs(bits, height)
  if (bits.length === 1 || bits.length > MOST_BITS) return [piece]
  return bits
    .sort((a, b) => b.triangles.length - a.triangles.length)
    .map((bit, i) => ({
      ...trianglesOf(
        piece,
        bit.triangles.toSorted((a, b) => a - b),
      ),
      id: `${piece.id}/${i + 1}`,
      names: [...new Set([bit.material, ...piece.names])],
      bitOf: { piece: piece.id, why: bit.why },
    }))
}

/** How the pieces of a pack are taken: some apart, and some of their bits together again. */
export interface Arrangement {
  apart: ReadonlySet<string>
  joined?: readonly (readonly string[])[]
}

const known = new WeakMap<PackPiece, Map<string, PackPiece[]>>()

/** A pack with some of its pieces taken apart; a bit that was joined with others is called as the first of them. */
export function arranged(pack: Pack, { apart, joined = [] }: Arrangement, placing: Pick<Placing, 'toBody'>): Pack {
  if (apart.size === 0) return pack
  const bits = pack.pieces.flatMap((p) => (apart.has(p.id) ? bitsKnown(p, placing) : [p]))
  const groupOf = new Map(joined.flatMap((ids) => ids.map((id) => [id, ids[0]!] as const)))
  return { ...pack, pieces: joinBits(bits, ({ id }) => groupOf.get(id) ?? null) }
}

/** The bits of a piece, the same objects for the same piece lying the same way. */
function bitsKnown(piece: PackPiece, placing: Pick<Placing, 'toBody'>): PackPiece[] {
  let ways = known.get(piece)
  if (!ways) known.set(piece, (ways = new Map()))
  const key = placing.toBody.join()
  let bits = ways.get(key)
  if (!bits) ways.set(key, (bits = takeApart(piece, placing)))
  return bits
}

/**
 * Joins bits of one figure that go to one place: soles with their boots. The largest, which comes first, gives its name.
 *
 * @param placeOf where a bit goes; null for what stays by itself
 */
export function joinBits(pieces: readonly PackPiece[], placeOf: (piece: PackPiece) => string | null): PackPiece[] {
  const groups = new Map<string, PackPiece[]>()
  for (const piece of pieces) {
    const place = piece.bitOf ? placeOf(piece) : null
    const key = place === null ? piece.id : `${piece.bitOf!.piece} ${place}`
    const group = groups.get(key)
    if (group) group.push(piece)
    else groups.set(key, [piece])
  }
  return [...groups.values()].map(joinPieces)
}

/** Pieces as one, which is called as the first of them. */
export function joinPieces(pieces: readonly PackPiece[]): PackPiece {
  const [first] = pieces
  if (!first) throw new RangeError('nothing to join')
  if (pieces.length === 1) return first
  let [vertices, before] = [0, 0]
  const triangles: number[] = []
  const materialOf: number[] = []
  for (const p of pieces) {
    for (const v of p.triangles) triangles.push(v + vertices)
    for (const m of p.materialOf) materialOf.push(m + before)
    vertices += p.positions.length / 3
    before += p.materials.length
  }
  const skinned = pieces.some((p) => p.skin)
  const four = (p: PackPiece) => new Float32Array((p.positions.length / 3) * 4)
  return {
    ...first,
    positions: Float32Array.from(pieces.flatMap((p) => [...p.positions])),
    triangles: Uint32Array.from(triangles),
    materials: pieces.flatMap((p) => p.materials),
    materialOf: Uint16Array.from(materialOf),
    ...(pieces.some((p) => p.uvs) && {
      uvs: Float32Array.from(pieces.flatMap((p) => [...(p.uvs ?? new Float32Array(p.triangles.length * 2))])),
    }),
    skin: skinned
      ? {
          joints: Uint16Array.from(pieces.flatMap((p) => [...(p.skin?.joints ?? four(p))])),
          weights: Float32Array.from(pieces.flatMap((p) => [...(p.skin?.weights ?? four(p))])),
        }
      : null,
    found: pieces.map((p) => p.found).reduce(bothFacts),
  }
}

/** Vertex to point, and how many points there are. */
interface Welded {
  pointOf: Uint32Array
  points: number
}

function bitsOf(piece: PackPiece, positions: Float32Array, { pointOf, points }: Welded): Bit[] {
  const { triangles, materials, materialOf } = piece
  const keys = materials.map((m) => m.of ?? `${m.name} ${m.color}`)
  // triangles of one material that share a point hang together: a point of each material is one by itself
  const kinds = [...new Set(keys)]
  const kindOf = Uint16Array.from(materialOf, (m) => kinds.indexOf(keys[m]!))
  const own = triangles.map((v, i) => pointOf[v]! * kinds.length + kindOf[Math.floor(i / 3)]!)
  const { pieceOf } = connectedPieces(own, points * kinds.length)
  const groups = new Map<number, number[]>()
  for (let t = 0; t < triangles.length / 3; t++) {
    const group = groups.get(pieceOf[own[t * 3]!]!)
    if (group) group.push(t)
    else groups.set(pieceOf[own[t * 3]!]!, [t])
  }
  return [...groups.values()].map((list) => {
    const material = materials[materialOf[list[0]!]!]!
    const name = material.of ?? material.name
    return bitFrom(piece, positions, pointOf, list, {
      material: name,
      why: kinds.length > 1 ? `It is all of the material “${name}”.` : 'It hangs together with nothing else.',
    })
  })
}

function bitFrom(
  { triangles, skin, materials, materialOf }: PackPiece,
  positions: Float32Array,
  pointOf: Uint32Array,
  own: number[],
  said: Pick<Bit, 'material' | 'why'>,
): Bit {
  const [min, max] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ]
  const points = new Set<number>()
  const shares = new Map<number, number>()
  for (const t of own)
    for (let k = 0; k < 3; k++) {
      const v = triangles[t * 3 + k]!
      points.add(pointOf[v]!)
      for (let c = 0; c < 3; c++) {
        min[c] = Math.min(min[c]!, positions[v * 3 + c]!)
        max[c] = Math.max(max[c]!, positions[v * 3 + c]!)
      }
      for (let j = 0; skin && j < 4; j++) {
        const bone = skin.joints[v * 4 + j]!
        shares.set(bone, (shares.get(bone) ?? 0) + skin.weights[v * 4 + j]!)
      }
    }
  const all = [...shares.values()].reduce((a, b) => a + b, 0) || 1
  const bones = new Map([...shares].map(([bone, share]) => [bone, share / all]))
  const colors = new Set(own.map((t) => materials[materialOf[t]!]!.color))
  return { ...said, triangles: own, colors, min, max, middle: min.map((v, k) => (v + max[k]!) / 2), points, bones }
}

/** How much of two bits the same joints hold, 0 to 1; all of it where there is no skin. */
function heldAlike(a: Bit, b: Bit): number {
  if (a.bones.size === 0 || b.bones.size === 0) return 1
  let sum = 0
  for (const [bone, share] of a.bones) sum += Math.min(share, b.bones.get(bone) ?? 0)
  return sum
}

const sizeOf = (bit: Bit) => Math.hypot(...bit.max.map((v, k) => v - bit.min[k]!))

function joined(a: Bit, b: Bit): Bit {
  const [large, small] = a.triangles.length >= b.triangles.length ? [a, b] : [b, a]
  const min = a.min.map((v, k) => Math.min(v, b.min[k]!))
  const max = a.max.map((v, k) => Math.max(v, b.max[k]!))
  const [m, n] = [large.triangles.length, small.triangles.length]
  const bones = new Map([...large.bones].map(([bone, share]) => [bone, (share * m) / (m + n)]))
  for (const [bone, share] of small.bones) bones.set(bone, (bones.get(bone) ?? 0) + (share * n) / (m + n))
  return {
    ...large,
    bones,
    triangles: [...large.triangles, ...small.triangles],
    ...{ min, max, middle: min.map((v, k) => (v + max[k]!) / 2) },
    points: new Set([...large.points, ...small.points]),
    colors: new Set([...large.colors, ...small.colors]),
  }
}

/** Joins two by two those whose numbers `next` names, until it names none. */
function joinWhile(bits: readonly Bit[], next: (list: readonly Bit[]) => readonly [number, number] | null): Bit[] {
  const list = [...bits]
  for (let pair = next(list); pair; pair = next(list)) {
    const [i, j] = pair
    list[i] = joined(list[i]!, list[j]!)
    list.splice(j, 1)
  }
  return list
}

/** Bits of one material and color that lie close by and hang on one bone: locks of hair, patches of what shows of a body. */
function joinNear(bits: readonly Bit[], whole: Whole, height: number): Bit[] {
  const far = NEAR * height
  const surfaces = bits.map((bit) => surfaceOf(bit, whole))
  const root = bits.map((_, i) => i)
  const find = (i: number): number => (root[i] === i ? i : (root[i] = find(root[i]!)))
  for (const [i, a] of bits.entries())
    for (let j = i + 1; j < bits.length; j++) {
      const b = bits[j]!
      if (a.material !== b.material || heldAlike(a, b) < NEAR_ALIKE || find(i) === find(j)) continue
      if (![...a.colors].some((c) => b.colors.has(c))) continue
      if ([0, 1, 2].some((k) => a.min[k]! - b.max[k]! > far || b.min[k]! - a.max[k]! > far)) continue
      const [small, surface] = a.points.size < b.points.size ? [a, surfaces[j]!] : [b, surfaces[i]!]
      if (isNear(small, surface, whole, far)) root[find(j)] = find(i)
    }
  const groups = new Map<number, Bit>()
  bits.forEach((bit, i) => groups.set(find(i), groups.has(find(i)) ? joined(groups.get(find(i))!, bit) : bit))
  return [...groups.values()]
}

/** Bits that lie flush with a larger one of another material: bands, soles, the glass of a lantern. Nothing is trim of a body. */
function joinFlush(bits: readonly Bit[], whole: Whole, height: number): Bit[] {
  const far = FLUSH.near * height
  const order = [...bits].sort((a, b) => sizeOf(a) - sizeOf(b))
  const out = new Set(order)
  for (const bit of order) {
    let best: { share: number; to: Bit } | null = null
    for (const other of out) {
      if (other === bit || sizeOf(bit) > FLUSH.size * sizeOf(other) || heldAlike(bit, other) < FLUSH.alike) continue
      if (other.max[1]! - other.min[1]! > FLUSH.body * height) continue
      if ([0, 1, 2].some((k) => bit.min[k]! - other.max[k]! > far || other.min[k]! - bit.max[k]! > far)) continue
      const share = shareNear(bit, surfaceOf(other, whole), whole, far)
      if (share >= FLUSH.share && share > (best?.share ?? 0)) best = { share, to: other }
    }
    if (!best) continue
    out.delete(bit)
    out.delete(best.to)
    const made = joined(best.to, bit)
    out.add(made)
    // what comes later may lie on it
    order[order.indexOf(best.to)] = made
  }
  return [...out]
}

function shareNear(bit: Bit, surface: Surface, { positions, triangles }: Whole, far: number): number {
  let near = 0
  const vertices = new Set(bit.triangles.flatMap((t) => [...triangles.subarray(t * 3, t * 3 + 3)]))
  for (const v of vertices)
    if (surface.nearest(positions[v * 3]!, positions[v * 3 + 1]!, positions[v * 3 + 2]!, far)) near++
  return near / vertices.size
}

interface Whole {
  positions: Float32Array
  triangles: Uint32Array
}

const surfaceOf = (bit: Bit, { positions, triangles }: Whole) =>
  new Surface(positions, Uint32Array.from(bit.triangles.flatMap((t) => [...triangles.subarray(t * 3, t * 3 + 3)])))

function isNear(bit: Bit, surface: Surface, { positions, triangles }: Whole, far: number): boolean {
  return bit.triangles.some((t) => {
    const v = triangles[t * 3]! * 3
    return surface.nearest(positions[v]!, positions[v + 1]!, positions[v + 2]!, far) !== null
  })
}

/** Bits of different materials that share points and hang on one bone. */
function joinTouching(bits: readonly Bit[]): Bit[] {
  return joinWhile(bits, (list) => {
    const at = new Map<number, number>()
    for (const [i, bit] of list.entries())
      for (const p of bit.points) {
        const other = at.get(p)
        if (other === undefined) at.set(p, i)
        else if (other !== i && heldAlike(list[other]!, bit) >= TOUCHING_ALIKE) return [other, i]
      }
    return null
  })
}

/** The two sides of one thing: shoes, gloves, eyes. */
function joinPairs(bits: readonly Bit[], height: number): Bit[] {
  const far = PAIRED * height
  return joinWhile(bits, (list) => {
    for (const [i, a] of list.entries()) {
      if (Math.abs(a.middle[0]!) < far) continue
      for (let j = i + 1; j < list.length; j++) {
        const b = list[j]!
        if (a.material !== b.material || a.triangles.length !== b.triangles.length) continue
        const mirrored = [Math.abs(a.min[0]! + b.max[0]!), Math.abs(a.max[0]! + b.min[0]!)]
        const level = [1, 2].flatMap((k) => [Math.abs(a.min[k]! - b.min[k]!), Math.abs(a.max[k]! - b.max[k]!)])
        if ([...mirrored, ...level].every((d) => d < far)) return [i, j]
      }
    }
    return null
  })
}

/** Small bits go with the larger one that they lie on. */
function joinSmall(bits: readonly Bit[], whole: Whole, height: number): Bit[] {
  const large = bits.filter((b) => sizeOf(b) >= SMALL * height)
  if (large.length === 0) return [...bits]
  const owner = new Int32Array(whole.triangles.length / 3).fill(-1)
  large.forEach((bit, i) => bit.triangles.forEach((t) => (owner[t] = i)))
  const kept = Uint32Array.from([...owner.keys()].filter((t) => owner[t]! >= 0))
  const surface = new Surface(
    whole.positions,
    Uint32Array.from([...kept].flatMap((t) => [...whole.triangles.subarray(t * 3, t * 3 + 3)])),
  )
  const out = [...large]
  for (const bit of bits) {
    if (sizeOf(bit) >= SMALL * height) continue
    let best = { far: Infinity, of: -1 }
    for (const t of bit.triangles) {
      const at = [0, 1, 2].map(
        (k) => [0, 1, 2].reduce((s, c) => s + whole.positions[whole.triangles[t * 3 + c]! * 3 + k]!, 0) / 3,
      ) as [number, number, number]
      const place = surface.nearest(...at)
      if (place && place.distance < best.far) best = { far: place.distance, of: owner[kept[place.triangle]!]! }
    }
    if (best.far < ON * height) out[best.of] = joined(out[best.of]!, bit)
    else out.push(bit)
  }
  return out
}

/** Some triangles of a piece as a piece, with the vertices they use. */
export function trianglesOf(piece: PackPiece, own: readonly number[]): PackPiece {
  const number = new Map<number, number>()
  const triangles = Uint32Array.from(
    own.flatMap((t) => [0, 1, 2].map((k) => piece.triangles[t * 3 + k]!)),
    (v) => {
      if (!number.has(v)) number.set(v, number.size)
      return number.get(v)!
    },
  )
  const vertices = [...number.keys()]
  const materials = [...new Set(own.map((t) => piece.materialOf[t]!))]
  const rows = <T extends Float32Array | Uint16Array>(from: T, size: number): number[] =>
    vertices.flatMap((v) => [...from.subarray(v * size, v * size + size)])
  return {
    ...piece,
    positions: Float32Array.from(rows(piece.positions, 3)),
    triangles,
    materials: materials.map((m) => piece.materials[m]!),
    materialOf: Uint16Array.from(own, (t) => materials.indexOf(piece.materialOf[t]!)),
    ...(piece.uvs && { uvs: Float32Array.from(own.flatMap((t) => [...piece.uvs!.subarray(t * 6, t * 6 + 6)])) }),
    skin: piece.skin && {
      joints: Uint16Array.from(rows(piece.skin.joints, 4)),
      weights: Float32Array.from(rows(piece.skin.weights, 4)),
    },
    found: { ...piece.found, vertices: vertices.length, against: 0 },
  }
}
