import { Color, Mesh, SRGBColorSpace, type BufferGeometry, type Material } from 'three'
import { MTLLoader } from 'three/addons/loaders/MTLLoader.js'
import { OBJLoader } from 'three/addons/loaders/OBJLoader.js'
import { problem, type Problem, type Read } from '../base/problem.ts'
import type { Pixels } from '../color/decodeImage.ts'
import type { Paint } from '../kit/readModel.ts'
import type { Pack, PackPiece } from './Pack.ts'
import { partByColor, partByVertexColors, pictureReader } from './partByColor.ts'
import { pictureFaults, pictureMissing, sizeOfPicture } from './pictureFaults.ts'
import { facingAgainst, NOT_DRAWN, pieceOf, setAside, stemOf, type Run } from './pieceOf.ts'

/** What has no color of its own. */
const PLAIN = '#cccccc'

/** Lines that say something of surfaces; of others (curves, comments, what no program writes) the reader would only complain. */
const LINES = /^\s*(?:v|vn|vt|f|o|g|usemtl|s)\s/

/**
 * Reads a Wavefront OBJ file: a piece for each object or group.
 *
 * @param library what is known of its materials, as in MTL files
 * @param beside  a picture that lies beside it, by its name
 */
export function readObj(
  text: string,
  path: string,
  library: string,
  beside: (name: string) => Paint | null = () => null,
): Read<Pack> {
  let meshes: Mesh<BufferGeometry, Material | Material[]>[]
  let materialsInfo: Record<string, { kd?: unknown[]; map_kd?: unknown }>
  try {
    const lines = text.replaceAll(/\\\r?\n/g, ' ').split(/\r?\n/)
    const plain = lines.filter((line) => LINES.test(line)).join('\n')
    meshes = new OBJLoader().parse(plain).children.filter((child) => child instanceof Mesh) as typeof meshes
    materialsInfo = new MTLLoader().parse(library, '').materialsInfo as typeof materialsInfo
  } catch (error) {
    const message = `It cannot be read as OBJ: ${error instanceof Error ? error.message : String(error)}`
    return { value: null, problems: [problem('obj-broken', path, message, 'Export it again.', 'warning')] }
  }
  const colorOf = (name: string): string => {
    const [r, g, b] = (materialsInfo[name]?.kd ?? []).map(Number)
    // the format says nothing of color spaces: what programs write is what they show
    const color = new Color().setRGB(r ?? NaN, g ?? NaN, b ?? NaN, SRGBColorSpace)
    return [r, g, b].every((v) => Number.isFinite(v)) ? `#${color.getHexString()}` : PLAIN
  }
  const hasPicture = (name: string) => 'map_kd' in (materialsInfo[name] ?? {})
  const pixelsOf = pictureReader()
  /** What is told of each picture that is asked for. */
  const told = new Map<string, Problem[]>()
  /** The picture of a material; options may stand before its name. */
  const pictureOf = (name: string): Pixels | null => {
    const map = materialsInfo[name]?.map_kd
    if (typeof map !== 'string') return null
    const last = map.split(/\s+/).at(-1)!
    const paint = beside(map) ?? beside(last)
    const file = map.startsWith('-') ? last : map
    if (!told.has(file))
      told.set(
        file,
        paint ? pictureFaults(file, sizeOfPicture(paint.image, paint.mimeType), path) : [pictureMissing(file, path)],
      )
    return paint && pixelsOf(paint)
  }
  const stem = stemOf(path)
  const aside: Problem[] = []
  const pieces = meshes.flatMap((mesh, i): PackPiece[] => {
    const id = `${path}#${i}`
    const piece = pieceOf(runsOf(mesh, colorOf, hasPicture, pictureOf))
    if (!piece) aside.push(setAside(id, NOT_DRAWN))
    return piece ? [{ ...piece, id, names: [...new Set([mesh.name, stem].filter(Boolean))] }] : []
  })
  return { value: { pieces, joints: [] }, problems: [...[...told.values()].flat(), ...aside] }
}

/** Every group of an object; each of its vertices is a corner of its own. */
function runsOf(
  { geometry, material }: Mesh<BufferGeometry, Material | Material[]>,
  colorOf: (name: string) => string,
  hasPicture: (name: string) => boolean,
  pictureOf: (name: string) => Pixels | null,
): Run[] {
  const position = geometry.getAttribute('position')
  if (!position) return []
  const materials = Array.isArray(material) ? material : [material]
  const groups = geometry.groups.length ? geometry.groups : [{ start: 0, count: position.count, materialIndex: 0 }]
  const corners = groups.map(({ start, count }) => Math.min(count, position.count - start))
  const normal = geometry.getAttribute('normal')
  const uv = geometry.getAttribute('uv')
  const tint = geometry.getAttribute('color')
  return groups.flatMap(({ start, materialIndex }, g): Run[] => {
    const name = materials[materialIndex ?? 0]?.name || 'plain'
    const [from, to] = [start * 3, (start + corners[g]!) * 3]
    const positions = position.array.slice(from, to)
    const normals = normal ? normal.array.slice(from, to) : null
    const indices = [...Array(corners[g]! - (corners[g]! % 3)).keys()]
    const run: Run = {
      ...{ positions, normals, indices },
      material: { name, color: colorOf(name), picture: hasPicture(name) },
      found: {
        // every corner of a face names its own: how many there were, only the whole file tells
        vertices: 0,
        influences: 0,
        weightsOff: 0,
        normals: normals !== null,
        against: normals ? facingAgainst(positions, normals, indices) : 0,
        scaled: false,
      },
    }
    // a material that is grey beside them is mostly one that nobody set
    if (tint?.count === position.count && !run.material.picture)
      return partByVertexColors(run, { colors: tint.array.slice(from, to), factor: [1, 1, 1] })
    const picture = pictureOf(name)
    if (!picture || !uv) return [run]
    // here pictures begin below
    const uvs = Array.from(uv.array.slice(start * 2, (start + corners[g]!) * 2), (v, i) => (i % 2 ? 1 - v : v))
    return partByColor(run, { picture, uvs, factor: [1, 1, 1] })
  })
}
