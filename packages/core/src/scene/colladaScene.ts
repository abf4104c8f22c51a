import { Document, type Mesh, type Node, type Skin } from '@gltf-transform/core'
import { Matrix4, Vector3 } from 'three'
import { FileFault, readOrTell } from '../base/FileFault.ts'
import { problem, type Read } from '../base/problem.ts'
import { allIn, childrenOf, readXml, type XmlElement } from '../base/readXml.ts'
import { FACE_KINDS, polygonsOf, trianglesIn } from './colladaFaces.ts'
import { ColladaMaterials, type Picture } from './colladaMaterials.ts'
import { influencesOf, type Influence } from './colladaSkin.ts'
import { idOf, localOf, nodesOf, numbersIn, rowMajor, upTurn, type ColladaNode } from './colladaNodes.ts'

/** What moves or is drawn with, and is no mesh. */
const PASSED = new Set([
  ...['library_animations', 'library_animation_clips', 'library_lights', 'library_cameras'],
  ...['library_physics_scenes', 'library_physics_models', 'extra'],
])
/** Sets of four weights a vertex that are kept; what else holds it is less than anybody sees. */
const MOST_SETS = 4
/** Corners a file may have in all, nodes, and how deep nodes may stand for each other. */
const MOST_CORNERS = 3_000_000
const MOST_NODES = 20_000
const MOST_DEEP = 16

/**
 * Reads the meshes of a COLLADA 1.4 or 1.5 file (ISO/PAS 17506) as a glTF scene: nodes, meshes with their skins and
 * morphs, materials with color or picture; in metres, Y up. Polygons become triangles. Faults are problems.
 *
 * @param beside a picture by the name the file has for it
 */
export function colladaScene(
  text: string,
  where: string,
  beside: (name: string) => Picture | null = () => null,
): Read<Document> {
  return readOrTell(where, () => {
    let whole: XmlElement
    try {
      whole = readXml(text, PASSED)
    } catch (error) {
      throw new FileFault('collada-xml', (error as Error).message)
    }
    if (whole.name !== 'COLLADA')
      throw new FileFault('collada-foreign', `“${whole.name.slice(0, 40)}” is no COLLADA.`, 'Choose another file.')
    const scene = new SceneMaker(whole, beside)
    const document = scene.make()
    const problems = [...scene.told].map((said) =>
      problem('collada-left', where, said, 'Export it another way.', 'warning'),
    )
    return { value: document, problems }
  })
}

/** The materials of an instance, by the word that faces have for each. */
const boundIn = (instance: XmlElement) =>
  new Map(allIn(instance, 'instance_material').map((m) => [m.attributes.symbol ?? '', idOf(m.attributes.target)]))

type Numbers = Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer> | Uint32Array<ArrayBuffer>

/** One list of numbers, so many to each. */
interface Source {
  values: readonly number[]
  stride: number
}

/** Triangles of one material. */
interface Faces {
  symbol: string
  /** By kind: the numbers of all vertices, so many to each. */
  vertices: Map<string, { values: number[]; size: number }>
  /** The place in the geometry's list of points that each vertex has. */
  points: number[]
  /** Three vertices a triangle. */
  indices: number[]
}

class SceneMaker {
  readonly told = new Set<string>()
  private readonly whole: XmlElement
  private readonly document = new Document()
  private readonly byId = new Map<string, XmlElement>()
  private readonly materials: ColladaMaterials
  private readonly faces = new Map<XmlElement, Faces[]>()
  private readonly sources = new Map<XmlElement, Source>()
  /** Meshes that nothing bends, by geometry and materials: one that hangs in many places is one. */
  private readonly meshes = new Map<string, Mesh | null>()
  private readonly nodes: readonly ColladaNode[]
  /** The first of each node that was placed, and all that were, in their order. */
  private readonly made = new Map<number, Node>()
  private readonly placed: [number: number, node: Node][] = []
  /** Metres one unit of the file is long. */
  private readonly unit: number
  private corners = 0

  constructor(whole: XmlElement, beside: (name: string) => Picture | null) {
    this.whole = whole
    this.document.createBuffer()
    const stack = [whole]
    for (let at = stack.pop(); at; at = stack.pop()) {
      const { id } = at.attributes
      if (id !== undefined && !this.byId.has(id)) this.byId.set(id, at)
      for (const child of at.children) stack.push(child)
    }
    this.nodes = nodesOf(whole)
    this.materials = new ColladaMaterials(this.document, this.byId, beside, (said) => this.told.add(said))
    const said = Number(allIn(whole, 'unit')[0]?.attributes.meter ?? 1)
    this.unit = said > 0 && Number.isFinite(said) ? said : 1
  }

  make(): Document {
    const { document, nodes } = this
    const root = document.createNode('').setRotation(upTurn(this.whole).toArray() as [number, number, number, number])
    // of several scenes the one it shows; nodes of its library stand where others stand for them
    const shown = idOf(allIn(this.whole, 'instance_visual_scene')[0]?.attributes.url)
    const scenes = allIn(this.whole, 'visual_scene').filter((s) => shown === '' || s.attributes.id === shown)
    const tops = new Set(scenes.flatMap((scene) => childrenOf(scene, 'node')))
    const children = nodes.map((): number[] => [])
    for (const [n, { parent }] of nodes.entries()) if (parent >= 0) children[parent]!.push(n)
    for (const [n, { element }] of nodes.entries()) if (tops.has(element)) this.place(n, root, children)
    for (const [n, node] of this.placed) {
      const { element } = nodes[n]!
      for (const instance of childrenOf(element, 'instance_geometry')) {
        const geometry = this.byId.get(idOf(instance.attributes.url))
        if (geometry) this.hang(node, this.stillMesh(geometry, instance))
      }
      for (const instance of childrenOf(element, 'instance_controller')) this.control(instance, node)
    }
    document.getRoot().setDefaultScene(document.createScene().addChild(root))
    return document
  }

  /** A node with all below it, and those it stands for. */
  private place(n: number, above: Node, children: readonly (readonly number[])[], deep = 0): void {
    const { name, steps, element } = this.nodes[n]!
    if (this.placed.length >= MOST_NODES)
      throw new FileFault('collada-large', `It has more than ${MOST_NODES} nodes.`, 'Cut it into files.')
    const local = localOf(steps)
    if (!local.elements.every(Number.isFinite)) throw new FileFault('collada-values', `“${name}” stands nowhere.`)
    // all lengths are brought to metres, so that no node has to be scaled for it
    const at = new Vector3().setFromMatrixPosition(local).multiplyScalar(this.unit)
    const matrix = local.setPosition(at).elements as Parameters<Node['setMatrix']>[0]
    const node = this.document.createNode(name).setMatrix(matrix)
    above.addChild(node)
    if (!this.made.has(n)) this.made.set(n, node)
    this.placed.push([n, node])
    for (const child of children[n]!) this.place(child, node, children, deep)
    for (const instance of childrenOf(element, 'instance_node')) {
      const other = this.byId.get(idOf(instance.attributes.url))
      const which = this.nodes.findIndex((c) => c.element === other)
      if (which < 0) this.told.add('Nodes that stand for what is not there are left out.')
      else if (deep === MOST_DEEP) throw new FileFault('collada-ring', 'Its nodes stand for each other in a ring.')
      else this.place(which, node, children, deep + 1)
    }
  }

  private stillMesh(geometry: XmlElement, instance: XmlElement): Mesh | null {
    const key = JSON.stringify([geometry.attributes.id, [...boundIn(instance)]])
    let mesh = this.meshes.get(key)
    if (mesh === undefined) this.meshes.set(key, (mesh = this.meshOf(geometry, instance)))
    return mesh
  }

  /** A mesh on a node, or on one below it where it has one. */
  private hang(node: Node, mesh: Mesh | null, skin: Skin | null = null): void {
    if (!mesh) return
    const own = node.getMesh() ? this.document.createNode(node.getName()) : node
    if (own !== node) node.addChild(own)
    own.setMesh(mesh).setSkin(skin)
  }

  /** A mesh with the skin or the morphs, or both, that a controller lays over a geometry. */
  private control(instance: XmlElement, node: Node): void {
    let at = this.byId.get(idOf(instance.attributes.url))
    let [skin, morph]: (XmlElement | undefined)[] = []
    for (let deep = 0; at?.name === 'controller' && deep < 8; deep++) {
      const own = childrenOf(at, 'skin')[0] ?? childrenOf(at, 'morph')[0]
      if (own?.name === 'skin') skin ??= own
      else morph ??= own
      at = this.byId.get(idOf(own?.attributes.source))
    }
    if (at?.name !== 'geometry') return
    const held = skin ? this.skinOf(skin, instance) : null
    this.hang(node, this.meshOf(at, instance, held?.weights ?? null, morph), held?.skin ?? null)
  }

  private meshOf(
    geometry: XmlElement,
    instance: XmlElement,
    weights: Influence[][] | null = null,
    morph?: XmlElement,
  ): Mesh | null {
    const { document } = this
    const bound = boundIn(instance)
    const all = this.facesOf(geometry)
    if (all.length === 0) return null
    const targets = morph ? this.morphsOf(morph, geometry) : []
    const mesh = document.createMesh(geometry.attributes.name || geometry.attributes.id || '')
    if (targets.length) mesh.setExtras({ targetNames: targets.map((t) => t.name) })
    for (const faces of all) {
      const { points } = faces
      const primitive = document.createPrimitive()
      primitive.setIndices(this.accessor('SCALAR', Uint32Array.from(faces.indices)))
      const take = (kind: string, size: number, each: (v: number, k: number) => number = (v) => v) => {
        const list = faces.vertices.get(kind)
        if (!list || list.size < size) return null
        return Float32Array.from({ length: points.length * size }, (_, i) =>
          each(list.values[Math.floor(i / size) * list.size + (i % size)]!, i % size),
        )
      }
      primitive.setAttribute(
        'POSITION',
        this.accessor(
          'VEC3',
          take('POSITION', 3, (v) => v * this.unit)!,
        ),
      )
      const normals = take('NORMAL', 3)
      if (normals) primitive.setAttribute('NORMAL', this.accessor('VEC3', normals))
      // here pictures begin below
      const uvs = take('TEXCOORD', 2, (v, k) => (k ? 1 - v : v))
      if (uvs) primitive.setAttribute('TEXCOORD_0', this.accessor('VEC2', uvs))
      for (const { deltas } of targets)
        primitive.addTarget(
          document.createPrimitiveTarget().setAttribute('POSITION', this.accessor('VEC3', Float32Array.from({ length: points.length * 3 }, (_, i) => (deltas[points[Math.floor(i / 3)]! * 3 + (i % 3)] ?? 0) * this.unit))), // prettier-ignore
        )
      if (weights) {
        const rows = points.map((p) => weights[p] ?? [])
        const sets = Math.max(
          1,
          Math.min(MOST_SETS, Math.ceil(rows.reduce((most, r) => Math.max(most, r.length), 0) / 4)),
        )
        for (let set = 0; set < sets; set++) {
          const of = (what: 'joint' | 'weight') => rows.flatMap((r) => [0, 1, 2, 3].map((k) => r[set * 4 + k]?.[what] ?? 0)) // prettier-ignore
          primitive.setAttribute(`JOINTS_${set}`, this.accessor('VEC4', Uint16Array.from(of('joint'))))
          primitive.setAttribute(`WEIGHTS_${set}`, this.accessor('VEC4', Float32Array.from(of('weight'))))
        }
      }
      primitive.setMaterial(this.materials.get(bound.get(faces.symbol) ?? faces.symbol))
      mesh.addPrimitive(primitive)
    }
    return mesh
  }

  private accessor(type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4', array: Numbers) {
    return this.document.createAccessor().setType(type).setArray(array)
  }

  private source(address: string | undefined): Source | null {
    const element = this.byId.get(idOf(address))
    const known = element && this.sources.get(element)
    if (known) return known
    const array = element && childrenOf(element, 'float_array')[0]
    if (!array) return null
    const accessor = allIn(element, 'accessor')[0]
    const stride = Number(accessor?.attributes.stride ?? 1)
    if (!Number.isInteger(stride) || stride < 1 || stride > 64)
      throw new FileFault('collada-values', `A list of numbers has a stride of ${accessor?.attributes.stride}.`)
    const source = { values: numbersIn(array), stride }
    // many runs of faces draw from one list
    this.sources.set(element, source)
    return source
  }

  private facesOf(geometry: XmlElement): Faces[] {
    let faces = this.faces.get(geometry)
    if (!faces) this.faces.set(geometry, (faces = this.readFaces(geometry)))
    return faces
  }

  private readFaces(geometry: XmlElement): Faces[] {
    const mesh = childrenOf(geometry, 'mesh')[0]
    if (!mesh) {
      if (geometry.children.length) this.told.add('Surfaces that are no meshes are left out.')
      return []
    }
    const name = geometry.attributes.name || geometry.attributes.id || ''
    return mesh.children.flatMap((element): Faces[] => {
      if (!FACE_KINDS.has(element.name)) {
        if (/^(lines|linestrips|points)$/.test(element.name)) this.told.add('Points and lines are left out.')
        return []
      }
      const inputs = this.inputsOf(element)
      const places = inputs.find((i) => i.kind === 'POSITION')
      if (!places || places.source.stride < 3)
        throw new FileFault('collada-places', `The faces of “${name}” have no places.`)
      const step = 1 + Math.max(...childrenOf(element, 'input').map((i) => Number(i.attributes.offset ?? 0)))
      if (!Number.isInteger(step) || step < 1 || step > 64)
        throw new FileFault('collada-values', `The faces of “${name}” have offsets that cannot be.`)
      const vertices = new Map(
        inputs.map(({ kind, source }) => [kind, { values: [] as number[], size: source.stride }]),
      )
      const points: number[] = []
      const indices: number[] = []
      // corners that are made of the same are one vertex
      const known = new Map<string, number>()
      for (const ring of polygonsOf(element, step, (said) => this.told.add(said))) {
        const at = (corner: number) => places.source.values.slice(corner * places.source.stride, corner * places.source.stride + 3) // prettier-ignore
        const spot = ring.map((corner) => corner[places.offset]!)
        for (const k of trianglesIn(spot.map((p) => new Vector3(...(at(p) as [number, number, number]))))) {
          if (++this.corners > MOST_CORNERS)
            throw new FileFault(
              'collada-large',
              `It has more than ${MOST_CORNERS / 3} triangles.`,
              'Cut it into files.',
            )
          const key = ring[k]!.join()
          const there = known.get(key)
          if (there !== undefined) {
            indices.push(there)
            continue
          }
          known.set(key, points.length)
          indices.push(points.length)
          points.push(spot[k]!)
          for (const { kind, source, offset } of inputs) {
            const from = ring[k]![offset]! * source.stride
            if (!(from >= 0 && from + source.stride <= source.values.length && Number.isInteger(from)))
              throw new FileFault('collada-index', `A face of “${name}” names what is not there.`)
            const { values } = vertices.get(kind)!
            for (let n = 0; n < source.stride; n++) values.push(source.values[from + n]!)
          }
        }
      }
      return indices.length ? [{ symbol: element.attributes.material ?? '', vertices, points, indices }] : []
    })
  }

  /** The lists that faces draw from, those of their vertices among them; of several of a kind the first. */
  private inputsOf(element: XmlElement): { kind: string; source: Source; offset: number }[] {
    const found = new Map<string, { kind: string; source: Source; offset: number }>()
    const add = (input: XmlElement, offset: number) => {
      const kind = input.attributes.semantic ?? ''
      const source = found.has(kind) ? null : this.source(input.attributes.source)
      if (source) found.set(kind, { kind, source, offset })
    }
    for (const input of childrenOf(element, 'input')) {
      const offset = Number(input.attributes.offset ?? 0)
      if (input.attributes.semantic !== 'VERTEX') {
        if (/^(NORMAL|TEXCOORD)$/.test(input.attributes.semantic ?? '')) add(input, offset)
        continue
      }
      const vertices = this.byId.get(idOf(input.attributes.source))
      for (const own of vertices ? childrenOf(vertices, 'input') : [])
        if (/^(POSITION|NORMAL|TEXCOORD)$/.test(own.attributes.semantic ?? '')) add(own, offset)
    }
    return [...found.values()]
  }

  /** The moves of a geometry's points under each target. */
  private morphsOf(morph: XmlElement, base: XmlElement): { name: string; deltas: number[] }[] {
    const input = allIn(morph, 'input').find((i) => i.attributes.semantic === 'MORPH_TARGET')
    const list = this.byId.get(idOf(input?.attributes.source))
    const ids = list ? [...childrenOf(list, 'IDREF_array'), ...childrenOf(list, 'Name_array')][0]?.text : ''
    const from = this.pointsOf(base)
    return (ids ?? '')
      .split(/\s+/)
      .filter(Boolean)
      .flatMap((id) => {
        const geometry = this.byId.get(id)
        const to = geometry && this.pointsOf(geometry)
        if (!to || !from) return []
        if (to.length !== from.length) {
          this.told.add('Shapes that have other points than what they change are left out.')
          return []
        }
        const relative = morph.attributes.method === 'RELATIVE'
        const deltas = to.map((v, i) => (relative ? v : v - from[i]!))
        return [{ name: geometry.attributes.name || id, deltas }]
      })
  }

  /** The points of a geometry, xyz each. */
  private pointsOf(geometry: XmlElement): readonly number[] | null {
    const input = allIn(geometry, 'vertices').flatMap((v) => childrenOf(v, 'input')).find((i) => i.attributes.semantic === 'POSITION') // prettier-ignore
    const source = this.source(input?.attributes.source)
    if (!source || source.stride < 3) return null
    if (source.stride === 3) return source.values
    return source.values.filter((_, i) => i % source.stride < 3)
  }

  private skinOf(element: XmlElement, instance: XmlElement): { skin: Skin; weights: Influence[][] } | null {
    const { document, unit, made } = this
    const named = childrenOf(element, 'joints').flatMap((j) => childrenOf(j, 'input'))
    const weighing = childrenOf(element, 'vertex_weights')[0]
    const inputs = weighing ? childrenOf(weighing, 'input') : []
    const of = (list: readonly XmlElement[], semantic: string) => list.find((i) => i.attributes.semantic === semantic)
    const list = this.byId.get(idOf(of(named, 'JOINT')?.attributes.source))
    const words = list ? [...childrenOf(list, 'Name_array'), ...childrenOf(list, 'IDREF_array')][0]?.text : undefined
    const binds = this.source(of(named, 'INV_BIND_MATRIX')?.attributes.source)
    const shares = this.source(of(inputs, 'WEIGHT')?.attributes.source)
    if (!words || !binds || !weighing || !shares) {
      this.told.add('A skin that does not say what it hangs on is left out.')
      return null
    }
    const names = words.split(/\s+/).filter(Boolean)
    const jointOf = this.jointsFor(instance)
    const joints = names.map((word) => jointOf.get(word) ?? -1)
    const lost = joints.indexOf(-1)
    if (lost >= 0)
      throw new FileFault('collada-joint', `Its skin hangs on “${names[lost]!.slice(0, 40)}”, which is not there.`)
    if (binds.values.length < joints.length * 16)
      throw new FileFault('collada-values', 'Its skin has fewer bind matrices than joints.')
    const shape = childrenOf(element, 'bind_shape_matrix')[0]
    const given = shape ? numbersIn(shape) : []
    const bind = given.length === 16 ? rowMajor(given) : new Matrix4()
    const skin = document.createSkin()
    const inverse = new Float32Array(joints.length * 16)
    joints.forEach((n, j) => {
      skin.addJoint(made.get(n)!)
      const own = rowMajor(binds.values.slice(j * 16, j * 16 + 16)).multiply(bind)
      own.setPosition(new Vector3().setFromMatrixPosition(own).multiplyScalar(unit)).toArray(inverse, j * 16)
    })
    skin.setInverseBindMatrices(document.createAccessor().setType('MAT4').setArray(inverse))
    return { skin, weights: influencesOf(weighing, inputs, shares.values, joints.length) }
  }

  /** The nodes that a skin can hang on, by what it calls them: those of its own skeleton before any of the same name. */
  private jointsFor(instance: XmlElement): Map<string, number> {
    const skeletons = new Set(childrenOf(instance, 'skeleton').map((s) => idOf(s.text.trim())))
    const own = new Set<number>()
    for (const [n, { id, parent }] of this.nodes.entries()) if (skeletons.has(id) || own.has(parent)) own.add(n)
    const found = new Map<string, number>()
    const all = [...this.made.keys()]
    for (const n of [...all.filter((a) => own.has(a)), ...all])
      for (const word of [this.nodes[n]!.sid, this.nodes[n]!.id]) if (word && !found.has(word)) found.set(word, n)
    return found
  }
}
