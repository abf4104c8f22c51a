import { WebIO, type Primitive } from '@gltf-transform/core'
import type { Mesh, Morph } from '../mesh/Mesh.ts'
import { computeNormals, createNormalScratch } from '../mesh/normals.ts'
import { weldRows } from '../mesh/weld.ts'
import { problem, type Problem, type Read } from '../base/problem.ts'

/** A model as read from a kit's GLB: the mesh, and the names its joint indices stand for. */
export interface Model {
  mesh: Mesh
  boneNames: string[]
}

const MAX_POINTS = 60_000

/**
 * Reads one GLB into one mesh. Materials name the color regions; vertices at one place that shape
 * alike become one point. Faults are problems, never exceptions.
 */
export async function readModel(bytes: Uint8Array, where: string): Promise<Read<Model>> {
  const fault = (code: string, message: string, remedy: string): Read<Model> => ({
    value: null,
    problems: [problem(code, where, message, remedy)],
  })
  if (bytes.length === 0) return fault('glb-empty', 'The file is empty (0 bytes).', 'Export it again.')
  if (bytes.length < 12 || bytes[0] !== 0x67 || bytes[1] !== 0x6c || bytes[2] !== 0x54 || bytes[3] !== 0x46)
    return fault('glb-foreign', 'This is not a GLB file.', 'Save the model as binary glTF 2.0.')
  const said = new DataView(bytes.buffer, bytes.byteOffset).getUint32(8, true)
  if (said > bytes.length)
    return fault(
      'glb-cut-off',
      `The file says it has ${said} bytes but only ${bytes.length} are there.`,
      'Copy or export it again.',
    )
  try {
    const document = await new WebIO().readBinary(bytes)
    const primitives: { primitive: Primitive; names: string[] }[] = []
    for (const mesh of document.getRoot().listMeshes()) {
      const extras = mesh.getExtras() as { targetNames?: unknown }
      const names = Array.isArray(extras.targetNames) ? extras.targetNames.map(String) : []
      for (const primitive of mesh.listPrimitives()) primitives.push({ primitive, names })
    }
    const skin = document.getRoot().listSkins()[0]
    const boneNames = skin ? skin.listJoints().map((joint) => joint.getName()) : []
    return assemble(primitives, boneNames, where)
  } catch (error) {
    const detail = error instanceof Error ? error.message : String(error)
    return fault('glb-broken', `The file cannot be read as glTF: ${detail}`, 'Export it again.')
  }
}

function assemble(
  primitives: { primitive: Primitive; names: string[] }[],
  boneNames: string[],
  where: string,
): Read<Model> {
  const problems: Problem[] = []
  const give = (code: string, message: string, remedy: string): Read<Model> => ({
    value: null,
    problems: [...problems, problem(code, where, message, remedy)],
  })
  const usable = primitives.filter(({ primitive }) => primitive.getMode() === 4 && primitive.getAttribute('POSITION'))
  if (usable.length === 0)
    return give('model-empty', 'There are no triangles in the file.', 'Export a mesh with faces.')

  const morphNames = [...new Set(usable.flatMap(({ names }) => names))]
  const stride = 3 + 3 * morphNames.length
  const corners = usable.reduce((n, { primitive }) => n + primitive.getAttribute('POSITION')!.getCount(), 0)
  const rows = new Float32Array(corners * stride)
  const jointsAt = new Uint8Array(corners * 4)
  const weightsAt = new Float32Array(corners * 4)
  const regions = new Uint8Array(corners)
  const shades = new Uint8Array(corners).fill(255)
  const softness = new Uint8Array(corners)
  const regionNames: string[] = []
  const indices: number[] = []
  let base = 0
  const element: number[] = []
  for (const { primitive, names } of usable) {
    const position = primitive.getAttribute('POSITION')!
    const count = position.getCount()
    const regionName = primitive.getMaterial()?.getName() || 'plain'
    let region = regionNames.indexOf(regionName)
    if (region < 0) region = regionNames.push(regionName) - 1
    const color = primitive.getAttribute('COLOR_0')
    const soft = primitive.getAttribute('_SOFTNESS')
    const joints = primitive.getAttribute('JOINTS_0')
    const weights = primitive.getAttribute('WEIGHTS_0')
    const targets = primitive.listTargets().map((t) => t.getAttribute('POSITION'))
    for (let i = 0; i < count; i++) {
      const corner = base + i
      position.getElement(i, element)
      for (let k = 0; k < 3; k++) {
        const v = element[k]!
        if (!Number.isFinite(v))
          return give(
            'model-nan',
            `Vertex ${i} has a position that is not a number.`,
            'Repair the mesh and export it again.',
          )
        rows[corner * stride + k] = v
      }
      targets.forEach((target, t) => {
        const m = morphNames.indexOf(names[t] ?? '')
        if (!target || m < 0) return
        target.getElement(i, element)
        for (let k = 0; k < 3; k++) rows[corner * stride + 3 + 3 * m + k] = element[k]!
      })
      regions[corner] = region
      if (color) shades[corner] = Math.round(Math.min(1, color.getElement(i, element)[0]!) * 255)
      if (soft) softness[corner] = Math.round(Math.min(1, Math.max(0, soft.getElement(i, element)[0]!)) * 255)
      if (joints && weights) {
        jointsAt.set(joints.getElement(i, element).slice(0, 4), corner * 4)
        weightsAt.set(weights.getElement(i, element).slice(0, 4), corner * 4)
      }
    }
    const index = primitive.getIndices()
    const n = index ? index.getCount() : count
    for (let i = 0; i < n - (n % 3); i++) {
      const v = index ? index.getScalar(i) : i
      if (v >= count)
        return give(
          'model-index',
          `Triangle ${Math.floor(i / 3)} names a vertex that is not there.`,
          'Export it again.',
        )
      indices.push(base + v)
    }
    base += count
  }

  const { kindOf, first } = weldRows(rows, stride)
  if (first.length > MAX_POINTS)
    return give(
      'model-large',
      `The model has ${first.length} points; a part may have ${MAX_POINTS}.`,
      'Reduce it first.',
    )
  const positions = new Float32Array(first.length * 3)
  const joints = new Uint8Array(first.length * 4)
  const weights = new Float32Array(first.length * 4)
  first.forEach((corner, point) => {
    for (let k = 0; k < 3; k++) positions[point * 3 + k] = rows[corner * stride + k]!
    for (let k = 0; k < 4; k++) {
      joints[point * 4 + k] = jointsAt[corner * 4 + k]!
      weights[point * 4 + k] = weightsAt[corner * 4 + k]!
    }
  })
  const morphs: Morph[] = morphNames.map((name, m) => {
    const points: number[] = []
    const deltas: number[] = []
    first.forEach((corner, point) => {
      const at = corner * stride + 3 + 3 * m
      if (rows[at] !== 0 || rows[at + 1] !== 0 || rows[at + 2] !== 0) {
        points.push(point)
        deltas.push(rows[at]!, rows[at + 1]!, rows[at + 2]!)
      }
    })
    return { name, points: Uint32Array.from(points), deltas: Float32Array.from(deltas) }
  })
  const mesh: Mesh = {
    positions,
    joints,
    weights,
    morphs,
    cornerPoints: kindOf,
    normals: new Float32Array(corners * 3),
    softness,
    shades,
    regions,
    regionNames,
    uvs: new Float32Array(corners * 2),
    indices: Uint32Array.from(indices),
  }
  computeNormals(mesh, positions, mesh.normals, createNormalScratch(mesh))
  return { value: { mesh, boneNames }, problems }
}
