import { Document, WebIO, type Node, type Scene, type Skin } from '@gltf-transform/core'
import { Matrix4 } from 'three'
import { problem, type Problem, type Read } from '../base/problem.ts'
import { validate } from '../base/validate.ts'
import type { Kit } from '../kit/Kit.ts'
import { fullName, holdsSeveral, partOf, refOf, type KitRef } from '../kit/library.ts'
import type { KitFiles } from '../kit/readKit.ts'
import { KIT_FORMAT, KitSchema, type KitManifest, type PartDef, type SlotDef } from '../kit/schema.ts'
import type { WholeMorph } from './proportions.ts'
import type { Pack, PackMaterial, PackPiece } from './Pack.ts'
import { moved, type Placing } from './placePack.ts'
import { cutPicture } from './pictures.ts'
import { joinBits } from './takeApart.ts'
import { nearestExample, type SlotKnowledge } from './sortPieces.ts'

/** What becomes of the pieces of a pack. */
export interface PackOrder {
  /** The new kit. */
  id: string
  name: string
  /** Piece to the slot it goes to; those that are not named are left out. */
  slots: ReadonlyMap<string, string>
  /** Piece to what it is called; the others keep the names they came with. */
  names?: ReadonlyMap<string, string>
  /** Pieces whose slot is sure: of these, bits of one figure that go to one slot become one part; none if left out. */
  sure?: ReadonlySet<string>
  /** The longest side of a picture that a piece is painted with, pixels; 0 for none: one color each. */
  pictures?: number
}

/** How long the longest side of a picture is, where nobody has said so, pixels. */
export const PICTURE_SIDE = 128
/** So many color regions a kit may have, less some for what has no picture. */
const MOST_PAINTED = 150

/** From here on a guess is sure enough to join bits of one figure by it. */
export const SURE = 0.9

/** The pieces of a pack, bits of one figure that surely go to one slot of one part joined. */
export function orderedPieces(pack: Pack, { slots, sure }: PackOrder, { slots: known }: SlotKnowledge): PackPiece[] {
  const several = new Set(known.filter(holdsSeveral).map((s) => s.id))
  return joinBits(pack.pieces, (piece) => {
    const slot = slots.get(piece.id)
    return slot && sure?.has(piece.id) && known.some((s) => s.id === slot) && !several.has(slot) ? slot : null
  })
}

/**
 * Makes a kit of a pack, for a body that other kits bring: each piece a part in its slot, worn or held as the part there
 * is that it lies most like, in the pack's own colors.
 *
 * @returns the files of the kit, `kit.json` among them; pieces that cannot be parts are told and left out
 */
export async function packKit(
  pack: Pack,
  placing: Placing,
  knowledge: SlotKnowledge,
  kits: ReadonlyMap<string, Kit>,
  order: PackOrder,
): Promise<Read<KitFiles>> {
  const { id, name, slots, names } = order
  const problems: Problem[] = []
  const { body } = knowledge.space
  const manifest = newManifest(id, name)
  const colors = kitColors(manifest, order)
  const files = new Map<string, Uint8Array>()
  const taken = new Set<string>()
  const matrix = new Matrix4().fromArray(placing.toBody)
  for (const piece of orderedPieces(pack, order, knowledge)) {
    const slot = slots.get(piece.id)
    if (slot === undefined) continue
    const positions = moved(piece.positions, matrix)
    const like = nearestExample(knowledge, { positions, triangles: piece.triangles }, slot)
    const model = like && partOf(kits, refOf(like.part, body.kit))?.def
    if (!model || model.how === 'replaces') {
      const why = model ? 'takes the place of a part of the body' : 'is empty so far'
      const message = `The slot “${slot}” ${why}: how a piece is worn there is not known.`
      problems.push(problem('slot-unlearned', piece.id, message, 'Choose another slot, or leave it out.', 'warning'))
      continue
    }
    // what lies where it is held is kept as if its socket were the origin
    const at = like.at
    const own = at ? positions.map((v, i) => v - at[i % 3]!) : positions
    const called = names?.get(piece.id)?.trim()
    const known = knowledge.slots.find((s) => s.id === slot)
    const partId = freshId(called ? [called, ...piece.names] : namesOf(piece, pack, known), taken)
    const file = `parts/${partId}.glb`
    files.set(file, await writePart({ ...piece, positions: own }, partId, coloring(colors, partId)))
    manifest.parts.push(partLike(model, partId, called || titleOf(partId), slot, body, file))
  }
  problems.push(...picturesLeft(colors))
  if (manifest.parts.length === 0) {
    problems.push(problem('pack-unsorted', 'pack', 'No piece has a slot.', 'Choose a slot for one at least.'))
    return { value: null, problems }
  }
  const faults = addManifest(files, manifest)
  if (faults.length) return { value: null, problems: [...problems, ...faults] }
  return { value: files, problems }
}

/** A kit with nothing in it. */
export const newManifest = (id: string, name: string): KitManifest => ({
  ...{ format: KIT_FORMAT, version: 2, id, name, kitVersion: '1.0.0' },
  ...{ bodies: [], slots: [], parts: [], colorRegions: [], palettes: [], clips: [] },
})

/** Puts a kit's description among its files, if it is one; what is wrong with it else. */
export function addManifest(files: Map<string, Uint8Array>, manifest: KitManifest): Problem[] {
  // what is not there is not written as nothing
  const plain = JSON.parse(JSON.stringify(manifest)) as KitManifest
  const { problems } = validate(KitSchema, plain, 'kit.json')
  if (problems.length === 0) files.set('kit.json', new TextEncoder().encode(`${JSON.stringify(plain, null, 2)}\n`))
  return problems
}

/** What a piece is called: a bit that is called as others of its figure are, is called after its slot. */
export function namesOf(piece: PackPiece, { pieces }: Pack, slot: SlotDef | undefined): string[] {
  const { bitOf, names } = piece
  const alike = pieces.filter((p) => bitOf && p.bitOf?.piece === bitOf.piece && p.names[0] === names[0])
  return alike.length > 1 && slot ? [slot.singular, ...names] : names
}

/** A part that is worn or held as another is. */
export function partLike(
  model: Exclude<PartDef, { how: 'replaces' }>,
  id: string,
  name: string,
  slot: string,
  body: { kit: string; def: { id: string } },
  file: string,
): PartDef {
  const ref: KitRef = { kit: body.kit, id: body.def.id }
  const common = { id, name, slot, bodies: [fullName(ref)], file, tags: [] }
  if (model.how === 'attached') return { ...common, how: 'attached', socket: model.socket, fit: model.fit }
  const { layer, clearance, covers, presses, binds } = model
  return {
    ...common,
    how: 'worn',
    layer,
    clearance,
    ...(covers && { covers }),
    ...(presses && { presses }),
    ...(binds && { binds }),
  }
}

/** The color region of a material; a new one where there is none of its name and color, or it is to have one of its own. */
function regionOf({ id, colorRegions }: KitManifest, { name, color }: PackMaterial, own: boolean): string {
  const slug = slugOf([name], 'plain')
  // the regions of all kits are one vocabulary: a pack's own colors are nobody else's
  const stem = `${id}-${slug}`.slice(0, 56)
  const alike = colorRegions.filter((r) => r.id === stem || r.id.replace(/-\d+$/, '') === stem)
  const known = own ? undefined : alike.find((r) => r.color === color)
  if (known) return known.id
  // another material may be called by a number itself
  let number = alike.length + 1
  while (number > 1 && colorRegions.some((r) => r.id === `${stem}-${number}`)) number++
  const fresh = number === 1 ? stem : `${stem}-${number}`
  colorRegions.push({ id: fresh, name: number === 1 ? titleOf(slug) : `${titleOf(slug)} ${number}`, color })
  return fresh
}

/** Says of which parts pictures were left out, as the kit has no room for more. */
export function picturesLeft({ left }: KitColors): Problem[] {
  if (left.size === 0) return []
  const message = `A kit has room for ${MOST_PAINTED} color regions with pictures: ${left.size} of its parts have one color each instead.`
  return [problem('pictures-many', 'pack', message, 'Make several kits of it.', 'warning')]
}

/** Where the colors of a kit that is being made come to be, and how large pictures may be. */
export interface KitColors {
  manifest: KitManifest
  pictures: number
  /** Parts whose pictures had no room. */
  left: Set<string>
}

export const kitColors = (manifest: KitManifest, { pictures = PICTURE_SIDE }: PackOrder): KitColors => ({
  ...{ manifest, pictures: Math.max(0, Math.floor(pictures)), left: new Set() },
})

/** How the materials of a piece become color regions; what is painted has one of its own, as its picture has. */
export type Coloring = (material: PackMaterial) => {
  region: string
  /** How long the picture that it takes along may be, pixels; 0 where it takes none. */
  side: number
}

export function coloring({ manifest, pictures, left }: KitColors, partId: string): Coloring {
  return (material) => {
    if (!material.paint || pictures === 0) return { region: regionOf(manifest, material, false), side: 0 }
    if (manifest.colorRegions.length < MOST_PAINTED) {
      const own = { ...material, name: `${partId} ${material.name}` }
      return { region: regionOf(manifest, own, true), side: pictures }
    }
    left.add(partId)
    return { region: regionOf(manifest, material, false), side: 0 }
  }
}

export function freshId(names: readonly string[], taken: Set<string>): string {
  const slug = slugOf(names, 'piece')
  // names that every object has are none that things can be kept under
  const stem = slug in Object.prototype ? `${slug}-part` : slug
  let id = stem
  for (let n = 2; taken.has(id); n++) id = `${stem}-${n}`
  taken.add(id)
  return id
}

/** The first name that has words in it, as an id. */
function slugOf(names: readonly string[], otherwise: string): string {
  const words = names
    .map((n) =>
      n
        .replace(/([a-z])([A-Z])/g, '$1 $2')
        .toLowerCase()
        .split(/[^a-z0-9]+/)
        .filter(Boolean),
    )
    .find((w) => w.length > 0)
  return words?.join('-').slice(0, 50).replace(/-+$/, '') || otherwise
}

export const titleOf = (id: string): string => {
  const text = id.replaceAll('-', ' ')
  return text.charAt(0).toUpperCase() + text.slice(1)
}

/** Bones of a model that is written, parents first, where their joints stand, metres; and its skin by their numbers. */
export interface WrittenSkin {
  bones: readonly { name: string; parent: string | null; at: readonly [number, number, number] }[]
  /** Four a vertex. */
  joints: Uint16Array
  weights: Float32Array
}

/**
 * A part's or body's model as a kit wants it: metres, a primitive for each color region, named by its material.
 *
 * @param morphs of its vertices, for the sliders of a body
 */
export async function writePart(
  {
    positions,
    triangles,
    materials,
    materialOf,
    uvs,
  }: Pick<PackPiece, 'positions' | 'triangles' | 'materials' | 'materialOf' | 'uvs'>,
  name: string,
  coloringOf: Coloring,
  skin: WrittenSkin | null = null,
  morphs: readonly WholeMorph[] = [],
): Promise<Uint8Array> {
  const document = new Document()
  document.getRoot().getAsset().generator = 'idle-tinker'
  const buffer = document.createBuffer()
  const scene = document.createScene(name)
  const mesh = document.createMesh(name)
  const node = document.createNode(name).setMesh(mesh)
  if (skin) node.setSkin(writeSkeleton(document, scene, skin.bones))
  materials.forEach((material, m) => {
    const corners = [...triangles.keys()].filter((c) => materialOf[Math.floor(c / 3)] === m)
    if (corners.length === 0) return
    const { region: regionName, side } = coloringOf(material)
    const region = document.createMaterial(regionName).setRoughnessFactor(0.9).setMetallicFactor(0)
    const places = uvs && side > 0 ? corners.map((c) => [uvs[c * 2]!, uvs[c * 2 + 1]!] as const) : null
    // a vertex that lies at two places of a picture is two
    const number = new Map<string, number>()
    const first: number[] = []
    const indices = Uint32Array.from(corners, (c, i) => {
      const key = places ? `${triangles[c]} ${places[i]!.join()}` : `${triangles[c]}`
      if (!number.has(key)) number.set(key, first.push(i) - 1)
      return number.get(key)!
    })
    const vertices = first.map((i) => triangles[corners[i]!]!)
    const accessor = (
      type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4',
      array: Uint32Array<ArrayBuffer> | Uint16Array<ArrayBuffer> | Float32Array<ArrayBuffer>,
    ) => document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
    const primitive = document
      .createPrimitive()
      .setMaterial(region)
      .setIndices(accessor('SCALAR', indices))
      .setAttribute(
        'POSITION',
        accessor('VEC3', Float32Array.from(vertices.flatMap((v) => [...positions.subarray(v * 3, v * 3 + 3)]))),
      )
    if (places) {
      const own = first.map((i) => places[i]!)
      const { png, cut } = cutPicture(material.paint!, own.flat(), side)
      region.setBaseColorTexture(
        document.createTexture(region.getName()).setMimeType('image/png').setImage(new Uint8Array(png)),
      )
      const inCut = own.flatMap(([u, v]) => [(u - cut.u) / cut.wide, (v - cut.v) / cut.high])
      primitive.setAttribute('TEXCOORD_0', accessor('VEC2', Float32Array.from(inCut)))
    }
    const four = (from: ArrayLike<number>) => vertices.flatMap((v) => [0, 1, 2, 3].map((k) => from[v * 4 + k]!))
    if (skin)
      primitive
        .setAttribute('JOINTS_0', accessor('VEC4', Uint16Array.from(four(skin.joints))))
        .setAttribute('WEIGHTS_0', accessor('VEC4', Float32Array.from(four(skin.weights))))
    for (const { name: morph, deltas } of morphs) {
      const moved = vertices.flatMap((v) => [...deltas.subarray(v * 3, v * 3 + 3)])
      primitive.addTarget(
        document.createPrimitiveTarget(morph).setAttribute('POSITION', accessor('VEC3', Float32Array.from(moved))),
      )
    }
    mesh.addPrimitive(primitive)
  })
  if (morphs.length) mesh.setWeights(morphs.map(() => 0)).setExtras({ targetNames: morphs.map((m) => m.name) })
  scene.addChild(node)
  return new WebIO().writeBinary(document)
}

/** Joints turned no way, under a scene, and the skin over them. */
function writeSkeleton(document: Document, scene: Scene, bones: WrittenSkin['bones']): Skin {
  const skin = document.createSkin()
  const nodes = new Map<string, Node>()
  const placeOf = new Map(bones.map((b) => [b.name, b.at]))
  const inverse: number[] = []
  for (const { name, parent, at } of bones) {
    const from = parent === null ? [0, 0, 0] : placeOf.get(parent)!
    const node = document.createNode(name).setTranslation([at[0] - from[0]!, at[1] - from[1]!, at[2] - from[2]!])
    if (parent === null) scene.addChild(node)
    else nodes.get(parent)!.addChild(node)
    nodes.set(name, node)
    skin.addJoint(node)
    inverse.push(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -at[0], -at[1], -at[2], 1)
  }
  const [buffer] = document.getRoot().listBuffers()
  return skin.setInverseBindMatrices(
    document.createAccessor().setType('MAT4').setArray(Float32Array.from(inverse)).setBuffer(buffer!),
  )
}
