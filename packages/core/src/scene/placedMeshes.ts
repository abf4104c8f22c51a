import { Matrix4, Vector3 } from 'three'
import { placedOn } from './baseColors.ts'
import type { Accessor, Document, mat4, Material, Node, Primitive } from '@gltf-transform/core'

/** One run of triangles of a scene, in the world as it stands at rest. */
export interface PlacedPrimitive {
  node: Node
  primitive: Primitive
  material: Material | null
  /** World positions, metres as the file counts them; xyz a vertex. */
  positions: Float32Array
  /** Morph targets by name: world displacements, xyz a vertex; null where a target moves no positions. */
  morphs: { name: string; deltas: Float32Array | null }[]
  /** Joint numbers in `joints` of the scene, four a vertex, strongest first; null if it has no skin. */
  joints: Uint16Array | null
  /** Weights, falling, summing to one where there are any; four a vertex. */
  weights: Float32Array | null
  /** Where vertices lie on the picture of their material, uv each, origin upper left. */
  uvs: Float32Array | null
  /** Vertices of triangles, wound as seen from outside; strips and fans are spread out, mirrored nodes turned back. */
  indices: Uint32Array
}

/** A joint that some mesh hangs on, at rest. */
export interface PlacedJoint {
  name: string
  at: [number, number, number]
  /** Index of the nearest joint above it, -1 if there is none. */
  parent: number
}

export interface PlacedMeshes {
  primitives: PlacedPrimitive[]
  joints: PlacedJoint[]
  /** What could not be taken as it is, in plain words. */
  faults: { code: string; message: string }[]
}

/**
 * Every triangle of a scene where it really stands: node transforms applied, and skinned meshes as
 * their joints hold them at rest (the glTF rule: a skinned mesh ignores its own node). All skins
 * share one list of joints.
 */
export function placedMeshes(document: Document): PlacedMeshes {
  const joints: PlacedJoint[] = []
  const jointOf = new Map<Node, number>()
  const faults: PlacedMeshes['faults'] = []
  for (const skin of document.getRoot().listSkins())
    for (const node of skin.listJoints()) {
      if (jointOf.has(node)) continue
      jointOf.set(node, joints.length)
      const at = node.getWorldTranslation()
      joints.push({ name: node.getName(), at: [at[0], at[1], at[2]], parent: -1 })
    }
  for (const [node, i] of jointOf)
    for (let up = node.getParentNode(); up; up = up.getParentNode()) {
      const parent = jointOf.get(up)
      if (parent === undefined) continue
      joints[i]!.parent = parent
      break
    }

  const primitives: PlacedPrimitive[] = []
  const shown = nodesShown(document)
  for (const node of document.getRoot().listNodes()) {
    const mesh = node.getMesh()
    if (!mesh || !shown.has(node)) continue
    const extras = mesh.getExtras() as { targetNames?: unknown }
    const names = Array.isArray(extras.targetNames) ? extras.targetNames.map(String) : []
    for (const primitive of mesh.listPrimitives()) {
      const indices = trianglesOf(primitive)
      const positions = primitive.getAttribute('POSITION')
      if (!indices || !positions) {
        if (!indices && positions) faults.push({ code: 'mode-unused', message: 'Points and lines are left out.' })
        continue
      }
      const placed = place(node, primitive, positions, names, jointOf, faults)
      if (placed) primitives.push({ ...placed, indices: placed.mirrored ? turned(indices) : indices })
    }
  }
  return { primitives, joints, faults }
}

/** The nodes of the scenes: coarser levels of detail, say, hang in none. All nodes where a file has no scene. */
function nodesShown(document: Document): Set<Node> {
  const root = document.getRoot()
  const scenes = root.listScenes()
  if (scenes.length === 0) return new Set(root.listNodes())
  const shown = new Set<Node>()
  for (const scene of scenes) scene.traverse((node) => shown.add(node))
  return shown
}

/** Triangles as vertex triples, from a list, a strip or a fan; null for points and lines. */
function trianglesOf(primitive: Primitive): Uint32Array | null {
  const mode = primitive.getMode()
  if (mode < 4) return null
  const index = primitive.getIndices()
  const count = index ? index.getCount() : (primitive.getAttribute('POSITION')?.getCount() ?? 0)
  const at = (i: number) => (index ? index.getScalar(i) : i)
  if (mode === 4) return Uint32Array.from({ length: count - (count % 3) }, (_, i) => at(i))
  const out: number[] = []
  for (let i = 2; i < count; i++) {
    const triangle =
      mode === 6 ? [at(0), at(i - 1), at(i)] : i % 2 ? [at(i - 1), at(i - 2), at(i)] : [at(i - 2), at(i - 1), at(i)]
    // strips are joined by triangles without area
    if (new Set(triangle).size === 3) out.push(...triangle)
  }
  return Uint32Array.from(out)
}

const turned = (indices: Uint32Array) => {
  const out = indices.slice()
  for (let i = 0; i + 2 < out.length; i += 3) [out[i + 1], out[i + 2]] = [out[i + 2]!, out[i + 1]!]
  return out
}

function place(
  node: Node,
  primitive: Primitive,
  accessor: Accessor,
  names: readonly string[],
  jointOf: ReadonlyMap<Node, number>,
  faults: PlacedMeshes['faults'],
): (Omit<PlacedPrimitive, 'indices'> & { mirrored: boolean }) | null {
  const count = accessor.getCount()
  const skin = node.getSkin()
  const bound = skin ? influencesOf(primitive, count) : null
  if (bound?.fault) {
    faults.push(bound.fault)
    return null
  }
  const local = skin?.listJoints() ?? []
  const inverse = skin?.getInverseBindMatrices()
  const held = local.map((joint, i) => {
    const own = new Matrix4()
    if (inverse) own.fromArray(inverse.getElement(i, []))
    return settled(matrixOf(joint.getWorldMatrix()).multiply(own))
  })
  const world = matrixOf(node.getWorldMatrix())
  if (bound && bound.most >= local.length) {
    faults.push({ code: 'skin-joint', message: `The skin names joint ${bound.most}, but has ${local.length}.` })
    return null
  }
  const matrixAt = (v: number, out: Matrix4): Matrix4 => {
    if (!bound || bound.weights[v * 4] === 0) return out.copy(world)
    out.elements.fill(0)
    for (let k = 0; k < 4; k++) {
      const w = bound.weights[v * 4 + k]!
      if (w === 0) continue
      const from = held[bound.joints[v * 4 + k]!]!.elements
      for (let e = 0; e < 16; e++) out.elements[e]! += w * from[e]!
    }
    return out
  }
  const targets = primitive.listTargets().map((t, i) => ({
    name: names[i] || t.getName() || `morph-${i + 1}`,
    from: t.getAttribute('POSITION'),
  }))
  const positions = new Float32Array(count * 3)
  const morphs = targets.map(({ name, from }) => ({ name, deltas: from ? new Float32Array(count * 3) : null }))
  /** How each vertex is turned and scaled into the world, 16 numbers each. */
  const turns = new Float64Array(count * 16)
  const matrix = new Matrix4()
  const point = new Vector3()
  const element: number[] = []
  for (let v = 0; v < count; v++) {
    matrixAt(v, matrix)
    point.fromArray(accessor.getElement(v, element)).applyMatrix4(matrix)
    point.toArray(positions, v * 3)
    turns.set(matrix.elements, v * 16)
  }
  targets.forEach(({ from }, m) => {
    if (!from) return
    const moves = rowsOf(from)
    const out = morphs[m]!.deltas!
    for (let i = 0; i < out.length; i += 3) {
      const x = moves[i]!
      const y = moves[i + 1]!
      const z = moves[i + 2]!
      // most targets leave most points alone
      if (x === 0 && y === 0 && z === 0) continue
      const e = (i / 3) * 16
      for (let k = 0; k < 3; k++) out[i + k] = turns[e + k]! * x + turns[e + 4 + k]! * y + turns[e + 8 + k]! * z
    }
  })
  const uv = primitive.getAttribute('TEXCOORD_0')
  return {
    node,
    primitive,
    material: primitive.getMaterial(),
    positions,
    morphs,
    joints: bound ? bound.joints.map((j) => jointOf.get(local[j]!)!) : null,
    weights: bound?.weights ?? null,
    uvs: uv
      ? placedOn(
          primitive.getMaterial(),
          Float32Array.from({ length: count * 2 }, (_, i) => uv.getElement(i >> 1, element)[i & 1]!),
        )
      : null,
    mirrored: (bound && held[0] ? held[0] : world).determinant() < 0,
  }
}

/** All elements of an accessor of three numbers each, as numbers; its own array where that is what it holds. */
function rowsOf(accessor: Accessor): ArrayLike<number> {
  const array = accessor.getArray()
  if (array instanceof Float32Array) return array
  const out = new Float64Array(accessor.getCount() * 3)
  const element: number[] = []
  for (let v = 0; v < accessor.getCount(); v++) out.set(accessor.getElement(v, element), v * 3)
  return out
}

function matrixOf(m: mat4): Matrix4 {
  return new Matrix4().fromArray(m)
}

/** A joint that stands as it was bound leaves its points where they are, to the last bit. */
function settled(matrix: Matrix4): Matrix4 {
  const still = new Matrix4()
  return matrix.elements.every((v, i) => Math.abs(v - still.elements[i]!) < 1e-5) ? still : matrix
}

interface Influences {
  joints: Uint16Array
  weights: Float32Array
  /** The largest joint number in use. */
  most: number
  fault?: undefined
}

/** The four strongest influences of each vertex, of however many sets the file has. */
function influencesOf(
  primitive: Primitive,
  count: number,
): Influences | { fault: { code: string; message: string } } | null {
  const sets: { joints: Accessor; weights: Accessor }[] = []
  for (let n = 0; ; n++) {
    const joints = primitive.getAttribute(`JOINTS_${n}`)
    const weights = primitive.getAttribute(`WEIGHTS_${n}`)
    if (!joints || !weights) break
    sets.push({ joints, weights })
  }
  if (sets.length === 0) return null
  const out: Influences = { joints: new Uint16Array(count * 4), weights: new Float32Array(count * 4), most: 0 }
  const [j, w]: number[][] = [[], []]
  for (let v = 0; v < count; v++) {
    const shares: [joint: number, weight: number][] = []
    for (const { joints, weights } of sets) {
      joints.getElement(v, j!)
      weights.getElement(v, w!)
      for (let k = 0; k < 4; k++) {
        const weight = w![k]!
        if (!Number.isFinite(weight) || weight < 0)
          return { fault: { code: 'skin-weight', message: `Vertex ${v} has a weight that is no share (${weight}).` } }
        if (weight === 0) continue
        const same = shares.find(([joint]) => joint === j![k]!)
        if (same) same[1] += weight
        else shares.push([j![k]!, weight])
      }
    }
    shares.sort((a, b) => b[1] - a[1] || a[0] - b[0])
    const four = shares.slice(0, 4)
    const sum = four.reduce((s, [, weight]) => s + weight, 0)
    four.forEach(([joint, weight], k) => {
      out.joints[v * 4 + k] = joint
      out.weights[v * 4 + k] = weight / sum
      out.most = Math.max(out.most, joint)
    })
  }
  return out
}
