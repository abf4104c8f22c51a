import { BackSide, BufferAttribute, BufferGeometry, DoubleSide, Group, Mesh, MeshBasicMaterial } from 'three'

/** Where a piece lies in the index of a figure's geometry. */
export interface IndexRange {
  start: number
  count: number
}

/** Width of the line around a selected part, metres. */
const WIDTH = 0.004

/**
 * A thin amber line around pieces of a figure: the pieces again, grown a little along their smooth
 * normals and seen from inside. It is made once for a selection and follows the figure's shape.
 */
export class Outline {
  readonly group = new Group()
  private readonly source: BufferGeometry
  /** Vertices of the pieces. */
  private readonly vertices: Uint32Array
  /** For each of them, which place it stands at: corners at one place grow the same way, or the line would come apart. */
  private readonly placeOf: Uint32Array
  private readonly directions: Float32Array
  private readonly grown: BufferAttribute
  private readonly line: Mesh<BufferGeometry, MeshBasicMaterial>
  private readonly mask: Mesh<BufferGeometry, MeshBasicMaterial>

  constructor(source: BufferGeometry, ranges: readonly IndexRange[]) {
    this.source = source
    const from = source.getAttribute('position')
    const indices = ranges.flatMap(({ start, count }) => Array.from(source.index!.array.slice(start, start + count)))
    this.vertices = Uint32Array.from(new Set(indices))
    const places = new Map<string, number>()
    this.placeOf = this.vertices.map((v) => {
      const key = `${from.getX(v)} ${from.getY(v)} ${from.getZ(v)}`
      const place = places.get(key) ?? places.size
      places.set(key, place)
      return place
    })
    this.directions = new Float32Array(places.size * 3)
    this.grown = new BufferAttribute(new Float32Array(from.array.length), 3)
    this.line = new Mesh(
      new BufferGeometry().setAttribute('position', this.grown),
      new MeshBasicMaterial({ color: '#e8940c', side: BackSide }),
    )
    this.line.geometry.setIndex(indices)
    this.line.renderOrder = 2
    // the part's own walls, seen from either side, hide the grown ones behind them: an open collar shows no amber
    this.mask = new Mesh(
      new BufferGeometry().setAttribute('position', from).setIndex(this.line.geometry.index),
      new MeshBasicMaterial({ side: DoubleSide, colorWrite: false }),
    )
    this.mask.renderOrder = 1
    for (const mesh of [this.line, this.mask]) mesh.frustumCulled = false
    this.group.add(this.mask, this.line)
    this.follow()
  }

  /** Takes on the figure's shape as it is now; allocates nothing. */
  follow(): void {
    const { vertices, placeOf, directions, grown } = this
    const positions = this.source.getAttribute('position').array
    const normals = this.source.getAttribute('normal').array
    const out = grown.array
    directions.fill(0)
    for (let i = 0; i < vertices.length; i++) {
      const v = vertices[i]! * 3
      const d = placeOf[i]! * 3
      directions[d]! += normals[v]!
      directions[d + 1]! += normals[v + 1]!
      directions[d + 2]! += normals[v + 2]!
    }
    for (let d = 0; d < directions.length; d += 3) {
      const x = directions[d]!
      const y = directions[d + 1]!
      const z = directions[d + 2]!
      const by = WIDTH / Math.sqrt(x * x + y * y + z * z || 1)
      directions[d] = x * by
      directions[d + 1] = y * by
      directions[d + 2] = z * by
    }
    for (let i = 0; i < vertices.length; i++) {
      const v = vertices[i]! * 3
      const d = placeOf[i]! * 3
      out[v] = positions[v]! + directions[d]!
      out[v + 1] = positions[v + 1]! + directions[d + 1]!
      out[v + 2] = positions[v + 2]! + directions[d + 2]!
    }
    grown.needsUpdate = true
  }

  dispose(): void {
    this.group.removeFromParent()
    for (const { geometry, material } of [this.line, this.mask]) {
      // the mask draws the figure's own positions: they are not its to dispose of
      if (geometry === this.mask.geometry) geometry.deleteAttribute('position')
      geometry.dispose()
      material.dispose()
    }
  }
}
