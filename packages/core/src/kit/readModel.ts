import type { Document, Material } from '@gltf-transform/core'
import { problem, type Problem, type Read } from '../base/problem.ts'
import type { Mesh, Morph } from '../mesh/Mesh.ts'
import { computeNormals, createNormalScratch } from '../mesh/normals.ts'
import { weldRows } from '../mesh/weld.ts'
import { placedMeshes, type PlacedJoint, type PlacedPrimitive } from '../scene/placedMeshes.ts'
import { readScene } from '../scene/readScene.ts'

/** A painted surface: an image in its file's own form, as it stands in the model's materials. */
export interface Paint {
  mimeType: string
  image: Uint8Array
}

/** A model as read from a file: one mesh, the joints its indices stand for, and what its regions are painted with. */
export interface Model {
  mesh: Mesh
  joints: PlacedJoint[]
  /** Color region to its texture, where its material has one. */
  paints: Map<string, Paint>
}

const MOST_POINTS = 60_000
const MOST_REGIONS = 200
/** Rows that are compared to find equal points hold this many numbers in all at most. */
const MOST_NUMBERS = 60_000_000

/** Reads a GLB as the model of a part or body; see `modelOf`. */
export async function readModel(bytes: Uint8Array, where: string): Promise<Read<Model>> {
  const scene = await readScene(bytes, where)
  return scene.value ? modelOf(scene.value, where) : { value: null, problems: scene.problems }
}

/**
 * Makes one mesh of all a scene holds. Materials name the color regions; vertices at one place that
 * move alike become one point. Faults are problems, never exceptions.
 */
export function modelOf(document: Document, where: string): Read<Model> {
  const problems: Problem[] = []
  const give = (code: string, message: string, remedy: string): Read<Model> => ({
    value: null,
    problems: [...problems, problem(code, where, message, remedy)],
  })
  const { primitives, joints, faults } = placedMeshes(document)
  for (const { code, message } of faults)
    if (code.startsWith('skin')) return give(code, message, 'Repair the skin and export it again.')
    else problems.push(problem(code, where, message, 'Export a mesh with faces.', 'info'))
  const corners = primitives.reduce((n, p) => n + p.positions.length / 3, 0)
  const indexCount = primitives.reduce((n, p) => n + p.indices.length, 0)
  if (indexCount === 0) return give('model-empty', 'There are no triangles in the file.', 'Export a mesh with faces.')

  const morphNames = [...new Set(primitives.flatMap((p) => p.morphs.map((m) => m.name)))]
  const stride = 11 + 3 * morphNames.length
  if (corners * stride > MOST_NUMBERS)
    return give(
      'model-large',
      `The model has ${corners} vertices and ${morphNames.length} morph targets; that is too much for a part.`,
      'Reduce it first.',
    )
  const rows = new Float32Array(corners * stride)
  const regions = new Uint16Array(corners)
  const shades = new Uint8Array(corners).fill(255)
  const softness = new Uint8Array(corners)
  const uvs = new Float32Array(corners * 2)
  const indices = new Uint32Array(indexCount)
  const regionNames: string[] = []
  const paints = new Map<string, Paint>()
  let [base, written] = [0, 0]
  for (const placed of primitives) {
    const name = placed.material?.getName() || 'plain'
    let region = regionNames.indexOf(name)
    if (region < 0) region = regionNames.push(name) - 1
    if (regionNames.length > MOST_REGIONS)
      return give('model-regions', `It has more than ${MOST_REGIONS} materials.`, 'Join materials of one color.')
    const paint = paintOf(placed.material)
    if (paint && !paints.has(name)) paints.set(name, paint)
    const fault = takeVertices(placed, base, stride, morphNames, rows)
    if (fault) return give(fault.code, fault.message, 'Repair the mesh and export it again.')
    const count = placed.positions.length / 3
    regions.fill(region, base, base + count)
    takeLook(placed, base, shades, softness, uvs)
    for (const v of placed.indices) {
      if (v >= count) return give('model-index', 'A triangle names a vertex that is not there.', 'Export it again.')
      indices[written++] = base + v
    }
    base += count
  }
  const { kindOf, first } = weldRows(rows, stride)
  if (first.length > MOST_POINTS)
    return give(
      'model-large',
      `The model has ${first.length} points; a part may have ${MOST_POINTS}.`,
      'Reduce it first.',
    )
  const mesh: Mesh = {
    ...pointsOf(rows, stride, first, morphNames),
    cornerPoints: kindOf,
    normals: new Float32Array(corners * 3),
    softness,
    shades,
    regions,
    regionNames,
    uvs,
    indices,
  }
  computeNormals(mesh, mesh.positions, mesh.normals, createNormalScratch(mesh))
  return { value: { mesh, joints, paints }, problems }
}

/** A vertex as a row of numbers: place, joints, weights, then a move for each morph. Equal rows are one point. */
function takeVertices(
  placed: PlacedPrimitive,
  base: number,
  stride: number,
  morphNames: readonly string[],
  rows: Float32Array,
): { code: string; message: string } | null {
  const { positions, joints, weights, morphs } = placed
  for (let v = 0; v < positions.length / 3; v++) {
    const o = (base + v) * stride
    for (let k = 0; k < 3; k++) {
      const value = positions[v * 3 + k]!
      if (!Number.isFinite(value))
        return { code: 'model-nan', message: `Vertex ${v} has a position that is not a number.` }
      rows[o + k] = value
    }
    if (!joints || !weights) continue
    for (let k = 0; k < 4; k++) {
      rows[o + 3 + k] = joints[v * 4 + k]!
      rows[o + 7 + k] = weights[v * 4 + k]!
    }
  }
  for (const { name, deltas } of morphs) {
    if (!deltas) continue
    const at = 11 + 3 * morphNames.indexOf(name)
    for (let i = 0; i < deltas.length; i++) {
      const value = deltas[i]!
      if (value === 0) continue
      if (!Number.isFinite(value))
        return { code: 'model-nan', message: `The morph target “${name}” has a move that is not a number.` }
      rows[(base + Math.floor(i / 3)) * stride + at + (i % 3)] = value
    }
  }
  return null
}

function takeLook(
  { primitive, uvs: own, positions }: PlacedPrimitive,
  base: number,
  shades: Uint8Array,
  softness: Uint8Array,
  uvs: Float32Array,
): void {
  const color = primitive.getAttribute('COLOR_0')
  const soft = primitive.getAttribute('_SOFTNESS')
  const element: number[] = []
  const byte = (v: number) => Math.round(Math.min(1, Math.max(0, v || 0)) * 255)
  for (let v = 0; v < positions.length / 3; v++) {
    if (color) shades[base + v] = byte(color.getElement(v, element)[0]!)
    if (soft) softness[base + v] = byte(soft.getElement(v, element)[0]!)
  }
  if (own)
    uvs.set(
      own.map((v) => (Number.isFinite(v) ? v : 0)),
      base * 2,
    )
}

function paintOf(material: Material | null): Paint | null {
  const texture = material?.getBaseColorTexture()
  const image = texture?.getImage()
  return image?.length ? { mimeType: texture!.getMimeType(), image } : null
}

function pointsOf(
  rows: Float32Array,
  stride: number,
  first: Uint32Array,
  morphNames: readonly string[],
): Pick<Mesh, 'positions' | 'joints' | 'weights' | 'morphs'> {
  const positions = new Float32Array(first.length * 3)
  const joints = new Uint16Array(first.length * 4)
  const weights = new Float32Array(first.length * 4)
  for (let p = 0; p < first.length; p++) {
    const o = first[p]! * stride
    for (let k = 0; k < 3; k++) positions[p * 3 + k] = rows[o + k]!
    for (let k = 0; k < 4; k++) {
      joints[p * 4 + k] = rows[o + 3 + k]!
      weights[p * 4 + k] = rows[o + 7 + k]!
    }
  }
  const morphs = morphNames.map((name, m): Morph => {
    const points: number[] = []
    const deltas: number[] = []
    for (let p = 0; p < first.length; p++) {
      const at = first[p]! * stride + 11 + 3 * m
      if (rows[at] === 0 && rows[at + 1] === 0 && rows[at + 2] === 0) continue
      points.push(p)
      deltas.push(rows[at]!, rows[at + 1]!, rows[at + 2]!)
    }
    return { name, points: Uint32Array.from(points), deltas: Float32Array.from(deltas) }
  })
  return { positions, joints, weights, morphs }
}
