import type { Accessor, Document, Material, Node, Primitive } from '@gltf-transform/core'
import { Color, LinearSRGBColorSpace, Matrix4 } from 'three'
import { problem, type Problem, type Read } from '../base/problem.ts'
import type { Paint } from '../kit/readModel.ts'
import { placedMeshes, type PlacedPrimitive } from '../scene/placedMeshes.ts'
import { colladaScene } from '../scene/colladaScene.ts'
import { dataOf } from '../scene/joinGltf.ts'
import { readGltf, type GltfJson } from '../scene/readGltf.ts'
import {
  baseColorOf,
  coordinatesOf,
  isColor,
  PICTURE_PLACE,
  PICTURE_UNREAD,
  picturePlaceOf,
} from '../scene/baseColors.ts'
import { readScene } from '../scene/readScene.ts'
import type { Pack, PackPiece, PieceFacts } from './Pack.ts'
import { coarserCopies } from './coarserCopies.ts'
import { facingAgainst, NOT_DRAWN, pieceOf, setAside, sizeOf, stemOf, type Run } from './pieceOf.ts'
import { partByColor, partByVertexColors, pictureKind, pictureReader } from './partByColor.ts'
import { pictureFaults, pictureMissing, sizeOfPicture } from './pictureFaults.ts'
import { readObj } from './readObj.ts'

/** The files of a pack by path. */
export type PackFiles = ReadonlyMap<string, Uint8Array>

const MOST = { files: 2_000, bytes: 64 << 20, pieces: 2_000, triangles: 300_000 }
/** What else may lie in a pack and is read with a model, or not at all. */
const BESIDE = /\.(bin|mtl|png|jpe?g|webp|ktx2|txt|md|json|license|pdf)$/i

/**
 * Everything that can be read of a pack of loose models: GLB, glTF with its buffers, OBJ, COLLADA. A file that cannot be read
 * costs only itself, and is told; so does a piece that is too large.
 */
export async function readPack(files: PackFiles): Promise<Read<Pack>> {
  const bytes = [...files.values()].reduce((sum, f) => sum + f.byteLength, 0)
  if (files.size > MOST.files || bytes > MOST.bytes)
    return refuse('pack-large', `It has ${files.size} files of ${bytes >> 20} MB in all.`)
  const problems: Problem[] = []
  const pack: Pack = { pieces: [], joints: [] }
  for (const path of [...files.keys()].sort()) {
    const read = await readOne(path, files)
    if (!read) continue
    problems.push(...read.problems)
    if (!read.value) continue
    if (read.value.pieces.length === 0 && read.problems.every((p) => p.severity === 'info'))
      problems.push(
        problem('model-none', path, 'There is no model in it.', 'If it is a motion, bring it in on Motion.', 'info'),
      )
    const before = pack.joints.length
    pack.joints.push(...read.value.joints.map((j) => ({ ...j, parent: j.parent < 0 ? -1 : j.parent + before })))
    for (const found of read.value.pieces) {
      const { skin } = found
      const piece = skin ? { ...found, skin: { ...skin, joints: skin.joints.map((j) => j + before) } } : found
      const triangles = piece.triangles.length / 3
      const size = sizeOf(piece)
      if (triangles > MOST.triangles)
        problems.push(setAside(piece.id, `It has ${triangles} triangles; a piece may have ${MOST.triangles}.`))
      else if (!(size > LEAST_SIZE && size < MOST_SIZE))
        problems.push(setAside(piece.id, size > 1 ? 'It is larger than anything can be.' : 'It has no size.'))
      else pack.pieces.push(piece)
    }
    if (pack.pieces.length > MOST.pieces) return refuse('pack-large', `It has more than ${MOST.pieces} pieces.`)
  }
  const coarser = coarserCopies(pack.pieces)
  if (coarser.size) {
    problems.push(copiesLeft([...coarser]))
    pack.pieces = pack.pieces.filter((p) => !coarser.has(p))
  }
  const pictured = pack.pieces.filter((p) => p.materials.some((m) => m.picture && !m.paint))
  if (pictured.length) problems.push(picturesLeft(pictured))
  if (pack.pieces.length === 0) {
    problems.push(problem('pack-empty', 'pack', 'No model was found in it.', 'Drop GLB, glTF, OBJ or COLLADA files.'))
    return { value: null, problems }
  }
  return { value: pack, problems }
}

/** So many pieces are told by name. */
const MOST_NAMED = 3

/** Some pieces by name, and how many more there are. */
function listed(pieces: readonly PackPiece[]): string {
  const names = pieces.slice(0, MOST_NAMED).map((p) => `“${p.names[0] ?? p.id}”`)
  const more = pieces.length - names.length
  return new Intl.ListFormat('en').format(more ? [...names, `${more} more`] : names)
}

/** What is told of coarser copies of pieces. */
function copiesLeft(copies: readonly (readonly [copy: PackPiece, finest: PackPiece])[]): Problem {
  const [[first, finest]] = copies as [(typeof copies)[number]]
  const message =
    copies.length === 1
      ? `${listed([first])} is a coarser copy of ${listed([finest])}: it is left out.`
      : `${listed(copies.map(([copy]) => copy))} are coarser copies of others: they are left out.`
  return problem('copy-left', 'pack', message, 'Here every figure is reduced from the finest there is.', 'info')
}

/** What is told of pieces whose pictures are left out. */
function picturesLeft(pieces: readonly PackPiece[]): Problem {
  const list = listed(pieces)
  return problem(
    'picture-left',
    'pack',
    pieces.length === 1
      ? `The picture on ${list} is repeated over its surface, or cannot be read: it comes in one color.`
      : `The pictures on ${list} are repeated over their surface, or cannot be read: they come in one color each.`,
    'Color on the Bench what lost its picture.',
    'warning',
  )
}

const refuse = (code: string, message: string): Read<Pack> => ({
  value: null,
  problems: [
    problem(
      code,
      'pack',
      message,
      `A pack may have ${MOST.files} files, ${MOST.bytes >> 20} MB, ${MOST.pieces} pieces.`,
    ),
  ],
})

/** Sizes that no unit makes sense of, in numbers of the file. */
const LEAST_SIZE = 1e-6
const MOST_SIZE = 1e8

/** What one file holds; null where it is none that holds models. */
async function readOne(path: string, files: PackFiles): Promise<Read<Pack> | null> {
  const bytes = files.get(path)!
  const kind = path.slice(path.lastIndexOf('.') + 1).toLowerCase()
  // the same picture each time: it is read once, and lies in an atlas once
  const within = new Map<string, Paint>()
  const beside = (name: string): Paint | null => {
    if (name.startsWith('data:')) {
      const data = within.has(name) ? null : dataOf(name)
      if (data) within.set(name, { image: data.bytes, mimeType: data.mimeType })
      return within.get(name) ?? null
    }
    const image = files.get(besideOf(path, name))
    return image ? { image, mimeType: pictureKind(name) } : null
  }
  if (kind === 'glb') return readDocument(await readScene(bytes, path), path, beside)
  if (kind === 'gltf') return readDocument(await readGltfOf(path, files, beside), path, beside)
  if (kind === 'dae') return readDocument(colladaScene(textOf(bytes), path, beside), path, beside)
  if (kind === 'obj') return readObj(textOf(bytes), path, libraryBeside(path, files), beside)
  if (BESIDE.test(path) || path.split('/').at(-1)!.startsWith('.')) return null
  const message = 'It is no kind of file that is read here.'
  return { value: null, problems: [problem('file-unknown', path, message, 'Export it as GLB.', 'warning')] }
}

/** Marks a material that had a picture before that was left out: its file, where that is beside it. */
const PICTURE = 'tinkerPicture'

const textOf = (bytes: Uint8Array) => new TextDecoder().decode(bytes)
const folderOf = (path: string) => path.slice(0, path.lastIndexOf('/') + 1)

/** Where a file is that another one names, by the way from that one. */
function besideOf(path: string, name: string): string {
  const steps = folderOf(path).split('/').slice(0, -1)
  for (const step of decodePath(name).split(/[\\/]/))
    if (step === '..') steps.pop()
    else if (step !== '.' && step !== '') steps.push(step)
  return steps.join('/')
}

/** All material files in the folder of a file, one after another. */
function libraryBeside(path: string, files: PackFiles): string {
  const beside = [...files].filter(([other]) => /\.mtl$/i.test(other) && folderOf(other) === folderOf(path))
  return beside.map(([, bytes]) => textOf(bytes)).join('\n')
}

interface Look {
  materials?: ({ name?: unknown; alphaMode?: unknown } | null)[]
  images?: unknown
  textures?: unknown
}

/** A glTF file with the buffers it names, which must lie in the pack. */
async function readGltfOf(
  path: string,
  files: PackFiles,
  beside: (name: string) => Paint | null,
): Promise<Read<Document>> {
  let told: Problem[] = []
  const read = await readGltf(
    textOf(files.get(path)!),
    path,
    (uri) => files.get(besideOf(path, uri)),
    (json) => {
      // pictures are looked up one by one: none has to be there
      const { images, textures, materials, ...bare } = json as Omit<GltfJson, 'materials'> & Look
      told = picturesBeside(images, path, beside)
      const plain = materials?.map((material) => {
        const { factor, texture } = baseColorOf(material)
        const place = picturePlaceOf(texture)
        return {
          extras: {
            [PICTURE]: texture !== undefined && (uriOf(texture, textures, images) ?? true),
            ...(place && { [PICTURE_PLACE]: place }),
          },
          ...(typeof material?.name === 'string' ? { name: material.name } : {}),
          ...(material?.alphaMode === 'BLEND' || material?.alphaMode === 'MASK'
            ? { alphaMode: material.alphaMode }
            : {}),
          ...(isColor(factor) ? { pbrMetallicRoughness: { baseColorFactor: factor } } : {}),
        }
      })
      return { ...bare, ...(plain && { materials: plain }) }
    },
  )
  return { value: read.value, problems: [...read.problems, ...told] }
}

/** Where a texture's picture is, as glTF names it; null where it is in a buffer, or not so that it can be read here. */
function uriOf(info: unknown, textures: unknown, images: unknown): string | null {
  const { index } = (info ?? {}) as { index?: unknown }
  const at = (list: unknown, i: unknown) => (Array.isArray(list) && typeof i === 'number' ? (list[i] as unknown) : null)
  const { source } = (at(textures, index) ?? {}) as { source?: unknown }
  const { uri } = (at(images, source) ?? {}) as { uri?: unknown }
  return typeof uri === 'string' && coordinatesOf(info) === 0 ? uri : null
}

/** What is worth knowing of the pictures a glTF file names: whether they are there, and how large. */
function picturesBeside(images: unknown, path: string, beside: (name: string) => Paint | null): Problem[] {
  return (Array.isArray(images) ? images : []).flatMap((image: unknown, i) => {
    const uri = (image as { uri?: unknown } | null)?.uri
    if (typeof uri !== 'string') return []
    const name = uri.startsWith('data:') ? `${i + 1}` : uri
    const paint = beside(uri)
    return paint ? pictureFaults(name, sizeOfPicture(paint.image, paint.mimeType), path) : [pictureMissing(name, path)]
  })
}

/** A color of a material, linear, as #rrggbb; middling where there is none. */
function hexOf([r, g, b]: readonly number[] = [0.6, 0.6, 0.6]): string {
  return `#${new Color().setRGB(r!, g!, b!, LinearSRGBColorSpace).getHexString()}`
}

/** A path as addresses write it. */
function decodePath(uri: string): string {
  try {
    return decodeURIComponent(uri)
  } catch {
    return uri
  }
}

/** What is worth knowing of a file's materials and pictures. */
function materialFaults(document: Document, path: string): Problem[] {
  const root = document.getRoot()
  const problems = root
    .listTextures()
    .flatMap((t, i) => pictureFaults(t.getName() || t.getURI() || `${i + 1}`, t.getSize(), path))
  const used = new Set(root.listMeshes().flatMap((m) => m.listPrimitives().map((p) => p.getMaterial())))
  const named = (list: readonly Material[]) => list.map((m) => `“${m.getName() || 'unnamed'}”`).join(', ')
  const unused = root.listMaterials().filter((m) => !used.has(m))
  if (unused.length && used.size)
    problems.push(
      problem('material-unused', path, `Nothing is made of ${named(unused)}.`, 'They are left out.', 'info'),
    )
  const clear = root.listMaterials().filter((m) => used.has(m) && m.getAlphaMode() !== 'OPAQUE')
  if (clear.length)
    problems.push(
      problem('transparent', path, `One can see through ${named(clear)}.`, 'Here all is solid: look at it.', 'warning'),
    )
  return problems
}

function readDocument(read: Read<Document>, path: string, beside: (name: string) => Paint | null): Read<Pack> {
  // a file of a pack that cannot be read is left out: the others are not held up
  const problems = read.problems.map((p): Problem => ({ ...p, severity: 'warning' }))
  if (!read.value) return { value: null, problems }
  const { primitives, joints, faults } = placedMeshes(read.value)
  problems.push(...faults.map(({ code, message }) => problem(code, path, message, 'Repair it.', 'warning')))
  problems.push(...materialFaults(read.value, path))
  const byNode = new Map<Node, PlacedPrimitive[]>()
  for (const primitive of primitives) {
    const runs = byNode.get(primitive.node)
    if (runs) runs.push(primitive)
    else byNode.set(primitive.node, [primitive])
  }
  const stem = stemOf(path)
  const pixelsOf = pictureReader()
  const pieces = [...byNode].flatMap(([node, runs], i): PackPiece[] => {
    const piece = pieceOf(
      runs.flatMap(({ primitive, positions, indices, material, uvs, joints, weights }) => {
        const factor = factorOf(material)
        const run: Run = {
          ...{ positions, indices },
          skin: joints && weights ? { joints, weights } : null,
          normals: primitive.getAttribute('NORMAL')?.getArray() ?? null,
          material: {
            name: material?.getName() || 'plain',
            color: hexOf(factor),
            picture: hasPicture(material),
          },
          found: factsOf(node, primitive, indices),
        }
        const colors = run.material.picture ? null : colorsOf(primitive)
        if (colors) return partByVertexColors(run, { colors, factor: factor ?? WHITE })
        const paint = material && paintOf(material, beside)
        const picture = paint && uvs ? pixelsOf(paint) : null
        return picture ? partByColor(run, { picture, uvs: uvs!, factor: factor ?? WHITE }) : [run]
      }),
    )
    if (!piece) {
      problems.push(setAside(`${path}#${i}`, NOT_DRAWN))
      return []
    }
    const own = [node.getName(), node.getMesh()?.getName() ?? '']
    // a file that holds one thing is called what that is
    const names = (byNode.size === 1 ? [stem, ...own] : [...own, stem]).filter((name) => name !== '')
    return [{ ...piece, id: `${path}#${i}`, names: [...new Set(names)] }]
  })
  return { value: { pieces, joints }, problems }
}

const WHITE = [1, 1, 1]

/** The color that a material gives or multiplies by, linear; white where what it says is none; left out without a material. */
function factorOf(material: Material | null): readonly number[] | undefined {
  const said: unknown = material?.getBaseColorFactor()
  return said === undefined || isColor(said) ? said : WHITE
}

/** Whether a material is painted, with what can be had or not. */
function hasPicture(material: Material | null): boolean {
  const extras = material?.getExtras()
  return Boolean(material?.getBaseColorTexture() ?? extras?.[PICTURE] ?? extras?.[PICTURE_UNREAD])
}

/** The colors of vertices, linear, rgb each; null without, or where there are not as many. */
function colorsOf(primitive: Primitive): Float32Array | null {
  const color = primitive.getAttribute('COLOR_0')
  if (!color || color.getCount() !== primitive.getAttribute('POSITION')?.getCount()) return null
  const element: number[] = []
  const out = new Float32Array(color.getCount() * 3)
  for (let v = 0; v < color.getCount(); v++) out.set(color.getElement(v, element).slice(0, 3), v * 3)
  return out
}

/** What a material is painted with, where that can be had; null also where it lies on other coordinates than the first. */
function paintOf(material: Material, beside: (name: string) => Paint | null): Paint | null {
  const named = material.getExtras()[PICTURE]
  if (typeof named === 'string') return beside(named)
  const [texture, info] = [material.getBaseColorTexture(), material.getBaseColorTextureInfo()]
  const image = texture?.getImage()
  return image && (info?.getTexCoord() ?? 0) === 0 ? { image, mimeType: texture!.getMimeType() } : null
}

/** Weights may be off by so much and still be said to sum to one: bytes are as coarse as that. */
const WEIGHT_TOLERANCE = 0.01
const SCALE_TOLERANCE = 1e-3

/** What a file has of some triangles that is not kept. */
function factsOf(node: Node, primitive: Primitive, indices: Uint32Array): PieceFacts {
  const facts = { vertices: primitive.getAttribute('POSITION')?.getCount() ?? 0, influences: 0, weightsOff: 0 }
  const sets: Accessor[] = []
  for (let n = 0; ; n++) {
    const weights = primitive.getAttribute(`WEIGHTS_${n}`)
    if (!weights) break
    sets.push(weights)
  }
  const element: number[] = []
  for (let v = 0; v < (sets.length ? facts.vertices : 0); v++) {
    let bones = 0
    let sum = 0
    for (const weights of sets)
      for (const w of weights.getElement(v, element)) {
        if (w > 0) bones++
        sum += w
      }
    facts.influences = Math.max(facts.influences, bones)
    if (!(Math.abs(sum - 1) <= WEIGHT_TOLERANCE)) facts.weightsOff++
  }
  const [places, normals] = [
    primitive.getAttribute('POSITION')?.getArray(),
    primitive.getAttribute('NORMAL')?.getArray(),
  ]
  const skinned = sets.length > 0
  const scales = node.getWorldScale().map(Math.abs)
  const mirrored = new Matrix4().fromArray(node.getWorldMatrix()).determinant() < 0
  // in the mesh's own space, where both are: of a mirrored node the triangles have been turned back
  const wound = mirrored && !skinned ? indices.slice().reverse() : indices
  return {
    ...facts,
    normals: Boolean(normals),
    against: places && normals ? facingAgainst(places, normals, wound) : 0,
    // a skinned mesh does not ask its node; what is scaled alike every way is a matter of the unit
    scaled: !skinned && (mirrored || Math.min(...scales) < Math.max(...scales) * (1 - SCALE_TOLERANCE)),
  }
}
