import { WebIO, type Document, type Node } from '@gltf-transform/core'
import { Color, LinearSRGBColorSpace } from 'three'
import { problem, type Problem, type Read } from '../base/problem.ts'
import { parseJson } from '../base/validate.ts'
import { checkGltf } from '../scene/checkGltf.ts'
import { placedMeshes, type PlacedPrimitive } from '../scene/placedMeshes.ts'
import { readScene } from '../scene/readScene.ts'
import type { Pack, PackPiece } from './Pack.ts'
import { pieceOf, sizeOf, stemOf } from './pieceOf.ts'
import { readObj } from './readObj.ts'

/** The files of a pack by path. */
export type PackFiles = ReadonlyMap<string, Uint8Array>

const MOST = { files: 2_000, bytes: 64 << 20, pieces: 2_000, triangles: 300_000 }
/** What else may lie in a pack and is read with a model, or not at all. */
const BESIDE = /\.(bin|mtl|png|jpe?g|webp|ktx2|txt|md|json|license|pdf)$/i

/**
 * Everything that can be read of a pack of loose models: GLB, glTF with its buffers, OBJ. A file that cannot be read
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
    pack.joints.push(...read.value.joints)
    for (const piece of read.value.pieces) {
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
  const pictured = pack.pieces.filter((p) => p.materials.some((m) => m.picture)).length
  if (pictured)
    problems.push(
      problem(
        'picture-left',
        'pack',
        `${pictured} of its pieces have pictures on them, which are not taken along: they come in one color each.`,
        'Give them their colors on the Bench.',
        'warning',
      ),
    )
  if (pack.pieces.length === 0) {
    problems.push(problem('pack-empty', 'pack', 'No model was found in it.', 'Drop GLB, glTF or OBJ files.'))
    return { value: null, problems }
  }
  return { value: pack, problems }
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

const setAside = (where: string, message: string) =>
  problem('piece-set-aside', where, message, 'Mend it where it was made, and bring it in again.', 'warning')

/** Sizes that no unit makes sense of, in numbers of the file. */
const LEAST_SIZE = 1e-6
const MOST_SIZE = 1e8

/** What one file holds; null where it is none that holds models. */
async function readOne(path: string, files: PackFiles): Promise<Read<Pack> | null> {
  const bytes = files.get(path)!
  const kind = path.slice(path.lastIndexOf('.') + 1).toLowerCase()
  if (kind === 'glb') return readDocument(await readScene(bytes, path), path)
  if (kind === 'gltf') return readDocument(await readGltf(path, files), path)
  if (kind === 'obj') return readObj(textOf(bytes), path, libraryBeside(path, files))
  if (BESIDE.test(path) || path.split('/').at(-1)!.startsWith('.')) return null
  const message = 'It is no kind of file that is read here.'
  return { value: null, problems: [problem('file-unknown', path, message, 'Export it as GLB.', 'warning')] }
}

/** Marks a material that had a picture before it was left out. */
const PICTURE = 'tinkerPicture'

const textOf = (bytes: Uint8Array) => new TextDecoder().decode(bytes)
const folderOf = (path: string) => path.slice(0, path.lastIndexOf('/') + 1)

/** All material files in the folder of a file, one after another. */
function libraryBeside(path: string, files: PackFiles): string {
  const beside = [...files].filter(([other]) => /\.mtl$/i.test(other) && folderOf(other) === folderOf(path))
  return beside.map(([, bytes]) => textOf(bytes)).join('\n')
}

/** A glTF file with the buffers it names, which must lie in the pack. */
async function readGltf(path: string, files: PackFiles): Promise<Read<Document>> {
  const give = (message: string, remedy: string): Read<Document> => ({
    value: null,
    problems: [problem('gltf-broken', path, message, remedy, 'warning')],
  })
  const { value, problems } = parseJson(textOf(files.get(path)!), path)
  if (problems.length) return { value: null, problems }
  const faults = checkGltf(value, path)
  if (faults.length) return { value: null, problems: faults }
  const json = value as {
    buffers?: { uri?: unknown }[]
    materials?: ({ name?: unknown; pbrMetallicRoughness?: Record<string, unknown> | null } | null)[]
    images?: unknown
    textures?: unknown
  }
  try {
    const resources: Record<string, Uint8Array<ArrayBuffer>> = {}
    for (const [i, { uri }] of (json.buffers ?? []).entries()) {
      if (typeof uri !== 'string') return give(`Its buffer ${i} names no file.`, 'Export it as GLB.')
      if (uri.startsWith('data:')) continue
      const found = files.get(folderOf(path) + decodePath(uri))
      if (!found) return give(`Its buffer “${uri.slice(0, 80)}” is not in the pack.`, 'Add it, or export as GLB.')
      resources[uri] = new Uint8Array(found)
    }
    // what is sorted is told by its shape: pictures are not read here, so none has to be found
    const { images: _images, textures: _textures, materials, ...bare } = json
    const plain = materials?.map((material) => {
      const { baseColorFactor, baseColorTexture } = material?.pbrMetallicRoughness ?? {}
      return {
        extras: { [PICTURE]: baseColorTexture !== undefined },
        ...(typeof material?.name === 'string' ? { name: material.name } : {}),
        ...(Array.isArray(baseColorFactor) ? { pbrMetallicRoughness: { baseColorFactor } } : {}),
      }
    })
    const document = await new WebIO().readJSON({
      json: { ...bare, ...(plain && { materials: plain }) } as never,
      resources,
    })
    return { value: document, problems: [] }
  } catch (error) {
    return give(`It cannot be read: ${error instanceof Error ? error.message : String(error)}`, 'Export it as GLB.')
  }
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

function readDocument(read: Read<Document>, path: string): Read<Pack> {
  // a file of a pack that cannot be read is left out: the others are not held up
  const problems = read.problems.map((p): Problem => ({ ...p, severity: 'warning' }))
  if (!read.value) return { value: null, problems }
  const { primitives, joints, faults } = placedMeshes(read.value)
  problems.push(...faults.map(({ code, message }) => problem(code, path, message, 'Repair it.', 'warning')))
  const byNode = new Map<Node, PlacedPrimitive[]>()
  for (const primitive of primitives) {
    const runs = byNode.get(primitive.node)
    if (runs) runs.push(primitive)
    else byNode.set(primitive.node, [primitive])
  }
  const stem = stemOf(path)
  const pieces = [...byNode].flatMap(([node, runs], i): PackPiece[] => {
    const piece = pieceOf(
      runs.map(({ primitive, positions, indices, material }) => ({
        positions,
        normals: primitive.getAttribute('NORMAL')?.getArray() ?? null,
        indices,
        material: {
          name: material?.getName() || 'plain',
          color: hexOf(material?.getBaseColorFactor()),
          picture: Boolean(material?.getBaseColorTexture() ?? material?.getExtras()[PICTURE]),
        },
      })),
    )
    if (!piece) return []
    const own = [node.getName(), node.getMesh()?.getName() ?? '']
    // a file that holds one thing is called what that is
    const names = (byNode.size === 1 ? [stem, ...own] : [...own, stem]).filter((name) => name !== '')
    return [{ ...piece, id: `${path}#${i}`, names: [...new Set(names)] }]
  })
  return { value: { pieces, joints: joints.map(({ name, at }) => ({ name, at })) }, problems }
}
