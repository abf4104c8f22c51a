import { Document, WebIO } from '@gltf-transform/core'
import { Matrix4 } from 'three'
import { problem, type Problem, type Read } from '../base/problem.ts'
import { validate } from '../base/validate.ts'
import type { Kit } from '../kit/Kit.ts'
import { fullName, partOf, refOf, type KitRef } from '../kit/library.ts'
import type { KitFiles } from '../kit/readKit.ts'
import { KIT_FORMAT, KitSchema, type KitManifest, type PartDef } from '../kit/schema.ts'
import type { Pack, PackMaterial, PackPiece } from './Pack.ts'
import { moved, type Placing } from './placePack.ts'
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
  { id, name, slots, names }: PackOrder,
): Promise<Read<KitFiles>> {
  const problems: Problem[] = []
  const { body } = knowledge.space
  const manifest: KitManifest = {
    format: KIT_FORMAT,
    version: 2,
    id,
    name,
    kitVersion: '1.0.0',
    bodies: [],
    slots: [],
    parts: [],
    colorRegions: [],
    palettes: [],
    clips: [],
  }
  const files = new Map<string, Uint8Array>()
  const taken = new Set<string>()
  const matrix = new Matrix4().fromArray(placing.toBody)
  for (const piece of pack.pieces) {
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
    const partId = freshId(called ? [called, ...piece.names] : piece.names, taken)
    const file = `parts/${partId}.glb`
    files.set(file, await writePart({ ...piece, positions: own }, partId, (m) => regionOf(manifest, m)))
    manifest.parts.push(partLike(model, partId, called || titleOf(partId), slot, body, file))
  }
  if (manifest.parts.length === 0) {
    problems.push(problem('pack-unsorted', 'pack', 'No piece has a slot.', 'Choose a slot for one at least.'))
    return { value: null, problems }
  }
  const faults = validate(KitSchema, manifest, 'kit.json').problems
  if (faults.length) return { value: null, problems: [...problems, ...faults] }
  files.set('kit.json', new TextEncoder().encode(`${JSON.stringify(manifest, null, 2)}\n`))
  return { value: files, problems }
}

/** A part that is worn or held as another is. */
function partLike(
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

/** The color region of a material; a new one where there is none of its name and color. */
function regionOf({ id, colorRegions }: KitManifest, { name, color }: PackMaterial): string {
  const slug = slugOf([name], 'plain')
  // the regions of all kits are one vocabulary: a pack's own colors are nobody else's
  const stem = `${id}-${slug}`.slice(0, 56)
  const alike = colorRegions.filter((r) => r.id === stem || r.id.replace(/-\d+$/, '') === stem)
  const known = alike.find((r) => r.color === color)
  if (known) return known.id
  // another material may be called by a number itself
  let number = alike.length + 1
  while (number > 1 && colorRegions.some((r) => r.id === `${stem}-${number}`)) number++
  const fresh = number === 1 ? stem : `${stem}-${number}`
  colorRegions.push({ id: fresh, name: number === 1 ? titleOf(slug) : `${titleOf(slug)} ${number}`, color })
  return fresh
}

function freshId(names: readonly string[], taken: Set<string>): string {
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

const titleOf = (id: string): string => {
  const text = id.replaceAll('-', ' ')
  return text.charAt(0).toUpperCase() + text.slice(1)
}

/** A part's model as a kit wants it: metres, a primitive for each color region, named by its material. */
async function writePart(
  { positions, triangles, materials, materialOf }: PackPiece,
  name: string,
  regionOfMaterial: (material: PackMaterial) => string,
): Promise<Uint8Array> {
  const document = new Document()
  document.getRoot().getAsset().generator = 'idle-tinker'
  const buffer = document.createBuffer()
  const mesh = document.createMesh(name)
  materials.forEach((material, m) => {
    const corners = [...triangles.keys()].filter((c) => materialOf[Math.floor(c / 3)] === m)
    if (corners.length === 0) return
    const number = new Map<number, number>()
    const indices = Uint32Array.from(corners, (c) => {
      const v = triangles[c]!
      if (!number.has(v)) number.set(v, number.size)
      return number.get(v)!
    })
    const places = Float32Array.from([...number.keys()].flatMap((v) => [...positions.subarray(v * 3, v * 3 + 3)]))
    const accessor = (type: 'SCALAR' | 'VEC3', array: Uint32Array<ArrayBuffer> | Float32Array<ArrayBuffer>) =>
      document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
    mesh.addPrimitive(
      document
        .createPrimitive()
        .setMaterial(document.createMaterial(regionOfMaterial(material)).setRoughnessFactor(0.9).setMetallicFactor(0))
        .setIndices(accessor('SCALAR', indices))
        .setAttribute('POSITION', accessor('VEC3', places)),
    )
  })
  document.createScene(name).addChild(document.createNode(name).setMesh(mesh))
  return new WebIO().writeBinary(document)
}
